"""Pictures of more than eight bits a sample: gray and colour, whole and decimal numbers.

TIFF 6.0 by tifffile, PNG by OpenCV; all samples become codes of sixteen bits.
"""

import io
import struct
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import cv2
import numpy as np
import tifffile
from numpy.typing import NDArray
from PIL import Image

from engraving.artwork.profile import Tones, plain_tones, profile_tones
from engraving.artwork.upright import ON_ITS_SIDE, TAG, TURNED, turned
from engraving.colour.light import LUMINANCE, SIXTEEN_OF_LINEAR, to_coded
from engraving.errors import ArtworkError
from engraving.strips import in_bands

_TIFF = (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+")
_PNG = b"\x89PNG\r\n\x1a\n"
_FULL = 65535
_APART = 2
_WHITE_IS_ZERO, _BLACK_IS_ZERO, _RGB = 0, 1, 2
_KINDS = {"u": "", "i": " with a sign", "f": " decimal"}


@dataclass
class Deep:
    """Samples as codes of sixteen bits, upright.

    Attributes
    ----------
    samples : ndarray of uint16, shape (height, width) or (height, width, 3)
    alpha : ndarray of uint8, or None
    mode : str
        What the file holds, in words.
    profile : bytes
        Its colour profile, empty without one.
    gamma : float or None
        Its PNG gAMA, where nothing better is told.
    told : mapping
        What the file tells besides: of a TIFF its tags by number, of a PNG what
        Pillow names.
    on_its_side : bool
        Whether rows and columns were changed over to turn it upright.
    """

    samples: NDArray[np.uint16]
    alpha: NDArray[np.uint8] | None
    mode: str
    profile: bytes = b""
    gamma: float | None = None
    format: str = "PNG"
    pages: int = 1
    told: Mapping[Any, Any] = field(default_factory=dict)
    on_its_side: bool = False
    notes: list[str] = field(default_factory=list)

    def planes(self) -> tuple[NDArray[np.uint8] | None, NDArray[np.uint16]]:
        """Return the sRGB colours in eight bits (None where there are none), and gray."""
        channels = 1 if self.samples.ndim == 2 else 3
        tones = self._tones(channels)
        if channels == 1:
            table = np.rint(to_coded(tones.tables[0]) * _FULL).astype(np.uint16)
            return None, table[self.samples]
        height, width = self.samples.shape[:2]
        colours = np.zeros((height, width, 3), np.uint8)
        gray = np.zeros((height, width), np.uint16)
        to_srgb = tones.matrix.astype(np.float32)
        steps = SIXTEEN_OF_LINEAR.size - 1

        def mix(first: int, last: int) -> None:
            band = self.samples[first:last]
            light = np.stack([tones.tables[i][band[..., i]] for i in range(3)], axis=-1)
            light = np.clip(light @ to_srgb.T, 0, 1)
            coded = SIXTEEN_OF_LINEAR[(light * steps + 0.5).astype(np.int64)]
            colours[first:last] = (coded.astype(np.uint32) + 128) // 257
            shade = np.clip(light @ np.array(LUMINANCE, np.float32), 0, 1)
            gray[first:last] = SIXTEEN_OF_LINEAR[(shade * steps + 0.5).astype(np.int64)]

        in_bands(height, mix)
        return colours, gray

    def _tones(self, channels: int) -> Tones:
        if self.profile:
            found = profile_tones(self.profile, channels)
            if found is not None:
                self.notes.append("Converted from its profile to sRGB.")
                return found
            self.notes.append("Its colour profile is of another kind; it was left out.")
        if self.gamma is not None:
            self.notes.append(f"Converted from its gamma of {self.gamma:.3g} to sRGB.")
        return plain_tones(channels, self.gamma)


def deep_page(data: bytes, page: int, most_pixels: int) -> Deep | None:
    """Return a page of more than eight bits a sample; None where it is another file.

    Raises
    ------
    ArtworkError
        When it is of a kind that cannot be read, or too large.
    """
    if data[:4] in _TIFF:
        return _tiff(data, page, most_pixels)
    if data[:8] == _PNG and data[24:25] == b"\x10":
        return _png(data, most_pixels)
    return None


def _png(data: bytes, most_pixels: int) -> Deep | None:
    width, height = struct.unpack_from(">II", data, 16)
    if width * height > most_pixels:
        return None  # refused by what reads on
    with Image.open(io.BytesIO(data), formats=["PNG"]) as image:
        told = dict(image.info)
    pixels = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)
    if pixels is None or pixels.dtype != np.uint16:
        return None
    gray_file = data[25] in (0, 4)
    alpha = None
    if pixels.ndim == 3 and pixels.shape[2] == 4:
        alpha = _opacity(pixels[..., 3])
        pixels = pixels[..., :3]
    if pixels.ndim == 3:
        pixels = pixels[..., 0] if gray_file else pixels[..., ::-1]
    elif "transparency" in told and isinstance(told["transparency"], int):
        alpha = np.where(pixels == told["transparency"], 0, 255).astype(np.uint8)
    mode = f"{'gray' if gray_file else 'colour'}, 16 bit"
    profile = told.get("icc_profile") or b""
    gamma = png_gamma(told)
    whole = np.ascontiguousarray(pixels, np.uint16)
    return Deep(whole, alpha, _with(mode, alpha), profile, gamma, told=told)


