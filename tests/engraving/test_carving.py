"""Carving with a V-tool: its geometry, carved halftones, areas along their middle."""

import itertools
import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import MultiPolygon, Point, Polygon
from shapely.affinity import rotate
from shapely.geometry import box
from skimage.morphology import medial_axis

from engraving.carving import Screen, VTool, carve_inside, carve_screen, hold_to_board
from engraving.carving.thinning import ramped, thinned
from engraving.errors import InputError
from engraving.jobspec import DotsPart, JobSpec, SizePart, ToolPart
from support.jobs import changed, pipeline_of

V90 = VTool(90, 0, 1.4)
SCREENS = ("line", "wavy", "chevron", "round", "diamond")


def screen(levels, method="line", *, cell=3.0, tool=V90, ramp=0.0, grid=0.25, **dots):
    part = DotsPart(method=method, ruling_cm=10 / cell, **{"angle_deg": 0.0, **dots})
    return Screen(levels, (grid, grid), part, tool, 0.15, ramp)


def flat(level, size=(160, 240)):
    return np.full(size, level, np.uint8)


@pytest.mark.parametrize(
    ("angle", "tip", "width", "depth"),
    [(90, 0, 3, 1.5), (60, 0, 3, 2.598076), (30, 0, 3, 5.598076), (90, 0, 6.35, 3.175),
     (60, 0, 1.154701, 1), (30, 0, 0.535898, 1), (20, 0, 0.176327, 0.5), (90, 0.1, 3, 1.45), (60, 0.1, 3, 2.511474)],
)  # fmt: skip
def test_width_and_depth_of_a_v(angle, tip, width, depth):
    """w = t + 2 d tan(θ/2) (plain geometry of a cone)."""
    tool = VTool(angle, tip, 10)
    assert tool.depth(width) == pytest.approx(depth, abs=1e-6)
    assert tool.width(depth) == pytest.approx(width, abs=1e-5)


def test_a_tool_cuts_no_wider_than_its_cone():
    assert VTool.of(ToolPart(angle_deg=90, diameter_mm=2), 5).deepest_mm == pytest.approx(1)


@given(st.floats(0.5, 20), st.floats(0.05, 20))
def test_a_board_keeps_a_fifth_of_a_millimetre(board, deepest):
    if deepest <= board - 0.2:
        hold_to_board(deepest, board)
        return
    if deepest > board - 0.2 + 1e-6:
        with pytest.raises(InputError) as caught:
            hold_to_board(deepest, board)
        assert f"{deepest:g} mm" in str(caught.value)
        assert f"{board:g} mm" in str(caught.value)


def test_a_finer_cell_and_a_blunter_tool_show_fewer_tones():
    fine, coarse = (V90.tones(0.2, cell, 0.02) for cell in (1.0, 2.0))
    assert fine < coarse
    assert VTool(120, 0, 1.4).tones(0.2, 1.0, 0.02) < fine
    assert V90.tones(3.0, 2.0, 0.02) == 1


@pytest.mark.parametrize("method", ["line", "wavy", "chevron"])
@given(level=st.integers(0, 240), angle=st.floats(-80, 80))
@settings(max_examples=12)
def test_a_flat_tone_cuts_its_share_of_the_board(method, level, angle):
    """The cut's area, its width by its depth, is the tone's share of the widest line's."""
    made = screen(flat(level), method, angle_deg=angle, wavelength_mm=20, swing_mm=2)
    area = 0.0
    for stroke in carve_screen(made):
        steps = np.hypot(*np.diff(stroke[:, :2], axis=0).T)
        wide = -2 * stroke[:, 2]
        area += float(((wide[1:] + wide[:-1]) / 2 * steps).sum())
    board = 160 * 240 * 0.25**2
    share = (1 - level / 255) * 2.8 / 3
    assert area / board == pytest.approx(share, abs=0.035)


