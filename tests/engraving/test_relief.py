"""Reliefs: depths, passes, what each pass fires, and depth pictures of any kind."""

import io
import itertools

import numpy as np
import pytest
import tifffile
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from PIL import Image
from skimage import data

from engraving.artwork.depth import place_depth, read_depth
from engraving.colour.light import to_coded
from engraving.errors import ArtworkError
from engraving.jobspec import ArtworkPart, JobSpec, ReliefPart, SizePart
from engraving.proof.plaster import shaded
from engraving.relief import depths_mm, passes_of, planned
from support.jobs import changed, pipeline_of

CELL = (0.1, 0.1)
WEDGE = 1 - np.arange(256, dtype=np.float32)[None] / 255
"""Shares of the depth of codes 0 to 255."""
TWO_MM = ReliefPart(depth_mm=2, per_pass_mm=0.2, spread=False)


def of_codes(codes, relief=TWO_MM, cell=CELL):
    near = np.asarray(codes, np.float32) / np.float32(255)
    return planned(depths_mm(np.atleast_2d(near), relief, cell), relief)


def png16(codes):
    out = io.BytesIO()
    Image.fromarray(codes).save(out, "PNG")
    return out.getvalue()


def float_tiff(values):
    out = io.BytesIO()
    tifffile.imwrite(out, values)
    return out.getvalue()


@pytest.mark.parametrize(
    ("code", "mm"),
    [
        (0, 3),
        (51, 2.4),
        (64, 2.247059),
        (85, 2),
        (127, 1.505882),
        (170, 1),
        (204, 0.6),
        (254, 0.011765),
        (255, 0),
    ],
)
def test_white_is_near_and_black_is_deep(code, mm):
    """depth = R (255 - g) / 255, R = 3 mm (plain arithmetic)."""
    found = of_codes([code], ReliefPart(depth_mm=3, per_pass_mm=0.3))
    assert found.depths[0, 0] == pytest.approx(mm, abs=1e-6)


@pytest.mark.parametrize(
    ("code", "passes"),
    [(0, 10), (25, 9), (51, 8), (64, 7), (127, 5), (128, 5), (200, 2), (254, 0), (255, 0)],
)
def test_whole_passes_are_the_nearest(code, passes):
    """2 mm by 10 passes, pass k where depth ≥ (k - ½) R / N (plain arithmetic)."""
    assert of_codes([code]).passes[0, 0] == passes


def test_layers_of_a_wedge_hold_as_many_dots_as_arithmetic_says():
    """Codes 0..255 by ten passes of the nearest: 243 217 192 … 13 dots, mean exactly 5."""
    plan = of_codes(np.arange(256))
    layers = [one.dots for one in passes_of(plan, TWO_MM)]
    assert [one.count for one in layers] == [243, 217, 192, 166, 141, 115, 90, 64, 39, 13]
    assert plan.passes.mean() == 5
    for upper, lower in itertools.pairwise(layers):
        assert not (lower.packed & ~upper.packed).any()


def test_a_sphere_cap_has_its_heights_and_its_volume():
    """Radius 20, height 5: 4.364917 at r 5, 2.320508 at r 10, volume 1439.896633 mm³."""
    y, x = np.mgrid[:600, :600]
    r = np.hypot(x - 299.5, y - 299.5) * 0.1
    high = np.maximum(np.sqrt(np.maximum(400 - r * r, 0)) - 15, 0).astype(np.float32)
    relief = ReliefPart(depth_mm=5, per_pass_mm=0.05)
    plan = planned(depths_mm(high / np.float32(5), relief, CELL), relief)
    made = 5 - plan.passes * np.float32(0.05)
    assert np.abs(made - high).max() < 0.05 + 1e-5
    assert made.sum() * 0.01 == pytest.approx(1439.896633, rel=2e-3)
    at = {round(float(r[300, 300 + k]), 2): float(high[300, 300 + k]) for k in (50, 100)}
    assert sorted(at.values()) == pytest.approx([2.320508, 4.364917], abs=0.05)


