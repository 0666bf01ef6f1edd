"""Everyone can use it: axe-core, a phone's width, the keyboard alone."""

from pathlib import Path

import pytest

from support.running import until

AXE = next(Path(__file__).parent.glob("vendor/axe-core-*/axe.min.js"))
STATIONS = ["artwork", "blank", "tone", "dots", "burn", "outlines", "place", "check", "run"]
ARTWORK = ["file", "shape", "gray", "ground", "retouch", "letters", "border"]
FOLDS = {
    "/jobs/407/artwork/": ARTWORK,
    "/jobs/414/outlines/": ["strength", "cuts", "smooth", "traced", "laid"],
    "/jobs/414/place/": ["marks", "camera", "points", "anchors"],
    "/jobs/412/place/": ["drive", "strips", "zones"],
    "/jobs/410/place/": ["fixture"],
}
LAID = [
    ("/jobs/404/dots/", "s", ".contact"),
    ("/jobs/406/tone/", "v", ".compare"),
    ("/jobs/406/blank/", "s", ".contact"),
    ("/jobs/406/tone/", "e", ".leaf"),
    ("/jobs/406/dots/", "]", ".take.is-peeked"),
]
PLACES = [
    "/",
    "/shelf/",
    "/shelf/blanks/new/",
    "/shelf/machines/1/",
    "/shelf/substrates/new/",
    "/shelf/recipes/",
    "/shelf/recipes/2/",
    "/shelf/recipes/2/to/2/",
    "/shelf/recipes/import/",
    "/cards/new/",
    "/jobs/408/artwork/",
    "/jobs/408/card/",
    "/bench/log/",
    "/bench/files/",
    "/backups/",
    "/bin/",
    "/bench/machines/first/",
    "/jobs/405/proofs/",
    "/patterns/1/",
    "/handbook/",
    "/handbook/tone/",
    "/handbook/words/",
    "/?find=birch",
    "/bench/",
    "/bench/machines/1/?job=414",
    "/bench/machines/1/ask/",
    *[f"/jobs/405/{station}/" for station in STATIONS],
    "/jobs/414/outlines/",
    "/jobs/411/outlines/",
    "/jobs/410/place/",
    "/jobs/412/place/",
    "/jobs/414/run/",
    "/jobs/406/tone/",
]


OPEN = "(one) => document.querySelectorAll('.fold').forEach((is) => { is.open = is.dataset.fold === one; })"
REACHES = """() => [...document.querySelectorAll('.fold[open] :is(.input, select, .button, .seg)')]
    .filter((one) => one.checkVisibility()
        && one.getBoundingClientRect().right > document.querySelector('.ticket__sheet').getBoundingClientRect().right + 0.01)
    .map((one) => one.outerHTML.slice(0, 90))"""
"""What reaches beyond the ticket."""
NAMED = ["label-content-name-mismatch", "empty-table-header"]
"""Rules that axe leaves off or counts as slight, and that a name spoken aloud needs."""


def violations(page, where="document"):
    """What axe finds that is serious, or against the rules of names, with its nodes."""
    if not page.evaluate("'axe' in window"):
        page.evaluate(AXE.read_text())
    rules = ", ".join(f"'{name}': {{enabled: true}}" for name in NAMED)
    found = page.evaluate(
        f"axe.run({where}, {{resultTypes: ['violations'], rules: {{{rules}}}}})"
    )
    return [
        (fault["id"], fault["help"], [node["html"][:160] for node in fault["nodes"][:3]])
        for fault in found["violations"]
        if fault["impact"] in ("serious", "critical") or fault["id"] in NAMED
    ]


def ready(page, place):
    page.goto(place)
    if "/jobs/" in place:
        until(page, "!document.querySelector('#readings.is-waiting, .spread__wait')")
    at_rest(page)


def at_rest(page):
    """Wait until nothing is on its way, and what was brought has been laid out."""
    until(
        page,
        "!document.querySelector('.htmx-request') && document.fonts.status === 'loaded'",
    )
    page.evaluate(
        "() => new Promise((done) => requestAnimationFrame(() => setTimeout(done)))"
    )


def widths(page):
    """Lay the page out for a phone, as it came, and then for a desk."""
    yield 390
    page.set_viewport_size({"width": 1280, "height": 844})
    at_rest(page)
    yield 1280


@pytest.fixture
def page(page):
    """A page that comes to a phone."""
    page.set_viewport_size({"width": 390, "height": 844})
    return page


@pytest.mark.parametrize("place", PLACES)
def test_a_place_fits_and_axe_finds_nothing_serious(page, place):
    ready(page, place)
    for width in widths(page):
        assert page.evaluate("document.documentElement.scrollWidth") <= width
    assert violations(page) == []


@pytest.mark.parametrize(("place", "key", "part"), LAID)
def test_what_is_laid_on_the_table_fits_and_is_accessible(page, place, key, part):
    ready(page, place)
    page.keyboard.press(key)
    page.locator(part).wait_for()
    for width in widths(page):
        at_rest(page)
        assert page.evaluate("document.documentElement.scrollWidth") <= width
        assert violations(page) == []


@pytest.mark.parametrize("place", FOLDS)
def test_every_fold_fits_and_is_accessible(page, address, place):
    first, *others = FOLDS[place]
    page.context.add_cookies([{"name": "fold", "value": first, "url": address}])
    page.context.add_cookies([{"name": "operation", "value": "1", "url": address}])
    ready(page, place)
    assert page.locator(".fold[open]").get_attribute("data-fold") == first
    for _ in widths(page):
        for fold in (first, *others):
            page.evaluate(OPEN, fold)
            at_rest(page)
            assert page.locator(".fold[open]").get_attribute("data-fold") == fold
            assert page.evaluate(REACHES) == []
            assert violations(page, "'.fold[open]'") == []


def test_the_keyboard_reaches_everything(page):
    """Tab from the top passes the stations, the open station's fields and the table."""
    page.set_viewport_size({"width": 1280, "height": 800})
    ready(page, "/jobs/405/tone/")
    seen = []
    for _ in range(66):
        page.keyboard.press("Tab")
        seen.append(
            page.evaluate("document.activeElement.id || document.activeElement.className")
        )
    for wanted in (
        "row-artwork",
        "f-gamma",
        "r-brightness",
        "f-brightness",
        "divider",
        "aim",
    ):
        assert wanted in seen
    assert "stage__canvas" in seen
