"""sRGB codes and linear light, as tables.

Source: IEC 61966-2-1:1999 (sRGB transfer function); luminance weights of
linear R, G, B from ITU-R BT.709.
"""

import numpy as np
from numba import njit
from numpy.typing import NDArray

LUMINANCE = (0.2126, 0.7152, 0.0722)

_STEPS = 1 << 14


def to_linear(coded: NDArray[np.floating]) -> NDArray[np.float64]:
    """Return linear light 0..1 of sRGB-coded values 0..1, any shape."""
    values = np.asarray(coded, np.float64)
    return np.where(values <= 0.04045, values / 12.92, ((values + 0.055) / 1.055) ** 2.4)


def to_coded(linear: NDArray[np.floating]) -> NDArray[np.float64]:
    """Return sRGB-coded values 0..1 of linear light 0..1, any shape."""
    values = np.clip(np.asarray(linear, np.float64), 0, 1)
    return np.where(
        values <= 0.0031308, values * 12.92, 1.055 * values ** (1 / 2.4) - 0.055
    )


LINEAR_OF_CODE: NDArray[np.float32] = to_linear(np.arange(256) / 255).astype(np.float32)
"""Linear light of the 256 codes."""
LINEAR_OF_CODE.setflags(write=False)

CODE_OF_LINEAR: NDArray[np.uint8] = np.searchsorted(
    to_linear((np.arange(255) + 0.5) / 255), np.arange(_STEPS + 1) / _STEPS
).astype(np.uint8)
"""Nearest code of linear light in steps of 1/16384; exact for all 256 codes."""
CODE_OF_LINEAR.setflags(write=False)


@njit(cache=True, nogil=True)
def _mix_rows(
    rgb: NDArray[np.uint8],
    out: NDArray[np.uint8],
    tables: NDArray[np.float32],
    codes: NDArray[np.uint8],
) -> None:
    rows, cols = out.shape
    top = np.float32(codes.size - 1)
    for y in range(rows):
        for x in range(cols):
            red, green, blue = rgb[y, x, 0], rgb[y, x, 1], rgb[y, x, 2]
            if red == green and green == blue:
                out[y, x] = red
            else:
                light = tables[0, red] + tables[1, green] + tables[2, blue]
                out[y, x] = codes[int(min(light, np.float32(1)) * top + np.float32(0.5))]


_WEIGHTED = (np.array(LUMINANCE, np.float32)[:, None] * LINEAR_OF_CODE).copy()


def luminance_codes(rgb: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Return the sRGB-coded luminance of colours.

    Parameters
    ----------
    rgb : ndarray of uint8, shape (rows, cols, 3)

    Returns
    -------
    ndarray of uint8, shape (rows, cols)
        Grays stay exactly what they are.
    """
    out = np.zeros(rgb.shape[:2], np.uint8)
    _mix_rows(np.ascontiguousarray(rgb), out, _WEIGHTED, CODE_OF_LINEAR)
    return out
