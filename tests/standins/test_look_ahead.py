"""A controller that plans few moves together is slower over short ones, as estimated."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from engraving.motion import estimate
from engraving.toolpath import Moves
from standins.controller.interpreter import Block
from standins.controller.machine import Machine, Settings


def moved(points, speeds, junction, ahead):
    """Seconds by the stand-in's clock and as estimated, for moves in mm and mm/s."""
    machine = Machine(Settings(junction=junction, look_ahead=ahead))
    taken = 0.0
    for (x, y), speed in zip(points, speeds, strict=True):
        # As a controller does: run on only while the plan is full, so that it never starves.
        machine._queue.add(Block(x, y, speed, 0.0, follows=True))
        taken += machine.run(keep=ahead - machine.settings.between_plans)
    taken += machine.run()
    x, y = (np.rint(np.array(points, float)[:, i] * 1000).astype(np.int32) for i in (0, 1))
    moves = Moves(
        x, y, np.zeros(len(x), np.int32), np.asarray(speeds, np.float32) * 60, 0.001
    )
    found = estimate([moves], (3000, 3000), 300, junction, ahead)
    return taken, found.seconds


@settings(max_examples=40, deadline=None)
@given(
    st.lists(
        st.tuples(st.integers(-60, 60), st.integers(-60, 60), st.integers(20, 300)),
        min_size=2, max_size=40,
    ),
    st.sampled_from([1, 2, 3, 5, 16]),
    st.sampled_from([0.0, 0.01]),
)  # fmt: skip
def test_any_path_at_any_depth(steps, ahead, junction):
    points, speeds, at = [], [], (0.0, 0.0)
    for dx, dy, speed in steps:
        if dx or dy:
            at = (at[0] + dx / 10, at[1] + dy / 10)
            points.append(at)
            speeds.append(speed)
    if points:
        taken, planned = moved(points, speeds, junction, ahead)
        assert taken == pytest.approx(planned, rel=0.01, abs=2e-3)


@pytest.mark.parametrize(
    ("dot", "ahead", "held_to"), [(0.1, 16, 95), (0.2, 16, 135), (0.1, 64, 195)]
)
def test_short_moves_hold_the_head_back(dot, ahead, held_to):
    """Within n moves the head can stop: v² = 2·a·(n − 1)·x, plain kinematics."""
    held = math.sqrt(2 * 3000 * (ahead - 1) * dot)
    assert held == pytest.approx(held_to, abs=1)
    wide = 120.0
    points = [(dot * i, 0.0) for i in range(1, round(wide / dot) + 1)]
    taken, planned = moved(points, [300.0] * len(points), 0.01, ahead)
    assert planned == pytest.approx(wide / held + held / 3000, rel=0.02)
    assert taken == pytest.approx(planned, rel=0.01)
    free = moved(points, [300.0] * len(points), 0.01, 2048)[1]
    assert free == pytest.approx(wide / 300 + 300 / 3000, rel=1e-3)
