"""The main job walked as an operator would, in a real browser."""

import io
import re
import zipfile
from concurrent.futures import ThreadPoolExecutor
from urllib.parse import urlencode
from urllib.request import Request, urlopen

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import expect

from support.jobs import photograph
from support.running import until
from support.walking import (
    drawn,
    fresh_ticket,
    held,
    open_station,
    settled,
    sign_off,
    tick_all,
)


def reading(page, name):
    return page.locator(f"#readings div:has(dt:text-is('{name}')) dd").inner_text()


@pytest.fixture
def job(page, tmp_path):
    """A fresh ticket, opened by picking a file on the rack."""
    return fresh_ticket(page, tmp_path)


def test_from_a_photograph_to_a_burn(page, job):
    expect(page.locator("h1")).to_have_text("harbour")
    open_station(page, 2)
    page.select_option("#f-blank", label="Beech board, 120 mm")
    expect(page.locator("#readings")).to_contain_text("Beech board")
    settled(page)
    page.fill("#f-width", "2 in")
    page.keyboard.press("Tab")
    # The height follows, but a field that has the focus is never given another value.
    expect(page.locator(".control:has(#f-height)")).to_have_attribute("data-later", "38.1")
    page.keyboard.press("Tab")
    expect(page.locator("#f-height")).to_have_value("38.1")
    page.fill("#f-dpi", "254")
    page.keyboard.press("Tab")
    expect(page.locator("#f-pitch")).to_have_value("0.1")
    assert reading(page, "Size") == "50.8 × 38.1 mm"

    open_station(page, 3)
    before = drawn(page)
    slider = page.locator("#r-brightness")
    slider.focus()
    for _ in range(5):
        slider.press("ArrowRight")
    expect(page.locator("#f-brightness")).to_have_value("5")
    settled(page, before)

    open_station(page, 4)
    before = drawn(page)
    page.locator("label:has(#m-atkinson)").click()
    settled(page, before)
    expect(page.locator("#res-dots")).to_contain_text("Atkinson")

    open_station(page, 5)
    # Of whatever was used last: this one's recipe wants air.
    page.get_by_label("Machine").select_option(label="North bench")
    settled(page)
    page.fill("#f-speed", "12000 mm/min")
    page.keyboard.press("Tab")
    expect(page.locator("#f-speed")).to_have_value("200")
    expect(page.locator("#station-5")).to_contain_text("12000 mm/min")

    open_station(page, 7)
    page.locator("#piece").focus()
    x = float(page.input_value("#f-x"))
    for keys, step in (
        ("ArrowRight", 1),
        ("Shift+ArrowRight", 10),
        ("Alt+ArrowLeft", -0.1),
    ):
        page.keyboard.press(keys)
        x += step
    expect(page.locator("#f-x")).to_have_value(f"{x:.3f}".rstrip("0").rstrip("."))
    page.wait_for_timeout(900)
    page.reload()
    expect(page.locator("#f-x")).to_have_value(f"{x:.3f}".rstrip("0").rstrip("."))

    open_station(page, 8)
    expect(page.locator(".findings")).to_contain_text("Before you burn")
    expect(page.locator(".t-stop b")).to_have_text("0")

    open_station(page, 9)
    expect(page.locator("#gcode-way")).to_contain_text("not signed off")
    expect(page.locator("#stub-run")).to_contain_text("Back to Check")
    page.locator("#burn-button").click()
    expect(page.locator("#burn [role=alert]")).to_contain_text("not signed off")
    sign_off(page)
    open_station(page, 9)
    with page.expect_download() as given:
        page.locator(".files a", has_text="G-code").click()
    text = given.value.path().read_bytes()
    assert text.rstrip().endswith(b"M5\nM9\nM2")
    page.locator("#burn-button").click()
    expect(page.locator("#burn [role=alert]")).to_contain_text("Not ticked on the list")
    tick_all(page)
    page.locator("#burn-button").click()
    expect(page.locator("#burn")).to_contain_text(
        "dots lies where it was planned", timeout=60000
    )
    # What belongs to the piece is done anew for the next one, and the page shows it.
    expect(page.locator("#tick-focus")).not_to_be_checked()
    expect(page.locator("#tick-eyes")).to_be_checked()
    until(
        page,
        "[...document.querySelectorAll('.twin img')].every(i => i.complete && i.naturalWidth > 100)",
    )
    page.goto("/")
    expect(page.locator(".hang--stubs")).to_contain_text("harbour")

    page.goto("/bench/log/")
    page.get_by_role("searchbox", name="Find").fill("harbour")
    page.get_by_role("button", name="Show").click()
    page.locator("tbody a").first.click()
    expect(page.get_by_label("Done by hand")).to_contain_text("Focus")
    page.get_by_role("combobox", name="It came out").select_option("good")
    page.get_by_label("Photo of the piece").set_input_files(
        {"name": "piece.png", "mimeType": "image/png", "buffer": photograph()}
    )
    page.get_by_role("button", name="Note it").click()
    expect(page.get_by_alt_text("The finished piece")).to_be_visible()