@given(st.integers(0, 255), st.integers(0, 255))
@settings(max_examples=20)
def test_darker_is_never_narrower(one, other):
    depths = {
        level: max((-s[:, 2].min() for s in carve_screen(screen(flat(level)))), default=0)
        for level in (one, other)
    }
    assert depths[min(one, other)] >= depths[max(one, other)]


@pytest.mark.parametrize("method", SCREENS)
def test_black_goes_as_deep_as_it_may_and_white_stays(method):
    strokes = carve_screen(screen(flat(0), method))
    deepest = max(-one[:, 2].min() for one in strokes)
    assert deepest == pytest.approx(1.4, abs=1e-6)
    assert carve_screen(screen(flat(255), method)) == []


def test_the_tool_lifts_where_a_line_would_be_too_narrow():
    levels = np.tile(np.linspace(0, 255, 240).astype(np.uint8), (160, 1))
    strokes = carve_screen(screen(levels))
    widths = np.concatenate([-2 * one[:, 2] for one in strokes])
    assert widths.min() >= 0.15 - 0.01
    assert max(one[:, 0].max() for one in strokes) < 60 - 2


def test_round_marks_lie_on_their_lattice_and_every_other_row_may_be_set_off():
    plain = carve_screen(screen(flat(100), "round"))
    places = np.array([one[0, :2] for one in plain])
    assert np.allclose((places / 3 - 0.5) % 1 % 0.999999, 0, atol=1e-5)
    moved = screen(flat(100), "round")
    moved = Screen(moved.levels, moved.cell_mm, moved.dots, moved.tool, 0.15, set_off=True)
    rows = {}
    for one in carve_screen(moved):
        rows.setdefault(round(float(one[0, 1]), 3), []).append(float(one[0, 0]) % 3)
    offsets = [round(min(found), 3) for _, found in sorted(rows.items())]
    assert set(itertools.pairwise(offsets)) <= {
        (0, 1.5),
        (1.5, 0),
        (3, 1.5),
        (1.5, 3),
    }


def test_a_diamond_is_a_short_stroke_down_and_up():
    for stroke in carve_screen(screen(flat(60), "diamond")):
        assert stroke[0, 2] == stroke[2, 2] == 0
        long = float(np.hypot(*(stroke[2] - stroke[0])[:2]))
        assert long == pytest.approx(-2 * stroke[1, 2])


lines = st.lists(
    st.tuples(st.floats(0, 20), st.floats(0, 20), st.floats(-2, 0)), min_size=2, max_size=40
)


@given(lines)
def test_thinning_leaves_no_point_far_beside(points):
    stroke = np.array(points)
    kept = thinned(stroke, 0.05)
    assert (kept[0] == stroke[0]).all()
    assert (kept[-1] == stroke[-1]).all()
    starts, ways = kept[:-1], np.diff(kept, axis=0)
    for point in stroke:
        t = ((point - starts) * ways).sum(axis=1) / np.maximum((ways**2).sum(axis=1), 1e-30)
        foot = starts + t.clip(0, 1)[:, None] * ways
        assert np.sqrt(((point - foot) ** 2).sum(axis=1)).min() <= 0.05 + 1e-9


@given(st.floats(0.1, 5), st.floats(0.2, 4))
def test_a_ramp_goes_down_along_the_line_and_nowhere_deeper(ramp, long):
    x = np.linspace(0, long, 30)
    stroke = np.column_stack([x, 0 * x, -1 + 0.8 * np.sin(x) ** 2])
    found = ramped(stroke, ramp)
    way = found[: len(found) - len(stroke) + 1]
    assert found[0, 2] == pytest.approx(0)
    assert (np.diff(way[:, 0]) <= 1e-12).all()
    own = np.interp(way[:, 0], x, stroke[:, 2])
    assert (way[:, 2] >= own - 1e-9).all()
    assert (found[-len(stroke) :] == stroke).all()


def carve(*areas, tool=None, spacing=0.3):
    return carve_inside(MultiPolygon(list(areas)), tool or VTool(90, 0, 1.5), spacing)


