"""From a dark, flat, small photograph to a convincing proof, by mouse and by keys."""

import re
import time

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import expect

from support.running import until
from support.walking import drawn, held, open_station, settled

KEY = "document.querySelector('#stage').table.piece.keys.dots"


@pytest.fixture
def dark(page, tmp_path):
    """A ticket for a dark, flat, small photograph."""
    y, x = np.mgrid[0:240, 0:320]
    light = 34 + 14 * np.sin(x / 40) * np.cos(y / 30) + 10 * ((x // 24 + y // 24) % 2)
    grain = np.random.default_rng(5).normal(0, 1.5, light.shape)
    Image.fromarray((light + grain).clip(0, 255).astype(np.uint8)).save(
        tmp_path / "dusk.png"
    )
    page.goto("/")
    page.set_input_files("#upload-files", tmp_path / "dusk.png")
    page.wait_for_url(re.compile(r"/jobs/(\d+)/$"))
    # On a board that is bare beside it: the whole picture counts, whatever was used last.
    open_station(page, 5)
    page.select_option("#f-machine", label="North bench")
    open_station(page, 2)
    page.select_option("#f-blank", label="Beech board, 120 mm")
    settled(page)
    return int(re.search(r"/jobs/(\d+)/", page.url)[1])


def shown_light(page):
    """Mean code and spread of the proof on the table."""
    script = """async () => { const t = document.querySelector('#stage').table, b = t.right.shown.bitmap;
      const c = new OffscreenCanvas(b.width, b.height), k = c.getContext('2d'); k.drawImage(b, 0, 0);
      const d = k.getImageData(0, 0, b.width, b.height).data; let s = 0, q = 0; const n = d.length / 4;
      for (let i = 0; i < d.length; i += 4) { s += d[i + 1]; q += d[i + 1] ** 2; }
      return [s / n, Math.sqrt(q / n - (s / n) ** 2)]; }"""
    return page.evaluate(script)


def test_a_dark_flat_small_photograph_is_convincing_in_under_a_minute(page, dark):
    begun = time.monotonic()
    open_station(page, 3)
    settled(page)
    before, flat = shown_light(page)
    at = drawn(page)
    page.keyboard.press("a")
    settled(page, at)
    expect(page.locator("#body-tone")).to_contain_text(
        "The picture is dark, short of range"
    )
    for count in ("1 shade lighter", "2 shades lighter"):
        at = drawn(page)
        page.get_by_role("button", name="A shade lighter").click()
        settled(page, at)
        expect(page.locator("#body-tone")).to_contain_text(count)
    open_station(page, 4)
    page.keyboard.press("s")
    cells = page.locator(".contact__cell")
    expect(cells.first).to_be_visible()
    until(
        page,
        "[...document.querySelectorAll('.contact__cell img')].every(i => i.complete && i.naturalWidth)",
    )
    assert cells.count() == 21
    expect(page.locator(".contact__cell.is-chosen")).to_be_focused()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("ArrowDown")
    at = drawn(page)
    page.keyboard.press("Enter")
    settled(page, at)
    assert time.monotonic() - begun < 60
    expect(page.locator("#res-dots")).not_to_contain_text("Floyd")
    after, lively = shown_light(page)
    assert after > before + 15
    assert lively > 1.2 * flat
    page.reload()
    settled(page)
    expect(page.locator("#res-tone")).to_contain_text("levels")


def test_every_number_of_the_tone_station_goes_by_keys(page, dark):
    """Arrow keys step a number, a double click puts it back, its mark passes it over."""
    open_station(page, 3)
    names = page.evaluate(
        "[...document.querySelectorAll('#station-form input.input[data-step]')].map(f => f.name)"
    )
    assert len(names) > 18
    for name in names:
        fold = page.evaluate(
            f"document.querySelector('#f-{name}').closest('details')?.dataset.fold ?? ''"
        )
        if fold and page.locator(f"[data-fold={fold}]").get_attribute("open") != "":
            page.locator(f"[data-fold={fold}] summary").focus()
            page.keyboard.press("Enter")
        field = page.locator(f"#f-{name}")
        plain = field.input_value()
        field.focus()
        page.keyboard.press("ArrowUp" if plain not in ("255", "20") else "ArrowDown")
        until(page, f"document.querySelector('#f-{name}').defaultValue !== '{plain}'")
        moved = field.input_value()
        assert moved != plain, name
        page.locator(f"#f-{name}").dblclick()
        until(page, f"document.querySelector('#f-{name}').defaultValue === '{plain}'")


def test_held_it_shows_without_tone(page, dark):
    open_station(page, 3)
    page.keyboard.press("a")
    page.wait_for_timeout(300)
    settled(page)
    page.keyboard.down("o")
    expect(page.locator("#words")).to_have_text("Without tone")
    page.keyboard.up("o")
    expect(page.locator("#words")).to_be_hidden()


def test_a_point_of_the_curve_by_mouse_and_by_keys(page, dark):
    open_station(page, 3)
    box = page.locator("#curvebox").bounding_box()
    page.mouse.move(box["x"] + box["width"] * 0.4, box["y"] + box["height"] * 0.6)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] * 0.4, box["y"] + box["height"] * 0.3, steps=5)
    page.mouse.up()
    expect(page.locator(".knot")).to_have_count(3)
    page.locator("#knot-1").focus()
    before = page.locator("#knot-1").get_attribute("aria-label")
    page.keyboard.press("ArrowUp")
    expect(page.locator("#knot-1")).not_to_have_attribute("aria-label", before)
    page.wait_for_timeout(900)
    page.locator("#knot-1").focus()
    page.keyboard.press("Delete")
    until(page, "document.querySelector('#station-form').elements.curve.value === ''")


