"""Moves of a piece that lies at an angle on the bed."""

from dataclasses import replace

import numpy as np

from engraving.geometry.rotation import turned_points
from engraving.toolpath.moves import Moves


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
