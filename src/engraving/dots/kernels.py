"""Weight tables of error diffusion, each with its source.

A table names, for every neighbour not yet visited, its share of a dot's
error. Rows are the current row and the two below; ``*`` marks the dot.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

import numpy as np
from numpy.typing import NDArray

REACH = 3
"""No table reaches farther sideways or down than three dots."""


@dataclass(frozen=True)
class Kernel:
    """One weight table.

    Attributes
    ----------
    divisor : int
        What the weights are divided by.
    rows : tuple of str
        Weights, from the current row down, centred on ``*``.
    source : str
        Where the table was published.
    """

    divisor: int
    rows: tuple[str, ...]
    source: str

    def taps(self) -> list[tuple[int, int, int]]:
        """Return (dx, dy, weight), dx > 0 ahead in scan direction."""
        star = self.rows[0].split().index("*")
        return [
            (i - star, dy, int(word))
            for dy, row in enumerate(self.rows)
            for i, word in enumerate(row.split())
            if word not in ("*", ".", "0")
        ]

    def shares(self) -> NDArray[np.float32]:
        """Return float32 shares, shape (4, 7); column 3 is below the dot."""
        table = np.zeros((REACH + 1, 2 * REACH + 1), np.float32)
        for dx, dy, weight in self.taps():
            table[dy, dx + REACH] = np.float32(weight / self.divisor)
        return table


KERNELS: Mapping[str, Kernel] = MappingProxyType(
    {
        "floyd-steinberg": Kernel(
            16,
            (". . * 7 .", ". 3 5 1 ."),
            "Floyd & Steinberg 1976, Proc. SID 17(2):75-77",
        ),
        "jarvis": Kernel(
            48,
            (". . * 7 5", "3 5 7 5 3", "1 3 5 3 1"),
            "Jarvis, Judice & Ninke 1976, Computer Graphics and Image Processing 5:13-40",
        ),
        "stucki": Kernel(
            42,
            (". . * 8 4", "2 4 8 4 2", "1 2 4 2 1"),
            "Stucki 1981, IBM Research Report RZ 1060",
        ),
        "atkinson": Kernel(
            8,
            (". . * 1 1", ". 1 1 1 .", ". . 1 . ."),
            "Unpublished; passes on 6/8 of the error",
        ),
        "burkes": Kernel(
            32,
            (". . * 8 4", "2 4 8 4 2"),
            "Burkes 1988, unpublished forum paper",
        ),
        "sierra": Kernel(
            32,
            (". . * 5 3", "2 4 5 4 2", ". 2 3 2 ."),
            "Sierra 1989, unpublished",
        ),
        "sierra-two-row": Kernel(
            16,
            (". . * 4 3", "1 2 3 2 1"),
            "Sierra 1990, unpublished",
        ),
        "sierra-lite": Kernel(
            4,
            (". . * 2 .", ". 1 1 . ."),
            "Sierra 1990, unpublished",
        ),
        "stevenson-arce": Kernel(
            200,
            (
                ". . . * . 32 .",
                "12 . 26 . 30 . 16",
                ". 12 . 26 . 12 .",
                "5 . 12 . 12 . 5",
            ),
            "Stevenson & Arce 1985, J. Optical Society of America A 2:1009-1013",
        ),
    }
)
"""Tables by method name."""
