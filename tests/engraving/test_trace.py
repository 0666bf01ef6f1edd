"""Tracing and hatching, held against two other tracers, areas and closed forms."""

import cv2
import numpy as np
import potrace
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.ndimage import gaussian_filter, gaussian_filter1d
from shapely import MultiPolygon, Polygon, box
from shapely.geometry import Point
from skimage import measure

from engraving.check import Facts, check_job
from engraving.jobspec import ArtworkPart, JobSpec, OperationPart, TracePart
from engraving.outline import (
    MOST_AREAS,
    follow,
    hatch_lines,
    outline_shape,
    rings_of,
    smoothing,
    trace,
    traced,
    without,
)

JOB = JobSpec(artwork=ArtworkPart(width_px=100, height_px=100))
PLAIN = TracePart(smooth_mm=0.5, least_mm=0.5)


def disc(radius, hole=0.0, size=120):
    y, x = np.mgrid[0:size, 0:size] - (size - 1) / 2
    r = np.hypot(x, y)
    return np.where((r <= radius) & (r >= hole), 0, 255).astype(np.uint8)


def gray_disc(radius, size=120):
    y, x = np.mgrid[0:size, 0:size] - (size - 1) / 2
    return np.clip(127.5 + 255 * (np.hypot(x, y) - radius), 0, 255).astype(np.uint8)


@pytest.mark.parametrize(("radius", "off"), [(10, 0.05), (20, 0.025), (40, 0.02)])
def test_discs_as_potrace_draws_them(radius, off):
    """Area within the tolerance that Selinger's method itself keeps on these discs (potracer)."""
    codes = disc(radius)
    mine = traced(codes, (1, 1), PLAIN).areas
    pixels = np.count_nonzero(codes == 0)
    assert mine.area == pytest.approx(pixels, rel=off)
    (curve,) = potrace.Bitmap(codes != 0).trace()  # true is its background
    points = [(curve.start_point.x, curve.start_point.y)]
    for part in curve.segments:
        a, b = (part.c, part.end_point) if part.is_corner else (part.c1, part.end_point)
        points += [(a.x, a.y), (b.x, b.y)] if part.is_corner else _bezier(points[-1], part)
    theirs = Polygon(points)
    centred = Polygon([(x - 60, y - 60) for x, y in theirs.exterior.coords])
    assert mine.symmetric_difference(centred).area < 1.2 * 2 * np.pi * radius * 0.5


def _bezier(start, part):
    t = np.linspace(0.1, 1, 10)[:, None]
    a, b, c, d = (np.array(p) for p in (start, *((q.x, q.y) for q in (part.c1, part.c2, part.end_point))))  # fmt: skip
    return [
        tuple(p)
        for p in (1 - t) ** 3 * a
        + 3 * (1 - t) ** 2 * t * b
        + 3 * (1 - t) * t**2 * c
        + t**3 * d
    ]


@pytest.mark.parametrize("radius", [10, 20, 40])
def test_gray_edges_are_found_to_a_part_of_a_dot(radius):
    """Marching squares on an anti-aliased disc (scikit-image): the same line, πR² within 0.7 %."""
    codes = gray_disc(radius)
    mine = traced(codes, (1, 1), TracePart(smooth_mm=0, least_mm=0)).areas
    assert mine.area == pytest.approx(np.pi * radius**2, rel=7e-3)
    (line,) = measure.find_contours(codes.astype(float), 128)
    theirs = Polygon([(x - 59.5, 59.5 - y) for y, x in line])
    assert mine.symmetric_difference(theirs).area < 0.2 * 2 * np.pi * radius