relieved = arrays(np.float32, (24, 31), elements=st.floats(0, 1, width=32))


@given(relieved, st.integers(1, 40))
def test_a_spread_plan_keeps_the_mean_and_no_dot_is_a_pass_off(near, count):
    relief = ReliefPart(depth_mm=2, per_pass_mm=2 / count)
    depths = depths_mm(near, relief, CELL)
    plan = planned(depths, relief)
    wanted = depths / np.float32(relief.per_pass_mm)
    assert (np.abs(plan.passes - wanted) < 1 + 1e-4).all()
    assert (plan.passes[near == 1] == 0).all()
    # What a small picture hands over its edge is some dots' errors.
    assert abs(float(plan.passes.sum()) - float(wanted.sum())) < 31


@pytest.mark.parametrize("count", [1, 3, 10, 47])
@pytest.mark.parametrize("kind", ["ramp", "flat", "islands"])
def test_the_mean_of_a_spread_plan_is_within_half_a_per_cent(kind, count):
    y, x = np.mgrid[:400, :500]
    near = {
        "ramp": x / 499,
        "flat": np.full((400, 500), 0.37),
        "islands": np.where(np.hypot(x % 40 - 20, y % 40 - 20) < 12, 0.31, 1.0),
    }[kind].astype(np.float32)
    relief = ReliefPart(depth_mm=2, per_pass_mm=2 / count)
    depths = depths_mm(near, relief, CELL)
    mean = planned(depths, relief).passes.mean() * relief.per_pass_mm
    assert mean == pytest.approx(depths.mean(), rel=0.005)


def test_a_sixteen_bit_slope_shows_no_terraces():
    """Means over a pass's breadth rise evenly; without spreading they stand in steps."""
    ramp = np.tile(np.linspace(1, 0, 1000, dtype=np.float32), (200, 1))
    relief = ReliefPart(depth_mm=1, per_pass_mm=0.25)
    depths = depths_mm(ramp, relief, CELL)
    wanted = depths.reshape(200, 100, 10).mean(axis=(0, 2))
    found = {}
    for spread in (True, False):
        plan = planned(depths, relief.model_copy(update={"spread": spread}))
        means = (plan.passes * 0.25).reshape(200, 100, 10).mean(axis=(0, 2))
        found[spread] = np.abs(means - wanted).max()
    assert found[True] < 0.01
    assert found[False] > 0.1


def test_power_follows_the_depth_where_passes_do_not():
    near = np.array([[1.0, 0.75, 0.5, 0.0]], np.float32)
    for how, shares in (
        ("power", [[0, 0.25, 0.5, 1.0]] * 4),
        ("both", [[0, 1, 1, 1], [0, 0, 1, 1], [0, 0, 0, 1], [0, 0, 0, 1]]),
    ):
        relief = ReliefPart(depth_mm=2, per_pass_mm=0.5, how=how)
        plan = planned(depths_mm(near, relief, CELL), relief)
        layers = [one.dots.strengths(0, 0, 4, 1)[0] for one in passes_of(plan, relief)]
        assert np.allclose(layers, shares, atol=1e-3)


def test_curve_ground_floor_rim_and_walls():
    near = np.linspace(1, 0, 101, dtype=np.float32)[None].repeat(60, axis=0)
    plain = depths_mm(near, ReliefPart(), CELL)
    bent = depths_mm(near, ReliefPart(gamma=2), CELL)
    assert np.allclose(bent, 2 * (plain / 2) ** 2, atol=1e-5)
    ground = depths_mm(near, ReliefPart(flat_ground=10), CELL)
    assert (ground[:, 90:] == 2).all()
    assert np.allclose(ground[:, :90], plain[:, :90])
    assert depths_mm(near, ReliefPart(floor_mm=1.5), CELL).max() == 1.5
    rim = depths_mm(near, ReliefPart(rim_mm=0.5), CELL)
    assert (rim[:5] == 0).all()
    assert (rim[:, -5:] == 0).all()
    assert rim[5, -6] > 0
    turned = depths_mm(near, ReliefPart(invert=True), CELL)
    assert np.allclose(turned, 2 - plain, atol=1e-6)


