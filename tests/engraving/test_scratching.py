"""A drag point: lines by their density, rows of dots, down and up."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from engraving.dots import BitGrid
from engraving.jobspec import ArtworkPart, DotsPart, DragPart, JobSpec, SizePart
from engraving.scratching import scratch_dots, scratch_lines
from support.jobs import changed, pipeline_of

MARK = 0.15
CELL = (MARK, MARK)


def lines(level, angle=0.0, method="line", **drag):
    levels = np.full((300, 300), level, np.uint8)
    dots = DotsPart(method=method, angle_deg=angle)
    return scratch_lines(levels, CELL, MARK, dots, DragPart(**drag))


def share(strokes):
    long = sum(float(np.hypot(*np.diff(one, axis=0).T).sum()) for one in strokes)
    return long * MARK / 45**2


@given(st.integers(0, 255), st.floats(-90, 90))
@settings(max_examples=25)
def test_a_tone_is_how_many_lines_there_are(level, angle):
    bare = lines(level, angle, ground_percent=0)
    assert share(bare) == pytest.approx(1 - level / 255, abs=0.02)


@pytest.mark.parametrize(("level", "ground", "bare"), [(252, 2, True), (252, 1, False)])
def test_no_lone_line_crosses_the_ground(level, ground, bare):
    """Of a sky that asks for 1.2 % only, the first line would run from side to side."""
    assert (lines(level, ground_percent=ground) == []) is bare


@given(st.integers(0, 255))
@settings(max_examples=15)
def test_crossed_lines_cover_what_the_tone_asks_for(level):
    """Two ways of share a leave (1 - a)² bare."""
    a = share(lines(level, crossed=True)) / 2
    assert 1 - (1 - a) ** 2 == pytest.approx(1 - level / 255, abs=0.03)


@pytest.mark.parametrize("level", [60, 128, 200, 240])
def test_lines_are_spread_evenly(level):
    places = sorted({round(float(one[0, 1]), 4) for one in lines(level)})
    gaps = np.round(np.diff(places) / MARK).astype(int)
    # The golden ratio leaves gaps of three lengths at most (three-gap theorem).
    assert len(set(gaps.tolist())) <= 3
    assert gaps.max() <= 2 * np.ceil(255 / (255 - level)) + 1


def test_wavy_lines_wave():
    straight, wavy = lines(128), lines(128, method="wavy")
    assert all(len(one) == 2 for one in straight)
    assert any(np.ptp(one[:, 1]) > 0.5 for one in wavy)


grids = arrays(np.uint8, (7, 19), elements=st.integers(0, 1))


@given(grids, st.booleans())
def test_rows_are_scratched_as_the_dots_say(dots, both_ways):
    strokes = scratch_dots(BitGrid.from_dots(dots), CELL, both_ways=both_ways)
    seen = np.zeros_like(dots)
    for one in strokes:
        row = round(one[0, 1] / MARK - 0.5)
        first, last = sorted(round(x / MARK - 0.5) for x in (one[0, 0], one[-1, 0]))
        seen[row, first : last + 1] += 1
    assert (seen == dots).all()
    if not both_ways:
        assert all(one[0, 0] <= one[-1, 0] for one in strokes)


PLATE = changed(
    JobSpec(
        artwork=ArtworkPart(width_px=40, height_px=20),
        size=SizePart(width_mm=6, height_mm=3, pitch_mm=MARK),
    ),
    machine={
        "kind": "drag",
        "spot_mm": MARK,
        "lift_mm": 2,
        "depth_mm": 0.1,
        "z_axis": True,
    },
    substrate={"polarity": "lightens"},
    marking={"way": "drag"},
    dots={"method": "floyd-steinberg"},
)


def picture():
    return np.tile(np.linspace(0, 255, 40).astype(np.uint8), (20, 1))


def test_only_the_light_parts_are_scratched():
    pipeline = pipeline_of(picture())
    dots = pipeline.dots(PLATE).unpack()
    assert dots[:, :10].mean() < 0.2
    assert dots[:, 30:].mean() > 0.8
    marks = np.concatenate([m.x[m.power > 0] * m.unit_mm for m in pipeline.bands(PLATE)])
    assert np.median(marks) > 10 + 3


@pytest.mark.parametrize(
    "method", ["line", "wavy", "floyd-steinberg", "blue-noise", "threshold"]
)
def test_down_and_up_and_no_beam(method):
    pipeline = pipeline_of(picture())
    spec = changed(PLATE, dots={"method": method, "angle_deg": 20})
    for moves in pipeline.bands(spec):
        heights = moves.z * moves.unit_mm
        down = moves.power > 0
        assert np.allclose(heights[down], -0.1)
        assert (heights[~down] > 0).all()
        # Across, it is lifted all the way.
        across = (np.diff(moves.x) != 0) & ~down[1:]
        assert (heights[1:][across] == 2).all()


def test_a_beam_does_not_scratch_and_a_point_burns_no_dots():
    pipeline = pipeline_of(picture())
    assert not list(pipeline.bands(changed(PLATE, machine={"kind": "co2"})))
    assert not list(pipeline.bands(changed(PLATE, marking={"way": "dots"})))


def test_short_scratches_may_be_left_out():
    pipeline = pipeline_of(picture())
    whole = sum(m.rows for m in pipeline.bands(PLATE))
    fewer = changed(PLATE, marking={"way": "drag", "drag": {"least_mm": 0.4}})
    assert 0 < sum(m.rows for m in pipeline.bands(fewer)) < whole
