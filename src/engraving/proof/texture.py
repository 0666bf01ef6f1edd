"""The look of the material itself: grain, speckle, brushing, drawn from a seed.

Each kind is a tile of noise that repeats without a seam, made once; a picture
takes its part of it by millimetres, so that the material stays put under zoom
and pan. It is an illustration of the kind of material, not of a piece of it.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import lru_cache
from types import MappingProxyType
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.jobspec import SizePart, SubstratePart
from engraving.proof.view import Window

Field = NDArray[np.float32]

_SIDE = 1024
_PX_MM = 8.0
_SEED = 20261125
_HALF = 128
_RINGS = 3
"""The halving of the tile with a millimetre a pixel."""


@dataclass(frozen=True)
class Place:
    """A part of the material in mm, and how many pixels it is shown with.

    Attributes
    ----------
    left_mm, top_mm : float
        Its corner, from wherever the material is counted, x right, y down.
    width_mm, height_mm : float
    width_px, height_px : int
    """

    left_mm: float
    top_mm: float
    width_mm: float
    height_mm: float
    width_px: int
    height_px: int


def place_on_blank(size: SizePart, window: Window) -> Place:
    """Return where a window of the grid lies on the material, from the blank's middle."""
    along, pitch = size.cell_mm
    return Place(
        (window.left - size.cols / 2) * along + size.offset_x_mm,
        (window.top - size.rows / 2) * pitch - size.offset_y_mm,
        window.cols * along,
        window.rows * pitch,
        window.width_px,
        window.height_px,
    )


def _noise(generator: np.random.Generator, down_mm: float, across_mm: float) -> Field:
    """Return noise of mean 0 and deviation 1, smoothed by so many mm each way.

    By its spectrum, so that it closes on itself and any width costs the same.
    """
    spectrum = np.fft.rfft2(generator.standard_normal((_SIDE, _SIDE)))
    rows, columns = np.fft.fftfreq(_SIDE), np.fft.rfftfreq(_SIDE)
    down, across = (
        np.exp(-2 * (np.pi * mm * _PX_MM * frequency) ** 2)
        for mm, frequency in ((down_mm, rows), (across_mm, columns))
    )
    soft = np.fft.irfft2(spectrum * down[:, None] * across[None, :], (_SIDE, _SIDE))
    return np.asarray((soft - soft.mean()) / soft.std(), np.float32)


def _wood(generator: np.random.Generator) -> Field:
    """Long fibres across, in bands of early and late wood, with dark pores."""
    bands = np.sin(_noise(generator, 3.0, 40.0) * 4.5)
    fibres = _noise(generator, 0.12, 6.0)
    pores = np.minimum(_noise(generator, 0.06, 1.4) + 1.6, 0)
    return 0.55 * bands + 0.45 * fibres + 0.8 * pores


def _slate(generator: np.random.Generator) -> Field:
    return 0.75 * _noise(generator, 0.12, 0.12) + 0.55 * _noise(generator, 2.2, 3.5)


def _brushed(generator: np.random.Generator) -> Field:
    return 0.9 * _noise(generator, 0.05, 14.0) + 0.3 * _noise(generator, 0.3, 30.0)


def _leather(generator: np.random.Generator) -> Field:
    """Creases where two smooth fields cross nought."""
    creases = -np.exp(-4 * np.abs(_noise(generator, 0.45, 0.45)))
    finer = -np.exp(-5 * np.abs(_noise(generator, 0.25, 0.25)))
    return 1.4 * creases + 0.9 * finer + 0.35 * _noise(generator, 3.0, 3.0)


def _stone(generator: np.random.Generator) -> Field:
    return 0.6 * _noise(generator, 1.2, 1.2) + 0.6 * _noise(generator, 0.25, 0.25)


def _fibre(generator: np.random.Generator) -> Field:
    return 0.6 * _noise(generator, 0.1, 0.9) + 0.6 * _noise(generator, 0.8, 0.12)


TEXTURES: Mapping[str, Callable[[np.random.Generator], Field]] = MappingProxyType(
    {
        "wood": _wood,
        "slate": _slate,
        "brushed": _brushed,
        "leather": _leather,
        "stone": _stone,
        "fibre": _fibre,
    }
)
"""Kinds of material by name."""

_KEPT_PX = 2_000_000
"""The shades of pictures as large as a screen are kept."""

_DEPTH: Mapping[str, float] = MappingProxyType(
    {"wood": 22, "slate": 16, "brushed": 11, "leather": 20, "stone": 14, "fibre": 13}
)
"""How strongly a kind shows at full strength, in 128ths of the light."""