@given(st.floats(5, 60), st.floats(0.5, 3))
@settings(max_examples=20)
def test_walls_lean_as_far_as_wanted(wall, deep):
    """A wall that leans by w is d tan(w) wide at depth d (plain geometry)."""
    near = np.ones((80, 200), np.float32)
    near[:, 40:] = 0
    relief = ReliefPart(depth_mm=deep, per_pass_mm=deep, wall_deg=wall)
    row = depths_mm(near, relief, CELL)[40]
    away = (np.arange(40, 120) - 40 + 0.5) * 0.1 - 0.05
    expected = np.minimum(away / np.tan(np.radians(wall)), deep)
    near_edge = np.minimum(expected, (40 * 0.1) / np.tan(np.radians(wall)))
    assert np.abs(row[40:120] - near_edge).max() < 0.11 / np.tan(np.radians(wall))


def test_samples_that_are_no_numbers_have_no_depth():
    """The disparity map of scikit-image's motorcycle: 27 226 of its samples are infinite."""
    values = np.asarray(data.stereo_motorcycle()[2], np.float32)
    found = read_depth(float_tiff(values))
    assert int(np.isnan(found.near).sum()) == 27_226
    assert (float(np.nanmin(found.near)), float(np.nanmax(found.near))) == (0, 1)
    assert "27226 samples" in " ".join(found.notes)
    whole = place_depth(found.near, ArtworkPart(width_px=741, height_px=500), 741, 500)
    relief = ReliefPart(depth_mm=3, per_pass_mm=0.3)
    plan = planned(depths_mm(whole, relief, CELL), relief)
    assert (plan.passes[np.isnan(found.near)] == 0).all()
    smaller = place_depth(found.near, ArtworkPart(width_px=741, height_px=500), 300, 200)
    assert 0.05 < np.isnan(smaller).mean() < 0.1
    assert np.nanmax(smaller) <= 1


@given(arrays(np.uint16, (9, 13)))
@settings(max_examples=30)
def test_sixteen_bits_stay_exact_to_the_plan(codes):
    found = read_depth(png16(codes)).near
    part = ArtworkPart(width_px=13, height_px=9)
    assert np.array_equal(place_depth(found, part, 13, 9), codes / np.float32(65535))
    relief = ReliefPart(depth_mm=2, per_pass_mm=2 / 2000, spread=False)
    passes = planned(depths_mm(found, relief, CELL), relief).passes
    exact = np.floor(2000 * (65535 - codes.astype(np.int64)) / 65535 + 0.5)
    assert (np.abs(passes - exact) <= 1).all()
    assert np.mean(passes == exact) > 0.9


