"""The jobs of the Place station, by mouse and keys, burned on the stand-in and compared."""

import io
import re

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import expect

from support.walking import open_station, settled, sign_off, tick_all, unfold


def picture(name, wide, high, seed):
    y, x = np.mgrid[0:high, 0:wide]
    light = 127 + 100 * np.sin((x + 40 * seed) / 17) * np.cos(y / 11)
    stream = io.BytesIO()
    Image.fromarray(light.clip(0, 255).astype(np.uint8)).save(stream, "PNG")
    return {"name": name, "mimeType": "image/png", "buffer": stream.getvalue()}


def new_job(page, wide, high, blank, machine, dpi=""):
    """A ticket on a blank; coarser rows where many pieces are burned."""
    page.goto("/")
    page.locator("#upload-files").set_input_files(picture("scene.png", wide, high, 1))
    page.wait_for_url("**/jobs/*/")
    number = page.url.rstrip("/").rsplit("/", 1)[1]
    open_station(page, 5, number)
    page.get_by_label("Machine").select_option(label=machine)
    settled(page)
    open_station(page, 2)
    page.get_by_label("Blank", exact=False).first.select_option(label=blank)
    settled(page)
    if dpi:
        page.locator("#f-dpi").fill(dpi)
        page.locator("#f-dpi").press("Enter")
        settled(page)
    open_station(page, 7)
    return number


def burn(page):
    """Burn it, and hold the burn map against the plan."""
    sign_off(page)
    page.locator("#row-run").click()
    tick_all(page)
    page.get_by_role("button", name="Burn on the stand-in").click()
    expect(page.locator("#burn")).to_contain_text("Every one of", timeout=180_000)


def test_a_panorama_over_two_tiles(page):
    new_job(page, 240, 90, "Tag, 60 × 34 mm", "Window bench", dpi="120")
    page.get_by_text("Several blanks in a fixture").click()
    settled(page)
    page.get_by_text("One across all").click()
    settled(page)
    page.get_by_text("is skipped").click()
    settled(page)
    expect(page.locator(".pocket")).to_have_count(2)
    page.get_by_role("button", name="Pocket 2, burned as number 2").press("Enter")
    settled(page)
    expect(page.locator(".pocket[aria-pressed=true]")).to_have_text("2")
    burn(page)


def test_twenty_tags_with_twenty_pictures(page):
    new_job(page, 60, 34, "Tag, 60 × 34 mm", "Window bench", dpi="100")
    page.get_by_text("Several blanks in a fixture").click()
    settled(page)
    for name, value in (
        ("columns", "4"),
        ("rows", "5"),
        ("gap_x", "2"),
        ("gap_y", "2"),
    ):
        field = page.locator(f"#f-{name}")
        field.fill(value)
        field.press("Enter")
        settled(page)
    expect(page.locator("#station-7")).to_contain_text("20 of 20 pockets")
    settled(page)
    tags = [picture(f"tag{i}.png", 60, 34, i) for i in range(20)]
    page.locator("#pocket-files").set_input_files(tags)
    expect(page.locator("#said")).to_contain_text(
        "20 pictures in the pockets", timeout=30_000
    )
    burn(page)


def test_a_ring_wrapped_all_round(page):
    new_job(page, 560, 50, "Ring band, 18 mm", "North bench")
    # It is turned by what this machine turned last; laid flat, the station says what that is.
    expect(page.locator("[name=mount]:checked")).not_to_have_value("flat")
    page.get_by_text("Flat", exact=True).click()
    expect(page.locator("#station-7")).to_contain_text("only a strip of it is in focus")
    page.get_by_text("Chuck", exact=True).click()
    settled(page)
    page.get_by_text("Closes all round").click()
    settled(page)
    expect(page.locator("#station-7")).to_contain_text("rows close the way round")
    burn(page)


def test_a_tapered_cup_on_rollers(page):
    number = new_job(page, 160, 120, "Beaker wall, 84 to 62 mm", "North bench")
    page.get_by_text("Rollers", exact=True).click()
    settled(page)
    expect(page.locator("#station-7")).to_contain_text("tilt it by")
    open_station(page, 2, number)
    page.get_by_text("Exact", exact=True).click()
    settled(page)
    width = page.get_by_label("Width")
    width.fill("30")
    width.press("Enter")
    settled(page)
    burn(page)


