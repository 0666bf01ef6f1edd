"""Speed of tone, dots and proof: each stage, all of it, and the contact sheet."""

import time
from functools import partial

import numpy as np
import pytest
from PIL import Image

from engraving.dots import METHODS, make_dots
from engraving.dots.variations import variations
from engraving.jobspec import ArtworkPart, DotsPart, JobSpec, SizePart, TonePart
from engraving.pipeline.contact import sample
from engraving.proof import MaterialResponse, Window, dot_palette, shown_marks, spot_model
from engraving.tone import look_at
from support.jobs import changed, pipeline_of
from support.ramps import SUBSTRATES, off
from support.timing import once, paired, photograph, report

SIDE = 2000
PICTURE = photograph(SIDE, SIDE)
PEER = Image.fromarray(PICTURE)
PILLOW = "Pillow convert('1')"


def job(side):
    return JobSpec(
        artwork=ArtworkPart(width_px=side, height_px=side),
        size=SizePart(width_mm=side / 10, height_mm=side / 10, pitch_mm=0.1),
    )


@pytest.mark.parametrize("method", METHODS)
def test_every_method(benchmark, method):
    """Ordered 0.06, screens 0.30 of the peer are asked; diffusion has its own benchmark."""
    ours = partial(make_dots, PICTURE, DotsPart(method=method))
    mine, _, ratio = paired(ours, lambda: PEER.convert("1"), 7)
    report(f"{method}, 4 megapixels", mine, ratio, PILLOW)
    once(benchmark, ours)


def test_near_view(benchmark):
    """The proof of a view of 1280 × 800 at two pixels a dot; 8 ms are asked."""
    bits = make_dots(PICTURE, DotsPart())
    spot, palette = spot_model(1.2, MaterialResponse()), dot_palette("darkens")
    ours = partial(shown_marks, bits, Window(300, 300, 640, 400, 1280, 800), spot, palette)
    mine, _, ratio = paired(ours, lambda: PEER.convert("1"), 9)
    report("proof of a view, two pixels a dot", mine, ratio, PILLOW)
    once(benchmark, ours)


@pytest.mark.parametrize("megapixels", [4, 16])
def test_from_control_to_pixels(benchmark, megapixels):
    """Tone, sharpening, reproduction, dots and proof at full resolution, computing only."""
    side = round((megapixels * 1e6) ** 0.5)
    pipeline, values = pipeline_of(photograph(side, side)), iter(range(1, 10_000))
    plain = changed(job(side), reproduction={"mode": "spot"})
    window = Window(0, 0, side, side, 760, 760)

    def ours():
        tone = TonePart(brightness=next(values) % 90, sharpen_amount=50)
        spec = plain.model_copy(update={"tone": tone})
        return shown_marks(
            pipeline.dots(spec), window, pipeline.spot(spec), pipeline.palette(spec)
        )

    mine, _, ratio = paired(ours, lambda: PEER.convert("1"), 7)
    report(f"control to pixels, {megapixels} megapixels", mine, ratio, PILLOW)
    once(benchmark, ours)


def test_a_change_of_dots_does_not_compute_tone_again(benchmark):
    pipeline = pipeline_of(PICTURE)
    spec = changed(job(SIDE), tone={"sharpen_amount": 80, "local_amount": 40})
    pipeline.dots(spec)
    angles = iter(range(1, 10_000))

    def ours():
        dots = {"method": "round", "angle_deg": next(angles) % 90}
        return pipeline.dots(changed(spec, dots=dots))

    mine, _, ratio = paired(ours, lambda: PEER.convert("1"), 7)
    report("another screen angle, its dots", mine, ratio, PILLOW)
    once(benchmark, ours)


def test_contact_sheet_of_sixteen(benchmark):
    """Sixteen methods on one crop, tone reproduction of each included; 1.5 s are asked."""
    names = list(METHODS)[:16]

    def sheet():
        pipeline = pipeline_of(PICTURE)
        spec = changed(job(SIDE), reproduction={"mode": "spot"})
        window = Window(900, 900, 235, 176, 176, 132)
        pipeline.finished(spec)
        begun = time.perf_counter()
        for name in names:
            sample(pipeline, spec, window, spec.dots.model_copy(update={"method": name}))
        return time.perf_counter() - begun

    sheet()
    print(
        f"\ncontact sheet of 16 methods, one thread: {np.median([sheet() for _ in range(5)]):.2f} s"
    )
    found = variations(DotsPart(method="wavy"))
    assert len(found) > 10
    benchmark.pedantic(sheet, rounds=1)


def test_auto_tone(benchmark):
    """From the picture on the grid to settings, 4 megapixels; 300 ms are asked."""
    ours = partial(look_at, PICTURE)
    mine, _, ratio = paired(ours, lambda: PEER.convert("1"), 7)
    report("auto tone, 4 megapixels", mine, ratio, PILLOW)
    once(benchmark, ours)


def test_tones_come_out(benchmark):
    """Not a speed: the largest distance to the wanted lightness of burned ramps."""
    print("\nlargest distance of 4 mm patches to the wanted L*, compensated (plain)")
    for name in (one for one in METHODS if one != "threshold"):
        found = [off(polarity, name) for polarity in SUBSTRATES]
        words = [f"{one:5.2f} ({plain:5.2f})" for one, plain in found]
        print(f"{name:20s} wood {words[0]}   slate {words[1]}")
    benchmark.pedantic(lambda: None, rounds=1)