def test_a_profile_and_a_gamma_do_not_touch_depth():
    codes = np.linspace(0, 65535, 256).astype(np.uint16)[None].repeat(4, axis=0)
    out = io.BytesIO()
    Image.fromarray((codes // 257).astype(np.uint8)).save(
        out, "PNG", icc_profile=b"no profile at all", gamma=0.5
    )
    assert np.allclose(read_depth(out.getvalue()).near, codes / 65535, atol=2e-3)


def test_transparent_parts_have_no_depth_and_averages_do_not_reach_over_them():
    gray = np.full((40, 40), 100, np.uint8)
    alpha = np.zeros((40, 40), np.uint8)
    alpha[10:30, 10:30] = 255
    out = io.BytesIO()
    Image.merge("LA", [Image.fromarray(gray), Image.fromarray(alpha)]).save(out, "PNG")
    near = read_depth(out.getvalue()).near
    small = place_depth(near, ArtworkPart(width_px=40, height_px=40), 15, 15)
    assert np.allclose(small[np.isfinite(small)], 100 / 255, atol=1e-4)
    assert np.isnan(small[0, 0])


@pytest.mark.parametrize(
    "bad", [b"", b"no picture", png16(np.zeros((3, 3), np.uint16))[:40]]
)
def test_what_is_no_depth_picture_gets_a_sentence(bad):
    with pytest.raises(ArtworkError):
        read_depth(bad)
    with pytest.raises(ArtworkError, match="No sample"):
        read_depth(float_tiff(np.full((4, 4), np.nan, np.float32)))


PLAIN = JobSpec(
    artwork=ArtworkPart(width_px=20, height_px=10, holds="depth"),
    size=SizePart(width_mm=2, height_mm=1),
)


def carved(spec=PLAIN, **relief):
    """The job as a relief of four passes, with some of its settings changed."""
    settings = {"depth_mm": 1, "per_pass_mm": 0.25, **relief}
    return changed(spec, marking={"way": "relief", "relief": settings})


RELIEF = carved()


def test_each_pass_burns_the_dots_of_its_layer():
    gray = np.tile(np.linspace(255, 0, 20).astype(np.uint8), (10, 1))
    pipeline = pipeline_of(gray)
    plan = pipeline.relief(RELIEF)
    lit = sum(
        float(np.abs(np.diff(m.x, prepend=m.x[0]))[m.power > 0].sum() * m.unit_mm)
        for m in pipeline.bands(RELIEF)
    )
    assert lit == pytest.approx(plan.passes.sum() * 0.1, abs=1e-6)
    assert pipeline.dots(RELIEF).count == int((plan.passes > 0).sum())


def test_a_stamp_is_mirrored_and_crossed_passes_take_turns():
    gray = np.tile(np.linspace(255, 0, 20).astype(np.uint8), (10, 1))
    pipeline = pipeline_of(gray)
    turned = changed(RELIEF, side={"mirror": "yes"}, burn={"cross": True})
    straight = list(pipeline.bands(RELIEF))
    other = list(pipeline.bands(turned))
    assert min(m.x.min() for m in straight) != min(m.x.min() for m in other)
    ways = [np.ptp(m.x[m.power > 0]) > np.ptp(m.y[m.power > 0]) for m in other]
    rows_along = [bool(np.all(np.diff(m.y)[m.power[1:] > 0] == 0)) for m in other]
    assert len(ways) == 4
    assert rows_along == [True, False, True, False]


def test_the_focus_follows_the_ground_where_the_machine_can_move_it():
    gray = np.zeros((10, 20), np.uint8)
    pipeline = pipeline_of(gray)
    moving = changed(PLAIN, machine={"z_axis": True})
    lowered = carved(moving, focus="follow", focus_every=2)
    assert [m.z_mm for m in pipeline.bands(lowered)] == [0, 0, -0.5, -0.5]
    middle = carved(moving, focus="middle")
    assert {m.z_mm for m in pipeline.bands(middle)} == {-0.5}
    by_hand = carved(focus="middle")
    assert {m.z_mm for m in pipeline.bands(by_hand)} == {0}
    assert pipeline.estimate(lowered).seconds > pipeline.estimate(by_hand).seconds


def test_cleaning_passes_come_between_at_their_own_power_and_speed():
    pipeline = pipeline_of(np.zeros((10, 20), np.uint8))
    cleaned = carved(clean_every=2, clean_power=10)
    powers = [int(m.power.max()) for m in pipeline.bands(cleaned)]
    assert powers == [400, 400, 100, 400, 400, 100]


@given(
    arrays(np.float32, (6, 5), elements=st.floats(0, 1, width=32)),
    arrays(np.float32, (6, 5), elements=st.floats(0, 3, width=32)),
)
def test_colours_under_a_light_are_those_of_plain_arithmetic(share, light):
    first, second = np.array([0.7, 0.45, 0.2]), np.array([0.05, 0.02, 0.01])
    mixed = (first + (second - first) * share[..., None]) * light[..., None]
    plain = np.rint(255 * to_coded(np.clip(mixed, 0, 1)))
    assert np.abs(shaded(first, second, share, light) - plain).max() <= 1
