"""What outlines and the bed camera come out at. Printed, never asserted here."""

import numpy as np
import pytest
from scipy.ndimage import gaussian_filter
from shapely import MultiPolygon, box

from engraving.camera import calibrate, find_blanks
from engraving.drawing import drawn_shapes
from engraving.jobspec import DrawingPart, TracePart
from engraving.outline import hatch_lines, traced
from support.bed import SLATE, STEEL, WHITE, WOOD, bed_of, laid_photo, marks_photo
from support.timing import once

PIECES = [
    ("rectangle", 80, 50, WOOD), ("disc", 45, 45, STEEL), ("rectangle", 90, 30, WHITE),
    ("disc", 40, 40, SLATE),
]  # fmt: skip


def test_tracing_four_megapixels(benchmark):
    noise = np.random.default_rng(4).normal(size=(2048, 2048)).astype(np.float32)
    soft = gaussian_filter(noise, 12)
    codes = (255 * (soft - soft.min()) / np.ptp(soft)).astype(np.uint8)
    found = []
    once(benchmark, lambda: found.append(traced(codes, (0.1, 0.1), TracePart())))
    areas = found[-1].areas.geoms
    points = sum(len(one.exterior.coords) for one in areas)
    print(f"\n{len(areas)} areas of {points} points out of 2048 x 2048 of soft noise")


def test_sorting_two_thousand_rings(benchmark):
    """Half of them inside the others; under a second is asked."""
    squares = [
        box(3 * (k % 50), 3 * (k // 50), 3 * (k % 50) + 2, 3 * (k // 50) + 2)
        for k in range(1000)
    ]
    rings = [
        tuple(one.exterior.coords)[:-1]
        for one in (*squares, *(s.buffer(-0.5) for s in squares))
    ]
    drawing = DrawingPart(rings=tuple(rings))

    def sort():
        drawn_shapes.cache_clear()
        return drawn_shapes(drawing)

    once(benchmark, sort)
    assert len(sort().areas) == 1000


def test_hatching(benchmark):
    ground = MultiPolygon([box(0, 0, 380, 380).difference(box(100, 100, 300, 300))])
    lines = []
    once(benchmark, lambda: lines.append(hatch_lines(ground, 0.02, 30.0)))
    print(f"\n{len(lines[-1])} hatch lines")


@pytest.mark.parametrize(("wide", "deep"), [(300, 200), (400, 300), (600, 400)])
def test_the_bed_camera(benchmark, wide, deep):
    bed, left_over, away = bed_of(wide, deep), [], {True: [], False: []}

    def look(seed):
        camera = calibrate(marks_photo(bed, seed), bed)
        left_over.append((camera.residual_mm, camera.worst_mm))
        laid, photo = laid_photo(bed, PIECES, seed)
        px_mm = min(4.0, 1800 / wide)
        found = find_blanks(camera.look(photo, bed, px_mm), px_mm)
        for one in laid:
            off = min(np.hypot(f.x_mm - one.x, f.y_mm - one.y) for f in found)
            away[one.colour == SLATE].append(off)

    benchmark.pedantic(lambda: [look(seed) for seed in (1, 2, 3)], rounds=1)
    rms, worst = (max(column) for column in zip(*left_over, strict=True))
    print(
        f"\nbed of {wide} x {deep}: marks {rms:.2f} mm RMS off, {worst:.2f} at most; "
        f"middles of blanks {max(away[False]):.2f} mm off at most, dark ones on the dark "
        f"bed {max(away[True]):.2f}"
    )
