"""A card of lines cut on the stand-in, measured, and the tool they give back."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from engraving.cards import card_job, lay_out, starting_card, tool_found
from engraving.errors import ArtworkError
from engraving.jobspec import JobSpec, MachinePart
from standins.controller.removal import depth_map, scratch_mm
from support.cards import EMPTY, burned
from support.jobs import changed, pipeline_of

MILL = {"name": "Mill", "kind": "vtool", "max_speed_mm_s": 60}
CELL = 0.01


def width(machine, spec, cell, **words):
    """How wide a line is in its middle, as a loupe with a scale shows it."""
    x, y = cell.middle
    found = depth_map(machine, {
        "left": spec.place.x_mm + x, "front": spec.place.y_mm + y - cell.height_mm / 2,
        "cell": (CELL, CELL), "rows": round(cell.height_mm / CELL), "cols": 2, **words,
    })  # fmt: skip
    return float(np.count_nonzero(found[:, 0] > 0) * CELL)


def card(**machine):
    part = MachinePart.model_validate(machine)
    return card_job(JobSpec(machine=part, card=starting_card("lines", part)))


def test_lines_tell_the_tool_that_cut_them():
    """The operator thinks it is a sharp 90°; it is 62° and 0.15 mm flat."""
    spec = card(**MILL)
    pipeline = pipeline_of(EMPTY)
    machine = burned(spec, pipeline, tool="spindle")
    assert machine.clock_s == pytest.approx(pipeline.estimate(spec).seconds, rel=0.03)
    real = {"angle_deg": 62, "tip_mm": 0.15}
    cells = lay_out(spec).cells
    found = tool_found((one.depth_mm, width(machine, spec, one, **real)) for one in cells)
    assert found.angle_deg == pytest.approx(62, abs=1)
    assert found.tip_mm == pytest.approx(0.15, abs=0.02)
    assert found.lines == len(cells) == 15


def test_a_point_marks_lines_of_one_width():
    spec = card(name="Needle", kind="drag", depth_mm=0.1, max_speed_mm_s=80)
    machine = burned(spec, tool="point")
    cells = lay_out(spec).cells
    seen = [width(machine, spec, one, material="brass") for one in cells]
    assert seen == pytest.approx([scratch_mm("brass")] * len(cells), abs=2 * CELL)


@given(
    st.floats(10, 150),
    st.floats(0, 2),
    st.lists(st.floats(0.05, 5), min_size=2, max_size=9, unique_by=lambda d: round(d, 2)),
)
def test_the_cone_that_cut_lines_is_given_back(angle, tip, depths):
    tangent = np.tan(np.radians(angle / 2))
    found = tool_found([(d, tip + 2 * d * tangent) for d in depths])
    assert found.angle_deg == pytest.approx(angle, abs=1e-3)
    assert found.tip_mm == pytest.approx(tip, abs=1e-6)


@pytest.mark.parametrize(
    ("measured", "says"),
    [
        ([], "two depths"),
        ([(1, 2), (1, 2.1)], "two depths"),
        ([(0.5, 2), (1, 1)], "must be wider"),
    ],
)
def test_what_no_cone_cuts_is_said(measured, says):
    with pytest.raises(ArtworkError, match=says):
        tool_found(measured)


@pytest.mark.parametrize(
    ("kind", "machine", "stops"),
    [("lines", MILL, False), ("lines", {}, True), ("power-speed", MILL, True)],
)
def test_a_card_for_another_kind_of_machine_is_stopped(kind, machine, stops):
    part = MachinePart.model_validate(machine)
    spec = card_job(JobSpec(machine=part, card=starting_card(kind, part)))
    spec = changed(spec, blank={"width_mm": 200, "height_mm": 200, "thickness_mm": 3})
    found, _ = pipeline_of(EMPTY).check(spec)
    assert ("card_suits_the_machine" in {one.rule for one in found}) == stops
    deep = {
        "card": {
            **spec.card.model_dump(mode="json"),
            "columns": {"first": 1, "last": 4, "count": 2},
        }
    }
    through = {one.rule for one in pipeline_of(EMPTY).check(changed(spec, **deep))[0]}
    assert ("board_is_left" in through) == (kind == "lines" and bool(machine))
