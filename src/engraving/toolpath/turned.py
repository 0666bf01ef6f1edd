"""Moves of a piece that lies at an angle on the bed."""

import math
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from engraving.toolpath.moves import Moves


def turned_points(
    points: NDArray[np.float64], middle: tuple[float, float], angle_deg: float
) -> NDArray[np.float64]:
    """Return points, shape (n, 2), turned counter-clockwise about another."""
    cos, sin = math.cos(math.radians(angle_deg)), math.sin(math.radians(angle_deg))
    return (points - middle) @ np.array([[cos, sin], [-sin, cos]]) + middle


def turned_moves(moves: Moves, middle_mm: tuple[float, float], angle_deg: float) -> Moves:
    """Return moves turned about a point of the machine's frame.

    The rows stay rows: each point is turned by itself and rounded again, so it
    lies at most 1.5 output units beside the exact one, and dots are burned as
    they were made.

    Parameters
    ----------
    middle_mm : tuple of float
        The point, in mm.
    angle_deg : float
        Counter-clockwise in the machine's frame.
    """
    if not angle_deg or not len(moves):
        return moves
    across, up = (middle / moves.unit_mm for middle in middle_mm)
    points = np.stack([moves.x, moves.y], axis=1).astype(np.float64)
    x, y = np.floor(turned_points(points, (across, up), angle_deg) + 0.5).T
    rows = moves.rows
    if rows < 0:
        burned = moves.y[moves.power > 0]
        rows = int(np.count_nonzero(np.diff(burned))) + (1 if burned.size else 0)
    return replace(
        moves,
        x=x.astype(np.int32),
        y=y.astype(np.int32),
        rows=rows,
    )
