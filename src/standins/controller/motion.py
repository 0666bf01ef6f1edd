"""Time-stepped motion of a head along straight blocks.

The head is moved in ticks. In every tick its speed may rise or fall by
acceleration times tick; it never goes faster than the block's feed, nor
faster than lets it reach the block's exit speed in the way that is left.
Nothing here is computed in closed form, so that a clock that is can be held
against it.
"""

import numpy as np
from numba import njit
from numpy.typing import NDArray

TICK_S = 1e-4

STRAIGHT = 0.9986
"""Cosine of the bend that is no corner yet: rounded positions bend lines a little."""

POSITION, SPEED, CLOCK, HEAD_X, HEAD_Y, BEAM_S = range(6)
"""Places in the state array: mm into the block, mm/s, s, mm, mm, s."""

STROKE_FIELDS = 6
"""A stroke: x0, y0, x1, y1 in mm, energy in full-power seconds, height in mm."""


@njit(cache=True, nogil=True)
def along(dx, dy, accelerations):  # type: ignore[no-untyped-def]
    """Return the acceleration in a direction: the axes' ones are an ellipse's radii."""
    long = np.hypot(dx, dy)
    if long == 0:
        return accelerations[0]
    return long / np.hypot(dx / accelerations[0], dy / accelerations[1])


@njit(cache=True, nogil=True)
def at_corner(ax, ay, bx, by, accelerations, junction):  # type: ignore[no-untyped-def]
    """Return how fast a head may go from one direction (of length 1) into another.

    As on a circle that touches both and passes the corner at `junction` mm: of
    radius junction·s/(1 − s), s the sine of half the angle between them. Without
    a junction it stops, unless they are one line within 3°.
    """
    cosine = min(max(ax * bx + ay * by, -1.0), 1.0)
    if junction <= 0:
        return np.inf if cosine > STRAIGHT else 0.0
    half_angle = 0.5 * (np.pi - np.arccos(cosine))
    s = np.sin(half_angle)
    if s >= 1 - 1e-12:
        return np.inf
    return np.sqrt(along(bx - ax, by - ay, accelerations) * junction * s / (1 - s))


@njit(cache=True, nogil=True)
def exit_speeds(blocks, x, y, accelerations, junction, exits) -> None:  # type: ignore[no-untyped-def]
    """Fill the highest speed at the end of each block, looking all the way ahead.

    Corners are taken as `at_corner` says, at most at the slower block's speed; the
    head stops after the last one.

    Parameters
    ----------
    blocks : ndarray, shape (n, 5)
        x, y in mm, speed in mm/s, power 0..1, height in mm.
    x, y : float
        Where the first block begins.
    exits : ndarray, shape (n,)
        Receives mm/s.
    """
    n = blocks.shape[0]
    exits[n - 1] = 0.0
    for k in range(n - 1, 0, -1):
        start_x = blocks[k - 2, 0] if k > 1 else x
        start_y = blocks[k - 2, 1] if k > 1 else y
        ax, ay = blocks[k - 1, 0] - start_x, blocks[k - 1, 1] - start_y
        bx, by = blocks[k, 0] - blocks[k - 1, 0], blocks[k, 1] - blocks[k - 1, 1]
        first, second = np.hypot(ax, ay), np.hypot(bx, by)
        allowed = 0.0
        if first > 0 and second > 0:
            corner = at_corner(
                ax / first, ay / first, bx / second, by / second, accelerations, junction
            )
            allowed = min(corner, blocks[k - 1, 2], blocks[k, 2])
        reachable = np.sqrt(exits[k] ** 2 + 2 * along(bx, by, accelerations) * second)
        exits[k - 1] = min(allowed, reachable)


