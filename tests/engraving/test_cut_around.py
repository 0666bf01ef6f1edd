"""Outlines: offsets and areas against GEOS and plain geometry, order, bridges, on the stand-in."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely import LineString, MultiLineString, Point, Polygon

from engraving.jobspec import RASTER, ArtworkPart, JobSpec, OperationPart, TracePart
from engraving.outline import follow, kept_areas, outline_shape
from support.cards import burned
from support.jobs import changed, pipeline_of

OFF = RASTER.model_copy(update={"on": False})


def job(width=75.0, height=75.0, **more):
    return JobSpec(
        artwork=ArtworkPart(width_px=150, height_px=150),
        size={"width_mm": width, "height_mm": height, "pitch_mm": 0.5},
        place={"x_mm": 20, "y_mm": 30},
        **more,
    )


@pytest.mark.parametrize(
    ("outline", "area", "length"),
    # 75×75 by +2, square corners: 79×79; by half a kerf of 0.2: 75.2²; round corners r 5 on 75×50
    [({"offset_mm": 2}, 6241, 316), ({"offset_mm": 0, "kerf_mm": 0.2}, 5655.04, 300.8), ({"offset_mm": 0, "kerf_mm": 0}, 5625, 300)],
)  # fmt: skip
def test_rectangles(outline, area, length):
    shape = outline_shape(job(), OperationPart(**outline)).areas
    assert shape.area == pytest.approx(area)
    assert shape.length == pytest.approx(length)


def test_round_corners_and_blanks():
    shape = outline_shape(
        job(75, 50), OperationPart(shape="rounded", offset_mm=0, corner_mm=5)
    ).areas
    assert shape.area == pytest.approx(3728.539816, rel=2e-4)
    assert shape.length == pytest.approx(241.415927, rel=1e-4)
    disc = job(blank={"shape": "disc", "width_mm": 80, "height_mm": 80})
    shape = outline_shape(disc, OperationPart(shape="blank", offset_mm=1)).areas
    assert shape.area == pytest.approx(math.pi * 41**2, rel=1e-3)
    moved = changed(
        job(blank={"width_mm": 100, "height_mm": 90}), size={"offset_x_mm": 5, "offset_y_mm": -3}
    )  # fmt: skip
    assert outline_shape(moved, OperationPart(shape="blank", offset_mm=0)).areas.bounds == (
        -55,
        -42,
        45,
        48,
    )


@pytest.mark.parametrize(("radius", "off"), [(20, 0.02), (40, 0.01)])
def test_a_mask_is_traced_along_its_dots(radius, off):
    y, x = np.mgrid[0:120, 0:120] - 59.5
    kept = ((x**2 + y**2 <= radius**2) * 255).astype(np.uint8)
    shape = kept_areas(kept, (0.5, 0.5), TracePart())
    assert shape.area == pytest.approx(np.count_nonzero(kept) * 0.25, rel=off)
    ring = ((x**2 + y**2 <= radius**2) & (x**2 + y**2 > 100)).astype(np.uint8) * 255
    holed = kept_areas(ring, (0.5, 0.5), TracePart())
    assert len(holed.geoms[0].interiors) == 1
    assert holed.area == pytest.approx(np.count_nonzero(ring) * 0.25, rel=0.03)


def test_a_rectangle_of_dots_is_exact_and_specks_go():
    kept = np.zeros((60, 90), np.uint8)
    kept[10:30, 20:50] = 255
    kept[50, 80] = 255
    shape = kept_areas(kept, (0.5, 0.5), TracePart())
    assert len(shape.geoms) == 1
    assert shape.area == pytest.approx(15 * 10, rel=1e-3)
    assert shape.bounds == pytest.approx((-12.5, 0, 2.5, 10), abs=0.01)
    assert kept_areas(np.zeros((9, 9), np.uint8), (0.5, 0.5), TracePart()).is_empty


def test_inside_is_cut_before_outside():
    y, x = np.mgrid[0:150, 0:150] - 74.5
    kept = (((x**2 + y**2 <= 3600) & (x**2 + y**2 > 400)) * 255).astype(np.uint8)
    outline = OperationPart(shape="picture", hole_mm=4, hole_inset_mm=6)
    paths = follow(job(), outline, kept_areas(kept, (0.5, 0.5), TracePart())).paths
    sizes = [Polygon(path).area for path in paths]
    assert len(paths) == 3
    assert max(sizes) == sizes[-1]
    assert min(sizes) == pytest.approx(math.pi * 4, rel=0.01)
    # On the bed, about the picture's middle at 57.5, 67.5
    assert Polygon(paths[-1]).centroid.coords[0] == pytest.approx((57.5, 67.5), abs=0.3)


@given(st.integers(1, 8), st.floats(0.3, 3), st.floats(0, 0.5), st.floats(-0.5, 0.5))
def test_a_bridge_lies_where_nothing_is_cut(count, wide, kerf, shift):
    """Wherever they are moved, by plain geometry: half a bridge and half a kerf off any line."""
    cut = OperationPart(
        shape="rounded", offset_mm=2, corner_mm=4, kerf_mm=kerf, bridges=count,
        bridge_mm=wide, bridge_shift=shift,
    )  # fmt: skip
    found = follow(job(), cut)
    lines = MultiLineString(found.paths)
    assert len(found.bridges) == count
    for one in found.bridges:
        here = Point(one.x + 20 + 75 / 2, one.y + 30 + 75 / 2)
        assert here.distance(lines) == pytest.approx((wide + kerf) / 2, abs=0.2)
        assert math.hypot(one.along_x, one.along_y) == pytest.approx(1)
    gone = outline_shape(job(), cut).areas.length - lines.length
    assert gone == pytest.approx(count * (wide + kerf), abs=0.05)


def test_bridges_are_moved_along_their_line():
    plain = OperationPart(offset_mm=0, bridges=4)
    here = follow(job(), plain).bridges
    there = follow(job(), plain.model_copy(update={"bridge_shift": 0.1})).bridges
    for one, other in zip(here, there, strict=True):
        assert (other.x - one.x, other.y - one.y) == pytest.approx(
            (7.5 * one.along_x, 7.5 * one.along_y)
        )


def test_bridges_are_left_out_and_the_beam_leads_in():
    whole = follow(job(), OperationPart(offset_mm=2)).paths
    held = follow(
        job(), OperationPart(offset_mm=2, bridges=4, bridge_mm=1.5, lead_in_mm=3)
    ).paths
    assert len(held) == 4
    lengths = [LineString(path).length for path in held]
    assert sum(lengths) == pytest.approx(316 - 4 * 1.5 + 4 * 3)
    square = Polygon(whole[0])
    for path in held:
        assert not square.contains(LineString(path[:2]).interpolate(0.01))


def test_the_stand_in_follows_the_line_after_the_picture():
    gray = np.full((150, 150), 0, np.uint8)
    spec = job(operations=(RASTER, OperationPart(shape="rounded", passes=2, speed_mm_s=20)))
    pipeline = pipeline_of(gray)
    machine, planned = burned(spec, pipeline), pipeline.estimate(spec)
    assert machine.clock_s == pytest.approx(planned.seconds, rel=0.01)
    (path,) = pipeline.followed(spec, spec.outlines[0]).paths
    line = LineString(path)
    strokes = machine.strokes()
    last = strokes[strokes[:, 4] > 0][-200:]
    assert (
        max(line.distance(LineString([row[:2], row[2:4]]).centroid) for row in last) < 0.002
    )
    only = spec.model_copy(update={"operations": (OFF, *spec.outlines)})
    cut = burned(only, pipeline).strokes()
    long = np.hypot(cut[:, 2] - cut[:, 0], cut[:, 3] - cut[:, 1]).sum()
    assert long == pytest.approx(2 * line.length, rel=1e-3)


def test_operations_run_in_their_order():
    """The picture may come last; what is not included is left out."""
    operations = (
        OperationPart(kind="score", offset_mm=1),
        OperationPart(kind="cut", offset_mm=4),
        OperationPart(on=False),
        OFF,
    )
    spec = job(operations=operations)
    bands = list(pipeline_of(np.zeros((150, 150), np.uint8)).bands(spec))
    wide = [float(np.ptp(moves.x)) * moves.unit_mm for moves in bands]
    assert wide == pytest.approx([77, 83])
    assert [moves.operation for moves in bands] == [0, 1]


def test_round_pieces_are_not_cut():
    with pytest.raises(ValueError, match="flat bed only"):
        JobSpec(
            blank={"shape": "wall", "diameter_mm": 20, "height_mm": 40},
            mount={"kind": "chuck"},
            operations=(RASTER, OperationPart()),
        )
