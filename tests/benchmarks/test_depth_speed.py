"""What relief and carving come out at. Printed, never asserted here."""

import numpy as np
from PIL import Image

from engraving.jobspec import (
    JobSpec,
    LetteringPart,
    OperationPart,
    SizePart,
    TextLine,
)
from engraving.proof import Window
from support.jobs import changed, pipeline_of
from support.timing import once, paired, photograph, report

PEER = Image.fromarray(photograph(2000, 2000))
PILLOW = "Pillow convert('1'), 4 megapixels"


def peer():
    return PEER.convert("1")


def hills(rows, cols):
    y, x = np.mgrid[:rows, :cols].astype(np.float32)
    wave = 0.5 + 0.25 * np.sin(x / 311) * np.cos(y / 207) + 0.25 * np.sin((x + y) / 97)
    return np.rint(65535 * wave.clip(0, 1)).astype(np.uint16)


def relief(rows, cols):
    spec = JobSpec(size=SizePart(width_mm=cols / 20, height_mm=rows / 20, pitch_mm=0.05))
    return changed(
        spec,
        artwork={"width_px": cols, "height_px": rows, "holds": "depth"},
        marking={"way": "relief", "relief": {"depth_mm": 3, "per_pass_mm": 0.1}},
    )


def nudged(spec, k):
    return changed(
        spec,
        marking={"relief": {**spec.marking.relief.model_dump(), "depth_mm": 3 + 0.01 * k}},
    )


def test_a_depth_plan_of_twelve_megapixels(benchmark):
    """Another depth: slicing and spreading of 4000 × 3000; 3 s are asked, from the file."""
    codes, spec = hills(3000, 4000), relief(3000, 4000)
    pipeline, count = pipeline_of(codes), iter(range(1000))

    def ours():
        return pipeline.relief(nudged(spec, next(count)))

    mine, _, ratio = paired(ours, peer, 5)
    report("depth plan, 12 megapixels, a slider moved", mine, ratio, PILLOW)
    once(benchmark, ours)


def test_its_shaded_view_after_a_slider(benchmark):
    """A window of 1000 × 800, plan included; 100 ms are asked."""
    # As it is looked at first: on a grid of 0.4 million dots.
    spec, count = relief(3000, 4000), iter(range(1000))
    spec = changed(spec, size={"pitch_mm": 0.05 * (12 / 0.4) ** 0.5})
    pipeline = pipeline_of(hills(3000, 4000))
    window = Window(0, 0, spec.size.cols, spec.size.rows, 1000, 800)

    def ours():
        return pipeline.proof(nudged(spec, next(count)), window)

    mine, _, ratio = paired(ours, peer, 9)
    report("first shaded view after a slider, 12 megapixels", mine, ratio, PILLOW)
    once(benchmark, ours)


def board(wide, high):
    cols, rows = round(wide / 0.25), round(high / 0.25)
    spec = JobSpec(size=SizePart(width_mm=wide, height_mm=high, pitch_mm=0.25))
    return changed(
        spec,
        artwork={"width_px": cols, "height_px": rows},
        machine={"kind": "vtool", "bed_width_mm": 600, "bed_height_mm": 400},
        blank={"width_mm": wide, "height_mm": high, "thickness_mm": 3},
        dots={"method": "wavy", "ruling_cm": 10 / 3, "angle_deg": 43, "wavelength_mm": 60},
        marking={"way": "carved", "carving": {"deepest_mm": 1.4}},
    )


def test_wavy_lines_of_a_large_board(benchmark):
    """400 × 250 mm, cells of 3 mm; 2 s are asked."""
    spec, count = board(400, 250), iter(range(1000))
    pipeline = pipeline_of(photograph(1000, 1600))

    def ours():
        carving = {
            **spec.marking.carving.model_dump(),
            "deepest_mm": 1.4 + 0.001 * next(count),
        }
        return pipeline.carved(changed(spec, marking={"carving": carving}))

    mine, _, ratio = paired(ours, peer, 9)
    report("wavy lines, 400 x 250 mm", mine, ratio, PILLOW)
    once(benchmark, ours)


def test_the_middle_of_a_line_of_script(benchmark):
    """Letters 200 mm long, carved inside; 1 s is asked."""
    text = TextLine(text="Highmere Observatory", cap_mm=17.0)
    spec = changed(board(240, 60), lettering=LetteringPart(lines=(text,)).model_dump())
    pipeline, count = pipeline_of(photograph(240, 960)), iter(range(1000))

    def ours():
        one = OperationPart(
            kind="inside",
            shape="lettering",
            offset_mm=0,
            deepest_mm=1.5 + 0.001 * next(count),
        )
        return pipeline.inside(spec, one)

    mine, _, ratio = paired(ours, peer, 5)
    report("medial axis of a line of letters, 200 mm", mine, ratio, PILLOW)
    once(benchmark, ours)