@pytest.mark.parametrize("shape", ["the same, corners round", "what the mask keeps"])
def test_engraved_and_cut_out(page, shape):
    new_job(page, 120, 120, "Tag, 60 × 34 mm", "North bench")
    open_station(page, 6)
    page.get_by_role("button", name="Cut around it").click()
    expect(page.locator("#ol-1.is-cut.is-looked")).to_have_count(1)
    page.get_by_label("Outline of").select_option(label=shape)
    settled(page)
    open_station(page, 7)
    expect(page.locator(".bed__cut")).to_have_count(1)
    burn(page)


def ordered(page, names):
    """The operations stand in an order; beside each is its time."""
    expect(page.locator(".op__name b")).to_have_text(
        [re.compile(rf"^{name} [0-9:]+$") for name in names]
    )


def drag_grip(page, start, end):
    """Drag an operation by its grip to where another one is."""
    boxes = [page.locator(f"#grip-{at}").bounding_box() for at in (start, end)]
    x, y, aim = boxes[0]["x"] + 9, boxes[0]["y"] + 15, boxes[1]["y"] + 15
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, aim + (4 if aim > y else -4), steps=12)
    page.mouse.up()


def test_traced_and_cut_out_with_the_picture_inside(page):
    """By mouse and keys: trace, leave an outline out, order, turn, zoom, walk, burn."""
    new_job(page, 120, 120, "Tag, 60 × 34 mm", "North bench")
    open_station(page, 6)
    page.get_by_role("button", name="Trace", exact=True).click()
    settled(page)
    page.locator("#op-kind").select_option(label="Cut")
    settled(page)
    unfold(page, "#op-least_mm")
    page.locator("#op-least_mm").fill("1.5")
    page.locator("#op-least_mm").press("Enter")
    settled(page)
    rings = page.locator(".ring")
    expect(rings.first).to_be_visible()
    rings.last.focus()
    page.keyboard.press("Space")
    page.keyboard.press("Delete")
    expect(page.locator(".ring.is-out")).to_have_count(1)
    page.get_by_role("button", name="Score", exact=True).click()
    settled(page)
    ordered(page, ["1 Picture", "2 Score", "3 Cut"])
    page.locator("#grip-2").focus()
    page.keyboard.press("ArrowUp")
    settled(page)
    ordered(page, ["1 Picture", "2 Cut", "3 Score"])
    page.keyboard.press("ArrowDown")
    settled(page)
    ordered(page, ["1 Picture", "2 Score", "3 Cut"])
    drag_grip(page, 2, 1)
    settled(page)
    ordered(page, ["1 Picture", "2 Cut", "3 Score"])
    drag_grip(page, 1, 2)
    settled(page)
    ordered(page, ["1 Picture", "2 Score", "3 Cut"])
    page.locator("#on-1").evaluate("box => box.click()")
    settled(page)
    expect(page.locator("#station-6")).to_contain_text("2 of 3 included")
    open_station(page, 7)
    turn = page.get_by_label("Turned by")
    turn.fill("15")
    turn.press("Enter")
    settled(page)
    expect(page.locator("#piece > g").first).to_have_attribute(
        "transform", re.compile("rotate")
    )
    button = page.locator("#walk-form button")
    button.click()
    expect(button).to_contain_text("Press again")
    button.click()
    expect(page.locator("#walk-said")).to_contain_text("being walked")
    burn(page)


def test_a_fold_stays_open_where_an_answer_brings_another_before_it(page):
    """A cut has one fold more than a score, above the one that was opened meanwhile."""
    new_job(page, 120, 120, "Tag, 60 × 34 mm", "North bench")
    open_station(page, 6)
    page.get_by_role("button", name="Trace", exact=True).click()
    expect(page.locator("#op-kind")).to_be_visible()
    settled(page)
    held_back = []

    def hold(route):
        held_back.append(route)

    page.route("**/operations/", hold)
    page.locator("#op-kind").select_option(label="Cut")
    while not held_back:
        page.wait_for_timeout(20)
    unfold(page, "#op-least_mm")
    held_back[0].continue_()
    expect(page.locator("[data-fold=cuts]")).to_have_count(1)
    expect(page.locator("#op-least_mm")).to_be_visible()
    expect(page.locator("[data-fold=cuts]")).not_to_have_attribute("open", "")


