"""Outlines on the table: chosen, left out, moved, scaled, parted; handles; the trace under the slider."""

import re

import numpy as np
import pytest
from playwright.sync_api import expect

from support.jobs import png
from support.walking import held, open_station, opened_ticket, settled, unfold

DISC = 22


@pytest.fixture
def ticket(page, tmp_path):
    """A ticket of four dark discs and a gray one, 80 mm wide, traced."""
    y, x = np.mgrid[:160, :160]
    pixels = np.full((160, 160), 255, np.uint8)
    for mx, my, tone in (
        (40, 40, 0),
        (120, 40, 0),
        (40, 120, 0),
        (120, 120, 0),
        (80, 80, 150),
    ):
        pixels[np.hypot(x - mx, y - my) < DISC] = tone
    path = tmp_path / "discs.png"
    path.write_bytes(png(pixels))
    number = opened_ticket(page, path)
    open_station(page, 2)
    page.select_option("#f-blank", label="Beech board, 120 mm")
    settled(page)
    open_station(page, 6)
    page.locator("#add-score-traced").click()
    expect(page.locator(".ring")).to_have_count(4)
    return number


def middle(page, what):
    box = page.locator(what).bounding_box()
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def dragged(page, start, by):
    page.mouse.move(*start)
    page.mouse.down()
    page.mouse.move(start[0] + by[0] / 2, start[1] + by[1] / 2)
    page.mouse.move(start[0] + by[0], start[1] + by[1])
    page.mouse.up()


def traced(folder, number, at=1):
    return held(folder, number)["operations"][at]


def test_pressed_boxed_left_out_and_used_again(page, ticket, folder):
    page.mouse.click(*middle(page, "#ring-1"))
    expect(page.locator("#ring-1")).to_have_attribute("aria-checked", "true")
    page.mouse.click(*middle(page, "#ring-2"))
    expect(page.locator(".ring.is-chosen")).to_have_count(1)
    page.keyboard.down("Shift")
    page.mouse.click(*middle(page, "#ring-1"))
    page.keyboard.up("Shift")
    expect(page.locator("#chosen-says")).to_contain_text("2 chosen")
    page.keyboard.press("Delete")
    expect(page.locator(".ring.is-out")).to_have_count(2)
    expect(page.locator("#trace-count")).to_contain_text("2 left out")
    assert len(traced(folder, ticket)["left_out"]) == 2
    page.get_by_role("button", name="In a box").click()
    frame = page.locator(".stage").bounding_box()
    dragged(
        page,
        (frame["x"] + 60, frame["y"] + 40),
        (frame["width"] - 80, frame["height"] - 60),
    )
    expect(page.locator(".ring.is-chosen")).to_have_count(4)
    page.get_by_role("button", name="Use again", exact=True).click()
    expect(page.locator(".ring.is-out")).to_have_count(0)
    page.reload()
    expect(page.locator(".ring")).to_have_count(4)
    assert traced(folder, ticket)["left_out"] == []


