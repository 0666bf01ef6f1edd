"""Time and memory of the command line, from 1 to 400 megapixels. Printed, never asserted."""

import multiprocessing
import os
import subprocess
import sys
import time

import numpy as np
import pytest
from PIL import Image

from support.running import ROOT

SIDES = {1: 1000, 4: 2000, 16: 4000, 64: 8000, 400: 20_000}
ROWS = 1000


def picture(side, path):
    """A colour photograph of so many pixels each way, made a band at a time."""
    Image.MAX_IMAGE_PIXELS = None
    gray, rng = np.zeros((side, side), np.uint8), np.random.default_rng(1)
    x = np.arange(side, dtype=np.float32)[None]
    for top in range(0, side, ROWS):
        y = np.arange(top, min(top + ROWS, side), dtype=np.float32)[:, None]
        light = 127 + 80 * np.sin(x / 97) * np.cos(y / 61)
        light += rng.normal(0, 6, light.shape)
        gray[top : top + ROWS] = light.clip(0, 255)
    plane = Image.fromarray(gray)
    Image.merge("RGB", [plane, plane.point(lambda v: v * 0.9), plane]).save(path)


def run(command, source, out, side):
    """Seconds and peak megabytes of a command."""
    begun = time.perf_counter()
    words = [command, str(source), str(out), "--width", f"{side // 10}mm", "--dpi", "254"]
    process = subprocess.Popen(
        [sys.executable, "-m", "engraving", *words],
        env={**os.environ, "PYTHONPATH": "src"},
        cwd=ROOT,
    )
    _, status, used = os.wait4(process.pid, 0)
    process.returncode = status
    assert status == 0
    return time.perf_counter() - begun, used.ru_maxrss / 1024


@pytest.mark.parametrize("ending", ["jpg", "png", "tif"])
def test_growth(benchmark, tmp_path, ending):
    """No faster than the number of dots; 1 GB at 400 megapixels is asked."""
    print(f"\n{ending}: megapixels, then seconds and peak MB of dots, proof and G-code")
    for megapixels, side in SIDES.items():
        source = tmp_path / f"p.{ending}"
        # Elsewhere: what begins another process hands its own peak of memory on.
        maker = multiprocessing.get_context("spawn").Process(
            target=picture, args=(side, source)
        )
        maker.start()
        maker.join()
        wanted = ("dots", "proof", "gcode") if ending == "jpg" else ("dots",)
        found = [run(one, source, tmp_path / "out", side) for one in wanted]
        cells = "   ".join(f"{seconds:6.1f} s {peak:5.0f} MB" for seconds, peak in found)
        print(f"{megapixels:4d}   {cells}")
    benchmark.pedantic(lambda: None, rounds=1)