@njit(cache=True, nogil=True)
def travel(blocks, follows, exits, state, strokes, accelerations, play, budget):  # type: ignore[no-untyped-def]
    """Move the head along blocks until they or the time budget (s) are used up.

    Returns how many blocks were finished and how many strokes were written.
    A block's beam energy is written in strokes, one for each stretch of equal
    speed. `play` is what this machine does wrong: a delay of the beam in s,
    and half the slack of its drive in mm; both put marks aside along the way.
    """
    done, written = 0, 0
    until = state[CLOCK] + budget
    n = blocks.shape[0]
    while done < n and state[CLOCK] < until and written < strokes.shape[0] - 1:
        x0, y0 = state[HEAD_X], state[HEAD_Y]
        dx, dy = blocks[done, 0] - x0, blocks[done, 1] - y0
        left = np.hypot(dx, dy)
        if left < 1e-9:
            done += 1
            continue
        feed, power = blocks[done, 2], blocks[done, 3]
        ux, uy = dx / left, dy / left
        acceleration = along(dx, dy, accelerations)
        change = acceleration * TICK_S
        begun, energy, held = 0.0, 0.0, -1.0
        gone = 0.0
        while True:
            before = state[SPEED]
            after = max(left - gone - before * TICK_S, 0.0)
            limit = np.sqrt(exits[done] ** 2 + 2 * acceleration * after)
            speed = min(before + change, feed, limit)
            speed = max(speed, before - change, 0.5 * change)
            step = 0.5 * (before + speed) * TICK_S
            share = 1.0
            if step >= left - gone:
                share = (left - gone) / step
                step = left - gone
            seconds = TICK_S * share
            if power > 0 and held >= 0 and abs(speed - held) > 1e-9:
                late = play[0] * held - play[1]
                _stroke(strokes, written, x0, y0, ux, uy, begun + late, gone + late, energy)
                strokes[written, 5] = blocks[done, 4]
                written += 1
                begun, energy = gone, 0.0
            held = speed
            lit = power * speed / feed if follows[done] else power
            energy += lit * seconds
            state[BEAM_S] += seconds if power > 0 else 0.0
            gone += step
            state[SPEED] = before + (speed - before) * share
            state[CLOCK] += seconds
            if gone >= left - 1e-12 or written >= strokes.shape[0] - 1:
                break
            if state[CLOCK] >= until:
                break
        if power > 0 and gone > begun:
            late = play[0] * held - play[1]
            _stroke(strokes, written, x0, y0, ux, uy, begun + late, gone + late, energy)
            strokes[written, 5] = blocks[done, 4]
            written += 1
        if gone >= left - 1e-12:
            state[HEAD_X], state[HEAD_Y] = blocks[done, 0], blocks[done, 1]
            state[SPEED] = min(state[SPEED], exits[done])
            done += 1
        else:
            state[HEAD_X], state[HEAD_Y] = x0 + ux * gone, y0 + uy * gone
    return done, written


@njit(cache=True, nogil=True)
def brake(blocks, state, accelerations):  # type: ignore[no-untyped-def]
    """Bring a moving head to rest along its blocks, the beam off; return how many ended."""
    done = 0
    while state[SPEED] > 0 and done < blocks.shape[0]:
        x0, y0, speed = state[HEAD_X], state[HEAD_Y], state[SPEED]
        dx, dy = blocks[done, 0] - x0, blocks[done, 1] - y0
        left = np.hypot(dx, dy)
        if left < 1e-9:
            done += 1
            continue
        able = along(dx, dy, accelerations)
        way = min(speed * speed / (2 * able), left)
        after = np.sqrt(max(speed * speed - 2 * able * way, 0.0)) if way == left else 0.0
        state[CLOCK] += (speed - after) / able
        state[SPEED] = after
        state[HEAD_X], state[HEAD_Y] = x0 + dx * way / left, y0 + dy * way / left
        if way == left:
            done += 1
    state[SPEED] = 0.0
    return done


@njit(cache=True, nogil=True)
def _stroke(strokes, at, x, y, ux, uy, begun, gone, energy):  # type: ignore[no-untyped-def]
    strokes[at, 0] = x + ux * begun
    strokes[at, 1] = y + uy * begun
    strokes[at, 2] = x + ux * gone
    strokes[at, 3] = y + uy * gone
    strokes[at, 4] = energy


def new_state() -> NDArray[np.float64]:
    """Return the state of a head at rest at the origin, its clock at 0."""
    return np.zeros(6)
