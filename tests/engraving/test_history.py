"""Times corrected by a machine's own burns."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from engraving.history import LEAST, Burned, Correction, fitted
from engraving.motion import Clock
from engraving.toolpath import Moves
from standins.controller import Machine, Settings

PLANNED = np.array([60.0, 130, 300, 700, 1500, 2400, 3600])
ROWS = np.array([200, 150, 800, 900, 1200, 4000, 2500])


def burns(planned, took, rows):
    return [Burned(*one) for one in zip(planned, took, rows, strict=True)]


def test_a_fit_is_found_though_some_burns_were_disturbed():
    took = 1.2 * PLANNED + 0.05 * ROWS
    took[[1, 4]] *= 3
    found = fitted(burns(PLANNED, took, ROWS))
    assert (found.factor, found.row_s) == (pytest.approx(1.2), pytest.approx(0.05))
    assert found.seconds(1000, 500) == pytest.approx(1225)
    assert found.burns == 7


def test_a_factor_alone_where_burns_are_alike():
    found = fitted(burns([100] * 3, [108, 110, 131], [300] * 3))
    assert (found.factor, found.row_s) == (pytest.approx(1.10), 0)
    assert found.spread == pytest.approx(0.1, abs=0.1)


def test_too_few_say_nothing():
    assert fitted(burns([100] * (LEAST - 1), [150] * (LEAST - 1), [9] * 2)) == Correction()
    assert Correction().seconds(77, 5) == 77


@given(
    st.lists(
        st.tuples(st.floats(1, 1e5), st.floats(0.3, 3), st.integers(0, 5000)),
        min_size=3, max_size=12,
    ),
    st.floats(1, 1e5), st.integers(0, 5000),
)  # fmt: skip
def test_whatever_was_burned_a_time_comes_of_it(history, planned, rows):
    found = fitted([Burned(p, p * share, n) for p, share, n in history])
    assert np.isfinite(found.seconds(planned, rows))
    assert found.seconds(planned, rows) >= 0.2 * planned
    assert found.spread >= 0


def job(chance):
    """Rows of dots of a made-up picture, as moves."""
    wide, rows = chance.uniform(8, 60), int(chance.integers(6, 30))
    speed, pitch = chance.choice([80.0, 150.0, 300.0]) * 60, chance.uniform(0.1, 0.3)
    ends = np.sort(chance.uniform(10, 10 + wide, 12))
    x, y, power, feed = [], [], [], []
    for row in range(rows):
        along = ends if row % 2 == 0 else ends[::-1]
        x += [along[0], *along[1:]]
        y += [row * pitch] * 12
        power += [0, *([400, 0] * 6)[:11]]
        feed += [0.0, *[speed] * 11]
    unit = 0.001
    return Moves(
        np.rint(np.array(x) / unit).astype(np.int32),
        np.rint(np.array(y) / unit).astype(np.int32),
        np.array(power, np.int32), np.array(feed, np.float32), unit,
    )  # fmt: skip


def planned_s(moves):
    clock = Clock((3000.0, 3000.0), 300.0, (0.0, 0.0), 0.01, 0)
    clock.add(moves)
    return clock.seconds


def took_s(moves, acceleration):
    """What the stand-in takes, whose true acceleration the program does not know."""
    machine = Machine(Settings(acceleration=acceleration, rapid=220.0))
    machine.take("G21 G90 M4 S0")
    for x, y, s, f in zip(moves.x, moves.y, moves.power, moves.feed, strict=True):
        word = f"G1 F{f:g}" if f else "G0"
        machine.take(f"{word} X{x / 1000:g} Y{y / 1000:g} S{s}")
    machine.run()
    return machine.clock_s


@pytest.mark.parametrize("seed", [1, 5])
@pytest.mark.parametrize("acceleration", [700.0, 1500.0, 9000.0])
def test_ten_burns_halve_the_error_of_hidden_accelerations(acceleration, seed):
    chance = np.random.default_rng(seed)
    jobs = [job(chance) for _ in range(25)]
    history = [
        Burned(planned_s(one), took_s(one, acceleration), len(one.starts())) for one in jobs
    ]
    correction = fitted(history[:10])
    later = history[10:]
    before = np.mean([abs(one.planned_s / one.took_s - 1) for one in later])
    after = np.mean(
        [abs(correction.seconds(one.planned_s, one.rows) / one.took_s - 1) for one in later]
    )
    assert before > 0.05
    assert after < before / 2
