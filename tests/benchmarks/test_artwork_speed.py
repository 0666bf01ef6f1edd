"""Speed of the Artwork station, in the browser and without one. Printed, never asserted in make test."""

import io
import re
import time

import numpy as np
from PIL import Image

from engraving.artwork.cutout import cut_subject
from engraving.jobspec import CutOut
from support.running import chromium, fill, until, workshop
from support.walking import drawn, settled

ROUNDS = 9


def camera_file(cols=6000, rows=4000):
    """A 24-megapixel JPEG in colour: tones, edges and grain."""
    y, x = np.mgrid[0:rows, 0:cols].astype(np.float32)
    light = 127 + 80 * np.sin(x / 297) * np.cos(y / 161) + 18 * ((x // 240 + y // 240) % 2)
    grain = np.random.default_rng(1).normal(0, 7, (rows, cols))
    light = (light + grain).clip(0, 255)
    tint = np.stack([light, light * 0.9, light * 0.75], axis=-1).astype(np.uint8)
    stream = io.BytesIO()
    Image.fromarray(tint).save(stream, "JPEG", quality=92)
    return stream.getvalue()


def spread(times):
    return f"median {1000 * np.median(times):6.0f} ms, from {1000 * min(times):.0f} to {1000 * max(times):.0f}"


def test_opening_and_brushing_in_the_browser(benchmark, tmp_path):
    """From the picked file to its first picture, and from lifting a brush to the computed one."""
    data = camera_file()

    def run():
        fill(tmp_path / "shop")
        with workshop(tmp_path / "shop") as address, chromium() as browser:
            page = browser.new_page(
                base_url=address, viewport={"width": 1280, "height": 800}
            )
            opened = [_open(page, tmp_path, data, i) for i in range(9)]
            print(f"\nfile of 24 megapixels to first picture      {spread(opened)}")
            page.locator("[data-fold=ground] summary").click()
            page.locator("[data-draw=brush]").click()
            strokes = [_stroke(page, i) for i in range(ROUNDS)]
            print(f"brush lifted to computed picture             {spread(strokes)}")
            page.locator("[data-draw=cutout]").click()
            cuts = [_drag(page, 0.1 + 0.01 * i, 0.1, 0.9, 0.9) for i in range(3)]
            print(f"rectangle lifted to cut-out                  {spread(cuts)}")

    benchmark.pedantic(run, rounds=1, iterations=1)


def _open(page, tmp_path, data, number):
    # Another comment in the file, so that it is not known already.
    path = tmp_path / f"photo-{number}.jpg"
    path.write_bytes(data + bytes([number]))
    page.goto("/")
    begun = time.perf_counter()
    page.set_input_files("#upload-files", path)
    page.wait_for_url(re.compile(r"/jobs/\d+/$"), wait_until="commit")
    until(page, "document.querySelector('#stage')?.dataset.drawn")
    taken = time.perf_counter() - begun
    settled(page)
    return taken


def _stroke(page, number):
    y = 0.1 + 0.08 * number
    return _drag(page, 0.2, y, 0.8, y + 0.03)


def _drag(page, x0, y0, x1, y1):
    left, top, width, height = page.evaluate("""() => {
      const t = document.querySelector('#stage').table, a = t.view.art(t.piece);
      const box = t.stage.getBoundingClientRect();
      return [box.left + a.left, box.top + a.top, a.width, a.height];
    }""")
    before = drawn(page)
    page.mouse.move(left + x0 * width, top + y0 * height)
    page.mouse.down()
    page.mouse.move(left + x1 * width, top + y1 * height, steps=8)
    page.evaluate("""() => {
      const stage = document.querySelector('#stage'), canvas = document.querySelector('#drawing');
      canvas.addEventListener('pointerup', () => { window.lifted = performance.now(); }, { once: true });
      stage.addEventListener('drawn', () => { window.shown = performance.now(); }, { once: true });
    }""")
    page.mouse.up()
    settled(page, before)
    return page.evaluate("window.shown - window.lifted") / 1000


def test_cut_out_of_even_ground(benchmark):
    """The slowest case met: a pale disc on pure black, whose ground is all one colour."""
    y, x = np.mgrid[0:1600, 0:1600]
    disc = np.hypot(x - 800, y - 800) < 600
    rgb = np.repeat(np.where(disc, 120 + (x % 60), 0)[..., None], 3, axis=2).astype(
        np.uint8
    )
    edit = CutOut(outline=((0.05, 0.05), (0.95, 0.05), (0.95, 0.95), (0.05, 0.95)))
    benchmark.pedantic(lambda: cut_subject(rgb, edit), rounds=5, warmup_rounds=1)
    print(
        f"\ncut-out, computing only                      {1000 * benchmark.stats['median']:6.0f} ms"
    )
