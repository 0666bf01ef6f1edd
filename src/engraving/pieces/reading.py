"""A photo of a finished piece, read: squared, evenly lit, held against its proof."""

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.camera.lamp import fit_lamp, lamp_at, lamp_over, lamp_terms
from engraving.colour.light import LINEAR_OF_CODE, luminance_codes, to_coded
from engraving.colour.lightness import WEIGHTS, lightness
from engraving.errors import ArtworkError
from engraving.geometry.homography import mapped
from engraving.pieces.amend import Learned
from engraving.pieces.expected import Expected
from engraving.pieces.find import (
    Points,
    find_by_content,
    find_by_outline,
    find_by_tones,
    likeness,
    squared_by,
)
from engraving.pieces.laid import Found, laid_over, refined
from engraving.pieces.tones import Tone, learned, weights

Codes = NDArray[np.uint8]
Values = NDArray[np.float64]

_LEAST_PX = 250
_FITS = 0.75
_SURE = 0.85
_FOLLOWED = 3
_LIKELY = 0.4
_NEARLY_BARE = 0.995
_BETTER = 0.15
_LEAST_BARE = 40
_SPANS = 0.5
_UNEVEN = 0.08
_DARKEST_LAMP = 0.25
_FULL_CODE, _OVEREXPOSED = 254, 0.1
_LEAST_RANGE = 6.0
_BEYOND = 0.6
"""Light where a photo ends before its piece: a plain gray."""
_LEAST_SEEN = 0.6
_ORDERS = {
    "turned by 180°": (3, 2, 1, 0),
    "turned by a quarter": (1, 3, 0, 2),
    "turned by a quarter the other way": (2, 0, 3, 1),
    "mirrored": (1, 0, 3, 2),
}
"""Other orders of four corners, and what a photo is that fits by them."""


@dataclass(frozen=True)
class Reading:
    """What a photo of a piece shows.

    Attributes
    ----------
    corners : tuple of (x, y)
        Where the piece's four points (`Points`) lie in the photo's pixels.
    found_by : {"content", "tones", "outline", "points"}
    fits : float
        How well tones agree in their order, −1..1 (rank correlation of the cells).
    off : float
        Root mean square of the tones' distance in L*, by the area they cover.
    tones : tuple of Tone
    learned : Learned
    look : ndarray of uint8, shape (rows, cols, 3)
        The piece as photographed, squared and in even light; row 0 the back.
    difference : ndarray of float32, shape (rows, cols)
        L* of each cell less what was expected; NaN where nothing can be said.
    turned : int
        How it lay in the photo, in degrees, to the quarter.
    """

    corners: tuple[tuple[float, float], ...]
    found_by: str
    fits: float
    off: float
    tones: tuple[Tone, ...]
    learned: Learned
    look: Codes
    difference: NDArray[np.float32]
    turned: int


def read_piece(
    photo: Codes, expected: Expected, places: Sequence[tuple[float, float]] | None = None
) -> Reading:
    """Return what a photo of a piece shows against what was expected.

    Parameters
    ----------
    photo : ndarray of uint8, shape (rows, cols, 3)
        sRGB.
    expected : Expected
    places : sequence of four points, optional
        The piece's four points in the photo's pixels, in the order of `Points`.
        Without, it is looked for.

    Raises
    ------
    ArtworkError
        When the piece is not found, is not this one, is turned or mirrored, or
        lies in such light that nothing can be learned from it.
    """
    if min(photo.shape[:2]) < _LEAST_PX:
        raise ArtworkError(f"The photo is too small; {_LEAST_PX} pixels are the least.")
    _hold_tones(expected)
    linear = LINEAR_OF_CODE[photo]
    light = np.asarray(linear @ WEIGHTS.astype(np.float32), np.float32)
    coded = to_coded(light).astype(np.float32)
    found = _found(photo, coded, expected, places)
    cells = np.where(expected.on_blank, _cells(expected, found, light), np.nan)
    _hold_order(expected, found, coded)
    _hold_fit(likeness_in_any_light(expected, cells), _LIKELY)
    if np.isfinite(cells).sum() < _LEAST_SEEN * expected.on_blank.sum():
        raise ArtworkError("Less than two thirds of the piece can be seen in this photo.")
    _hold_exposure(expected, found, photo)
    seen, lamp = _even(expected, cells)
    _hold_fit(rank_correlation(expected, seen), _FITS)
    return _told(expected, found, (linear, lamp), seen)


