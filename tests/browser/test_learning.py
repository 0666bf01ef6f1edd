"""From findings through the list, a burn, a photo and a rating to the next piece."""

import re

from playwright.sync_api import expect

from support.jobs import png
from support.pieces import scene
from support.walking import open_station, opened_ticket, settled, sign_off, tick_all


def a_ticket(page, folder, seed):
    path = folder / f"lights-{seed}.png"
    path.write_bytes(png(scene(seed), dpi=(254, 254)))
    return opened_ticket(page, path)


def set_up(page, blank, recipe):
    """A small picture in the middle of a blank, burned as a recipe says."""
    open_station(page, 2)
    page.select_option("#f-blank", label=blank)
    settled(page)
    page.fill("#f-width", "28")
    page.keyboard.press("Tab")
    settled(page)
    open_station(page, 5)
    page.locator("#f-machine").select_option(label="North bench")
    settled(page)
    page.locator("#f-recipe").select_option(label=recipe)
    expect(page.locator("#station-5")).to_contain_text(recipe)
    settled(page)


def test_a_piece_teaches_the_next(page, tmp_path):
    blank, recipe = "Slate coaster, 100 mm", "Slate, pale mark"
    a_ticket(page, tmp_path, 7)
    set_up(page, blank, recipe)
    sign_off(page)
    open_station(page, 9)
    tick_all(page)
    page.locator("#burn-button").click()
    expect(page.locator("#burn")).to_contain_text(
        "lies where it was planned", timeout=120_000
    )

    page.goto("/bench/log/")
    page.locator("tbody a").first.click()
    page.get_by_role("combobox", name="It came out").select_option("dark")
    page.get_by_role("button", name="Note it").click()
    page.get_by_role("button", name="Photograph what the stand-in burned").click()
    teaches = page.locator("#teaches")
    expect(teaches).to_contain_text("know its tones")
    expect(
        page.get_by_alt_text("Where it is lighter or darker than expected")
    ).to_be_visible()
    page.set_viewport_size({"width": 390, "height": 844})
    assert page.evaluate("document.documentElement.scrollWidth") <= 390

    # The points by hand: a ring is moved with the arrow keys, and read again.
    teaches.locator("summary").click()
    ring = teaches.locator("[data-corner='0']")
    ring.focus()
    for _ in range(3):
        page.keyboard.press("ArrowRight")
    teaches.get_by_role("button", name="Read with these points").click()
    expect(teaches).to_contain_text("squared by your points")

    burn = page.url
    page.get_by_role("combobox", name="How well it went").select_option("3 of 5")
    page.get_by_role("button", name="Keep as a recipe").click()
    page.wait_for_url("**/shelf/recipes/*/")
    expect(page.locator("main")).to_contain_text("3 of 5, came out too dark")
    page.goto(burn)
    teaches.get_by_role("button", name="Amend the recipe").click()
    page.wait_for_url("**/shelf/recipes/*/")
    expect(page.locator(".versions").last).to_contain_text("Tones by")
    expect(page.locator("main")).to_contain_text("measured tone curve of 17 patches")
    version = re.search(r"v(\d+)", page.locator("h1 small").inner_text())[1]

    a_ticket(page, tmp_path, 8)
    set_up(page, blank, recipe)
    expect(page.locator("#station-5")).to_contain_text(f"version {version}")