def test_moved_and_scaled_by_the_frame_and_parted(page, ticket, folder):
    page.mouse.click(*middle(page, "#ring-1"))
    page.get_by_role("button", name="Own operation").click()
    expect(page.locator(".op__name b")).to_have_count(3)
    expect(page.locator(".op.is-looked b")).to_contain_text("3 Score")
    page.locator("#ol-frame").focus()
    for key in ("ArrowRight", "ArrowRight", "Shift+ArrowUp"):
        page.keyboard.press(key)
    expect(page.locator("#outlines")).to_have_attribute("data-move", "2.0 10.0")
    assert traced(folder, ticket)["move_x_mm"] == 0
    part = traced(folder, ticket, 2)
    assert (part["move_x_mm"], part["move_y_mm"]) == (2, 10)
    page.locator("#ol-corner-11").focus()
    page.keyboard.press("Shift+ArrowRight")
    expect(page.locator("#outlines")).to_have_attribute("data-scale", "110.0 110.0")
    page.locator(f"#look-{1}").click()
    expect(page.locator(".op.is-looked b")).to_contain_text("2 Score")
    ring = page.locator(".ring:not(.is-out)").first
    box = ring.bounding_box()
    at = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.click(*at)
    scale = page.evaluate("document.querySelector('#stage').table.view.scale")
    dragged(page, at, (round(6 * scale), round(-3 * scale)))
    # One of several goes by itself, and is an operation of its own by that.
    expect(page.locator(".op__name b")).to_have_count(4)
    assert traced(folder, ticket)["move_x_mm"] == 0
    part = traced(folder, ticket, 2)
    assert part["move_x_mm"] == pytest.approx(6, abs=0.2)
    assert part["move_y_mm"] == pytest.approx(3, abs=0.2)
    # Where all are chosen, all are moved.
    ring = page.locator(".ring:not(.is-out)").first
    box = ring.bounding_box()
    at = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.click(*at)
    dragged(page, at, (0, round(-2 * scale)))
    expect(page.locator("#outlines")).not_to_have_attribute(
        "data-move", f"{part['move_x_mm']} {part['move_y_mm']}"
    )
    expect(page.locator(".op__name b")).to_have_count(4)
    assert traced(folder, ticket, 2)["move_y_mm"] == pytest.approx(5, abs=0.4)
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+z")
    expect(page.locator(".op__name b")).to_have_count(3)


def test_offset_lead_in_and_bridges_by_their_handles(page, ticket, folder):
    page.select_option("#op-kind", label="Cut")
    expect(page.locator("#ol-lead")).to_be_visible()
    unfold(page, "#op-bridges")
    page.fill("#op-bridges", "3")
    page.keyboard.press("Enter")
    expect(page.locator(".is-bridge")).to_have_count(12)
    scale = page.evaluate("document.querySelector('#stage').table.view.scale")
    dragged(page, middle(page, "#ol-offset"), (round(3 * scale), 0))
    expect(page.locator("#op-offset_mm")).to_have_value(re.compile(r"^(2\.9|3)"))
    page.locator("#ol-bridge-2").focus()
    page.keyboard.press("Shift+ArrowRight")
    expect(page.locator("#op-bridge_shift")).to_have_value("10")
    page.locator("#ol-lead").focus()
    for _ in range(2):
        page.keyboard.press("Shift+ArrowRight")
    expect(page.locator("#op-lead_in_mm")).to_have_value("2")
    page.reload()
    expect(page.locator("#op-lead_in_mm")).to_have_value("2")
    part = traced(folder, ticket)
    assert part["bridge_shift"] == pytest.approx(0.1)
    assert part["offset_mm"] == pytest.approx(3, abs=0.1)


def test_the_trace_changes_under_the_slider(page, ticket, folder):
    """The gray disc is found from its tone on; what is too small is counted."""
    slider = page.locator("input[type=range][data-for=op-lightest]")
    slider.focus()
    for _ in range(15):
        page.keyboard.press("ArrowRight")
    expect(page.locator("#trace-count")).to_contain_text("5 outlines")
    expect(page.locator(".ring")).to_have_count(5)
    unfold(page, "#op-least_mm")
    page.fill("#op-least_mm", "30")
    page.keyboard.press("Enter")
    expect(page.locator("#trace-count")).to_contain_text("5 smaller than 30")
    page.fill("#op-least_mm", "0.5")
    page.keyboard.press("Enter")
    expect(page.locator(".ring")).to_have_count(5)
    assert traced(folder, ticket)["trace"]["lightest"] == 65


def test_another_operation_is_opened_by_its_line(page, ticket, folder):
    page.locator("#cut-around").click()
    expect(page.locator(".op.is-looked b")).to_contain_text("3 Cut")
    box = page.locator("#ol-1").bounding_box()
    scale = page.evaluate("document.querySelector('#stage').table.view.scale")
    # The leftmost disc's own left edge.
    page.mouse.click(box["x"] + 2, box["y"] + DISC / 2 * scale)
    expect(page.locator(".op.is-looked b")).to_contain_text("2 Score")
