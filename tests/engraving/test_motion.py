"""Time: rest to rest, rows, and what must always hold. Uniform acceleration."""

import io
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from engraving.gcode import read_moves
from engraving.jobspec import ArtworkPart, JobSpec, SizePart
from engraving.motion import estimate
from engraving.recipe import (
    areal_dose_j_mm2,
    line_energy_j_mm,
    quickest_row_speed_mm_s,
    run_up_mm,
    watts,
)
from engraving.toolpath import Moves
from support.jobs import changed, pipeline_of


def path(points, feed_mm_s, power=0):
    """Moves through points in mm; feed 0 is rapid."""
    x, y = (np.array([p[i] for p in points], float) for i in (0, 1))
    n = len(points)
    return Moves(
        np.rint(x * 1000).astype(np.int32),
        np.rint(y * 1000).astype(np.int32),
        np.full(n, power, np.int32),
        np.full(n, feed_mm_s * 60, np.float32),
        0.001,
    )


@pytest.mark.parametrize(
    ("length", "speed", "acceleration", "seconds"),
    # x/v + v/a, or 2√(x/a) where the speed is not reached
    [(100, 500, 5000, 0.3), (10, 500, 5000, 0.0894427), (50, 500, 5000, 0.2), (300, 200, 1000, 1.7),
     (25.4, 400, 8000, 0.1135), (0.1, 500, 3000, 0.011547)],
)  # fmt: skip
def test_rest_to_rest(length, speed, acceleration, seconds):
    found = estimate([path([(length, 0)], speed)], (acceleration, acceleration), 1000)
    assert found.seconds == pytest.approx(seconds, rel=1e-5)


def test_cutting_a_line_in_pieces_changes_nothing():
    whole = estimate([path([(50, 0)], 300)], (3000, 3000), 300).seconds
    pieces = estimate([path([(x / 10, 0) for x in range(1, 501)], 300)], (3000, 3000), 300)
    assert pieces.seconds == pytest.approx(whole, rel=1e-6)


def test_corners_are_taken_from_rest():
    """75 × 75 square: four sides, each rest to rest."""
    square = [(75, 0), (75, 75), (0, 75), (0, 0)]
    found = estimate([path(square, 10)], (1000, 1000), 100, 0)
    assert found.seconds == pytest.approx(4 * (75 / 10 + 10 / 1000))


def test_parts_add_up_and_lengths_are_kept():
    moves = path([(10, 0), (20, 0), (20, 5)], 100)
    moves.power[1] = 500
    found = estimate([moves], (2000, 2000), 300)
    assert found.burn_s + found.run_up_s + found.travel_s == pytest.approx(found.seconds)
    assert (found.burn_mm, found.travel_mm, found.moves, found.rows) == (10, 15, 3, 1)
    assert found.bounds_mm == (10, 0, 20, 5)
    assert found.burn_bounds_mm == (10, 0, 20, 0)


def test_an_empty_path_takes_no_time():
    assert estimate([], (1000, 1000), 100).seconds == 0


def test_dose_by_definition():
    # 40 W at 300 mm/s and 0.1 mm rows; 15 % of 60 W at 400 mm/s
    assert line_energy_j_mm(40, 300) == pytest.approx(0.133333, abs=1e-6)
    assert areal_dose_j_mm2(40, 300, 0.1) == pytest.approx(1.333333, abs=1e-6)
    assert areal_dose_j_mm2(60, 500, 25.4 / 300) == pytest.approx(1.417323, abs=1e-6)
    assert areal_dose_j_mm2(watts(15, 60), 400, 0.1, passes=2) == pytest.approx(0.45)


def test_run_up_and_the_quickest_speed():
    assert [run_up_mm(v, a) for v, a in [(100, 1000), (300, 3000), (1000, 10000)]] == [
        5,
        15,
        50,
    ]
    best = quickest_row_speed_mm_s(10, 2500)
    assert best == pytest.approx(111.803, abs=1e-3)
    row = lambda v: 10 / v + 2 * v / 2500  # noqa: E731
    assert row(best) == pytest.approx(0.178885, abs=1e-6)
    assert row(best) < min(row(best * 0.9), row(best * 1.1))


