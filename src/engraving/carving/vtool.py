"""The geometry of a V-tool.

At depth d a cone of angle θ with a flat tip t wide cuts t + 2·d·tan(θ/2) wide (plain
geometry of a cone).
"""

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from engraving.errors import InputError
from engraving.jobspec import BOARD_LEFT_MM, ToolPart

Values = NDArray[np.float64]

_HAIR_MM = 0.001


@dataclass(frozen=True)
class VTool:
    """A V-tool, and how deep it may go.

    Attributes
    ----------
    angle_deg : float
        Between its flanks.
    tip_mm : float
        Width of its flat tip.
    deepest_mm : float
    """

    angle_deg: float
    tip_mm: float
    deepest_mm: float

    @classmethod
    def of(cls, tool: ToolPart, deepest_mm: float) -> "VTool":
        """Return a tool limited to a depth, and to where its cone ends."""
        made = cls(tool.angle_deg, tool.tip_mm, deepest_mm)
        return cls(
            tool.angle_deg, tool.tip_mm, min(deepest_mm, made.depth(tool.diameter_mm))
        )

    @property
    def tangent(self) -> float:
        """Half the width a mm of depth adds."""
        return math.tan(math.radians(self.angle_deg / 2))

    @property
    def widest_mm(self) -> float:
        """Width at its deepest."""
        return self.width(self.deepest_mm)

    def width(self, depth_mm: float) -> float:
        """Return how wide it cuts at a depth.

        Examples
        --------
        >>> round(VTool(60, 0.1, 5).width(2), 4)
        2.4094
        """
        return self.tip_mm + 2 * depth_mm * self.tangent

    def depth(self, width_mm: float) -> float:
        """Return the depth at which it cuts so wide; 0 where that is below its tip.

        Examples
        --------
        >>> VTool(90, 0, 5).depth(3)
        1.5000000000000002
        """
        return max(width_mm - self.tip_mm, 0.0) / (2 * self.tangent)

    def depths(self, widths_mm: NDArray[Any]) -> Values:
        """Return depths of widths, none deeper than its deepest."""
        deep = np.maximum(widths_mm - self.tip_mm, 0.0) / (2 * self.tangent)
        return np.asarray(np.minimum(deep, self.deepest_mm), np.float64)

    def tones(self, least_mm: float, most_mm: float, z_step_mm: float) -> int:
        """Return how many tones widths in a range can show, bare board among them.

        Two are told apart where their depths are a step of Z apart.
        """
        most = min(most_mm, self.widest_mm)
        least = max(least_mm, self.tip_mm)
        if most < least:
            return 1
        return int((most - least) / (2 * z_step_mm * self.tangent) + 1e-9) + 2

    def unevenness(self, uneven_mm: float, width_mm: float) -> float:
        """Return by which share of a line's width heights that differ change it."""
        return 2 * uneven_mm * self.tangent / width_mm if width_mm else 0.0


def within_board(deepest_mm: float, board_mm: float) -> float:
    """Return a depth that leaves enough of a board of some thickness, 0 unknown."""
    most = max(board_mm - BOARD_LEFT_MM, _HAIR_MM)
    return min(deepest_mm, most) if board_mm else deepest_mm


def hold_to_board(deepest_mm: float, board_mm: float) -> None:
    """Refuse a depth that does not leave enough of a board.

    Parameters
    ----------
    board_mm : float
        Its thickness; 0: unknown.

    Raises
    ------
    InputError
        With both figures.
    """
    most = board_mm - BOARD_LEFT_MM
    if board_mm and deepest_mm > most + 1e-9:
        raise InputError(
            f"The tool would go {deepest_mm:g} mm deep into a board of {board_mm:g} mm; "
            f"it may go {max(most, 0):g} mm, so that {BOARD_LEFT_MM:g} mm of it stay.",
            field="deepest",
        )
