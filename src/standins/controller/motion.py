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

POSITION, SPEED, CLOCK, HEAD_X, HEAD_Y, BEAM_S, HEAD_Z = range(7)
"""Places in the state array: mm into the block, mm/s, s, mm, mm, s, mm."""

STROKE_FIELDS = 6
"""A stroke: x0, y0, x1, y1 in mm, energy in full-power seconds, height in mm."""


@njit(cache=True, nogil=True)
def length(dx, dy, dz):  # type: ignore[no-untyped-def]
    """Return how long a way is."""
    return np.sqrt(dx * dx + dy * dy + dz * dz)


@njit(cache=True, nogil=True)
def along(dx, dy, dz, accelerations):  # type: ignore[no-untyped-def]
    """Return the acceleration in a direction.

    Over the bed the two axes' ones are an ellipse's radii; aslant the head is held back
    by whichever is slower, that or the height's.
    """
    long = length(dx, dy, dz)
    if long == 0:
        return accelerations[0]
    able = np.inf
    if dx != 0 or dy != 0:
        able = long / np.hypot(dx / accelerations[0], dy / accelerations[1])
    if dz != 0:
        able = min(able, accelerations[2] * long / abs(dz))
    return able


@njit(cache=True, nogil=True)
def at_corner(a, b, accelerations, junction):  # type: ignore[no-untyped-def]
    """Return how fast a head may go from one direction (of length 1) into another.

    As on a circle that touches both and passes the corner at `junction` mm: of
    radius junction·s/(1 − s), s the sine of half the angle between them. Without
    a junction it stops, unless they are one line within 3°.
    """
    cosine = min(max(a[0] * b[0] + a[1] * b[1] + a[2] * b[2], -1.0), 1.0)
    if junction <= 0:
        return np.inf if cosine > STRAIGHT else 0.0
    half_angle = 0.5 * (np.pi - np.arccos(cosine))
    s = np.sin(half_angle)
    if s >= 1 - 1e-12:
        return np.inf
    able = along(b[0] - a[0], b[1] - a[1], b[2] - a[2], accelerations)
    return np.sqrt(able * junction * s / (1 - s))


@njit(cache=True, nogil=True)
def way_of(blocks, k, start):  # type: ignore[no-untyped-def]
    """Return the way of block k, `start` where the first begins."""
    if k == 0:
        return blocks[0, 0] - start[0], blocks[0, 1] - start[1], blocks[0, 4] - start[2]
    before, own = blocks[k - 1], blocks[k]
    return own[0] - before[0], own[1] - before[1], own[4] - before[4]


@njit(cache=True, nogil=True)
def exit_speeds(blocks, start, accelerations, junction, exits) -> None:  # type: ignore[no-untyped-def]
    """Fill the highest speed at the end of each block, looking all the way ahead.

    Corners are taken as `at_corner` says, at most at the slower block's speed; the
    head stops after the last one.

    Parameters
    ----------
    blocks : ndarray, shape (n, 5)
        x, y in mm, speed in mm/s, power 0..1, height in mm.
    start : tuple of float
        x, y and height where the first block begins.
    exits : ndarray, shape (n,)
        Receives mm/s.
    """
    n = blocks.shape[0]
    exits[n - 1] = 0.0
    for k in range(n - 1, 0, -1):
        ax, ay, az = way_of(blocks, k - 1, start)
        bx, by, bz = way_of(blocks, k, start)
        first, second = length(ax, ay, az), length(bx, by, bz)
        allowed = 0.0
        if first > 0 and second > 0:
            a = (ax / first, ay / first, az / first)
            b = (bx / second, by / second, bz / second)
            corner = at_corner(a, b, accelerations, junction)
            allowed = min(corner, blocks[k - 1, 2], blocks[k, 2])
        reachable = np.sqrt(exits[k] ** 2 + 2 * along(bx, by, bz, accelerations) * second)
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
        x0, y0, z0 = state[HEAD_X], state[HEAD_Y], state[HEAD_Z]
        dx, dy, dz = blocks[done, 0] - x0, blocks[done, 1] - y0, blocks[done, 4] - z0
        left = length(dx, dy, dz)
        if left < 1e-9:
            done += 1
            continue
        feed, power = blocks[done, 2], blocks[done, 3]
        ux, uy, uz = dx / left, dy / left, dz / left
        acceleration = along(dx, dy, dz, accelerations)
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
            state[HEAD_Z] = blocks[done, 4]
            state[SPEED] = min(state[SPEED], exits[done])
            done += 1
        else:
            state[HEAD_X], state[HEAD_Y] = x0 + ux * gone, y0 + uy * gone
            state[HEAD_Z] = z0 + uz * gone
    return done, written


@njit(cache=True, nogil=True)
def brake(blocks, state, accelerations):  # type: ignore[no-untyped-def]
    """Bring a moving head to rest along its blocks, the beam off; return how many ended."""
    done = 0
    while state[SPEED] > 0 and done < blocks.shape[0]:
        x0, y0, z0 = state[HEAD_X], state[HEAD_Y], state[HEAD_Z]
        speed = state[SPEED]
        dx, dy, dz = blocks[done, 0] - x0, blocks[done, 1] - y0, blocks[done, 4] - z0
        left = length(dx, dy, dz)
        if left < 1e-9:
            done += 1
            continue
        able = along(dx, dy, dz, accelerations)
        way = min(speed * speed / (2 * able), left)
        after = np.sqrt(max(speed * speed - 2 * able * way, 0.0)) if way == left else 0.0
        state[CLOCK] += (speed - after) / able
        state[SPEED] = after
        state[HEAD_X], state[HEAD_Y] = x0 + dx * way / left, y0 + dy * way / left
        state[HEAD_Z] = z0 + dz * way / left
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
    return np.zeros(7)