def planned(points, speeds, accelerations, junction, ticks=1500):
    """Another planner: the fastest speed along the way, found by relaxation on a fine grid.

    A profile v(s) is lowered everywhere until it keeps the speed of each move, the corner
    speeds, and v dv/ds within the acceleration, both ways; then time is the sum of ds/v.
    """
    starts = np.vstack([[0, 0], points[:-1]])
    ways = points - starts
    long = np.hypot(*ways.T)
    units = ways / long[:, None]
    able = 1 / np.hypot(units[:, 0] / accelerations[0], units[:, 1] / accelerations[1])
    per = np.maximum((ticks * long / long.sum()).astype(int), 20)
    top, a, ds = (np.repeat(v, per) for v in (np.asarray(speeds, float), able, long / per))
    edge = np.concatenate([[0], np.cumsum(per)])
    v2 = np.concatenate([top**2, [0.0]])
    v2[1:] = np.minimum(v2[1:], np.concatenate([top[1:] ** 2, [0.0]]))
    v2[0] = 0.0
    for k in range(1, len(points)):
        u, w = units[k - 1], units[k]
        corner = _arc_speed2(u, w, accelerations, junction)
        v2[edge[k]] = min(v2[edge[k]], top[edge[k] - 1] ** 2, corner)
    for i in range(len(ds)):
        v2[i + 1] = min(v2[i + 1], v2[i] + 2 * a[i] * ds[i])
    for i in range(len(ds) - 1, -1, -1):
        v2[i] = min(v2[i], v2[i + 1] + 2 * a[i] * ds[i])
    v = np.sqrt(v2)
    return float((2 * ds / np.maximum(v[:-1] + v[1:], 1e-12)).sum())


def _arc_speed2(u, w, accelerations, junction):
    """v² = a r of the arc that touches both lines and passes their corner at `junction`.

    From its tangent points: for half an angle h between the lines, the arc's middle lies
    r / sin h from the corner, so junction = r / sin h − r.
    """
    inner = np.pi - np.arccos(np.clip(u @ w, -1, 1))
    h = inner / 2
    if np.sin(h) > 1 - 1e-12:
        return np.inf
    if junction <= 0:  # within 3° it is no corner
        return np.inf if u @ w >= np.cos(np.radians(3)) else 0.0
    radius = junction / (1 / np.sin(h) - 1) if np.sin(h) > 0 else 0.0
    towards = w - u
    able = np.hypot(*towards) / np.hypot(*(towards / np.asarray(accelerations)))
    return able * radius


@settings(max_examples=25, deadline=None)
@given(
    st.lists(st.tuples(st.integers(-40, 40), st.integers(-40, 40)), min_size=2, max_size=9),
    st.sampled_from([0.0, 0.005, 0.01, 0.1]),
    st.sampled_from([(3000, 3000), (3000, 500)]),
    st.integers(5, 400),
)
def test_corners_as_another_planner_takes_them(corners, junction, accelerations, speed):
    points = [(0, 0)]
    for point in corners:
        if math.dist(point, points[-1]) > 0.5:
            points.append(point)
    points = np.array(points[1:], float)
    if not len(points):
        return
    found = estimate(
        [path([tuple(p) for p in points], speed)], accelerations, 1000, junction
    )
    other = planned(points, [speed] * len(points), accelerations, junction)
    assert found.seconds == pytest.approx(other, rel=0.03, abs=0.01)


def test_a_circle_is_not_stopped_at_every_point():
    """5 mm at 100 mm/s: once round in its length over its speed, and up and down to it."""
    n = math.ceil(math.pi / math.acos(1 - 0.01 / 5))
    turn = np.arange(1, n + 1) * 2 * math.pi / n
    circle = [(5 - 5 * math.cos(t), 5 * math.sin(t)) for t in turn]
    free = 2 * math.pi * 5 / 100 + 100 / 3000
    found = estimate([path(circle, 100)], (3000, 3000), 300)
    assert found.seconds == pytest.approx(free, rel=0.05)
    assert estimate([path(circle, 100)], (3000, 3000), 300, 0).seconds > 2 * free


ARCS = [
    (b"G21 G90\nG0 X10 Y0\nG3 X-10 Y0 I-10 J0 F3000\n", math.pi * 10),
    (b"G21 G90\nG0 X10 Y0\nG3 X-10 Y0 R10 F3000\n", math.pi * 10),
    (b"G21 G90\nG0 X10 Y0\nG2 X0 Y10 I-10 J0 F3000\n", 1.5 * math.pi * 10),
    (b"G21 G90\nG0 X10 Y0\nG3 X0 Y10 R10 F3000\n", 0.5 * math.pi * 10),
    (b"G21 G90\nG0 X10 Y0\nG3 X0 Y10 R-10 F3000\n", 1.5 * math.pi * 10),
    (b"G21 G90\nG0 X10 Y0\nG2 I-10 F3000\n", 2 * math.pi * 10),
    (b"G20 G91\nG3 X0 Y1 J.5 F118.110236\n", math.pi * 12.7),
    (b"G21 G90.1\nG0 X10 Y0\nG3 X-10 I0 J0 F3000\n", math.pi * 10),
]