def _hold_tones(expected: Expected) -> None:
    light = lightness(expected.light[expected.on_blank].astype(np.float64))
    if np.ptp(np.percentile(light, [2, 98])) < _LEAST_RANGE:
        raise ArtworkError("This picture has too few tones to learn from.")


def _found(
    photo: Codes, coded: NDArray[np.float32], expected: Expected,
    places: Sequence[tuple[float, float]] | None,
) -> Found:  # fmt: skip
    drawn = likeness(expected)

    def alike(one: Found) -> float:
        return _alike(expected, one, coded)

    if places is not None:
        by_hand = squared_by(expected, places)
        return max(by_hand, refined(expected, drawn, by_hand, coded), key=alike)
    first = find_by_content(expected, luminance_codes(photo))
    ways = [refined(expected, drawn, first, coded)] if first is not None else []
    if not ways or alike(ways[0]) < _SURE:
        more = [*find_by_tones(expected, coded), *find_by_outline(expected, photo)]
        more = sorted((one for one in more if _whole(expected, one)), key=alike)
        ways += [refined(expected, drawn, one, coded) for one in more[-_FOLLOWED:]]
    best = max((one for one in ways if _whole(expected, one)), key=alike, default=None)
    if best is not None and alike(best) > _LIKELY:
        return best
    names = ", ".join(Points.of_piece(expected.size, expected.blank).names)
    raise ArtworkError(
        "The piece was not found in this photo; drag the four rings to its points "
        f"({names})."
    )


def _whole(expected: Expected, found: Found) -> bool:
    """Whether a map is one that a camera makes: no fold, no side three times another."""
    cols, rows = expected.frame.pixels
    ends = np.array([[0, 0], [cols, 0], [cols, rows], [0, rows]], np.float64)
    seen = mapped(found.matrix, ends)
    if not np.isfinite(seen).all() or not cv2.isContourConvex(seen.astype(np.float32)):
        return False
    sides = np.hypot(*(np.roll(seen, -1, axis=0) - seen).T)
    scaled = sides / np.array([cols, rows, cols, rows])
    return bool(scaled.max() < 3 * scaled.min())


def _cells(expected: Expected, found: Found, light: NDArray[np.float32]) -> Values:
    """Return the luminance of each cell of the frame in the photo."""
    frame = expected.frame
    laid = laid_over(found.matrix, light, frame.pixels)
    size = frame.cells(expected.cell_mm)
    return cv2.resize(laid, size, interpolation=cv2.INTER_AREA).astype(np.float64)


def _alike(expected: Expected, found: Found, light: NDArray[np.float32]) -> float:
    return likeness_in_any_light(expected, _cells(expected, found, light))


def _burned(expected: Expected, seen: Values) -> NDArray[np.bool_]:
    """Return the cells to compare by: that a piece has a bare rim says not which it is."""
    burned = expected.shares[..., 0] < _NEARLY_BARE
    return np.asarray(np.isfinite(seen) & expected.on_blank & burned)


def likeness_in_any_light(expected: Expected, seen: Values) -> float:
    """Return how burned cells agree besides what a lamp may do, -1..1; 0 where few are.

    The correlation of lightness expected and seen, a surface of second order taken off
    both: a pale mark in uneven light differs less by its tones than by its place.
    """
    use = _burned(expected, seen)
    if use.sum() < _LEAST_BARE:
        return 0.0
    rows, cols = seen.shape
    y, x = np.nonzero(use)
    terms = lamp_terms((x + 0.5) / cols, (y + 0.5) / rows)
    left = []
    for light in (expected.light[use].astype(np.float64), seen[use]):
        values = lightness(light)
        weights, *_ = np.linalg.lstsq(terms, values, rcond=None)
        left.append(values - terms @ weights)
    size = float(np.linalg.norm(left[0]) * np.linalg.norm(left[1]))
    return float(left[0] @ left[1]) / size if size > 1e-9 else 0.0


