"""From the hand to the picture, in a browser. Printed with the machine's load, never asserted."""

import os
import re
from contextlib import contextmanager

import numpy as np

from support.jobs import png
from support.running import chromium, fill, until, workshop
from support.timing import photograph
from support.walking import STATIONS, settled

MOVE = """async (value) => {
  const stage = document.querySelector('#stage'), slider = document.querySelector('#r-brightness');
  const before = stage.dataset.seen, begun = performance.now();
  slider.value = value;
  slider.dispatchEvent(new Event('input', { bubbles: true }));
  while (stage.dataset.seen === before) {
    await new Promise((go) => stage.addEventListener('seen', go, { once: true }));
  }
  await new Promise((go) => setTimeout(go, 0)); // the frame it was drawn in is done
  return performance.now() - begun;
}"""
OPEN = """async (key) => {
  const begun = performance.now();
  document.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true }));
  await new Promise((go) => document.addEventListener('htmx:afterSettle', go, { once: true }));
  await new Promise((go) => requestAnimationFrame(() => setTimeout(go, 0)));
  return performance.now() - begun;
}"""
ZOOM = """async (key) => {
  const { table } = document.querySelector('#stage'), begun = performance.now();
  document.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true }));
  const sharp = () => JSON.stringify(table.right.shown.window) === JSON.stringify(table.inSight(table.piece));
  do await new Promise((go) => requestAnimationFrame(() => setTimeout(go, 0))); while (!sharp());
  return performance.now() - begun;
}"""
MANY = f"""async (moves, from = 1) => {{
  const move = {MOVE}, times = [];
  for (let at = 0; at < moves; at += 1) {{
    times.push(await move(String(from - 40 + 7 * at % 41 + at / 50)));
    await new Promise((go) => setTimeout(go, 1200 + (137 * at) % 500));
  }}
  return times;
}}"""


@contextmanager
def at_work(folder):
    fill(folder / "var")
    with workshop(folder / "var") as address, chromium() as browser:
        yield lambda: browser.new_context(
            base_url=address, viewport={"width": 1280, "height": 800}
        ).new_page()


def opened(page, folder, side, name="big"):
    """A ticket of side × side dots, its tone station open."""
    path = folder / f"{name}.png"
    path.write_bytes(png(photograph(side, side)) + name.encode())
    page.goto("/")
    page.set_input_files("#upload-files", path)
    page.wait_for_url(re.compile(r"/jobs/\d+/$"))
    place = page.url
    for field, value in (("width", str(side // 10)), ("pitch", "0.15"), ("pitch", "0.1")):
        page.goto(f"{place}blank/")
        page.fill(f"#f-{field}", value)
        with page.expect_response(lambda answer: answer.request.method == "POST"):
            page.keyboard.press("Tab")
    at_tone(page, place, side)
    return place


def at_tone(page, place, side):
    page.goto(f"{place}tone/")
    until(
        page,
        "!!document.querySelector('#stage').dataset.drawn && !document.querySelector('.readings.is-waiting')",
    )
    assert page.locator("#pictures").get_attribute("data-cols") == str(side)


def moved(page, moves, begin=1):
    page.set_default_timeout(600_000)
    return page.evaluate(f"([moves, begin]) => ({MANY})(moves, begin)", [moves, begin])[2:]


def told(name, times):
    times = np.sort(times)
    median, high = np.median(times), times[int(0.95 * len(times))]
    load = os.getloadavg()[0]
    print(f"\n{name:52s} median {median:5.0f} ms, 95 % {high:5.0f} ms   (load {load:.1f})")


def nothing(benchmark):
    benchmark.pedantic(lambda: None, rounds=1)


def test_a_slider_beside_eight_takes(benchmark, tmp_path):
    """100 and 160 ms are asked."""
    with at_work(tmp_path) as new_page:
        page = new_page()
        place = opened(page, tmp_path, 2000)
        for contrast in range(8):
            page.goto(f"{place}tone/")
            page.fill("#f-contrast", str(3 + contrast))
            with page.expect_response(lambda answer: answer.request.method == "POST"):
                page.keyboard.press("Tab")
            settled(page)
            page.keyboard.press("Escape")
            page.keyboard.press("k")
            page.locator(".takes__cards > *").nth(contrast).wait_for()
        at_tone(page, place, 2000)
        told("slider to picture, 4 megapixels, eight takes", moved(page, 42))
        stations(page, place)
    nothing(benchmark)


def stations(page, place):
    """120 ms are asked for each."""
    times = {name: [] for name in STATIONS}
    for _ in range(7):
        for at, name in enumerate(STATIONS):
            times[name].append(page.evaluate(OPEN, str(at + 1)))
            page.wait_for_timeout(700)
    for name, found in times.items():
        told(f"station {name} opens", found[1:])


def test_a_slider_at_sixteen_megapixels(benchmark, tmp_path):
    """220 ms are asked; 100 until a part is sharp."""
    with at_work(tmp_path) as new_page:
        page = new_page()
        opened(page, tmp_path, 4000)
        told("slider to picture, 16 megapixels", moved(page, 22))
        for view in ("dots", "proof"):
            page.click(f".view[data-view={view}]")
            times = []
            for key in "++++++++----++++----":
                page.wait_for_timeout(600)
                times.append(page.evaluate(ZOOM, key))
            told(f"zoomed until what is in sight is sharp: {view}", times)
    nothing(benchmark)


def test_three_people_at_once(benchmark, tmp_path):
    """Each on a ticket of 4 megapixels, moving now and then; medians of 250 ms are asked."""
    with at_work(tmp_path) as new_page:
        pages = [new_page() for _ in range(3)]
        for at, page in enumerate(pages):
            opened(page, tmp_path, 2000, f"of{at}")
        for page in pages:
            page.evaluate(f"() => {{ window.times = ({MANY})(22); return 1; }}")
        for at, page in enumerate(pages):
            page.set_default_timeout(600_000)
            told(f"one of three at work, {at + 1}", page.evaluate("window.times")[2:])
    nothing(benchmark)


def test_beside_another_ones_large_job(benchmark, tmp_path):
    """A slider, while somebody else tunes 16 megapixels, and all that is computed anew."""
    with at_work(tmp_path) as new_page:
        large, page = new_page(), new_page()
        opened(large, tmp_path, 4000, "large")
        opened(page, tmp_path, 2000)
        told("slider to picture, alone", moved(page, 22))
        large.evaluate(f"() => {{ window.times = ({MANY})(40, 3); return 1; }}")
        told("slider to picture, beside 16 megapixels", moved(page, 22, 60))
        large.set_default_timeout(600_000)
        told("and these", large.evaluate("window.times"))
    nothing(benchmark)
