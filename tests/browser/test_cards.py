"""From an unknown machine to a calibrated recipe on a new substrate, by two cards."""

import re

from playwright.sync_api import expect

from support.walking import open_station, settled, tick_all


def burn_and_photograph(page):
    """Burn the card that is open, and let the stand-in camera take its picture."""
    page.wait_for_url("**/jobs/*/check/")
    settled(page)
    # It opens at its check; nothing stands in the way of a card.
    page.get_by_role("button", name=re.compile("To the run")).click()
    tick_all(page)
    page.get_by_role("button", name="Burn on the stand-in").click()
    expect(page.locator("#burn")).to_contain_text("Every one of", timeout=120_000)
    page.get_by_role("button", name="Photograph what the stand-in burned").click()
    expect(page.locator(".cardpic figcaption")).to_contain_text(
        "As photographed", timeout=60_000
    )


def test_create_machine_to_calibrated_recipe(page):
    page.goto("/shelf/")
    page.get_by_role("link", name="New machine").click()
    page.locator("#f-name").fill("Attic bench")
    page.get_by_label("Rated power").fill("50")
    page.get_by_label("Spot of lens 1").fill("")
    page.get_by_role("button", name="Save the machine").click()
    # The spot was left empty: it is computed from the optics.
    row = page.get_by_role("row", name=re.compile("Attic bench"))
    expect(row).to_contain_text("0.114 mm")

    row.get_by_role("link", name="Burn a card").click()
    page.get_by_label("or a new substrate, called").fill("Cherry")
    page.get_by_role("button", name="Open the card's ticket").click()
    burn_and_photograph(page)
    expect(page.get_by_role("heading", name="Best cell")).to_be_visible()
    page.get_by_label("Name of the recipe").fill("Cherry, first card")
    page.get_by_role("button", name="Keep it, and burn a gray ramp by it").click()
    burn_and_photograph(page)
    expect(page.locator(".curvechart polyline")).to_be_visible()
    page.get_by_role("button", name="Keep the tone curve").click()
    expect(page.locator("main")).to_contain_text(
        "It holds a measured tone curve of 11 patches"
    )
    expect(page.locator("h1")).to_contain_text("v2")

    # The demo's first job takes the machine, the material and the recipe with its curve.
    open_station(page, 2, 401)
    page.get_by_label("Substrate").select_option(label="Cherry")
    settled(page)
    open_station(page, 5)
    page.get_by_label("Machine").select_option(label="Attic bench")
    settled(page)
    expect(page.locator("#f-recipe option:checked")).to_have_text("Cherry, first card")
    open_station(page, 4)
    expect(page.locator("#mode-measured")).to_be_checked()


def test_a_variant_of_equal_dose_is_taken_and_undone(page):
    open_station(page, 5, 405)
    page.get_by_text("Other speeds, same dose").click()
    rows = page.locator(".variants tbody tr:not(.is-said)")
    now = page.locator(".variants .is-now")
    before = now.inner_text()
    other = rows.filter(has=page.get_by_role("button", name="Take")).first
    speed = other.locator("td").nth(1).inner_text()
    other.get_by_role("button", name="Take").click()
    settled(page)
    expect(page.locator("#f-speed")).to_have_value(speed)
    page.keyboard.press("Escape")
    page.keyboard.press("Control+z")
    settled(page)
    expect(page.locator(".variants .is-now")).to_have_text(
        re.compile(re.escape(before.split()[1]))
    )


def test_corners_by_keyboard(page):
    """A photo whose marks are not found is read by corners that are set with keys."""
    page.goto("/cards/new/?kind=power-speed")
    page.get_by_label("Machine").select_option(label="North bench")
    page.get_by_label("Substrate", exact=True).select_option(label="MDF")
    page.get_by_role("button", name="Open the card's ticket").click()
    page.wait_for_url("**/jobs/*/check/")
    number = re.search(r"/jobs/(\d+)/", page.url)[1]
    page.goto(f"/jobs/{number}/card/")
    photo = {"name": "card.png", "mimeType": "image/png", "buffer": _gray()}
    page.get_by_label("Photo or scan of the burned card").set_input_files(photo)
    page.get_by_role("button", name="Read it").click()
    expect(page.locator("main")).to_contain_text("0 of the four corner marks were found")
    ring = page.get_by_role("button", name="Corner front left")
    left = ring.evaluate("ring => ring.style.left")
    ring.press("ArrowRight")
    assert ring.evaluate("ring => ring.style.left") != left
    page.get_by_role("button", name="Read with these corners").click()
    expect(page.locator("main")).to_contain_text("No cell of this card differs")


def _gray():
    import io

    from PIL import Image

    stream = io.BytesIO()
    Image.new("RGB", (900, 900), "#b59468").save(stream, "PNG")
    return stream.getvalue()
