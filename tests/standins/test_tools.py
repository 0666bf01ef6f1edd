"""Reliefs, carved boards and scratched plates on the stand-in, held against their plans."""

import io
import itertools

import cv2
import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import box

from engraving.jobspec import JobSpec, SizePart
from standins.controller.interpreter import FaultError
from standins.controller.machine import Machine, Settings
from standins.controller.removal import depth_map, scratch_mm
from support.jobs import changed, pipeline_of

WIDE, HIGH = 12.0, 9.0


def lines_of(spec, pipeline):
    out = io.BytesIO()
    planned = pipeline.write_gcode(spec, out)
    return [one for one in out.getvalue().decode().splitlines() if one[0] != ";"], planned


def ran(lines, **data):
    machine = Machine(Settings(**data))
    for line in lines:
        machine.take(line)
        if machine.queued > 1000:
            machine.run(keep=900)
        if machine.held:
            machine.held = False
    machine.run()
    return machine


def carved_away(machine, spec, cell, **words):
    cols, rows = round(WIDE / cell), round(HIGH / cell)
    return depth_map(machine, {
        "left": spec.place.x_mm, "front": spec.place.y_mm, "cell": (cell, cell),
        "rows": rows, "cols": cols, **words,
    })  # fmt: skip


def dome(cols, rows):
    y, x = np.mgrid[:rows, :cols]
    r = np.hypot((x + 0.5) / cols - 0.5, (y + 0.5) / rows - 0.5) * 2
    return (255 * np.sqrt(np.maximum(1 - r**2, 0))).astype(np.uint8)


RELIEF = changed(
    JobSpec(size=SizePart(width_mm=WIDE, height_mm=HIGH)),
    artwork={"width_px": 120, "height_px": 90, "holds": "depth"},
    burn={"power": 50, "speed_mm_s": 200},
)


def relief(depth, per_pass, **settings_):
    part = {"depth_mm": depth, "per_pass_mm": per_pass, **settings_}
    return changed(RELIEF, marking={"way": "relief", "relief": part})


@given(st.sampled_from(["beech", "lime", "card", "fibre board"]), st.booleans())
@settings(max_examples=4)
def test_a_relief_lies_within_half_a_pass_of_its_plan(material, spread):
    """What a pass takes is hidden: one pass is burned and measured first."""
    words = {"power_w": 40, "material": material}
    well = relief(1.0, 1.0)
    lines, _ = lines_of(well, pipeline_of(np.zeros((90, 120), np.uint8)))
    per_pass = float(np.median(carved_away(ran(lines), well, 0.1, **words)))
    spec = relief(7.3 * per_pass, per_pass, spread=spread)
    pipeline = pipeline_of(dome(120, 90))
    lines, planned = lines_of(spec, pipeline)
    machine = ran(lines)
    made = carved_away(machine, spec, 0.1, **words)
    plan = pipeline.relief(spec)
    assert np.abs(made - plan.passes * np.float32(per_pass)).max() < 0.5 * per_pass
    if spread:
        smooth = (5, 5)
        off = cv2.blur(made, smooth) - cv2.blur(plan.depths, smooth)
        assert np.abs(off)[6:-6, 6:-6].max() < 0.5 * per_pass
    assert machine.clock_s == pytest.approx(planned.seconds, rel=0.02)


def test_soft_and_hard_rings_carve_unevenly():
    spec = relief(2.0, 0.5)
    lines, _ = lines_of(spec, pipeline_of(np.zeros((90, 120), np.uint8)))
    machine = ran(lines)
    words = {"power_w": 40, "material": "beech"}
    even, uneven = (
        carved_away(machine, spec, 0.1, even=one, **words) for one in (True, False)
    )
    assert np.ptp(even) < 0.01 * even.mean()
    assert np.ptp(uneven) > 0.4 * even.mean()


BOARD = changed(
    JobSpec(size=SizePart(width_mm=WIDE, height_mm=HIGH, pitch_mm=0.1)),
    artwork={"width_px": 120, "height_px": 90},
    machine={"kind": "vtool", "z_axis": True, "acceleration_mm_s2": 500, "rapid_mm_s": 50},
    burn={"speed_mm_s": 20},
    dots={
        "method": "wavy",
        "ruling_cm": 6,
        "angle_deg": 20,
        "wavelength_mm": 8,
        "swing_mm": 0.5,
    },
    marking={"way": "carved", "carving": {"deepest_mm": 0.8, "least_mm": 0.1}},
)


