"""A relief, a carved board and a scratched plate: made by hand, run, held against the plan."""

import re

import numpy as np
import pytest
from playwright.sync_api import expect

from support.jobs import png
from support.walking import held, open_station, opened_ticket, settled, sign_off, tick_all


def dome(side=160):
    y, x = np.mgrid[:side, :side]
    r = np.hypot(x - side / 2, y - side / 2) / (side / 2)
    return np.sqrt(np.maximum(1 - r**2, 0))


@pytest.fixture
def ticket(page, tmp_path):
    """Opens a ticket of some picture."""

    def opened(pixels):
        path = tmp_path / "dome.png"
        path.write_bytes(png(pixels))
        return opened_ticket(page, path)

    yield opened
    # A new ticket stands on the machine used last: the next walk's on a beam again.
    opened((255 * dome()).astype(np.uint8))
    open_station(page, 5)
    page.select_option("#f-machine", label="North bench")
    expect(page.locator("#station-4")).to_contain_text("Dots")


def typed(page, field, text):
    """Type into a field as it stands on its station, and leave it."""
    page.fill(f"#f-{field}", text)
    page.keyboard.press("Enter")


def chosen(page, way):
    page.locator(f".seg label:has(#way-{way})").click()
    expect(page.locator(f"#way-{way}")).to_be_checked()


def settled_place(page):
    """Wait until the piece lies on the bed."""
    expect(page.locator("#station-7")).not_to_contain_text("Off the bed")


def at_the_machine(page, name, number):
    page.goto(f"/jobs/{number}/check/")
    sign_off(page)
    page.goto("/bench/")
    page.get_by_role("link", name=name).click()
    page.goto(f"{page.url}?job={number}")
    tick_all(page)


def touched_off(page, folder):
    """Lowered over the middle by keys until it touches, as the probe says."""
    expect(page.locator(".atbench")).to_have_class(re.compile("is-told"))  # it listens
    expect(page.locator('[data-told="touched"]')).to_have_text("Not touched off yet.")
    for deed in ("middle", "probe"):
        page.locator(f"[data-do={deed}]").focus()
        with page.expect_response(f"**/do/{deed}/"):
            page.keyboard.press("Enter")
    expect(page.locator('[data-told="touched"]')).to_contain_text("Touched off")


def probed(page, folder, number):
    """The bed is probed at two by two places; the job follows what was found there."""
    page.locator("[name=across]").fill("2")
    page.locator("[name=back]").fill("2")
    page.locator("[data-do=probe-bed]").click()
    page.locator("[data-do=probe-bed]").click()
    expect(page.locator(".bed__heights text")).to_have_count(4, timeout=60_000)
    job = held(folder, number)
    level, size = job["marking"]["carving"]["level"], job["size"]
    (front_left, front_right), (back_left, _) = level["heights_mm"]
    # The stand-in's blank rises by 0.0006 a mm to the right, and falls to the back.
    assert front_right - front_left == pytest.approx(0.0006 * size["width_mm"], abs=2e-3)
    assert back_left - front_left == pytest.approx(-0.0004 * size["height_mm"], abs=2e-3)


def burned(page, number):
    """Press twice, go on where it waits; the run's page says how it came out."""
    doing = page.locator('[data-told="doing"]')
    page.locator("[data-do=burn]").click()
    page.locator("[data-do=burn]").click()
    expect(doing).to_contain_text(
        re.compile(rf"(finished|failed|touch it off).*{number}"), timeout=150_000
    )
    if "touch it off" in doing.inner_text():
        # The other tool's tip is elsewhere: nothing goes on before it is touched off.
        page.locator("section [data-do=go-on]").click()
        expect(page.locator('[data-told="said"]')).to_contain_text("off first")
        with page.expect_response("**/do/probe/"):
            page.locator("[data-do=probe]").click()
        expect(page.locator('[data-told="touched"]')).to_contain_text("Touched off")
        page.locator("section [data-do=go-on]").click()
    expect(doing).to_contain_text(re.compile(rf"finished.*{number}"), timeout=60_000)
    page.goto(f"/jobs/{number}/run/")
    expect(page.locator("#burn")).to_contain_text("lies where it was planned")


def test_a_depth_picture_becomes_a_relief(page, ticket, folder):
    number = ticket((65535 * dome()).astype(np.uint16))
    open_station(page, 5)
    page.select_option("#f-machine", label="North bench")
    settled(page)
    open_station(page, 1)
    expect(page.locator("#body-artwork")).to_contain_text("A depth picture by")
    open_station(page, 2)
    typed(page, "width", "24")
    open_station(page, 4)
    chosen(page, "relief")
    typed(page, "relief_depth", "1.2")
    typed(page, "relief_pass", "0.3")
    expect(page.locator("#body-dots")).to_contain_text("4 passes to 1.20 mm")
    settled(page)
    expect(page.locator("[data-view=dots]")).to_have_text("Passes")
    job = held(folder, number)
    assert job["marking"]["way"] == "relief"
    assert job["artwork"]["holds"] == "depth"
    page.reload()
    expect(page.locator("#f-relief_depth")).to_have_value("1.2")
    at_the_machine(page, "North bench", number)
    burned(page, number)


def test_a_board_is_carved_with_a_title(page, ticket, folder):
    number = ticket((255 * dome()).astype(np.uint8))
    open_station(page, 5)
    page.select_option("#f-machine", label="Mill bench")
    expect(page.locator("#station-4")).to_contain_text("Lines")
    page.keyboard.press("Escape")
    open_station(page, 1)
    page.get_by_text("Lettering", exact=True).click()
    page.get_by_role("button", name="Add a line").click()
    typed(page, "line0_text", "Dome")
    open_station(page, 2)
    page.select_option("#f-blank", label="Carving board, 240 × 180 mm")
    settled(page)
    typed(page, "width", "60")
    open_station(page, 4)
    expect(page.locator("#way-carved")).to_be_checked()
    typed(page, "carve_deepest", "9")
    expect(page.locator("#body-dots")).to_contain_text("are too deep for a board")
    typed(page, "carve_deepest", "0.9")
    expect(page.locator("#body-dots")).not_to_contain_text("are too deep for a board")
    open_station(page, 6)
    page.locator("#add-inside-lettering").click()
    expect(page.locator("#ops")).to_contain_text("the lettering, to")
    page.fill("#op-tool_deg", "60")
    page.keyboard.press("Enter")
    expect(page.locator("#op-tool_deg")).to_have_value("60")
    at_the_machine(page, "Mill bench", number)
    probed(page, folder, number)
    touched_off(page, folder)
    burned(page, number)


def test_a_plate_is_scratched(page, ticket, folder):
    number = ticket((255 * dome()).astype(np.uint8))
    open_station(page, 5)
    page.select_option("#f-machine", label="Needle bench")
    expect(page.locator("#station-4")).to_contain_text("Scratches")
    open_station(page, 4)
    expect(page.locator("#body-dots")).to_contain_text("Lines all of one width")
    page.keyboard.press("Escape")
    open_station(page, 2)
    page.select_option("#f-blank", label="Brass plate, 80 × 60 mm")
    settled(page)
    open_station(page, 7)
    page.get_by_role("button", name="Centre on the bed").click()
    settled_place(page)
    open_station(page, 4)
    expect(page.locator("#body-dots")).to_contain_text("scratches cover")
    assert held(folder, number)["size"]["pitch_mm"] == 0.15
    at_the_machine(page, "Needle bench", number)
    touched_off(page, folder)
    burned(page, number)