def rank_correlation(expected: Expected, seen: Values) -> float:
    """Return Spearman's rank correlation of burned cells, expected and seen; 0: few are."""
    use = _burned(expected, seen)
    if use.sum() < _LEAST_BARE:
        return 0.0
    # Rounded, lest cells that are alike be ranked by what arithmetic left over.
    one, other = (_ranks(np.round(v, 5)) for v in (expected.light[use], seen[use]))
    if min(np.ptp(one), np.ptp(other)) == 0:
        return 0.0
    return float(np.corrcoef(one, other)[0, 1])


def _ranks(values: NDArray[np.floating]) -> NDArray[np.float64]:
    """Return each value's rank, the mean one of equals.

    SciPy has it in its statistics, which take a second to be imported by every process.
    """
    _, which, counts = np.unique(values, return_inverse=True, return_counts=True)
    return np.asarray((np.cumsum(counts) - (counts - 1) / 2)[which.reshape(-1)])


def _bare(expected: Expected) -> NDArray[np.bool_]:
    """Return the cells on the blank round which nothing is burned either."""
    bare = (expected.shares[..., 0] >= _NEARLY_BARE).astype(np.uint8)
    blank = expected.on_blank.astype(np.uint8)
    near = np.ones((3, 3), np.uint8)
    # The blank's edge is rounded, and lies less surely than what is burned.
    inner = cv2.erode(blank, np.ones((5, 5), np.uint8), borderValue=1)
    alone = cv2.erode(bare, near, borderValue=1)
    return np.asarray((alone > 0) & (inner > 0))


def _even(expected: Expected, light: Values) -> tuple[Values, Values]:
    """Return cells' luminance in even light, 0..1, and the lamp's.

    Raises
    ------
    ArtworkError
        When too little bare blank is seen, or the light on it is too uneven.
    """
    bare = _bare(expected) & np.isfinite(light)
    rows, cols = light.shape
    y, x = np.nonzero(bare)
    spans = len(x) and min(np.ptp(x) / cols, np.ptp(y) / rows)
    if len(x) < _LEAST_BARE or spans < _SPANS:
        raise ArtworkError(
            "Too little of the bare blank is seen beside the picture to tell its light "
            "from its tones; a swatch card tells more of this material."
        )
    along, up = (x + 0.5) / cols, 1 - (y + 0.5) / rows
    seen = light[bare]
    fitted = fit_lamp(along, up, seen)
    off = seen / np.maximum(lamp_at(fitted, along, up), 1e-4) - 1
    lamp = lamp_over(fitted, rows, cols)
    inside = lamp[expected.on_blank]
    # Grain is as wide as a cell or two; a shadow is not.
    wide = float(np.sqrt(np.mean(_smoothed(off, bare) ** 2)))
    if wide > _UNEVEN or inside.min() < _DARKEST_LAMP * inside.max():
        raise ArtworkError(
            "The light on the bare blank is too uneven, as if a shadow lay over it; take "
            "the photo again in even light."
        )
    lamp = np.maximum(lamp, 1e-3)
    return np.clip(light / lamp * expected.ground, 0, 1), lamp


def _hold_exposure(expected: Expected, found: Found, photo: Codes) -> None:
    """Refuse a photo in which colours of the bare blank are as bright as codes go."""
    full = (photo.max(axis=2) >= _FULL_CODE).astype(np.float32)
    bare = _bare(expected)
    if bare.any() and np.nanmean(_cells(expected, found, full)[bare]) > _OVEREXPOSED:
        raise ArtworkError(
            "The bare blank is overexposed in this photo; expose it less bright."
        )