@lru_cache(maxsize=16)
def _levels(kind: str, *, turned: bool) -> tuple[Field, ...]:
    """Return the tile and its halvings, mean 0."""
    tile = TEXTURES[kind](np.random.default_rng(_SEED))
    tile = np.ascontiguousarray(tile.T if turned else tile)
    tile -= tile.mean()
    found = [tile]
    while found[-1].shape[0] > _SIDE // 64:
        side = found[-1].shape[0] // 2
        half = cv2.resize(found[-1], (side, side), interpolation=cv2.INTER_AREA)
        found.append(np.asarray(half, np.float32))
    return tuple(found)


def texture(substrate: SubstratePart, place: Place) -> NDArray[np.uint8] | None:
    """Return what the light is multiplied by, in 128ths; None without a texture.

    Returns
    -------
    ndarray of uint8, shape (height_px, width_px)
        128 changes nothing.
    """
    if substrate.texture == "none" or not substrate.texture_strength:
        return None
    look = substrate.texture, substrate.texture_strength, substrate.texture_turned
    small = place.width_px * place.height_px <= _KEPT_PX
    return _lately(look, place) if small else _shade(look, place)


def _shade(look: tuple[str, float, bool], place: Place) -> NDArray[np.uint8]:
    kind, strength, turned = look
    levels = _levels(kind, turned=turned)
    # The halving that is a little finer than the picture, averaged the rest of the way.
    per_px = max(place.width_mm / place.width_px, place.height_mm / place.height_px)
    at = int(np.clip(np.floor(np.log2(max(per_px * _PX_MM, 1))), 0, len(levels) - 1))
    depth = _DEPTH[kind] * strength / 100
    field = _part(levels[at], place, _PX_MM / 2**at)
    shade = np.rint(_HALF + depth * field).clip(0, 255).astype(np.uint8)
    shade.flags.writeable = False
    return shade


_lately = lru_cache(maxsize=16)(_shade)
"""Under a slider only the dots change; the material is the same in every picture."""


def softness(substrate: SubstratePart, place: Place) -> Field | None:
    """Return by what a depth is multiplied: soft parts carve deeper, hard ones less.

    None where the material carves evenly. Its pale bands count as the soft ones (early
    wood is; common practice, no source).
    """
    if not substrate.uneven:
        return None
    kind = "wood" if substrate.texture == "none" else substrate.texture
    # Rings and patches, not single fibres: those are finer than a beam carves.
    tile = _levels(kind, turned=substrate.texture_turned)[_RINGS]
    field = _part(tile, place, _PX_MM / 2**_RINGS) / np.float32(2 * tile.std())
    return np.asarray(1 + np.float32(substrate.uneven / 100) * field.clip(-1, 1))


def _part(tile: Field, place: Place, px_mm: float) -> Field:
    x = place.left_mm + (np.arange(place.width_px) + 0.5) * place.width_mm / place.width_px
    y = (
        place.top_mm
        + (np.arange(place.height_px) + 0.5) * place.height_mm / place.height_px
    )
    side = tile.shape[0]
    columns = ((x * px_mm - 0.5) % side).astype(np.float32)
    rows = ((y * px_mm - 0.5) % side).astype(np.float32)
    closed = np.pad(tile, ((0, 1), (0, 1)), mode="wrap")
    maps = (
        np.tile(columns, (place.height_px, 1)),
        np.tile(rows[:, None], (1, place.width_px)),
    )
    return np.asarray(cv2.remap(closed, *maps, cv2.INTER_LINEAR), np.float32)


def faded(shade: NDArray[np.uint8] | None, share: float) -> NDArray[np.uint8] | None:
    """Return a share of a material's light and shade."""
    if shade is None or share == 1:
        return shade
    return np.asarray(cv2.addWeighted(shade, share, shade, 0, _HALF * (1 - share)))


def textured(rgb: NDArray[np.uint8], shade: NDArray[np.uint8] | None) -> NDArray[np.uint8]:
    """Return colours in the material's own light and shade, shape (rows, cols, 3)."""
    if shade is None:
        return rgb
    size = rgb.shape[1], rgb.shape[0]
    if shade.shape != rgb.shape[:2]:
        shade = np.asarray(cv2.resize(shade, size, interpolation=cv2.INTER_LINEAR))
    factor: Any = cv2.merge([shade, shade, shade])
    return np.asarray(cv2.multiply(rgb, factor, scale=1 / _HALF), np.uint8)