def test_undo_redo_and_reload_lose_nothing(page, job):
    open_station(page, 3)
    page.fill("#f-gamma", "1.8")
    page.keyboard.press("Tab")
    expect(page.locator("#res-tone")).to_contain_text("γ 1.8")
    settled(page)
    changed = drawn(page)
    page.locator(".station__row").first.focus()
    page.keyboard.press("Control+z")
    expect(page.locator("#f-gamma")).to_have_value("1")
    settled(page, changed)
    page.keyboard.press("Control+Shift+Z")
    expect(page.locator("#f-gamma")).to_have_value("1.8")
    page.reload()
    expect(page.locator("#f-gamma")).to_have_value("1.8")
    settled(page)
    assert drawn(page) == changed


def test_bad_input_is_told_at_its_field_and_kept(page, job):
    open_station(page, 2)
    width = page.input_value("#f-width")
    page.fill("#f-width", "4 km")
    page.keyboard.press("Tab")
    expect(page.locator("#f-width-fault")).to_contain_text("cannot be read as a number")
    expect(page.locator("#f-width")).to_have_value("4 km")
    page.reload()
    expect(page.locator("#f-width")).to_have_value(width)


def test_a_number_out_of_range_is_told_too(page, job):
    """The browser's own check would hold the form back without a word."""
    open_station(page, 5)
    page.fill("#f-passes", "0")
    page.keyboard.press("Tab")
    expect(page.locator("#body-burn .fault")).to_contain_text("greater than or equal to 1")
    expect(page.locator("#f-passes")).to_have_value("0")


def test_the_table_zooms_about_the_pointer_and_compares(page, job):
    open_station(page, 3)
    stage = page.locator(".stage__canvas")
    box = stage.bounding_box()
    at = {"x": box["x"] + 300, "y": box["y"] + 250}
    place = """([x, y]) => { const t = document.querySelector('#stage').table, b = t.stage.getBoundingClientRect();
      const a = t.view.art(t.piece); return [(x - b.left - a.left) / a.dotX, (y - b.top - a.top) / a.dotY]; }"""
    before = page.evaluate(place, [at["x"], at["y"]])
    page.mouse.move(at["x"], at["y"])
    for _ in range(6):
        page.mouse.wheel(0, -240)
    after = page.evaluate(place, [at["x"], at["y"]])
    assert after == pytest.approx(before, abs=0.5)
    assert (
        page.evaluate(
            "document.querySelector('#stage').table.view.art(document.querySelector('#stage').table.piece).dotX"
        )
        > 3
    )
    page.mouse.down()
    page.mouse.move(at["x"] + 80, at["y"] + 40)
    page.mouse.up()
    page.locator("[data-view=dots]").click()
    page.locator("[data-view=toned]").click(modifiers=["Shift"])
    settled(page)
    expect(page.locator(".divider__tag.is-l")).to_have_text("Toned")
    expect(page.locator(".divider__tag.is-r")).to_have_text("Dots")
    page.locator("#divider").focus()
    page.keyboard.press("Shift+ArrowRight")
    expect(page.locator("#divider")).to_have_attribute("aria-valuenow", "56")
    page.keyboard.press("d")
    expect(page.locator("#divider")).to_be_hidden()
    page.keyboard.press("f")
    page.reload()
    expect(page.locator("#divider")).to_be_hidden()


