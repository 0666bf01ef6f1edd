"""Time: rest to rest, rows, and what must always hold. Uniform acceleration."""

import numpy as np
import pytest

from engraving.motion import estimate
from engraving.recipe import (
    areal_dose_j_mm2,
    line_energy_j_mm,
    quickest_row_speed_mm_s,
    run_up_mm,
    watts,
)
from engraving.toolpath import Moves


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
    found = estimate([path(square, 10)], (1000, 1000), 100)
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