def test_takes_by_keys_side_by_side_and_one_between(page, dark):
    open_station(page, 3)
    page.keyboard.press("k")
    expect(page.locator(".take")).to_have_count(1)
    page.keyboard.press("a")
    expect(page.locator("#body-tone")).to_contain_text("steps of lightness")
    page.keyboard.press("k")
    expect(page.locator(".take")).to_have_count(2)
    settled(page)
    page.keyboard.press("[")
    expect(page.locator("#words")).to_contain_text("Take B")
    page.keyboard.press("[")
    expect(page.locator("#words")).to_contain_text("Take A")
    page.keyboard.press("p")
    expect(page.locator(".take.is-pinned")).to_have_count(1)
    page.locator(".take__pin").nth(1).click()
    expect(page.locator(".take.is-pinned")).to_have_count(2)
    page.keyboard.press("v")
    expect(page.locator(".pane")).to_have_count(2)
    lit = """() => [...document.querySelectorAll('.pane canvas')].every(c => { const d = c.getContext('2d')
      .getImageData(c.width / 2 - 20, c.height / 2 - 20, 40, 40).data; return new Set(d).size > 12; })"""
    until(page, lit)
    page.keyboard.press("+")
    page.locator(".pane canvas").first.click(position={"x": 120, "y": 90})
    page.fill(".compare [name=share]", "140")
    page.get_by_role("button", name="Make one between").click()
    expect(page.locator(".compare .fault")).to_contain_text("at most 100 %")
    expect(page.locator("#stations")).to_have_count(1)
    page.fill(".compare [name=share]", "50")
    page.get_by_role("button", name="Make one between").click()
    expect(page.locator("#said")).to_contain_text("Take C made")
    expect(page.locator(".take.is-current .take__open b")).to_have_text("C")
    page.keyboard.press("v")
    page.get_by_role("button", name="Strip for scrap").click()
    page.wait_for_url(re.compile(rf"/jobs/(?!{dark}/)\d+/"))
    settled(page)
    expect(page.locator("#res-dots")).to_contain_text("Its own dots")


def test_the_same_by_touch_on_a_phone(browser, address):
    context = browser.new_context(
        base_url=address, viewport={"width": 390, "height": 844}, has_touch=True
    )
    page = context.new_page()
    page.goto("/jobs/403/tone/")
    settled(page)
    page.locator("#auto-tone").tap()
    expect(page.locator("#body-tone")).to_contain_text("steps of lightness")
    page.get_by_role("button", name="A shade lighter").tap()
    expect(page.locator("#body-tone")).to_contain_text("1 shade lighter")
    settled(page)
    before = drawn(page)
    contrast = page.locator("#r-contrast")
    contrast.evaluate("slider => slider.scrollIntoView()")  # clear of strip and stub
    box = contrast.bounding_box()
    page.touchscreen.tap(box["x"] + box["width"] * 0.8, box["y"] + box["height"] / 2)
    until(page, "Number(document.querySelector('#f-contrast').value) > 20")
    settled(page, before)  # its answer brings the shelf of takes anew
    page.locator("#take-keep").tap()
    expect(page.locator(".take")).to_have_count(1)
    page.locator(".take__pin").tap()
    expect(page.locator(".take.is-pinned")).to_have_count(1)
    page.locator("#row-dots").tap()
    page.locator("#sheet-open").tap()
    cell = page.locator(".contact__cell").nth(11)
    expect(cell).to_be_visible()
    cell.tap()
    expect(page.locator("#res-dots")).to_contain_text("Bayer")
    context.close()


