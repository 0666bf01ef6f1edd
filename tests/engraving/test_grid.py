"""The machine's own grid: directions, decimals, motor steps, power words, the link."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from engraving.cards import card_job, starting_card
from engraving.check import check_job
from engraving.jobspec import RASTER, ArtworkPart, JobSpec, MachinePart, OperationPart
from engraving.outline import read_svg
from engraving.place import as_written, unevenness
from engraving.recipe import job_dose_j_mm2, quickest_mm_s, variants
from support.jobs import changed, pipeline_of

SOLID = np.zeros((20, 20), np.uint8)
SLOW_Y = {"max_speed_mm_s": 500, "acceleration_mm_s2": 3000, "acceleration_y_mm_s2": 500,
          "max_speed_y_mm_s": 150}  # fmt: skip


def job(**parts):
    spec = JobSpec(
        artwork=ArtworkPart(width_px=20, height_px=20),
        size={"width_mm": 20, "height_mm": 20, "pitch_mm": 0.5},
        burn={"speed_mm_s": 100, "power": 50},
        machine=SLOW_Y,
        place={"x_mm": 150, "y_mm": 150},
    )
    return changed(spec, **parts)


def told(spec):
    findings, fine = check_job(pipeline_of(SOLID).facts(spec))
    return {one.rule: one for one in [*findings, *fine]}


def runs(bands):
    """Ends and speed of each burned move and of the dark one before it, in mm."""
    at = np.zeros(2)
    for moves in bands:
        points = np.stack([moves.x, moves.y], axis=1) * moves.unit_mm
        starts = np.vstack([at, points[:-1]])
        for i in np.flatnonzero(moves.power > 0):
            yield starts[i - 1], starts[i], points[i], moves.feed[i - 1], moves.feed[i] / 60
        at = points[-1]


@settings(max_examples=25, deadline=None)
@given(st.floats(-180, 180), st.sampled_from(["x", "y"]), st.booleans())
def test_every_row_is_begun_at_speed(angle, rows, cross):
    """v² = 2 a s along the row's own direction, a on the ellipse between the axes."""
    spec = job(place={"turn_deg": round(angle, 1)}, burn={"rows": rows, "cross": cross})
    for before, start, end, feed, speed in runs(pipeline_of(SOLID).bands(spec)):
        way = (end - start) / np.hypot(*(end - start))
        able = 1 / math.hypot(way[0] / 3000, way[1] / 500)
        assert feed > 0
        assert np.hypot(*(start - before)) >= speed**2 / (2 * able) - 0.01


def test_a_quarter_turn_needs_the_other_axis():
    """200 mm/s at 500 mm/s²: 40 mm, where X alone would say 6.7."""
    turned = job(
        place={"turn_deg": 90}, burn={"speed_mm_s": 200}, machine={"max_speed_y_mm_s": 0}
    )
    found = {
        round(float(np.hypot(*(b - a))), 1)
        for a, b, *_ in runs(pipeline_of(SOLID).bands(turned))
    }
    assert found == {40.0}
    assert told(turned)["run_up_on_the_bed"].figure.startswith("40.0")
    straight = changed(turned, place={"turn_deg": 0})
    assert told(straight)["run_up_on_the_bed"].figure.startswith("6.7")


def run_ups(bands):
    """Way and speed of each dark move between a rapid and a burned one: a row's run-up."""
    at = np.zeros(2)
    for moves in bands:
        points = np.vstack([at, np.stack([moves.x, moves.y], axis=1) * moves.unit_mm])
        dark = (moves.power == 0) & (moves.feed > 0)
        for i in np.flatnonzero(
            dark[1:-1] & (moves.feed[:-2] == 0) & (moves.power[2:] > 0)
        ):
            yield points[i + 2] - points[i + 1], moves.feed[i + 1] / 60
        at = points[-1]


@pytest.mark.parametrize("kind", ["power-speed", "focus"])
def test_cards_are_turned_and_run_up_too(kind):
    """A card lies as its piece does; its patches and lines are begun at speed."""
    machine = MachinePart(**SLOW_Y, z_axis=True)
    spec = card_job(JobSpec(machine=machine, card=starting_card(kind, machine)))
    spec = changed(spec, place={"x_mm": 150, "y_mm": 150, "turn_deg": 70})
    found = list(run_ups(pipeline_of(SOLID).bands(spec)))
    assert len(found) > 10
    for way, speed in found:
        long = np.hypot(*way)
        assert abs((math.degrees(math.atan2(way[1], way[0])) - 70 + 90) % 180 - 90) < 0.5
        able = 1 / math.hypot(*(way / long / (3000, 500)))
        assert long == pytest.approx(speed**2 / (2 * able), abs=0.01)


def test_top_speed_is_the_directions():
    assert told(job(burn={"speed_mm_s": 200}))["speed_in_range"].figure == "200 of 500 mm/s"
    for turn, most in [(90, 150), (60, 150 / math.sin(math.radians(60)))]:
        finding = told(job(burn={"speed_mm_s": 200}, place={"turn_deg": turn}))[
            "speed_in_range"
        ]
        assert finding.figure == f"200 mm/s wanted, {most:g} mm/s possible"


def test_hatch_lines_are_begun_at_speed_too():
    drawing = read_svg(
        "a.svg",
        b'<svg xmlns="http://www.w3.org/2000/svg"><rect width="40" height="40"/></svg>',
    )
    hatch = OperationPart(kind="hatch", shape="drawn", drawing=drawing, offset_mm=0,
                          spacing_mm=1, hatch_deg=30, speed_mm_s=80)  # fmt: skip
    off = RASTER.model_copy(update={"on": False})
    spec = job(place={"turn_deg": 20}, operations=(off, hatch))
    found = list(runs(pipeline_of(SOLID).bands(spec)))
    assert len(found) > 8
    for before, start, end, _, speed in found:
        way = (end - start) / np.hypot(*(end - start))
        able = 1 / math.hypot(way[0] / 3000, way[1] / 500)
        assert np.hypot(*(start - before)) == pytest.approx(speed**2 / (2 * able), abs=0.01)