@pytest.mark.parametrize("method", ["line", "wavy", "chevron", "round", "diamond"])
@pytest.mark.parametrize("tip", [0.0, 0.2])
def test_carved_widths_are_as_planned(method, tip):
    tool = {"angle_deg": 60, "tip_mm": tip}
    carving = {"deepest_mm": 0.8, "least_mm": 0.1, "tool": tool}
    spec = changed(
        BOARD, dots={"method": method}, marking={"way": "carved", "carving": carving}
    )
    pipeline = pipeline_of(dome(120, 90))
    lines, planned = lines_of(spec, pipeline)
    machine = ran(lines, acceleration=500, rapid=50, tool="spindle")
    made = carved_away(machine, spec, 0.02, **tool)
    # The widths a cone leaves: where its cut is deeper than nothing.
    slope = np.tan(np.radians(30))
    strokes = pipeline.carved(spec)
    shape = []
    for one in strokes:
        half = tip / 2 - one[:, 2] * slope
        discs = [
            shapely.Point(p[:2]).buffer(h + 1e-6, quad_segs=24)
            for p, h in zip(one, half, strict=True)
        ]
        pairs = itertools.pairwise(discs) if len(discs) > 1 else [(discs[0], discs[0])]
        shape += [a.union(b).convex_hull for a, b in pairs]
    cut = shapely.union_all(shape).intersection(box(0, 0, WIDE, HIGH))
    y, x = np.mgrid[: made.shape[0], : made.shape[1]]
    places = (x.ravel() + 0.5) * 0.02, (y.ravel() + 0.5) * 0.02
    surely = shapely.contains_xy(cut.buffer(-0.02), *places).reshape(made.shape)
    perhaps = shapely.contains_xy(cut.buffer(0.02), *places).reshape(made.shape)
    assert (made[surely] > 0).all()
    assert not (made[~perhaps] > 0).any()
    assert made.max() <= 0.8 + 1e-3
    assert machine.clock_s == pytest.approx(planned.seconds, rel=0.03)


@given(
    st.sampled_from(["line", "floyd-steinberg"]),
    st.sampled_from(["brass", "slate blue steel"]),
)
@settings(max_examples=4)
def test_scratched_rows_equal_the_plan(method, material):
    spec = changed(
        BOARD,
        size={"pitch_mm": 0.15}, artwork={"width_px": 80, "height_px": 60},
        machine={"kind": "drag", "spot_mm": 0.15, "depth_mm": 0.05},
        substrate={"polarity": "lightens"}, dots={"method": method, "angle_deg": 0},
        marking={"way": "drag"},
    )  # fmt: skip
    pipeline = pipeline_of(dome(80, 60))
    lines, planned = lines_of(spec, pipeline)
    machine = ran(lines, acceleration=500, rapid=50, tool="point")
    made = carved_away(machine, spec, 0.05, material=material) > 0
    half = scratch_mm(material) / 2
    lain = [shapely.LineString(one).buffer(half) if len(one) > 1 else shapely.Point(one[0]).buffer(half)
            for one in pipeline.scratched(spec)]  # fmt: skip
    y, x = np.mgrid[: made.shape[0], : made.shape[1]]
    places = (x.ravel() + 0.5) * 0.05, (y.ravel() + 0.5) * 0.05
    plan = shapely.contains_xy(shapely.union_all(lain), *places).reshape(made.shape)
    assert np.mean(made != plan) < 0.01
    assert machine.clock_s == pytest.approx(planned.seconds, rel=0.03)


def test_a_touched_off_height_is_zero_until_another_is():
    machine = Machine(Settings(tool="spindle", surface=(-18.4, 0.001, 0.0)))
    for line in ("G21 G90", "G38.2 Z-30 F60"):
        machine.take(line)
    machine.run()
    assert machine.place_mm[2] == pytest.approx(-18.4)
    for line in ("G10 L20 P1 Z0", "G0 Z2", "M2"):
        machine.take(line)
    machine.run()
    assert machine.place_mm[2] == pytest.approx(-16.4)
    for line in ("G0 X50", "G1 Z-1 F300", "M2"):
        machine.take(line)
    machine.run()
    assert machine.place_mm[2] == pytest.approx(-19.4)
    # There the surface is 0.05 mm higher, so the cut is as much deeper.
    found = depth_map(machine, {"left": 49, "front": -1, "cell": (0.1, 0.1), "rows": 20, "cols": 20,
                                "angle_deg": 90, "tip_mm": 0})  # fmt: skip
    assert found.max() == pytest.approx(1.05, abs=0.08)


def test_a_probe_that_touches_nothing_says_so():
    machine = Machine(Settings(tool="spindle", surface=(-18.4, 0.0, 0.0)))
    with pytest.raises(FaultError, match="touched nothing"):
        machine.take("G38.2 Z-10 F60")


def test_a_tool_above_the_surface_cuts_nothing_and_leaves_no_burn():
    machine = ran(
        ["G21", "G90", "M3 S18000", "G0 X5 Z1", "G1 X9 Z0.1 F600", "M2"], tool="spindle"
    )
    assert not len(machine.cuts())
    assert not len(machine.strokes())