@pytest.mark.parametrize(("text", "length"), ARCS)
def test_arcs_by_centre_and_by_radius(text, length):
    """RS-274 (NIST IR 6556, 3.5.3): lengths of arcs are plain geometry."""
    for junction in (0.01, 0.0):
        found = estimate(read_moves(text, arc_mm=junction), (3000, 3000), 300, junction)
        travelled = found.travel_mm - (10 if b"G0" in text else 0)
        assert travelled == pytest.approx(length, rel=2e-3)
        at_50 = length / 50 + 50 / 3000
        rapid = 2 * math.sqrt(10 / 3000) if b"G0" in text else 0
        assert found.seconds == pytest.approx(at_50 + rapid, rel=0.03)


def test_degrees_of_a_wall_are_timed_on_its_surface():
    """A wall of 50 mm, once round at 1 mm/s of its surface."""
    text = b"G21 G90\nG1 A360 F137.5099\n"  # 60 mm/min on 50 mm: 360/(50 pi) deg a mm
    found = estimate(read_moves(text, math.pi * 50 / 360), (3000, 3000), 300)
    assert found.seconds == pytest.approx(math.pi * 50, rel=1e-3)


def test_our_own_rotary_files_say_their_diameter():
    spec = JobSpec(
        artwork=ArtworkPart(width_px=40, height_px=40),
        size={"width_mm": 20, "height_mm": 20, "pitch_mm": 0.5},
        blank={"shape": "wall", "diameter_mm": 50, "height_mm": 60},
        mount={"kind": "chuck", "output": "degrees"},
        burn={"speed_mm_s": 40, "rows": "y"},
    )
    pipeline, stream = pipeline_of(np.zeros((40, 40), np.uint8)), io.BytesIO()
    pipeline.write_gcode(spec, stream)
    machine = spec.machine
    again = estimate(
        read_moves(stream.getvalue()), machine.accelerations, machine.rapid_mm_s
    )
    assert b"A" in stream.getvalue()
    assert again.seconds == pytest.approx(pipeline.estimate(spec).seconds, rel=0.01)


@pytest.mark.parametrize("rows", ["x", "y"])
@pytest.mark.parametrize("turn", [0, 90])
def test_rows_are_counted_however_they_run(job, rows, turn):
    """60 rows of 80 dots, or 80 columns of 60, as planned and as read from the file."""
    spec, pipeline = job
    spec = changed(
        spec, burn={"rows": rows}, place={"x_mm": 60, "y_mm": 60, "turn_deg": turn}
    )
    stream = io.BytesIO()
    planned = pipeline.write_gcode(spec, stream)
    read = estimate(read_moves(stream.getvalue()), (3000, 3000), 300)
    assert planned.rows == read.rows == {"x": 60, "y": 80}[rows]


def test_a_line_that_is_gone_along_counts_once(job):
    """60 rows and one cut around them, of four sides or of many."""
    spec, pipeline = job
    for shape in ("rounded", "rectangle"):
        cut = {"kind": "cut", "shape": shape, "offset_mm": 1, "bridges": 0}
        both = changed(spec, operations=[{"kind": "raster"}, cut])
        stream = io.BytesIO()
        planned = pipeline.write_gcode(both, stream)
        read = estimate(read_moves(stream.getvalue()), (3000, 3000), 300)
        assert planned.rows == read.rows == 61


# Common practice, no source: what shops say such pieces take. Pitch and acceleration are
# plausible ones, chosen here; both ways, all of it burned.
@pytest.mark.parametrize(
    ("size", "pitch", "speed", "acceleration", "minutes"),
    [
        ((160, 160), 25.4 / 318, 200, 2000, 35),
        ((218, 109), 25.4 / 318, 4000 / 60, 1500, 77),
        ((75, 75), 0.32, 400, 8000, 70 / 60),
    ],
    ids=["160 mm at 318 dpi", "two tiles at 4000 mm/min", "75 mm at 400 mm/s"],
)
def test_what_shops_say_pieces_take(size, pitch, speed, acceleration, minutes):
    spec = JobSpec(
        artwork=ArtworkPart(width_px=60, height_px=60),
        size=SizePart(width_mm=size[0], height_mm=size[1], pitch_mm=pitch),
    )
    machine = {"acceleration_mm_s2": acceleration, "rapid_mm_s": 400, "max_speed_mm_s": 500}
    spec = changed(
        spec, burn={"speed_mm_s": speed}, machine=machine, dots={"method": "threshold"}
    )
    black = pipeline_of(np.zeros((60, 60), np.uint8))
    assert black.estimate(spec).seconds / 60 == pytest.approx(minutes, rel=0.05)