@settings(max_examples=20, deadline=None)
@given(st.floats(0.01, 1), st.booleans(), st.integers(1, 5), st.floats(-90, 90))
def test_rows_lie_evenly_whatever_is_written(pitch, inches, decimals, turn):
    spec = job(size={"pitch_mm": round(pitch, 4), "width_mm": 3, "height_mm": 3},
               machine={"inches": inches, "decimals": decimals}, place={"turn_deg": turn})  # fmt: skip
    assert unevenness(spec) <= 0.05
    rows = [(start, end) for _, start, end, *_ in runs(pipeline_of(SOLID).bands(spec))]
    across = np.array([-math.sin(math.radians(turn)), math.cos(math.radians(turn))])
    at = np.unique(np.round([float(start @ across) for start, _ in rows], 9))
    apart = np.abs(np.diff(sorted({round(v, 3) for v in at})))
    apart = apart[apart > pitch / 2]
    assert np.abs(apart - spec.size.pitch_mm).max() <= 0.06 * pitch + 0.002
    for start, end in rows:
        bend = math.degrees(math.atan2(*(end - start)[::-1])) - turn
        assert abs((bend + 90) % 180 - 90) < 1


def test_what_the_controller_cannot_write_is_said():
    coarse = {"inches": True, "decimals": 3, "most_decimals": 3}
    fine = job(size={"pitch_mm": 0.05, "width_mm": 5, "height_mm": 5}, machine=coarse)
    finding = told(fine)["rows_are_written_evenly"]
    assert finding.figure.startswith("50.8 %")  # 0.0254 of 0.05 mm
    free = changed(fine, machine={"most_decimals": 5})
    assert as_written(free).machine.decimals == 5
    assert told(free)["rows_are_written_evenly"].figure == "0.5 %"


@pytest.mark.parametrize(
    ("pitch", "even"), [(0.1, True), (0.5, True), (0.12, False), (0.51, True)]
)
def test_rows_on_motor_steps(pitch, even):
    spec = job(size={"pitch_mm": pitch}, machine={"step_mm": 0.0125})
    found = told(spec)["rows_on_motor_steps"]
    assert hasattr(found, "fix") == (not even)
    if not even:
        fixed = changed(spec, **found.fix.changes)
        assert not hasattr(told(fixed)["rows_on_motor_steps"], "fix")


def test_power_words_are_counted():
    """10 % of a controller whose full power is S100: 11 levels, tones below 5 % unburned."""
    spec = job(
        dots={"method": "power", "steps": 256}, burn={"power": 10}, machine={"s_max": 100}
    )
    assert "11 levels, 12 tones unburned" in told(spec)["power_is_written_finely"].figure
    fine = changed(spec, machine={"s_max": 10000})
    assert told(fine)["power_is_written_finely"].figure == "256"
    plain = job(burn={"power": 10.4}, machine={"s_max": 100})
    assert "3.8 % off" in told(plain)["power_is_written_finely"].figure


def test_the_link_is_held_against_what_is_burned():
    chance = np.random.default_rng(1).integers(0, 2, (200, 200)).astype(np.uint8) * 255
    spec = JobSpec(artwork=ArtworkPart(width_px=200, height_px=200),
                   size={"width_mm": 20, "height_mm": 20, "pitch_mm": 0.1},
                   burn={"speed_mm_s": 300}, machine={"link_baud": 19200},
                   dots={"method": "threshold"}, place={"x_mm": 100, "y_mm": 100})  # fmt: skip
    pipeline = pipeline_of(chance)
    findings, _ = check_job(pipeline.facts(spec))
    (slow,) = [one for one in findings if one.rule == "link_keeps_up"]
    needed = float(slow.figure.split()[0]) * 1000
    whole, text = pipeline.estimate(spec).seconds, 0

    class Sink:
        def write(self, data):
            nonlocal text
            text += len(data)

    pipeline.write_gcode(spec, Sink())
    assert needed == pytest.approx(text / whole, rel=0.1)
    fixed = changed(spec, **slow.fix.changes)
    assert "link_keeps_up" not in {one.rule for one in check_job(pipeline.facts(fixed))[0]}


@settings(max_examples=60, deadline=None)
@given(st.sampled_from(["x", "y"]), st.booleans(), st.floats(0.05, 0.4), st.floats(0.5, 2))
def test_variants_keep_the_dose_however_rows_run(rows, cross, pitch, times):
    """Power over speed and distance of rows, by definition, as the job would burn it."""
    size = {"pitch_mm": round(pitch, 3), "dot_pitch_mm": round(pitch * times, 3)}
    spec = job(
        size=size,
        burn={"rows": rows, "cross": cross, "power": 20},
        machine={"spot_mm": 0.02},
    )
    dose = job_dose_j_mm2(spec)
    for one in variants(spec):
        change = {"pitch_mm": one.pitch_mm}
        if one.pitch_mm != spec.size.pitch_mm:
            change["dot_pitch_mm"] = None
        burned = changed(spec, size=change, burn={"speed_mm_s": one.speed_mm_s, "power": one.power,
                                                  "passes": one.passes})  # fmt: skip
        # Power is given to 0.1 %.
        assert job_dose_j_mm2(burned) == pytest.approx(dose, rel=0.06 / one.power + 1e-3)
        assert one.speed_mm_s <= min(quickest_mm_s(spec) * 1e9, 500)
