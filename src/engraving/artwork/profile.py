"""Tone curves and primaries out of a colour profile, for more than eight bits.

ICC.1 (ISO 15076-1): tags of gray and of three-component matrix profiles, curve
types ``curv`` and ``para``. Relative colorimetric, so white is the profile's own.
"""

import struct
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from engraving.colour.light import to_linear

_HEADER = 128
# Columns: red, green, blue of sRGB in XYZ of D50 (IEC 61966-2-1, Bradford-adapted).
_SRGB_D50 = np.array([
    [0.4360747, 0.3850649, 0.1430804],
    [0.2225045, 0.7168786, 0.0606169],
    [0.0139322, 0.0971045, 0.7141733],
])  # fmt: skip
_Curve = Callable[[NDArray[np.float64]], NDArray[np.float64]]


@dataclass(frozen=True)
class Tones:
    """How samples 0..1 become linear light.

    Attributes
    ----------
    tables : list of ndarray of float32, shape (65536,)
        Linear light of each code, for gray or for red, green and blue.
    matrix : ndarray, shape (3, 3)
        From linear samples to linear sRGB; the unit matrix for gray.
    """

    tables: list[NDArray[np.float32]]
    matrix: NDArray[np.float64]


def plain_tones(channels: int, gamma: float | None = None) -> Tones:
    """Return the tones of sRGB, or of a file gamma (PNG gAMA: code = light^gamma)."""
    codes = np.arange(65536) / 65535
    light = to_linear(codes) if gamma is None else codes ** (1 / gamma)
    return Tones([light.astype(np.float32)] * channels, np.eye(3))


def profile_tones(profile: bytes, channels: int) -> Tones | None:
    """Return the tones of a profile; None where it is damaged or of another kind."""
    try:
        tags = _tags(profile)
        names = ["kTRC"] if channels == 1 else ["rTRC", "gTRC", "bTRC"]
        codes = np.arange(65536) / 65535
        tables = [_curve(tags[name])(codes).astype(np.float32) for name in names]
        if channels == 1:
            return Tones(tables, np.eye(3))
        own = np.stack([_xyz(tags[name]) for name in ("rXYZ", "gXYZ", "bXYZ")], axis=1)
        return Tones(tables, np.linalg.inv(_SRGB_D50) @ own)
    except (KeyError, struct.error, ValueError, IndexError, np.linalg.LinAlgError):
        return None


def _tags(profile: bytes) -> dict[str, bytes]:
    (count,) = struct.unpack_from(">I", profile, _HEADER)
    if count > 200:
        raise ValueError("too many tags")
    found = {}
    for at in range(count):
        name, start, size = struct.unpack_from(">4sII", profile, _HEADER + 4 + 12 * at)
        found[name.decode("ascii", "replace")] = profile[start : start + size]
    return found


def _xyz(tag: bytes) -> NDArray[np.float64]:
    if tag[:4] != b"XYZ ":
        raise ValueError("no XYZ")
    return np.array(struct.unpack_from(">3i", tag, 8)) / 65536


def _curve(tag: bytes) -> _Curve:
    if tag[:4] == b"curv":
        return _sampled(tag)
    if tag[:4] == b"para":
        return _formula(tag)
    raise ValueError("no curve")


def _sampled(tag: bytes) -> _Curve:
    (count,) = struct.unpack_from(">I", tag, 8)
    values = np.frombuffer(tag, ">u2", count, 12).astype(np.float64)
    if count == 0:
        return lambda codes: codes
    if count == 1:
        return lambda codes: codes ** (values[0] / 256)
    at = np.linspace(0, 1, count)
    return lambda codes: np.interp(codes, at, values / 65535)


def _formula(tag: bytes) -> _Curve:
    """Return one of the five parametric curves (ICC.1, 10.18)."""
    (kind,) = struct.unpack_from(">H", tag, 8)
    counts = (1, 3, 4, 5, 7)
    told = [v / 65536 for v in struct.unpack_from(f">{counts[kind]}i", tag, 12)]
    rest = [1.0, 0.0, 0.0, 0.0, 0.0, 0.0][len(told) - 1 :]
    values: list[float] = told + rest
    g, a, b, c, d, e, f = values
    if kind == 0:
        return lambda codes: codes**g
    if kind in (1, 2):
        low = c if kind == 2 else 0.0
        return lambda x: np.where(x >= -b / a, np.maximum(a * x + b, 0) ** g + low, low)
    low, up = (f, e) if kind == 4 else (0.0, 0.0)
    return lambda x: np.where(x >= d, np.maximum(a * x + b, 0) ** g + up, c * x + low)
