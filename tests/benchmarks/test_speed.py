"""Speed, as ratios to a peer in the same run. Printed, never asserted in make test."""

import io
import subprocess
import sys
import time
from pathlib import Path

import pytest
from PIL import Image

from engraving.artwork.grid import resample
from engraving.dots.diffusion import Diffuser, diffuse
from engraving.dots.kernels import KERNELS
from engraving.jobspec import ArtworkPart, JobSpec, SizePart, TonePart
from engraving.proof import (
    MaterialResponse,
    Window,
    dot_palette,
    shown_dots,
    shown_marks,
    spot_model,
)
from support.jobs import pipeline_of
from support.timing import once, paired, photograph, report

SIDE = 2000
SOURCE = Path(__file__).resolve().parents[2] / "src"


PICTURE = photograph(SIDE, SIDE)
SPEC = JobSpec(
    artwork=ArtworkPart(width_px=SIDE, height_px=SIDE),
    size=SizePart(width_mm=200, height_mm=200, pitch_mm=0.1),
)


@pytest.mark.parametrize("serpentine", [True, False], ids=["serpentine", "one-way"])
@pytest.mark.parametrize("name", KERNELS)
def test_diffusion(benchmark, name, serpentine):
    peer = Image.fromarray(PICTURE)
    ours = lambda: diffuse(PICTURE, KERNELS[name], serpentine=serpentine)  # noqa: E731
    mine, _, ratio = paired(ours, lambda: peer.convert("1"))
    report(
        f"{name}, {'serpentine' if serpentine else 'one-way'}",
        mine,
        ratio,
        "Pillow convert('1')",
    )
    once(benchmark, ours)


STREAM = """
import time
import numpy as np
from engraving.dots.diffusion import Diffuser
from engraving.dots.kernels import KERNELS
def status(name):
    lines = open("/proc/self/status").read().splitlines()
    return next(int(line.split()[1]) for line in lines if line.startswith(name))
side, rows = 12000, 256
band = np.random.default_rng(0).integers(0, 256, (rows, side), dtype=np.uint8)
warm = Diffuser(KERNELS["jarvis"], side, serpentine=True)
warm.feed(band[:2])
out = np.zeros((side, side // 8), np.uint8)
out[:] = 1
open("/proc/self/clear_refs", "w").write("5")  # the peak starts anew
before = status("VmRSS")
run = Diffuser(KERNELS["jarvis"], side, serpentine=True)
begun = time.perf_counter()
for top in range(0, side, rows):
    high = min(rows, side - top)
    out[top:top + high] = run.feed(band[:high])
print(time.perf_counter() - begun, (status("VmHWM") - before) / 1024)
"""


def test_144_megapixels_in_bands(benchmark):
    done = subprocess.run(
        [sys.executable, "-c", STREAM], check=True, capture_output=True, text=True,
        env={"PYTHONPATH": str(SOURCE), "PATH": ""},
    )  # fmt: skip
    seconds, megabytes = map(float, done.stdout.split())
    peer = Image.fromarray(PICTURE)
    begun = time.perf_counter()
    for _ in range(36):
        peer.convert("1")
    ratio = seconds / (time.perf_counter() - begun)
    report("144 megapixels in bands, jarvis", seconds, ratio, "36 × Pillow on 4 megapixels")
    print(f"{'':44s} {megabytes:8.1f} MB above band and output")
    once(
        benchmark,
        lambda: Diffuser(KERNELS["jarvis"], SIDE, serpentine=True).feed(PICTURE[:64]),
    )


def test_resample(benchmark):
    source = photograph(3000, 4000)
    peer = Image.fromarray(source)
    ours = lambda: resample(source, SIDE, 1500)  # noqa: E731
    theirs = lambda: peer.resize((SIDE, 1500), Image.Resampling.LANCZOS)  # noqa: E731
    mine, _, ratio = paired(ours, theirs, 5)
    report("12 to 3 megapixels, linear light", mine, ratio, "Pillow LANCZOS (codes)")
    once(benchmark, ours)


def test_gcode_with_estimate(benchmark):
    pipeline = pipeline_of(PICTURE)
    pipeline.dots(SPEC)

    def ours():
        stream = io.BytesIO()
        found = pipeline.write_gcode(SPEC, stream)
        return stream.tell(), found.moves

    data = bytearray(40_000_000)
    mine, _, ratio = paired(ours, lambda: bytes(data), 5)
    size, moves = ours()
    report("G-code and estimate, 4 megapixels", mine, ratio, "copying 40 MB")
    print(
        f"{'':44s} {moves / 1e6:.2f} M moves, {size / 1e6:.1f} MB, {1e9 * mine / moves:.0f} ns a move"
    )
    once(benchmark, ours)


def test_tone_to_picture(benchmark):
    """One control to one picture, computing only."""
    values = iter(range(1, 10_000))

    def ours():
        pipeline = pipeline_of(PICTURE)
        spec = SPEC.model_copy(
            update={"tone": TonePart(brightness=next(values) % 90, sharpen_amount=50)}
        )
        window = Window(0, 0, SIDE, SIDE, 640, 640)
        return shown_marks(
            pipeline.dots(spec), window, pipeline.spot(spec), pipeline.palette(spec)
        )

    peer = Image.fromarray(PICTURE)
    mine, _, ratio = paired(ours, lambda: peer.convert("1"), 7)
    report(
        "tone, sharpen, dots and proof, 4 megapixels", mine, ratio, "Pillow convert('1')"
    )
    once(benchmark, ours)


def test_views(benchmark):
    bits = pipeline_of(PICTURE).dots(SPEC)
    spot = spot_model(1.2, MaterialResponse())
    window = Window(0, 0, SIDE, SIDE, 640, 640)
    peer = Image.fromarray(PICTURE)
    near = Window(0, 0, 640, 400, 1280, 800)
    for name, ours in (
        (
            "proof near, two pixels a dot",
            lambda: shown_marks(bits, near, spot, dot_palette("darkens")),
        ),
        (
            "proof from afar",
            lambda: shown_marks(bits, window, spot, dot_palette("darkens")),
        ),
        ("dots from afar", lambda: shown_dots(bits, window, dot_palette("darkens"))),
    ):
        mine, _, ratio = paired(ours, lambda: peer.convert("1"), 7)
        report(name, mine, ratio, "Pillow convert('1')")
    once(benchmark, ours)