def png_gamma(told: dict[str | tuple[int, int], object]) -> float | None:
    """Return the gAMA of a PNG where it tells something else than sRGB.

    A profile or an sRGB chunk stands before it; 1/2.2 is what sRGB is written as
    (ISO/IEC 15948, 11.3.3).
    """
    gamma = told.get("gamma")
    if not isinstance(gamma, float | int) or "srgb" in told or told.get("icc_profile"):
        return None
    usable = 0.05 < gamma < 20
    return float(gamma) if usable and abs(gamma - 1 / 2.2) > 0.005 else None


def _tiff(data: bytes, page: int, most_pixels: int) -> Deep | None:
    try:
        file = tifffile.TiffFile(io.BytesIO(data))
        pages = len(file.pages)
        found = file.pages[page].aspage() if 0 <= page < pages else None
        deep = found is not None and _is_deep(found)
    except Exception:  # noqa: BLE001 (a damaged file fails in any way; others say how)
        return None
    if found is None or not deep or found.imagewidth * found.imagelength > most_pixels:
        return None  # read, or refused, by what reads on
    try:
        return _tiff_page(found, pages)
    except ArtworkError:
        raise
    except Exception as error:  # noqa: BLE001
        raise ArtworkError(
            f"The picture is damaged or cut short ({error}); export it again."
        ) from None


def _is_deep(page: tifffile.TiffPage) -> bool:
    return page.bitspersample > 8 and page.photometric in (
        _WHITE_IS_ZERO, _BLACK_IS_ZERO, _RGB,
    )  # fmt: skip


def _tiff_page(page: tifffile.TiffPage, pages: int) -> Deep:
    shape = page.imagelength, page.imagewidth
    if page.imagedepth > 1:
        raise ArtworkError("This TIFF holds a stack, not a picture; save one page of it.")
    pixels = page.asarray()
    if page.planarconfig == _APART and page.samplesperpixel > 1:
        pixels = np.moveaxis(pixels.reshape(-1, *shape), 0, -1)
    pixels = pixels.reshape(*shape, -1)
    pixels = pixels[..., 0] if pixels.shape[2] == 1 else pixels
    notes: list[str] = []
    codes = _codes(pixels, page.bitspersample, notes)
    wanted = 3 if page.photometric == _RGB else 1
    alpha = None
    if codes.ndim == 3:
        if codes.shape[2] < wanted:
            raise ArtworkError("This TIFF lacks a colour channel; export it again.")
        if codes.shape[2] > wanted and tuple(page.extrasamples)[:1] in ((1,), (2,)):
            alpha = _opacity(codes[..., wanted])
        codes = codes[..., :3] if wanted == 3 else codes[..., 0]
    if page.photometric == _WHITE_IS_ZERO:
        codes = _FULL - codes
    told = {tag.code: tag.value for tag in page.tags}
    orientation = int(told.get(TAG, 1))
    kind = _KINDS.get(pixels.dtype.kind, "")
    mode = f"{'colour' if wanted == 3 else 'gray'}, {page.bitspersample} bit{kind}"
    found = Deep(
        turned(codes, orientation), None if alpha is None else turned(alpha, orientation),
        _with(mode, alpha), bytes(told.get(34675, b"")), format="TIFF", pages=pages,
        told=told,
        notes=notes, on_its_side=orientation in ON_ITS_SIDE,
    )  # fmt: skip
    if orientation in range(2, 9):
        found.notes.append(TURNED)
    return found


def _codes(pixels: NDArray[Any], bits: int, notes: list[str]) -> NDArray[np.uint16]:
    """Return samples of any kind as codes of sixteen bits."""
    if pixels.dtype.kind == "f":
        values = np.nan_to_num(pixels.astype(np.float64), nan=np.inf, posinf=np.inf)
        finite = values[np.isfinite(values)]
        most = float(finite.max(initial=0.0))
        full = 1.0 if most <= 1.001 else 255.0 if most <= 255.5 else 65535.0
        notes.append(f"Decimal pixels were taken as tones from 0 to {full:g}.")
        return np.rint(np.clip(values / full, 0, 1) * _FULL).astype(np.uint16)
    if pixels.dtype.kind == "i":
        notes.append("Numbers below 0 were taken as black.")
        bits -= 1
    if bits == 16:
        return np.ascontiguousarray(pixels, np.uint16)
    share = np.clip(pixels.astype(np.float64), 0, None) / (2.0**bits - 1)
    return np.rint(share * _FULL).astype(np.uint16)


def _opacity(plane: NDArray[Any]) -> NDArray[np.uint8] | None:
    if plane.min(initial=_FULL) == _FULL:
        return None
    return np.rint(plane / 257).astype(np.uint8)


def _with(mode: str, alpha: NDArray[np.uint8] | None) -> str:
    return mode if alpha is None else f"{mode} with transparency"