def test_a_bar_three_wide_goes_one_and_a_half_deep():
    """3 mm wide at 90° is 1.5 mm deep (common practice, no source)."""
    found = carve(box(0, 0, 30, 3))
    assert (found.widest_mm, found.deepest_mm, found.flat_mm2) == pytest.approx(
        (3, 1.5, 0), abs=1e-3
    )
    reached = np.concatenate(found.strokes)
    for corner in ((0, 0), (30, 0), (30, 3), (0, 3)):
        away = np.hypot(*(reached[:, :2] - corner).T)
        assert away.min() < 1e-6
        assert reached[int(away.argmin()), 2] == pytest.approx(0, abs=1e-6)


shapes = st.builds(
    lambda points, turn: rotate(Polygon(points).buffer(0), turn, origin=(0, 0)),
    st.lists(st.tuples(st.floats(0, 12), st.floats(0, 12)), min_size=3, max_size=8),
    st.floats(0, 360),
).filter(lambda one: isinstance(one, Polygon) and one.area > 2)


@given(
    shapes,
    st.sampled_from([30, 60, 90, 120]),
    st.sampled_from([0.0, 0.2]),
    st.floats(0.3, 3),
)
@settings(max_examples=40)
def test_no_cut_goes_beyond_the_edge_or_deeper_than_it_may(area, angle, tip, deepest):
    tool = VTool(angle, tip, deepest)
    found = carve(area, tool=tool)
    for stroke in found.strokes:
        assert (stroke[:, 2] >= -deepest - 1e-9).all()
        away = shapely.distance(shapely.points(stroke[:, :2]), area.boundary)
        half = np.where(stroke[:, 2] < 0, tip / 2 - stroke[:, 2] * tool.tangent, 0)
        assert (half <= away + 1e-6).all()
        assert area.buffer(1e-6).contains(shapely.MultiPoint(stroke[:, :2]))


@pytest.mark.parametrize("shape", ["bar", "ring", "wedge", "ell"])
def test_the_middle_is_scikit_images_medial_axis(shape):
    """Depth within half a step of distance / tan(θ/2), by skimage.morphology.medial_axis."""
    area = {
        "bar": box(1, 1, 17, 4),
        "ring": Point(9, 9).buffer(7).difference(Point(9, 9).buffer(5)),
        "wedge": Polygon([(1, 1), (17, 1), (9, 5)]),
        "ell": box(1, 1, 4, 15).union(box(1, 1, 15, 4)),
    }[shape]
    step = 0.05
    y, x = np.mgrid[:360, :360]
    inside = shapely.contains_xy(area, (x.ravel() + 0.5) * step, (y.ravel() + 0.5) * step)
    axis, away = medial_axis(inside.reshape(x.shape), return_distance=True)
    tool = VTool(90, 0, 5)
    strokes = carve(area, tool=tool).strokes
    dense = [
        shapely.get_coordinates(shapely.segmentize(shapely.LineString(one), 0.05), include_z=True)
        for one in strokes if len(one) > 1
    ]  # fmt: skip
    cut = np.concatenate(dense)
    # Its skeleton has hairs into every corner pixel; where the area is wide it is the middle.
    sure = axis & (away * step > 0.6 * (away.max() * step))
    rows, cols = np.nonzero(sure)
    places = np.column_stack([cols + 0.5, rows + 0.5]) * step
    for place, deep in zip(places, away[sure] * step, strict=True):
        near = np.hypot(*(cut[:, :2] - place).T)
        at = int(near.argmin())
        assert near[at] < 3 * step
        assert -cut[at, 2] == pytest.approx(deep, abs=3 * step)