def _smoothed(off: Values, bare: NDArray[np.bool_]) -> Values:
    plane = np.zeros(bare.shape)
    plane[bare] = off
    share = cv2.blur(bare.astype(np.float64), (7, 7))
    return np.asarray(cv2.blur(plane, (7, 7))[bare] / share[bare])


def _hold_order(expected: Expected, found: Found, coded: NDArray[np.float32]) -> None:
    """Refuse a photo of a mirrored piece, and points in another order."""
    if found.mirrored:
        # Rather another piece, where it does not fit well even so.
        _hold_fit(_alike(expected, found, coded), _FITS)
        raise ArtworkError("The photo shows this piece mirrored.")
    if found.by != "points":
        return
    corners = _points(expected, found)
    others = {
        name: _alike(expected, squared_by(expected, [corners[i] for i in order]), coded)
        for name, order in _orders(expected)
    }
    best = max(others, key=lambda name: others[name])
    if others[best] > max(_alike(expected, found, coded) + _BETTER, _LIKELY):
        raise ArtworkError(
            f"By these points the piece is {best}; put them in their right order."
        )


def _hold_fit(fits: float, least: float) -> None:
    if fits < least:
        raise ArtworkError(
            "What the photo shows is not what was burned: its tones follow the proof's by "
            f"{max(fits, 0):.2f} of 1, and {least:g} is the least. Is it another piece, or "
            "are the points elsewhere?"
        )


def _orders(expected: Expected) -> list[tuple[str, tuple[int, ...]]]:
    if Points.of_piece(expected.size, expected.blank).of == "the picture":
        return list(_ORDERS.items())
    return [
        ("turned by 180°", (1, 0, 3, 2)),
        ("turned by a quarter", (3, 2, 0, 1)),
        ("turned by a quarter the other way", (2, 3, 1, 0)),
        ("mirrored", (1, 0, 2, 3)),
    ]


def _points(expected: Expected, found: Found) -> tuple[tuple[float, float], ...]:
    own = expected.frame.to_pixels(Points.of_piece(expected.size, expected.blank).places)
    return tuple((float(x), float(y)) for x, y in mapped(found.matrix, own))


def _told(
    expected: Expected,
    found: Found,
    pictured: tuple[NDArray[np.float32], Values],
    seen: Values,
) -> Reading:
    counted = weights(expected, np.isfinite(seen))
    told, tones = learned(expected, np.nan_to_num(seen), counted)
    covered = np.array([one.covered for one in tones])
    off = np.array([one.off for one in tones])
    apart = lightness(seen) - lightness(expected.light.astype(np.float64))
    points = _points(expected, found)
    return Reading(
        corners=points,
        found_by=found.by,
        fits=round(rank_correlation(expected, seen), 3),
        off=round(float(np.sqrt((covered * off**2).sum() / max(covered.sum(), 1e-9))), 2),
        tones=tuple(tones),
        learned=told,
        look=_look(expected, found, *pictured),
        difference=np.where(counted > 0, apart, np.nan).astype(np.float32),
        turned=_turned(found, expected),
    )


def _turned(found: Found, expected: Expected) -> int:
    cols, rows = expected.frame.pixels
    ends = mapped(found.matrix, np.array([[0, rows / 2], [cols, rows / 2]], np.float64))
    along = ends[1] - ends[0]
    return int(round(np.degrees(np.arctan2(along[1], along[0])) / 90) % 4) * 90


def _look(
    expected: Expected, found: Found, linear: NDArray[np.float32], lamp: Values
) -> Codes:
    pixels = expected.frame.pixels
    even = cv2.resize(lamp.astype(np.float32), pixels, interpolation=cv2.INTER_LINEAR)
    middle = float(np.median(lamp))
    parts = [
        laid_over(found.matrix, np.ascontiguousarray(linear[..., k]), pixels)
        for k in range(3)
    ]
    light = np.clip(np.stack(parts, axis=-1) * (middle / even)[..., None], 0, 1)
    light = np.where(np.isfinite(light), light, _BEYOND)
    return np.rint(255 * to_coded(light)).astype(np.uint8)
