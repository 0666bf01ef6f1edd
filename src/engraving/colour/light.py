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

_FINE_STEPS = 1 << 20
LINEAR_OF_SIXTEEN: NDArray[np.float32] = to_linear(np.arange(65536) / 65535).astype(
    np.float32
)
"""Linear light of the 65536 codes of sixteen bits."""
LINEAR_OF_SIXTEEN.setflags(write=False)

SIXTEEN_OF_LINEAR: NDArray[np.uint16] = np.rint(
    to_coded(np.arange(_FINE_STEPS + 1) / _FINE_STEPS) * 65535
).astype(np.uint16)
"""Code of linear light in steps of 2^-20, within one of sixteen bits' codes."""
SIXTEEN_OF_LINEAR.setflags(write=False)

SHARE_OF_BYTE: NDArray[np.float32] = (np.arange(256) / 255).astype(np.float32)
"""Masks are shares, not light: their codes are straight."""
SHARE_OF_BYTE.setflags(write=False)
BYTE_OF_SHARE: NDArray[np.uint8] = np.rint(np.arange(_STEPS + 1) * (255 / _STEPS)).astype(
    np.uint8
)
BYTE_OF_SHARE.setflags(write=False)


def light_tables(
    codes: NDArray[np.uint8] | NDArray[np.uint16],
) -> tuple[NDArray[np.float32], NDArray[np.uint8] | NDArray[np.uint16]]:
    """Return the tables to linear light and back for a plane's codes."""
    if codes.dtype == np.uint16:
        return LINEAR_OF_SIXTEEN, SIXTEEN_OF_LINEAR
    return LINEAR_OF_CODE, CODE_OF_LINEAR


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
                light = min(max(light, np.float32(0)), np.float32(1))
                out[y, x] = codes[int(light * top + np.float32(0.5))]


def luminance_codes(
    rgb: NDArray[np.uint8], weights: tuple[float, float, float] = LUMINANCE
) -> NDArray[np.uint8]:
    """Return the sRGB-coded gray of colours, mixed in linear light.

    Parameters
    ----------
    rgb : ndarray of uint8, shape (rows, cols, 3)
    weights : tuple of float
        Of linear red, green and blue; they sum to 1. Luminance by default.

    Returns
    -------
    ndarray of uint8, shape (rows, cols)
        Grays stay exactly what they are.
    """
    out = np.zeros(rgb.shape[:2], np.uint8)
    tables = np.array(weights, np.float32)[:, None] * LINEAR_OF_CODE
    _mix_rows(np.ascontiguousarray(rgb), out, tables, CODE_OF_LINEAR)
    return out
