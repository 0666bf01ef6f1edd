"""Where the beam's energy went, on any grid one asks for."""

import numpy as np
from numba import njit
from numpy.typing import NDArray


def burn_map(
    strokes: NDArray[np.float64],
    left: float,
    front: float,
    cell: tuple[float, float],
    shape: tuple[int, int],
    turn: tuple[float, float, float] = (0.0, 0.0, 0.0),
) -> NDArray[np.float32]:
    """Return energy in full-power seconds by cell.

    Parameters
    ----------
    strokes : ndarray, shape (n, 6)
        x0, y0, x1, y1 in mm, energy and height.
    left, front : float
        Lower left corner of the grid in mm.
    cell : tuple of float
        Width and height of a cell in mm.
    shape : tuple of int
        Rows and columns; row 0 is the farthest from the operator (highest y).
    turn : tuple of float
        Degrees counter-clockwise, and the x and y about which the grid lies
        turned.

    Returns
    -------
    ndarray of float32, shape `shape`
        Energy outside the grid is left out.
    """
    out = np.zeros(shape, np.float32)
    strokes = turned_back(strokes, *turn)
    if len(strokes):
        _deposit(strokes, left, front, cell[0], cell[1], out)
    return out


def turned_back(
    strokes: NDArray[np.float64],
    degrees: float,
    x: float,
    y: float,
    *,
    ends: tuple[int, int] = (0, 2),
) -> NDArray[np.float64]:
    """Return strokes turned back about a place; `ends` are the columns of their x."""
    if not degrees or not len(strokes):
        return strokes
    cos, sin = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
    out = strokes.copy()
    for at in ends:
        dx, dy = strokes[:, at] - x, strokes[:, at + 1] - y
        out[:, at] = x + cos * dx + sin * dy
        out[:, at + 1] = y - sin * dx + cos * dy
    return out


@njit(cache=True, nogil=True)
def _deposit(strokes, left, front, across, down, out) -> None:  # type: ignore[no-untyped-def]
    """Spread each stroke over the cells it crosses, by length."""
    rows, cols = out.shape
    for i in range(strokes.shape[0]):
        x0, y0 = (strokes[i, 0] - left) / across, (strokes[i, 1] - front) / down
        x1, y1 = (strokes[i, 2] - left) / across, (strokes[i, 3] - front) / down
        energy = strokes[i, 4]
        low, high = min(x0, x1), max(x0, x1)
        long = high - low
        if abs(x1 - x0) < 1e-9 and abs(y1 - y0) > 1e-9:
            _upright(x0, min(y0, y1), max(y0, y1), energy, out)
            continue
        if long < 1e-12 or abs(y1 - y0) > 1e-9:
            _sprinkle(x0, y0, x1, y1, energy, out)
            continue
        row = rows - 1 - int(np.floor(y0))
        if row < 0 or row >= rows:
            continue
        for col in range(max(int(np.floor(low)), 0), min(int(np.ceil(high)), cols)):
            part = min(high, col + 1.0) - max(low, float(col))
            if part > 0:
                out[row, col] += np.float32(energy * part / long)


@njit(cache=True, nogil=True)
def _upright(x, low, high, energy, out) -> None:  # type: ignore[no-untyped-def]
    """Spread a stroke along Y over the cells it crosses, by length."""
    rows, cols = out.shape
    col = int(np.floor(x))
    if col < 0 or col >= cols:
        return
    for up in range(max(int(np.floor(low)), 0), min(int(np.ceil(high)), rows)):
        part = min(high, up + 1.0) - max(low, float(up))
        if part > 0:
            out[rows - 1 - up, col] += np.float32(energy * part / (high - low))


@njit(cache=True, nogil=True)
def _sprinkle(x0, y0, x1, y1, energy, out) -> None:  # type: ignore[no-untyped-def]
    """Spread a slanting stroke in short pieces."""
    rows, cols = out.shape
    pieces = max(1, int(np.ceil(8 * np.hypot(x1 - x0, y1 - y0))))
    for k in range(pieces):
        share = (k + 0.5) / pieces
        col = int(np.floor(x0 + share * (x1 - x0)))
        row = rows - 1 - int(np.floor(y0 + share * (y1 - y0)))
        if 0 <= row < rows and 0 <= col < cols:
            out[row, col] += np.float32(energy / pieces)
