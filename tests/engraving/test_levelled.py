"""A V-tool follows an uneven bed: each point as much higher as the bed lies there."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from engraving.jobspec import JobSpec
from engraving.place import frame_of, touched_off_at
from support.jobs import changed, pipeline_of

PICTURE = np.tile(np.linspace(0, 255, 160).astype(np.uint8), (80, 1))


def carving(level=None, **parts):
    spec = JobSpec(size={"width_mm": 40, "height_mm": 20, "pitch_mm": 0.25})
    return changed(
        spec,
        artwork={"width_px": 160, "height_px": 80},
        machine={"kind": "vtool", "name": "Mill", **parts.pop("machine", {})},
        blank={"thickness_mm": 3},
        dots={"method": "line", "ruling_cm": 4},
        marking={"way": "carved", "carving": {"deepest_mm": 1, "level": level}},
        place={"x_mm": 30, "y_mm": 50, **parts.pop("place", {})},
    )


def points(spec):
    """Places on the bed, heights, and where the tool is down."""
    moves = list(pipeline_of(PICTURE).bands(spec))
    x, y, z, down = (
        np.concatenate(one)
        for one in zip(*((m.x * m.unit_mm, m.y * m.unit_mm, m.z * m.unit_mm, m.power > 0) for m in moves), strict=True)
    )  # fmt: skip
    return np.stack([x, y], axis=1), z, down


def tilted(across, back, step=10.0):
    """A plane bed: so much higher a mm to the right, and to the back."""
    rows = [[across * step * c + back * step * r for c in range(12)] for r in range(12)]
    return {"x_mm": 0, "y_mm": 0, "step_x_mm": step, "step_y_mm": step, "heights_mm": rows}


@settings(max_examples=15)
@given(st.floats(-0.02, 0.02), st.floats(-0.02, 0.02), st.sampled_from([0, 7, 90]))
def test_on_a_plane_bed_every_point_is_moved_by_the_plane(across, back, turn):
    place = {"turn_deg": turn}
    spec = carving(tilted(across, back), place=place)
    where, z, down = points(spec)
    flat_where, flat_z, flat_down = points(carving(place=place))
    lift = across * (where[:, 0] - 50) + back * (where[:, 1] - 60)
    # Its own heights are those of the flat bed: no deeper, no shallower.
    own = z - lift
    assert own[down].min() == pytest.approx(flat_z[flat_down].min(), abs=2e-3)
    assert own[~down].max() == pytest.approx(flat_z[~flat_down].max(), abs=2e-3)
    assert where[down].min(axis=0) == pytest.approx(
        flat_where[flat_down].min(axis=0), abs=2e-3
    )
    long = np.hypot(*np.diff(where, axis=0).T)[down[1:]]
    assert long.max() <= 10 / 4 + 2e-3


def test_a_hollow_is_followed_between_its_samples():
    level = {
        "x_mm": 30, "y_mm": 50, "step_x_mm": 20, "step_y_mm": 10,
        "heights_mm": [[0, 0, 0], [0, -0.4, 0], [0, 0, 0]],
    }  # fmt: skip
    where, z, down = points(carving(level))
    _, flat, flat_down = points(carving())
    middle = np.hypot(*(where - (50, 60)).T) < 1
    # Zero is where it was touched off, in the hollow's middle: all around is higher.
    assert z[down & middle].min() >= flat[flat_down].min() - 2e-3
    corner = (where[:, 0] < 31) & down
    assert (z[corner].max() - flat[flat_down].max()) == pytest.approx(0.4, abs=0.05)


@pytest.mark.parametrize("origin", ["front-left", "back-right"])
def test_the_bed_is_the_bed_wherever_the_machine_counts_from(origin):
    spec = carving(tilted(0.01, 0.0), machine={"origin": origin})
    where, z, down = points(spec)
    bed_x, _ = frame_of(spec.machine).to_bed(where[:, 0], where[:, 1])
    _, flat, flat_down = points(carving(machine={"origin": origin}))
    own = z - 0.01 * (bed_x - 50)
    assert own[down].min() == pytest.approx(flat[flat_down].min(), abs=2e-3)


def test_a_beam_follows_no_heights():
    level = tilted(0.01, 0)
    beam = changed(carving(level), machine={"kind": "co2"}, marking={"way": "dots"})
    found = list(pipeline_of(PICTURE).bands(beam))
    assert all(moves.z is None for moves in found)


def test_every_pocket_counts_from_where_the_tool_was_touched_off():
    fixture = {"columns": 2, "gap_x_mm": 20, "pockets": [{"on": True}, {"on": True}]}
    spec = changed(
        carving(tilted(0.01, 0.0, step=30)), fixture=fixture, blank={"width_mm": 60}
    )
    where, z, down = points(spec)
    _, flat, flat_down = points(carving())
    assert touched_off_at(spec) == (50, 60)
    for pocket in (where[:, 0] < 80, where[:, 0] >= 110):
        own = (z - 0.01 * (where[:, 0] - 50))[pocket & down]
        assert own.min() == pytest.approx(flat[flat_down].min(), abs=2e-3)
