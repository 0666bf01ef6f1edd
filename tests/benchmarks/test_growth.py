"""Time and memory of the command line, from 1 to 400 megapixels. Printed, never asserted."""

import multiprocessing
import os
import subprocess
import sys
import time
from concurrent.futures import ProcessPoolExecutor

import numpy as np
import pillow_heif
import pytest
import pyvips
from PIL import Image

from support.running import ROOT

SIDES = {1: 1000, 4: 2000, 16: 4000, 64: 8000, 400: 20_000}
ROWS = 1000


def picture(side, path):
    """A colour photograph of so many pixels each way, made a band at a time."""
    plane = Image.fromarray(plane_of(side))
    Image.merge("RGB", [plane, plane.point(lambda v: v * 0.9), plane]).save(path)


def plane_of(side, noise=6):
    Image.MAX_IMAGE_PIXELS = None
    gray, rng = np.zeros((side, side), np.uint8), np.random.default_rng(1)
    x = np.arange(side, dtype=np.float32)[None]
    for top in range(0, side, ROWS):
        y = np.arange(top, min(top + ROWS, side), dtype=np.float32)[:, None]
        light = 127 + 80 * np.sin(x / 97) * np.cos(y / 61)
        light += rng.normal(0, noise, light.shape)
        gray[top : top + ROWS] = light.clip(0, 255)
    return gray


def kinds(gray):
    """Ways to save a plane, one of each kind of file; by name."""
    plane = pyvips.Image.new_from_memory(gray.data, *gray.shape[::-1], 1, "uchar")
    dots = (plane > 127).ifthenelse(255, 0).cast("uchar")
    three = plane.bandjoin([plane, plane]).copy(interpretation="srgb")
    inks = plane.bandjoin([plane, plane, plane]).copy(interpretation="cmyk")
    clear = plane.bandjoin(plane.invert()).copy(interpretation="b-w")
    small = three.crop(0, 0, 10_900, 10_900) if gray.shape[0] > 10_900 else three
    webp = three.crop(0, 0, 16_380, 16_380) if gray.shape[0] > 16_380 else three

    def by_pillow(path, mode, **how):
        Image.fromarray(dots.numpy()).convert(mode, dither=0).save(path, **how)

    return {
        "bit.bmp": lambda path: by_pillow(path, "1"),
        "bit.png": lambda path: dots.pngsave(path, bitdepth=1),
        "bit.tif": lambda path: dots.tiffsave(path, compression="ccittfax4", bitdepth=1),
        "palette.png": lambda path: three.pngsave(path, palette=True, effort=1, dither=0),
        "palette.gif": lambda path: by_pillow(path, "P"),
        "print.jpg": inks.jpegsave,
        "print.tif": lambda path: inks.tiffsave(path, compression="lzw"),
        "in passes.jpg": lambda path: three.jpegsave(path, interlace=True),
        "in passes.png": lambda path: plane.pngsave(path, interlace=True, compression=1),
        "transparent.png": lambda path: clear.pngsave(path, compression=1),
        "exact.webp": lambda path: webp.webpsave(path, lossless=True, effort=0),
        "phone.heic": lambda path: Image.fromarray(small.numpy()).save(path, quality=50),
    }


def save_as(kind, path):
    pillow_heif.register_heif_opener()
    kinds(plane_of(SIDES[400], noise=0))[kind](str(path))


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


def elsewhere(work, *about):
    """Do something in a process that holds little: one hands its peak of memory on."""
    apart = multiprocessing.get_context("spawn")
    with ProcessPoolExecutor(1, mp_context=apart) as pool:
        return pool.submit(work, *about).result()


KINDS = tuple(kinds(np.zeros((8, 8), np.uint8)))


@pytest.mark.parametrize("kind", KINDS)
def test_every_format(benchmark, tmp_path, kind):
    """Of 400 megapixels; of the two last as many as their format or its encoder allows."""
    source = tmp_path / kind
    elsewhere(save_as, kind, source)
    seconds, peak = elsewhere(run, "dots", source, tmp_path / "out", SIDES[400])
    print(f"\n{kind:16s} {seconds:6.1f} s {peak:5.0f} MB")
    benchmark.pedantic(lambda: None, rounds=1)


@pytest.mark.parametrize("ending", ["jpg", "png", "tif"])
def test_growth(benchmark, tmp_path, ending):
    """No faster than the number of dots; 1 GB at 400 megapixels is asked."""
    print(f"\n{ending}: megapixels, then seconds and peak MB of dots, proof and G-code")
    for megapixels, side in SIDES.items():
        source = tmp_path / f"p.{ending}"
        elsewhere(picture, side, source)
        wanted = ("dots", "proof", "gcode") if ending == "jpg" else ("dots",)
        found = [elsewhere(run, one, source, tmp_path / "out", side) for one in wanted]
        cells = "   ".join(f"{seconds:6.1f} s {peak:5.0f} MB" for seconds, peak in found)
        print(f"{megapixels:4d}   {cells}")
    benchmark.pedantic(lambda: None, rounds=1)