def test_where_the_tool_may_not_go_deep_enough_the_ground_is_flat():
    found = carve(box(0, 0, 20, 10), tool=VTool(90, 0, 1.5))
    assert found.flat_mm2 == pytest.approx(17 * 7, rel=1e-3)
    ground = [one for one in found.strokes if (one[:, 2] == -1.5).all()]
    swept = shapely.union_all(
        [shapely.LineString(one[:, :2]).buffer(0.16) for one in ground if len(one) > 1]
    )
    assert box(1.501, 1.501, 18.499, 8.499).difference(swept).area < 1e-6


def test_a_disc_is_one_plunge_as_wide_as_it_is():
    found = carve(Point(5, 5).buffer(1, quad_segs=64))
    deepest = min(found.strokes, key=lambda one: one[:, 2].min())
    at = deepest[int(deepest[:, 2].argmin())]
    assert (at[0], at[1]) == pytest.approx((5, 5), abs=0.05)
    assert -at[2] == pytest.approx(1, abs=0.02)


MOON = changed(
    JobSpec(size=SizePart(width_mm=40, height_mm=30, pitch_mm=0.25)),
    artwork={"width_px": 160, "height_px": 120},
    machine={"kind": "vtool", "z_axis": True},
    dots={"method": "wavy", "ruling_cm": 10 / 3, "angle_deg": 43, "wavelength_mm": 20},
    marking={"way": "carved"},
)


def moon():
    y, x = np.mgrid[:120, :160]
    return (255 * np.hypot(x / 160 - 0.5, y / 120 - 0.5).clip(0, 0.7) / 0.7).astype(
        np.uint8
    )


def test_the_proof_of_a_carved_picture_is_drawn_by_the_cone():
    pipeline = pipeline_of(moon())
    dots = pipeline.dots(MOON)
    area = 0.0
    for stroke in pipeline.carved(MOON):
        steps = np.hypot(*np.diff(stroke[:, :2], axis=0).T)
        wide = -2 * stroke[:, 2]
        area += float(((wide[1:] + wide[:-1]) / 2 * steps).sum())
    # Ramps go the same way twice.
    assert dots.share * 1200 == pytest.approx(area, rel=0.12)


@given(
    st.sampled_from(["front-left", "back-right"]),
    st.sampled_from([0, 7, -90]),
    st.booleans(),
)
@settings(max_examples=8)
def test_a_turned_or_mirrored_carving_is_the_same_carving(origin, turn, mirror):
    pipeline = pipeline_of(moon())
    plain = list(pipeline.bands(MOON))
    spec = changed(
        MOON, machine={"origin": origin}, place={"turn_deg": turn},
        side={"mirror": "yes" if mirror else "no"},
    )  # fmt: skip
    found = list(pipeline.bands(spec))
    for one, other in zip(found, plain, strict=True):
        assert (one.z == other.z).all()
        assert (one.power == other.power).all()
    assert math.isclose(
        pipeline.estimate(spec).burn_mm, pipeline.estimate(MOON).burn_mm, rel_tol=1e-3
    )


def test_dark_ground_turns_the_tones_about():
    """On a board that is dark above and light below, the light parts are cut."""
    pipeline = pipeline_of(moon())
    dark = pipeline.dots(MOON).unpack()
    light = pipeline.dots(changed(MOON, substrate={"polarity": "lightens"})).unpack()
    middle = np.s_[50:70, 70:90]
    assert dark[middle].mean() > 0.8
    assert light[middle].mean() < 0.2


def test_a_board_too_thin_is_a_stop_and_is_never_cut_through():
    pipeline = pipeline_of(moon())
    thin = changed(MOON, blank={"thickness_mm": 1.0})
    depths = [m.z[m.power > 0].min() * m.unit_mm for m in pipeline.bands(thin)]
    assert min(depths) >= -0.8 - 1e-6
    found, _ = pipeline.check(thin)
    (stop,) = [one for one in found if one.rule == "board_is_left"]
    assert stop.severity == "stop"
    assert stop.figure == "1.4 of 1 mm"
    mended = changed(thin, **stop.fix.changes)
    assert "board_is_left" not in {one.rule for one in pipeline.check(mended)[0]}
