"""A relief looked at: its light moved, cut through, turned in the round; by mouse and keys."""

import re

import numpy as np
import pytest
from playwright.sync_api import expect

from support.jobs import png
from support.running import until
from support.walking import open_station, opened_ticket, settled


@pytest.fixture
def relief(page, tmp_path):
    """A dome, 40 mm wide, carved 2 mm deep."""
    y, x = np.mgrid[:160, :160]
    high = np.sqrt(np.maximum(1 - (np.hypot(x - 80, y - 80) / 80) ** 2, 0))
    path = tmp_path / "dome.png"
    path.write_bytes(png((65535 * high).astype(np.uint16)))
    number = opened_ticket(page, path)
    open_station(page, 2)
    page.select_option("#f-blank", label="Beech board, 120 mm")
    settled(page)
    open_station(page, 5)
    page.select_option("#f-machine", label="North bench")
    settled(page)
    open_station(page, 4)
    page.locator(".seg label:has(#way-relief)").click()
    expect(page.locator("#body-dots")).to_contain_text("passes to")
    settled(page)
    return number


def test_the_light_is_moved_and_stays(page, relief):
    page.locator("#sunring").focus()
    for _ in range(3):
        page.keyboard.press("ArrowRight")
    expect(page.locator("#sunring")).to_have_attribute("aria-valuenow", "0")
    until(page, "document.querySelector('#stage').table.right.asked.includes('lamp=0')")
    settled(page)
    box = page.locator("#sunring").bounding_box()
    page.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] - 3)
    expect(page.locator("#sunring")).to_have_attribute("aria-valuenow", "180")
    page.reload()
    expect(page.locator("#sunring")).to_have_attribute("aria-valuenow", "180")


def cut_is(page, long):
    expect(page.locator("#cutshown svg")).to_have_attribute(
        "aria-label",
        re.compile(rf"A cut {long:.1f} mm long, [0-2]\.[0-9]+ mm at its deepest"),
    )


def test_it_is_cut_through_along_a_line(page, relief):
    page.keyboard.press("x")
    long = page.evaluate("document.querySelector('#stage').table.piece.artWidth")
    cut_is(page, long)
    page.keyboard.press("Shift+ArrowLeft")
    cut_is(page, long - 10)
    end = page.locator("#cutline [data-end='0']")
    box = end.bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    scale = page.evaluate("document.querySelector('#stage').table.view.scale")
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 30 * scale, y)
    page.mouse.up()
    cut_is(page, long - 40)
    page.keyboard.press("x")
    expect(page.locator("#cutshown")).to_be_hidden()


def test_it_is_turned_in_the_round(page, relief):
    page.keyboard.press("t")
    expect(page.locator("#turned-says")).to_contain_text("mm at its deepest")
    picture = page.locator("#turned canvas")
    before = picture.screenshot()
    page.keyboard.press("ArrowLeft")
    page.keyboard.press("+")
    page.wait_for_timeout(600)
    turned = picture.screenshot()
    assert turned != before
    box = picture.bounding_box()
    page.mouse.move(box["x"] + 300, box["y"] + 250)
    page.mouse.down()
    page.mouse.move(box["x"] + 420, box["y"] + 200)
    page.mouse.up()
    page.wait_for_timeout(600)
    assert picture.screenshot() != turned
    page.select_option("#taller", "5")
    page.keyboard.press("Escape")
    page.locator("button[data-deep=turn]").click()
    expect(page.locator("#turned")).to_be_hidden()


def test_a_burned_picture_has_nothing_to_turn(page, relief):
    page.locator(".seg label:has(#way-dots)").click()
    expect(page.locator("button[data-deep=turn]")).to_be_hidden()
    expect(page.locator("#sunring")).to_be_hidden()
