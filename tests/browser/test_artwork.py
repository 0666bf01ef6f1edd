"""A phone photograph with a messy background becomes a clean, bordered, mirrored picture."""

import io
import json
import re

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import expect

from support.jobs import png
from support.running import until
from support.walking import drawn, open_station, opened_ticket, settled


def portrait(cols=480, rows=640):
    """A pale figure before a mottled ground, a little askew."""
    y, x = np.mgrid[0:rows, 0:cols]
    mottled = np.random.default_rng(5).integers(0, 90, (rows // 8 + 1, cols // 8 + 1))
    ground = np.kron(mottled, np.ones((8, 8)))[:rows, :cols]
    figure = ((x - 240) / 110) ** 2 + ((y - 330) / 190) ** 2 < 1
    light = np.where(figure, 190 + 30 * np.sin(x / 9) * np.cos(y / 11), ground)
    tint = np.stack(
        [light, light * np.where(figure, 0.85, 1), light * np.where(figure, 0.7, 0.6)], -1
    )
    return tint.clip(0, 255).astype(np.uint8), figure


@pytest.fixture
def photo(page, tmp_path):
    """A ticket for a phone's HEIC, turned by its own tag."""
    pixels, _ = portrait()
    exif = Image.Exif()
    exif[0x0112] = 6
    path = tmp_path / "portrait.heic"
    lying = Image.fromarray(np.rot90(pixels))
    lying.save(path, "HEIF", quality=92, exif=exif.tobytes())
    opened_ticket(page, path)
    return page


def fold(page, name):
    if page.locator(f"[data-fold={name}]").get_attribute("open") is None:
        page.locator(f"[data-fold={name}] summary").click()
    expect(page.locator(f"[data-fold={name}]")).to_have_attribute("open", "")


def piece(page):
    """Where the picture lies on the screen: left, top, width, height."""
    return page.evaluate("""() => {
      const t = document.querySelector('#stage').table, a = t.view.art(t.piece);
      const box = t.stage.getBoundingClientRect();
      return [box.left + a.left, box.top + a.top, a.width, a.height];
    }""")


def drag(page, *shares):
    left, top, width, height = piece(page)
    points = [(left + x * width, top + y * height) for x, y in shares]
    page.mouse.move(*points[0])
    page.mouse.down()
    for point in points[1:]:
        page.mouse.move(*point, steps=6)
    page.mouse.up()


def tool(page, name):
    button = page.locator(f"[data-draw={name}]")
    if button.get_attribute("aria-pressed") != "true":
        button.click()
    expect(button).to_have_attribute("aria-pressed", "true")


def burned(page, x, y, w, h):
    """Share of burned dots in a part of the picture, read off the true dots."""
    number = re.search(r"/jobs/(\d+)/", page.url)[1]
    answer = page.request.get(f"/jobs/{number}/files/dots/")
    dots = 1 - np.asarray(Image.open(io.BytesIO(answer.body()))).astype(float)
    rows, cols = dots.shape
    return dots[
        int(y * rows) : int((y + h) * rows), int(x * cols) : int((x + w) * cols)
    ].mean()


def test_from_a_messy_photograph_to_a_clean_plate(photo):
    page = photo
    expect(page.locator("#res-artwork")).to_have_text("480 × 640 px")
    open_station(page, 2)
    page.select_option("#f-blank", label="Beech board, 120 mm")
    settled(page)
    open_station(page, 1)
    fold(page, "ground")
    tool(page, "cutout")
    before = drawn(page)
    drag(page, (0.15, 0.12), (0.85, 0.92))
    settled(page, before)
    expect(page.locator("[data-fold=ground] summary")).to_contain_text("1 step")
    assert burned(page, 0, 0, 0.12, 1) == 0
    assert burned(page, 0.4, 0.4, 0.2, 0.2) > 0.1

    tool(page, "brush")
    before = drawn(page)
    drag(page, (0.5, 0.5), (0.5, 0.55))
    settled(page, before)
    assert burned(page, 0.49, 0.515, 0.02, 0.02) == 0
    before = drawn(page)
    page.keyboard.press("Control+z")
    settled(page, before)
    assert burned(page, 0.49, 0.515, 0.02, 0.02) > 0

    fold(page, "border")
    before = drawn(page)
    page.locator("label:has(#f-border_on)").click()
    settled(page, before)
    assert burned(page, 0, 0, 0.02, 1) == 1

    open_station(page, 2)
    left = burned(page, 0.3, 0.3, 0.2, 0.4)
    page.locator("label:has(#seen_from-back)").click()
    expect(page.locator("#words")).to_have_text("Shown from the face; burned mirrored")
    expect(page.locator("#station-2")).to_contain_text("Mirrored")
    assert burned(page, 0.5, 0.3, 0.2, 0.4) == pytest.approx(left, abs=0.01)
    page.fill("#f-width", "3 in")
    page.keyboard.press("Tab")
    expect(page.locator("#f-width")).to_have_value("76.2")
    page.reload()
    expect(page.locator("#f-width")).to_have_value("76.2")
    open_station(page, 8)
    expect(page.locator(".t-stop b")).to_have_text("0")


def test_the_same_by_keyboard_alone(photo):
    page = photo
    open_station(page, 1)
    summary = page.locator("[data-fold=ground] summary")
    summary.focus()
    page.keyboard.press("Enter")
    page.locator("[data-draw=cutout]").focus()
    page.keyboard.press("Enter")
    expect(page.locator("#drawing")).to_be_focused()
    before = drawn(page)
    page.locator("[data-whole]").focus()
    page.keyboard.press("Enter")
    settled(page, before)
    page.locator("[data-draw=brush]").focus()
    page.keyboard.press("Enter")
    expect(page.locator("#drawing")).to_be_focused()
    before = drawn(page)
    page.keyboard.press("Space")
    for _ in range(6):
        page.keyboard.press("Shift+ArrowRight")
    page.keyboard.press("Space")
    settled(page, before)
    expect(page.locator("[data-fold=ground] summary")).to_contain_text("2 steps")
    expect(page.locator("#drawing")).to_be_focused()
    page.keyboard.press("Escape")
    expect(page.locator("#drawing")).to_be_hidden()


def test_flood_lasso_and_their_settings(photo):
    page = photo
    fold(page, "ground")
    tool(page, "lasso")
    before = drawn(page)
    drag(page, (0.05, 0.05), (0.4, 0.05), (0.4, 0.3), (0.05, 0.3))
    page.keyboard.press("Enter")
    settled(page, before)
    assert burned(page, 0.1, 0.1, 0.2, 0.15) == 0
    tool(page, "flood")
    page.locator("#t-tolerance").fill("60")
    expect(page.locator("#t-tolerance + output")).to_have_text("60")
    before = drawn(page)
    drag(page, (0.5, 0.5), (0.5, 0.5))
    settled(page, before)
    expect(page.locator("[data-fold=ground] summary")).to_contain_text("2 steps")
    page.reload()
    settled(page)
    tool(page, "flood")
    expect(page.locator("#t-tolerance")).to_have_value("60")
    page.locator("[data-set='mask_take=all']").click()
    expect(page.locator("[data-fold=ground] summary span")).to_have_text("")


def test_a_stroke_of_very_many_points_is_kept_to_its_end(photo):
    page = photo
    fold(page, "ground")
    tool(page, "brush")
    before = drawn(page)
    left, top, width, height = piece(page)
    page.mouse.move(left + 0.2 * width, top + 0.1 * height)
    page.mouse.down()
    # As from a fast mouse, over and over a hundred lines down the picture.
    page.evaluate(
        """([left, top, width, height]) => { for (let i = 0; i < 24000; i += 1) {
          const line = Math.floor(i / 240), along = (i % 240) / 240, x = line % 2 ? 1 - along : along;
          document.querySelector('#drawing').dispatchEvent(new PointerEvent('pointermove', {
            clientX: left + (0.2 + 0.6 * x) * width, clientY: top + (0.1 + 0.008 * line) * height })); } }""",
        piece(page),
    )
    page.mouse.up()
    expect(page.locator("#count-ground")).to_have_text("1 step")
    settled(page, before)
    assert burned(page, 0.25, 0.12, 0.5, 0.75) == 0


def test_strokes_that_follow_quickly_are_all_kept(photo):
    page = photo
    fold(page, "ground")
    tool(page, "brush")
    before = drawn(page)
    for i in range(5):
        drag(page, (0.2, 0.1 + 0.15 * i), (0.8, 0.1 + 0.15 * i))
    expect(page.locator("#count-ground")).to_have_text("5 steps")
    settled(page, before)
    for i in range(5):
        assert burned(page, 0.3, 0.095 + 0.15 * i, 0.4, 0.01) == 0


def test_straighten_along_a_line_and_square_four_corners(photo):
    page = photo
    fold(page, "shape")
    page.locator("[data-draw=level]").click()
    before = drawn(page)
    _, _, width, height = piece(page)
    drag(page, (0.2, 0.5), (0.8, 0.5 + 0.6 * width * np.tan(np.radians(6)) / height))
    settled(page, before)
    assert float(page.input_value("#f-straighten")) == pytest.approx(-6, abs=0.6)
    page.locator("[data-corners=begin]").click()
    handle = page.locator("#squaring button").nth(1)
    expect(page.locator("#squaring button").first).to_be_focused()
    handle.focus()
    for _ in range(5):
        page.keyboard.press("Shift+ArrowLeft")
    before = drawn(page)
    page.locator("[data-corners=use]").click()
    settled(page, before)
    expect(page.locator("[data-fold=shape] summary")).to_contain_text("squared")
    page.get_by_role("button", name="Corners as in the file").click()
    expect(page.locator("[data-fold=shape] summary")).not_to_contain_text("squared")


def test_mixes_and_dropped_colours(photo):
    page = photo
    fold(page, "gray")
    expect(page.locator(".mixes img")).to_have_count(6)
    until(
        page,
        "[...document.querySelectorAll('.mixes img')].every((i) => i.complete && i.naturalWidth)",
    )
    before = drawn(page)
    page.locator(".mixes button", has_text="Blue").click()
    settled(page, before)
    expect(page.locator("[data-fold=gray] summary")).to_contain_text("blue")
    before = drawn(page)
    page.locator("#r-red").press("ArrowRight")
    settled(page, before)
    tool(page, "pick")
    before = drawn(page)
    drag(page, (0.5, 0.5), (0.5, 0.5))
    settled(page, before)
    expect(page.locator(".dropped")).to_have_count(1)


def test_retouching_shows_at_once_and_in_the_picture(photo):
    page = photo
    fold(page, "retouch")
    tool(page, "darken")
    light = burned(page, 0.42, 0.42, 0.16, 0.04)
    left, top, width, height = piece(page)
    page.mouse.move(left + 0.4 * width, top + 0.44 * height)
    page.mouse.down()
    page.mouse.move(left + 0.6 * width, top + 0.44 * height, steps=5)
    shown = page.evaluate("""() => {
      const c = document.querySelector('#drawing');
      return c.getContext('2d').getImageData(0, 0, c.width, c.height).data.some((v) => v);
    }""")
    assert shown
    before = drawn(page)
    page.mouse.up()
    settled(page, before)
    assert burned(page, 0.42, 0.42, 0.16, 0.04) != light
    expect(page.locator("[data-fold=retouch] summary")).to_contain_text("1 stroke")


def test_lettering_is_typed_and_dragged(photo):
    page = photo
    fold(page, "letters")
    page.get_by_role("button", name="Add a line").click()
    page.fill("#f-line0_text", "Highmere")
    page.keyboard.press("Tab")
    frame = page.locator(".letterframe")
    expect(frame).to_have_attribute("aria-label", re.compile("Highmere"))
    settled(page)
    box = frame.bounding_box()
    page.mouse.move(box["x"] + 9, box["y"] + 9)
    page.mouse.down()
    page.mouse.move(box["x"] + 9, box["y"] + 69, steps=4)
    page.mouse.up()
    expect(page.locator("#f-line0_y")).to_have_value(re.compile(r"^-\d+(\.\d+)?$"))
    settled(page)
    y = float(page.input_value("#f-line0_y"))
    frame.focus()
    page.keyboard.press("ArrowUp")
    until(
        page, "y => Math.abs(document.querySelector('#f-line0_y').value - y - 1) < 0.011", y
    )


def test_two_pictures_on_one_ticket(page, tmp_path):
    paths = []
    for name, shade in (("first", 60), ("second", 190)):
        path = tmp_path / f"{name}.png"
        path.write_bytes(
            png(np.tile(np.linspace(shade, shade + 40, 90, dtype=np.uint8), (70, 1)))
        )
        paths.append(path)
    page.goto("/")
    page.set_input_files("#upload-files", paths)
    expect(page.locator("#several")).to_contain_text("2 pictures:")
    page.get_by_role("button", name="One ticket, to choose from").click()
    page.wait_for_url(re.compile(r"/jobs/\d+/$"))
    settled(page)
    expect(page.locator(".sheets img")).to_have_count(2)
    before = drawn(page)
    page.locator(".sheets label").nth(1).click()
    settled(page, before)
    expect(page.locator(".sheets input").nth(1)).to_be_checked()


def test_a_pasted_picture_opens_a_ticket(page):
    page.goto("/")
    data = list(png(np.tile(np.arange(120, dtype=np.uint8), (80, 1))))
    page.evaluate(
        """bytes => {
          const files = new DataTransfer();
          files.items.add(new File([new Uint8Array(bytes)], 'pasted.png', { type: 'image/png' }));
          document.dispatchEvent(new ClipboardEvent('paste', { clipboardData: files, bubbles: true }));
        }""",
        data,
    )
    page.wait_for_url(re.compile(r"/jobs/\d+/$"))
    expect(page.locator("h1")).to_have_text("pasted")


def test_transparency_and_own_dots_are_asked_about(page, tmp_path):
    pixels = np.zeros((60, 80, 4), np.uint8)
    pixels[10:50, 20:60] = (30, 40, 50, 255)
    path = tmp_path / "logo.png"
    path.write_bytes(png(pixels))
    page.goto("/")
    page.set_input_files("#upload-files", path)
    page.wait_for_url(re.compile(r"/jobs/\d+/$"))
    settled(page)
    fold(page, "file")
    expect(page.locator("#ground-unburned")).to_be_checked()
    dots = np.random.default_rng(1).integers(0, 2, (60, 80), dtype=np.uint8) * 255
    path.write_bytes(png(dots))
    page.goto("/")
    page.set_input_files("#upload-files", path)
    page.wait_for_url(re.compile(r"/jobs/\d+/$"))
    settled(page)
    before = drawn(page)
    page.locator("label:has(#f-keep_dots)").click()
    settled(page, before)
    for number in (3, 4):
        open_station(page, number)
        expect(page.locator(f"#station-{number}")).to_contain_text("passed over")
    open_station(page, 2)
    page.fill("#f-width", "33")
    page.keyboard.press("Tab")
    expect(page.locator("#station-2 .fault")).to_contain_text("mm work at this row pitch")


def test_inches_for_one_operator(photo):
    page = photo
    open_station(page, 2)
    width = float(page.input_value("#f-width"))
    page.locator("[data-units]").click()
    page.wait_for_load_state()
    expect(page.locator("[data-units]")).to_have_text("in")
    assert float(page.input_value("#f-width")) == pytest.approx(width / 25.4, abs=1e-4)
    expect(page.locator("#readings div:has(dt:text-is('Size')) dd")).to_have_text(
        re.compile(r"\d in$")
    )
    page.locator("[data-units]").click()
    expect(page.locator("[data-units]")).to_have_text("mm")


def test_moving_the_picture_on_its_blank(photo):
    page = photo
    open_station(page, 2)
    page.locator("[data-nudge]").click()
    expect(page.locator("#drawing")).to_be_focused()
    for keys in ("ArrowRight", "ArrowRight", "Alt+ArrowUp"):
        page.keyboard.press(keys)
    until(page, "document.querySelector('#f-offset_x').value === '2'")
    assert page.input_value("#f-offset_y") == "0.1"
    settled(page)
    page.get_by_role("button", name="Centre").click()
    expect(page.locator("#f-offset_x")).to_have_value("0")


def test_a_blank_is_made_on_the_shelf(page, tmp_path):
    page.goto("/shelf/")
    page.get_by_role("link", name="New blank").click()
    page.fill("#f-name", f"Cork ring {json.dumps(tmp_path.name)[1:9]}")
    page.select_option("#f-shape", "oval")
    page.fill("#f-height_mm", "2 in")
    page.keyboard.press("Tab")
    face = page.locator("#blank-drawing .blankdraw__face")
    expect(face).to_have_attribute("d", re.compile(r"L0\.000 -25\.400L"))
    page.get_by_role("button", name="Save the blank").click()
    expect(page.locator(".blankcard", has_text="Cork ring")).to_have_count(1)