def test_the_loupe_shows_the_dots_of_the_file(page, job):
    open_station(page, 4)
    settled(page)
    until(page, "!!document.querySelector('#stage').table.loupe.block")
    seen = page.evaluate(
        """() => { const l = document.querySelector('#stage').table.loupe, c = l.canvas, n = 20;
          const at = (dx, dy) => c.getContext('2d').getImageData(
            Math.round(c.width / 2 + (Math.floor(l.at.x) + dx + .5 - l.at.x) * 8),
            Math.round(c.height / 2 + (Math.floor(l.at.y) + dy + .5 - l.at.y) * 8), 1, 1).data[0] < 128;
          const rows = []; for (let y = 0; y < n; y++) { const row = [];
            for (let x = 0; x < n; x++) row.push(at(x - n / 2, y - n / 2)); rows.push(row); }
          return { rows, x: Math.floor(l.at.x) - n / 2, y: Math.floor(l.at.y) - n / 2 }; }"""
    )
    with page.expect_download() as given:
        page.evaluate(f"location.assign('/jobs/{job}/files/dots/')")
    whole = ~np.asarray(Image.open(io.BytesIO(given.value.path().read_bytes())))
    x, y = seen["x"], seen["y"]
    dots = np.array(seen["rows"])
    open_station(page, 2, job)
    if "light tones are burned" in page.locator("#body-blank").inner_text():
        dots = ~dots  # chalk on slate: what is burned is shown light
    window = whole[y : y + 20, x : x + 20]
    # the lens is round: compare where it is sure to be inside
    assert np.array_equal(dots[3:17, 3:17], window[3:17, 3:17])


def test_cropping_by_dragging(page, job):
    open_station(page, 1)
    page.locator("summary", has_text="Straighten").click()
    page.locator("#crop-begin").click()
    expect(page.locator("[data-crop=use]")).to_be_focused()
    corner = page.locator(".cropper-point.point-se").bounding_box()
    page.mouse.move(corner["x"] + 4, corner["y"] + 4)
    page.mouse.down()
    page.mouse.move(corner["x"] - 120, corner["y"] - 90, steps=5)
    page.mouse.up()
    page.locator("[data-crop=use]").click()
    used = page.locator("#res-artwork")
    expect(used).not_to_have_text("640 × 480 px")
    settled(page)
    cols, rows = map(int, re.findall(r"\d+", used.inner_text()))
    assert 300 < cols < 640
    assert 200 < rows < 480


def test_dragging_off_the_bed_shows_and_is_fixed(page, job):
    open_station(page, 7)
    box = page.locator("#piece .bed__walk").bounding_box()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(box["x"] + 900, box["y"] + 20, steps=4)
    expect(page.locator("#piece")).to_have_class(re.compile("is-off"))
    page.mouse.up()
    expect(page.locator("#body-place")).to_contain_text("reaches beyond the bed")
    page.keyboard.press("8")
    page.locator(".finding").get_by_role("button", name="Centre on the bed").click()
    expect(page.locator("#said")).to_contain_text("Undo takes it back")
    expect(page.locator(".t-stop b")).to_have_text("0")


def test_a_bad_upload_says_why(page, tmp_path):
    path = tmp_path / "letter.png"
    path.write_text("not a picture")
    page.goto("/")
    page.set_input_files("#upload-files", path)
    expect(page.locator("#upload-fault")).to_contain_text("not a picture that can be read")


def test_the_job_file_brings_the_job_back(page, job, tmp_path):
    open_station(page, 9)
    with page.expect_download() as given:
        page.locator(".files a", has_text="Job file").click()
    path = tmp_path / "job.zip"
    path.write_bytes(given.value.path().read_bytes())
    assert "job.json" in zipfile.ZipFile(path).namelist()
    page.goto("/")
    page.set_input_files("#upload-files", path)
    page.wait_for_url(re.compile(r"/jobs/\d+/$"))
    assert int(re.search(r"/jobs/(\d+)/", page.url)[1]) > job