def test_a_rectangle_keeps_its_four_corners():
    codes = np.full((60, 90), 255, np.uint8)
    codes[10:30, 20:50] = 0
    for smooth in (0.5, 1, 2):
        (shape,) = traced(codes, (1, 1), TracePart(smooth_mm=smooth)).areas.geoms
        assert len(shape.exterior.coords) == 5
        assert shape.area == pytest.approx(600, rel=1e-3)
        assert shape.bounds == pytest.approx((-25, 0, 5, 20), abs=0.02)
    round_off = traced(codes, (1, 1), TracePart(smooth_mm=2, corner_deg=180)).areas
    assert round_off.distance(Point(-25, 20)) > 0.5
    assert round_off.area == pytest.approx(600, rel=5e-3)


def test_a_ring_has_its_hole_and_specks_go():
    codes = disc(40, hole=20)
    codes[0:2, 0:2] = 0
    (ring,) = traced(codes, (1, 1), TracePart(smooth_mm=1, least_mm=3)).areas.geoms
    assert len(ring.interiors) == 1
    assert ring.area == pytest.approx(3780, rel=0.02)
    every = traced(codes, (1, 1), TracePart(smooth_mm=0, least_mm=0.5)).areas
    assert len(every.geoms) == 2


@given(st.integers(0, 12), st.integers(0, 5), st.floats(0.5, 2.5))
def test_what_is_dropped_is_counted(specks, holes, dot):
    """Single dark dots around, and light ones in, an area of 20 by 12 dots."""
    codes = np.full((40, 40), 255, np.uint8)
    codes[4:16, 4:24] = 0
    codes[8, 7 : 7 + 3 * holes : 3] = 255
    codes[20 + 3 * (np.arange(specks) // 6), 4 + 4 * (np.arange(specks) % 6)] = 0
    found = traced(codes, (dot, dot), TracePart(smooth_mm=0, least_mm=4 * dot))
    assert found.specks == specks + holes
    assert len(found.areas.geoms) == 1
    assert traced(codes, (dot, dot), TracePart(smooth_mm=0, least_mm=0)).specks == 0


def test_between_two_tones_in_a_part_and_inside_the_mask():
    codes = np.repeat(np.arange(0, 250, 10, dtype=np.uint8)[None], 40, axis=0)
    band = traced(
        codes, (1, 1), TracePart(lightest=60, darkest=40, smooth_mm=0, least_mm=0)
    ).areas
    left, low, right, high = band.bounds
    assert (high - low, right - left) == (
        pytest.approx(40, abs=0.6),
        pytest.approx(5, abs=0.6),
    )
    part = TracePart(lightest=100, smooth_mm=0, least_mm=0, left=0.2, top=0.5, width=0.4, height=0.25)  # fmt: skip
    assert traced(codes, (1, 1), part).areas.bounds == pytest.approx(
        (-7.5, -10, 2.5, 0), abs=0.6
    )
    mask = np.zeros_like(codes)
    mask[10:20, 5:15] = 255
    kept = traced(
        codes, (1, 1), TracePart(lightest=100, smooth_mm=0, least_mm=0), mask
    ).areas
    assert kept.bounds == pytest.approx((-7.5, 0, 2.5, 10), abs=0.6)


def test_rings_are_left_out_and_filled():
    """Of rings in one another the smallest that holds the point is meant."""
    outer = Point(0, 0).buffer(10) - Point(0, 0).buffer(6)
    island = Point(0, 0).buffer(3)
    areas = MultiPolygon([outer, island])
    marks = {round(ring.area): point for ring, point in rings_of(areas)}
    whole, hole, small = (marks[area] for area in sorted(marks, reverse=True))
    assert without(areas, [whole]).area == pytest.approx(island.area)
    assert without(areas, [small]).area == pytest.approx(outer.area)
    assert without(areas, [hole]).geoms[0].area == pytest.approx(
        Polygon(outer.exterior).area
    )
    assert without(areas, [(50.0, 50.0)]).equals(areas)


def test_inverted_scaled_turned_and_moved():
    spec = JobSpec(artwork=ArtworkPart(width_px=10, height_px=10), size={"width_mm": 20, "height_mm": 20})  # fmt: skip
    found = MultiPolygon([box(-2, -1, 2, 1)])
    one = OperationPart(kind="score", shape="traced", offset_mm=0)
    assert outline_shape(spec, one, found).areas.equals(found)
    around = one.model_copy(update={"inverted": True, "frame_mm": 1.0})
    assert outline_shape(spec, around, found).areas.area == pytest.approx(6 * 4 - 8)
    laid = one.model_copy(
        update={"scale_x": 200, "turn_deg": 90, "move_x_mm": 3, "move_y_mm": 1}
    )
    assert outline_shape(spec, laid, found).areas.bounds == pytest.approx((2, -3, 4, 5))
    back = spec.model_copy(
        update={"side": spec.side.model_copy(update={"seen_from": "back"})}
    )
    assert outline_shape(back, laid, found).areas.bounds == pytest.approx((-4, -3, -2, 5))


@given(
    spacing=st.floats(0.05, 3),
    angle=st.floats(-180, 180),
    radius=st.floats(2, 20),
    hole=st.floats(0, 0.9),
)
@settings(max_examples=60, deadline=None)
def test_hatching_covers_the_area(spacing, angle, radius, hole):
    """Length × distance is the area, as lines become many; all of them lie inside."""
    ring = Point(1, -2).buffer(radius, 64)
    if hole:
        ring -= Point(1, -2).buffer(hole * radius, 64)
    lines = hatch_lines(MultiPolygon([ring]), spacing, angle)
    length = np.hypot(*(lines[:, 1] - lines[:, 0]).T)
    assert length.sum() * spacing == pytest.approx(ring.area, abs=9 * spacing * radius)
    assert (length > 0).all()
    middles = lines.mean(axis=1)
    grown = ring.buffer(1e-6)
    assert all(grown.contains(Point(x, y)) for x, y in middles)


def test_hatched_to_and_fro_and_across():
    square = MultiPolygon([box(0, 0, 10, 10)])
    lines = hatch_lines(square, 1, 0)
    assert lines[:, 0, 1].tolist() == pytest.approx([n + 0.5 for n in range(10)])
    assert (lines[::2, 1, 0] > lines[::2, 0, 0]).all()
    assert (lines[1::2, 1, 0] < lines[1::2, 0, 0]).all()
    assert len(hatch_lines(square, 1, 0, cross=True)) == 20
    assert hatch_lines(MultiPolygon(), 1, 0).shape == (0, 2, 2)


@pytest.mark.parametrize(
    ("radius", "off"), [(5, 0.025), (10, 0.01), (20, 0.007), (40, 0.003)]
)
def test_the_plain_smoothing_does_not_shrink_small_discs(radius, off):
    """3 dots of smoothing, as a fresh operation has it, against the count of dots."""
    codes = disc(radius)
    mine = traced(codes, (0.1, 0.1), TracePart()).areas
    assert mine.area == pytest.approx(np.count_nonzero(codes == 0) * 0.01, rel=off)


@st.composite
def fields(draw):
    """Noise of any grain, or blobs."""
    chance = np.random.default_rng(draw(st.integers(0, 10**6)))
    rows, cols = draw(st.integers(8, 70)), draw(st.integers(8, 70))
    if draw(st.booleans()):
        grain = gaussian_filter(chance.normal(size=(rows, cols)), draw(st.floats(0.5, 4)))
        span = np.ptp(grain) or 1
        return ((grain - grain.min()) / span * 255).astype(np.uint8)
    y, x = np.mgrid[0:rows, 0:cols]
    codes = np.full((rows, cols), 255, np.uint8)
    for _ in range(draw(st.integers(1, 12))):
        at = chance.uniform(0, [rows, cols]), chance.uniform(1, 9)
        codes[np.hypot(y - at[0][0], x - at[0][1]) < at[1]] = draw(st.sampled_from([0, 90]))
    return codes


@settings(max_examples=80)
@given(fields(), st.floats(0, 1.5), st.floats(0, 1))
def test_whatever_is_traced_is_valid_inverted_too(codes, smooth, least):
    found = traced(codes, (0.1, 0.1), TracePart(smooth_mm=smooth, least_mm=least)).areas
    assert found.is_valid
    operation = OperationPart(shape="traced", inverted=True, offset_mm=0)
    around = outline_shape(JOB, operation, found).areas
    assert around.is_valid
    if not found.is_empty:
        room = box(*found.bounds).buffer(operation.frame_mm, join_style="mitre")
        assert around.area == pytest.approx(room.area - found.area, rel=1e-6)


def test_more_areas_than_are_traced_are_said():
    codes = np.full((150, 150), 255, np.uint8)
    codes[::3, ::3] = 0
    found = traced(codes, (1, 1), TracePart(smooth_mm=0, least_mm=0)).areas
    assert len(found.geoms) == MOST_AREAS
    operation = OperationPart(shape="traced", kind="score", offset_mm=0)
    told = {0: follow(JOB, operation, found).told}
    spec = JOB.model_copy(update={"operations": (operation,)})
    rules = {one.rule: one for one in check_job(Facts(spec, outlines=told))[0]}
    assert f"{MOST_AREAS}" in rules["all_areas_are_traced"].figure


@pytest.mark.parametrize("blur", [0.6, 1.5, 4])
def test_what_is_left_out_before_it_is_smoothed_changes_nothing(blur, monkeypatch):
    noise = np.random.default_rng(3).normal(size=(160, 160)).astype(np.float32)
    soft = cv2.GaussianBlur(noise, (0, 0), blur)
    codes = cv2.normalize(soft, None, 0, 255, cv2.NORM_MINMAX).astype(np.uint8)
    found = traced(codes, (0.1, 0.1), TracePart())
    monkeypatch.setattr(trace, "_SURELY", 0.0)
    assert traced(codes, (0.1, 0.1), TracePart()).areas.equals_exact(found.areas, 0)
    assert not found.areas.is_empty


@pytest.mark.parametrize("smooth", [0.4, 1.0, 3.7])
def test_a_round_line_is_smoothed_as_scipy_smooths_it(smooth):
    """gaussian_filter1d of SciPy, wrapped, of a wavy ring whose points lie evenly."""
    turn = np.linspace(0, 2 * np.pi, 3000, endpoint=False)
    radius = 8 + 0.3 * np.sin(9 * turn)
    line = np.stack([radius * np.cos(turn), radius * np.sin(turn)], axis=1)
    even = smoothing._evenly(line, 0.05)
    assert np.hypot(*np.diff(even, axis=0).T) == pytest.approx(0.05, rel=0.01)
    sigma = smooth / 0.05
    wanted = gaussian_filter1d(even, sigma, axis=0, mode="wrap", radius=int(3 * sigma) + 1)
    found = smoothing._smooth(line, smooth, 180.0, 0.05)
    assert found == pytest.approx(wanted, abs=1e-9)
    # And made as large as it was.
    grown = smoothing.smoothed(line, smooth, 180.0, 0.05)
    assert Polygon(grown).area == pytest.approx(Polygon(line).area, rel=1e-4)


def test_edges_that_cross_once_they_are_thinned_out_are_mended():
    """A dent of 0.06 mm stays; that of 0.045 mm in the hole beside it is left out."""
    outer = [(0, 0), (19, 0), (20, -0.06), (21, 0), (40, 0), (40, -9), (0, -9)]
    hole = [
        (1, -0.02),
        (19, -0.02),
        (20, -0.065),
        (21, -0.02),
        (39, -0.02),
        (39, -8),
        (1, -8),
    ]
    assert Polygon(outer, [hole]).is_valid
    assert not Polygon(outer, [hole[:1] + hole[4:]]).is_valid
    found = trace._thinned([np.array(outer, float), np.array(hole)], 0.05)
    assert found.is_valid
    assert found.area == pytest.approx(Polygon(outer, [hole]).area, abs=0.1)
    assert not found.contains(Point(20, -4))