def test_the_dots_station_by_keys_alone(page):
    """Arrow keys choose kind, method and numbers; whatever is focused keeps the focus."""
    page.goto("/jobs/401/dots/")
    settled(page)

    def press(start, key, wanted):
        page.locator(start).focus()
        page.keyboard.press(key)
        until(page, "selector => document.activeElement.matches(selector)", wanted)

    result = page.locator("#res-dots")
    press("#family-diffusion", "ArrowRight", "#family-ordered")
    expect(result).to_contain_text("Blue noise")
    press("#family-ordered", "ArrowRight", "#family-screen")
    expect(result).to_contain_text("Round")
    press("#family-screen", "ArrowRight", "#family-line")
    expect(result).to_contain_text("Straight")
    press("#m-line", "ArrowRight", "#m-wavy")
    expect(result).to_contain_text("Wavy")
    press("#r-swing_mm", "ArrowRight", "#r-swing_mm")
    expect(page.locator("#f-swing_mm")).to_have_value("1.1")
    press("#f-ruling_cm", "ArrowUp", "#f-ruling_cm")
    expect(page.locator("#f-ruling_mm")).to_have_value("0.606")
    press("#mode-spot", "ArrowLeft", "#mode-linear")
    expect(page.locator("#body-dots")).to_contain_text("by light alone")
    page.locator("[data-fold=beam] summary").focus()
    page.keyboard.press("Enter")
    press("#runs-keep", "ArrowRight", "#runs-lengthen")
    settled(page)
    page.reload()
    expect(result).to_contain_text("Wavy")
    expect(page.locator("#f-swing_mm")).to_have_value("1.1")


def test_a_slider_that_goes_on_and_on_is_written_now_and_then(page, dark, folder):
    open_station(page, 3)
    settled(page)
    posts = []
    page.on(
        "request",
        lambda asked: asked.url.endswith(f"/{dark}/tone/") and posts.append(asked.method),
    )
    page.evaluate(
        """async () => {
          const slider = document.querySelector('#r-brightness');
          for (let at = 0; at < 100; at += 1) {
            slider.value = String(1 + (at % 40));
            slider.dispatchEvent(new Event('input', { bubbles: true }));
            await new Promise((go) => setTimeout(go, 50));
          }
        }"""
    )
    assert held(folder, dark)["tone"]["brightness"] != 0
    assert 1 <= posts.count("POST") <= 4
    until(page, "!document.querySelector('#stations .htmx-request')")
    settled(page)
    page.wait_for_timeout(700)
    assert held(folder, dark)["tone"]["brightness"] == 20


def test_the_picture_follows_the_finger_before_it_is_written(page, dark, folder):
    open_station(page, 3)
    settled(page)
    before = drawn(page)
    held_back, fetched = [], []

    def hold(route):
        held_back.append(route)

    page.on("request", lambda asked: fetched.append(asked.url))
    page.route(re.compile(rf"/jobs/{dark}/tone/$"), hold)
    page.locator("#r-brightness").focus()
    for _ in range(8):
        page.keyboard.press("ArrowRight")
    until(
        page,
        "before => document.querySelector('#stage').dataset.seen !== before",
        before,
    )
    assert held(folder, dark)["tone"]["brightness"] == 0
    assert drawn(page) == before
    for one in held_back:
        one.continue_()
    page.unroute(re.compile(rf"/jobs/{dark}/tone/$"))
    settled(page, before)
    until(page, "!document.querySelector('#stations .htmx-request')")
    settled(page)
    assert held(folder, dark)["tone"]["brightness"] == 8
    assert page.locator("#stage").get_attribute("data-seen") == drawn(page)
    # What was seen is not fetched once more.
    assert not [
        one for one in fetched if f"/proof/{drawn(page)}/" in one and "main=1" in one
    ]
