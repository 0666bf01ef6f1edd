"""What an operator waits for besides a slider. Printed, never asserted.

Under half a second is asked of each, or that it shows what is made.
"""

import re
import time

from support.jobs import png
from support.running import chromium, fill, until, workshop
from support.timing import photograph
from support.walking import drawn, settled

TICKETS = {
    "Moon portrait": "a single piece",
    "Twenty nights": "a fixture",
    "Star ring": "a ring on a rotary",
    "Moon board": "a carving board",
}
WHOLE = "document.images.length > 9 && [...document.images].every((one) => one.complete)"


def changed(page, place, station, field, values):
    """Milliseconds from a value given until picture and readings are settled."""
    page.goto(f"{place}{station}/")
    settled(page)
    times = []
    for value in values:
        page.wait_for_timeout(1200)
        before, begun = drawn(page), time.perf_counter()
        if page.locator(f"select#f-{field}").count():
            page.select_option(f"#f-{field}", label=value)
        else:
            page.fill(f"#f-{field}", value)
            page.keyboard.press("Tab")
        settled(page, before)
        times.append(1000 * (time.perf_counter() - begun))
    return times


def in_a_row(page, place, rounds):
    """Milliseconds from the last of six changes, half a second apart, until all is settled."""
    page.goto(f"{place}tone/")
    settled(page)
    times = []
    for at in range(rounds):
        page.wait_for_timeout(3000)
        for value in range(6):
            page.wait_for_timeout(500)
            one_before = page.locator("#pictures").get_attribute("data-key-proof")
            begun = time.perf_counter()
            page.fill("#f-contrast", str(1 + 7 * at + value))
            with page.expect_response(lambda answer: answer.request.method == "POST"):
                page.keyboard.press("Tab")
        settled(page, one_before)
        times.append(1000 * (time.perf_counter() - begun))
    return times


def told(name, times):
    print(f"\n{name:52s} {', '.join(f'{one:.0f}' for one in times)} ms")


def asked(page, address):
    begun = time.perf_counter()
    assert page.request.get(address, timeout=60_000).ok
    return 1000 * (time.perf_counter() - begun)


def pictures(page, address):
    begun = time.perf_counter()
    page.goto(address, wait_until="commit")
    until(page, WHOLE)
    return 1000 * (time.perf_counter() - begun)


def large(page, folder):
    """A ticket of 400 × 300 mm at 300 dpi."""
    path = folder / "large.png"
    path.write_bytes(png(photograph(4724, 3543)))
    page.goto("/")
    page.set_input_files("#upload-files", path)
    page.wait_for_url(re.compile(r"/jobs/\d+/$"))
    place = page.url
    for field, value in (("width", "400"), ("pitch", "0.084667")):
        page.goto(f"{place}blank/")
        page.fill(f"#f-{field}", value)
        with page.expect_response(lambda answer: answer.request.method == "POST"):
            page.keyboard.press("Tab")
        settled(page)
    return place


def test_what_takes_its_time(benchmark, tmp_path):
    fill(tmp_path / "var", demo=True)
    with workshop(tmp_path / "var") as address, chromium() as browser:
        context = browser.new_context(
            base_url=address, viewport={"width": 1280, "height": 800}
        )
        page = context.new_page()
        told(
            "the rack's pictures: at first, and again", [pictures(page, "/") for _ in "12"]
        )
        page.wait_for_timeout(8000)
        places = {}
        for name in TICKETS:
            page.goto("/")
            link = page.locator(".ticket, li, article").filter(has_text=name).locator("a")
            places[name] = address + link.first.get_attribute("href")
        for name, what in TICKETS.items():
            found = changed(page, places[name], "tone", "contrast", ["11", "17", "23"])
            told(f"a change of {what}, until all is settled", found)
        found = in_a_row(page, places["Moon board"], 5)
        told("six changes of a carving board in a row, the last settled", found)
        moon = places["Moon portrait"]
        found = changed(page, moon, "blank", "substrate", ["Beech", "Slate", "Beech"])
        told("another substrate", found)
        told("contact sheet, at first", [pictures(page, f"{moon}contact/")])
        for kind in ("proof-sheet", "job-sheet", "proof/?pixels=8000"):
            file = f"{moon}files/{kind}" + ("" if "?" in kind else "/")
            told(f"{kind}, twice", [asked(page, file) for _ in "12"])
        place = large(page, tmp_path)
        found = changed(page, place, "tone", "contrast", ["11", "17", "23"])
        told("a change of 400 × 300 mm at 300 dpi", found)
        told("six changes of it in a row, the last settled", in_a_row(page, place, 5))
        begun = time.perf_counter()
        page.goto(f"{place}run/")
        settled(page)
        told("Run of it opened", [1000 * (time.perf_counter() - begun)])
    benchmark.pedantic(lambda: None, rounds=1)