def test_what_is_changed_while_an_answer_comes_is_kept(page, job):
    """Two fields typed in one breath, and buttons pressed faster than they are answered."""
    open_station(page, 2)
    page.fill("#f-bleed, #f-width", "50")
    page.fill("#f-pitch", "0.2")
    page.fill("#f-offset_x", "3")
    page.keyboard.press("Tab")
    for field, value in (("width", "50"), ("pitch", "0.2"), ("offset_x", "3")):
        expect(page.locator(f"#f-{field}")).to_have_value(value)
    settled(page)
    page.reload()
    for field, value in (("width", "50"), ("pitch", "0.2"), ("offset_x", "3")):
        expect(page.locator(f"#f-{field}")).to_have_value(value)
    # An answer that comes between stepping into a field and typing leaves it selected.
    page.fill("#f-width", "60")
    page.locator("#f-offset_x").select_text()
    settled(page)
    page.keyboard.insert_text("4")
    expect(page.locator("#f-offset_x")).to_have_value("4")
    open_station(page, 1)
    page.locator("summary", has_text="Straighten").click()
    page.evaluate(
        "() => { for (let i = 0; i < 3; i += 1) document.querySelector('#turn-right').click(); }"
    )
    until(
        page, "document.querySelector('#res-artwork').textContent.startsWith('480 × 640')"
    )
    for _ in range(3):
        page.locator("#undo").click()
        page.wait_for_timeout(150)
    until(
        page, "document.querySelector('#res-artwork').textContent.startsWith('640 × 480')"
    )


def test_many_hands_at_once_lose_nothing(page, job, address, folder):
    """Posts of several threads on one ticket: every field holds what was sent to it."""
    cookies = {one["name"]: one["value"] for one in page.context.cookies()}
    sent = {
        ("burn", "power"): 27, ("burn", "passes"): 3, ("burn", "speed"): 140,
        ("tone", "gamma"): 1.4, ("tone", "brightness"): 12, ("place", "turn"): 7,
        ("dots", "noise"): 4, ("blank", "pitch"): 0.15,
    }  # fmt: skip

    def post(one):
        (station, name), value = one
        data = urlencode({"changed": name, name: value}).encode()
        asked = Request(f"{address}/jobs/{job}/{station}/", data)
        asked.add_header("HX-Request", "true")
        asked.add_header("X-CSRFToken", cookies["csrftoken"])
        asked.add_header("Cookie", "; ".join(f"{k}={v}" for k, v in cookies.items()))
        asked.add_header("Referer", address)
        with urlopen(asked, timeout=90) as answer:
            return answer.status

    with ThreadPoolExecutor(len(sent)) as hands:
        assert set(hands.map(post, sent.items())) == {200}
    spec = held(folder, job)
    burn, tone = spec["burn"], spec["tone"]
    assert (burn["power"], burn["passes"], burn["speed_mm_s"]) == (27, 3, 140)
    assert (tone["gamma"], tone["brightness"]) == (1.4, 12)
    assert (spec["place"]["turn_deg"], spec["dots"]["noise"]) == (7, 4)
    assert spec["size"]["pitch_mm"] == 0.15


def test_a_fold_is_explained_beside_it_and_the_focus_comes_back(page, job):
    open_station(page, 3)
    page.locator("summary", has_text="Local contrast").click()
    page.locator(".fold[open] .ask").press("Enter")
    slip = page.locator("#ask")
    expect(slip.get_by_role("heading", name="Local contrast")).to_be_focused()
    until(page, "document.querySelector('#ask img').naturalWidth > 400")
    page.fill("#ask-q", "overscan")
    slip.get_by_role("link", name="run-up").click()
    expect(slip.get_by_role("heading", name="Room on the bed")).to_be_visible()
    page.keyboard.press("Escape")
    expect(slip).to_be_empty()
    expect(page.locator(".fold[open] .ask")).to_be_focused()
    page.keyboard.press("e")
    expect(slip.get_by_role("heading", name="Local contrast")).to_be_visible()


def test_a_proof_sheet_says_that_it_is_made_and_comes(page, job):
    open_station(page, 9)
    held_back = []

    def hold(route):
        held_back.append(route)

    page.route("**/proof-sheet**", hold)
    with page.expect_download() as given:
        page.locator(".files a", has_text="Proof sheet").click()
        expect(page.locator("#patience")).to_contain_text(
            "Making the proof sheet; you can go on"
        )
        held_back[0].continue_()
    assert given.value.suggested_filename.endswith(".pdf")
    assert given.value.path().read_bytes().startswith(b"%PDF")
    expect(page.locator("#patience")).to_be_hidden()