def test_dragged_it_snaps_and_stays_zoomed(page):
    page.goto("/jobs/413/place/")
    settled(page)
    page.locator("#bed").focus()
    before = page.locator("#bed").get_attribute("viewBox")
    page.keyboard.press("+")
    assert page.locator("#bed").get_attribute("viewBox") != before
    page.keyboard.press("0")
    assert page.locator("#bed").get_attribute("viewBox") == before
    box = page.locator("#bed .bed__blank").last.bounding_box()
    at = box["x"] + box["width"] / 2, box["y"] + box["height"] - 8
    piece = page.locator("#piece")
    lay = piece.get_attribute("data-blank")
    page.mouse.move(*at)
    page.mouse.down()
    page.mouse.move(at[0] + 60, at[1] + 3, steps=5)
    expect(page.locator("#guides")).to_have_attribute("d", re.compile("M0 "))
    page.mouse.up()
    expect(piece).not_to_have_attribute("data-blank", lay)
    left, front, right, back = (float(v) for v in piece.get_attribute("data-blank").split())
    assert (front + back) / 2 == pytest.approx(200, abs=0.001)  # the bed's middle
    assert (left + right) / 2 > 210
    page.reload()
    settled(page)
    page.locator("[data-fold=marks] summary").click()
    page.get_by_label("Mark", exact=True).select_option(label="Box")
    page.locator("#mark-x_mm").fill("20")
    page.get_by_role("button", name="Draw it").click()
    settled(page)
    expect(page.locator(".bed__mark")).to_have_count(1)


def test_the_path_is_played_and_scrubbed(page):
    page.goto("/jobs/413/run/")
    view = page.locator(".pathview")
    expect(view.locator("[data-time]")).to_contain_text("0:00 to go", timeout=30_000)
    expect(view.locator("[data-place]")).to_contain_text("2 Cut")
    view.locator("[name=share]").fill("0.5")
    expect(view.locator("[data-place]")).to_contain_text("1 Picture")
    half = view.locator("[data-time]").inner_text()
    assert "0:00 to go" not in half
    before = view.locator("canvas").screenshot()
    view.get_by_role("button", name="Play").click()
    expect(view.locator("[data-time]")).not_to_have_text(half)
    view.get_by_role("button", name="Pause").click()
    view.locator("canvas").press("+")
    page.wait_for_timeout(900)
    assert view.locator("canvas").screenshot() != before


def test_the_camera_finds_the_blanks_and_pieces_are_laid_on_them(page):
    """By keys: burn the marks, calibrate, look at the bed, lay a piece on each, burn."""
    number = new_job(page, 60, 34, "Tag, 60 × 34 mm", "Window bench", dpi="120")
    page.locator("[data-fold=camera] summary").press("Enter")
    page.get_by_role("button", name="Marks card").press("Enter")
    page.wait_for_url(re.compile(r"/burn/$"))
    settled(page)
    burn(page)
    open_station(page, 7, number)
    camera = page.locator("[data-fold=camera]")
    camera.get_by_role("button", name="By the stand-in").press("Enter")
    expect(camera).to_contain_text("Marks lie off", timeout=60_000)
    off = float(
        re.search(r"([\d.]+) mm rms", camera.inner_text().replace("\u2009", " "))[1]
    )
    assert 0 < off < 0.3
    camera.get_by_role("button", name="By the stand-in").first.press("Enter")
    expect(camera.locator("summary").first).to_contain_text("3 found", timeout=60_000)
    expect(page.locator(".bed__found.is-alike")).to_have_count(3)
    page.locator("#seen-1").press("Enter")
    expect(page.locator("#said")).to_contain_text("Laid on the blank")
    expect(page.locator("#piece > g").first).to_have_attribute(
        "transform", re.compile("rotate")
    )
    page.get_by_role("button", name="A piece on each of 3").press("Enter")
    expect(page.locator("#said")).to_contain_text("3 pockets, as the blanks lie")
    burn(page)
