"""A large picture read a band at a time is the one that is read at once."""

import dataclasses
import io
import re
import struct

import numpy as np
import pytest
from PIL import Image, ImageCms, PngImagePlugin

from engraving.artwork import banded, read_artwork
from engraving.artwork.likeness import likeness_of
from engraving.dots import diffusion
from engraving.dots.kernels import KERNELS
from engraving.errors import ArtworkError
from engraving.jobspec import ArtworkPart, JobSpec, SizePart
from engraving.progress import listening
from engraving.proof import Window, shown_marks
from support.jobs import pipeline_of
from support.profiles import gray_profile, swapped_profile

LAB = ImageCms.ImageCmsProfile(ImageCms.createProfile("LAB")).tobytes()
TOLD, GAMMA = PngImagePlugin.PngInfo(), PngImagePlugin.PngInfo()
TOLD.add_itxt("XML:com.adobe.xmp", '<x tiff:Orientation="8"/>')
GAMMA.add(b"gAMA", struct.pack(">I", 100_000))


def picture(mode, size=(333, 600)):
    rng = np.random.default_rng(5)
    wide, high = size
    y, x = np.mgrid[0:high, 0:wide]
    bands = [
        127
        + 100 * np.sin(x / (19 + 5 * c)) * np.cos(y / 23)
        + rng.normal(0, 9, (high, wide))
        for c in range(4)
    ]
    data = np.stack(bands, -1).clip(0, 255).astype(np.uint8)
    gray = Image.fromarray(data[..., 0])
    if mode == "1":
        return gray.convert("1")
    if mode in ("P", "grays"):
        return (
            Image.fromarray(data[..., :3]).quantize(16)
            if mode == "P"
            else gray.convert("P")
        )
    if mode in ("L", "LA"):
        return gray if mode == "L" else Image.fromarray(data[..., [0, 3]])
    if mode in ("CMYK", "LAB"):
        count = len(Image.new(mode, (1, 1)).getbands())
        return Image.merge(mode, [Image.fromarray(data[..., c]) for c in range(count)])
    return Image.fromarray(data[..., : len(mode)])


def file_of(mode, kind, **how):
    stream = io.BytesIO()
    if kind == "MPO":
        how |= {"save_all": True, "append_images": [picture("RGB", (80, 60))]}
    if how.pop("second", None):
        how |= {"save_all": True, "append_images": [picture(mode)]}
        picture(mode, (90, 70)).save(stream, kind, **how)
        return stream.getvalue()
    if turned := how.pop("orientation", 0):
        how["exif"] = Image.Exif()
        how["exif"][0x0112] = turned
    picture(mode).save(stream, kind, **how)
    data = stream.getvalue()
    if how.get("pnginfo") is TOLD:  # as some write it: behind the picture
        first, end = data.index(b"iTXt") - 4, data.index(b"IEND") - 4
        last = data.index(b"IDAT") - 4
        data = data[:first] + data[last:end] + data[first:last] + data[end:]
    return data


def packed_bitmap(mode="L"):
    """A BMP whose runs are packed, written out by hand (BI_RLE8)."""
    codes = np.asarray(picture(mode)) // 64 * 64
    rows = []
    for row in codes[::-1]:
        edges = np.flatnonzero(np.diff(row, prepend=-1, append=-1))
        runs = np.minimum(np.diff(edges), 255)
        assert runs.sum() == row.size
        rows.append(
            np.stack([runs, row[edges[:-1]]], 1).astype(np.uint8).tobytes() + b"\0\0"
        )
    body, (high, wide) = b"".join(rows) + b"\0\1", codes.shape
    told = struct.pack("<IiiHHIIiiII", 40, wide, high, 1, 8, 1, len(body), 0, 0, 256, 0)
    palette = bytes(value for i in range(256) for value in (i, 255 - i, i, 0))
    first = 14 + len(told) + len(palette)
    head = b"BM" + struct.pack("<IHHI", first + len(body), 0, 0, first)
    return head + told + palette + body


PLAIN = {
    "gray PNG": ("L", "PNG", {}),
    "colour PNG": ("RGB", "PNG", {"dpi": (254, 127)}),
    "transparent PNG": ("RGBA", "PNG", {}),
    "gray and transparent PNG": ("LA", "PNG", {}),
    "PNG of a bit": ("1", "PNG", {}),
    "PNG of two bits, gray": ("grays", "PNG", {"bits": 2}),
    "PNG of a palette": ("P", "PNG", {}),
    "PNG of a palette of four bits": ("P", "PNG", {"bits": 4}),
    "PNG of a palette, some of it clear": ("P", "PNG", {"transparency": b"\0\x80"}),
    "PNG with a gamma": ("RGB", "PNG", {"pnginfo": GAMMA}),
    "gray JPEG": ("L", "JPEG", {}),
    "JPEG of halved colours": ("RGB", "JPEG", {"quality": 80}),
    "JPEG of full colours": ("RGB", "JPEG", {"quality": 95, "subsampling": 0}),
    "JPEG that comes in passes": ("RGB", "JPEG", {"progressive": True}),
    "a JPEG that is turned, a preview behind it": ("RGB", "MPO", {"orientation": 6}),
    "JPEG for print": ("CMYK", "JPEG", {}),
    "packed TIFF": ("RGB", "TIFF", {"compression": "tiff_lzw"}),
    "gray TIFF": ("L", "TIFF", {"compression": "tiff_deflate"}),
    "transparent TIFF": ("RGBA", "TIFF", {"compression": "tiff_lzw"}),
    "TIFF of a bit": ("1", "TIFF", {"compression": "group4"}),
    "TIFF of a bit, white is zero": ("1", "TIFF", {"tiffinfo": {262: 0}}),
    "TIFF, white is zero": ("L", "TIFF", {"tiffinfo": {262: 0}}),
    "TIFF of a palette": ("P", "TIFF", {"compression": "tiff_lzw"}),
    "TIFF for print": ("CMYK", "TIFF", {"compression": "tiff_lzw"}),
    "JPEG in a TIFF": ("RGB", "TIFF", {"compression": "jpeg"}),
    "a TIFF's second page": ("L", "TIFF", {"second": True}),
    "WebP": ("RGB", "WEBP", {}),
    "exact WebP": ("RGB", "WEBP", {"lossless": True}),
    "transparent WebP": ("RGBA", "WEBP", {}),
    "another profile": ("RGB", "JPEG", {"icc_profile": swapped_profile()}),
    "transparent, another profile": ("RGBA", "PNG", {"icc_profile": swapped_profile()}),
    "a gray profile": ("L", "PNG", {"icc_profile": gray_profile(1.8)}),
    "a profile of another kind": ("RGB", "PNG", {"icc_profile": LAB}),
    **{f"turned {tag}": ("RGB", "JPEG", {"orientation": tag}) for tag in range(2, 9)},
    "a PNG that is turned": ("RGB", "PNG", {"orientation": 6}),
    "a PNG that is turned, by its text": ("L", "PNG", {"pnginfo": TOLD}),
    "a TIFF that is turned": ("RGB", "TIFF", {"orientation": 6}),
}
"""Taken from libvips."""
LYING = {
    "BMP of a bit": ("1", "BMP", {}),
    "BMP of a palette": ("P", "BMP", {}),
    "gray BMP": ("L", "BMP", {}),
    "colour BMP": ("RGB", "BMP", {}),
}
"""Taken as they lie in the file."""
WHOLE = {
    "one colour of a PNG is clear": ("L", "PNG", {"transparency": 90}),
    "GIF": ("P", "GIF", {}),
    "Lab": ("LAB", "TIFF", {"icc_profile": LAB}),
    "TIFF of a palette of grays": ("grays", "TIFF", {}),
    "BMP packed": None,
}
"""Decoded whole by Pillow."""
FRAMES = {
    "HEIC": ("RGB", "HEIF", {}),
    "gray HEIC": ("L", "HEIF", {}),
    "HEIC, transparent": ("RGBA", "HEIF", {}),
    "HEIC of a phone on its side": ("RGB", "HEIF", {"orientation": 6}),
    "HEIC's second picture": ("RGB", "HEIF", {"second": True}),
}
"""Decoded whole by the format's own library."""
WAYS = {"_frame": FRAMES, "_decoded": PLAIN, "_as_it_lies": LYING, "_at_once": WHOLE}


@pytest.fixture
def taken(monkeypatch):
    """Read files of any size as large ones are; which ways were taken."""
    monkeypatch.setattr(banded, "LARGE_PX", 0)
    ways = []

    def noted(name, real):
        return lambda *args, **how: ways.append(name) or real(*args, **how)

    for name in WAYS:
        monkeypatch.setattr(banded, name, noted(name, getattr(banded, name)))
    return ways


@pytest.mark.parametrize("colour", [False, True], ids=["gray", "colour"])
@pytest.mark.parametrize(
    ("way", "name"), [(way, name) for way, files in WAYS.items() for name in files]
)
def test_it_is_the_same_picture(way, name, colour, request, monkeypatch):
    """Whether the last band is a whole one or not."""
    told = WAYS[way][name]
    data = file_of(*told[:2], **dict(told[2])) if told else packed_bitmap()
    page = int("second" in name)
    at_once = read_artwork(data, page, colour=colour)
    assert ("turned" in name) == any("Turned" in note for note in at_once.notes)
    ways = request.getfixturevalue("taken")
    monkeypatch.setattr(banded, "_ROWS", 60 if colour else 64)
    in_bands = read_artwork(data, page, colour=colour)
    assert ways == [way]
    for field in dataclasses.fields(at_once):
        whole, bands = (getattr(one, field.name) for one in (at_once, in_bands))
        if isinstance(whole, np.ndarray):
            assert whole.dtype == bands.dtype
            assert np.array_equal(whole, bands), field.name
        else:
            assert whole == bands, field.name


@pytest.mark.parametrize("kind", ["PNG", "JPEG", "TIFF", "BMP", "WEBP", "GIF"])
@pytest.mark.usefixtures("taken")
def test_cut_short_it_is_refused(kind):
    data = file_of("RGB", kind)
    with pytest.raises(ArtworkError, match=r"damaged or cut short \(\w") as told:
        read_artwork(data[: len(data) * 2 // 3])
    assert not re.search(r"vips|\blib", str(told.value), re.IGNORECASE)


def test_pictures_are_written_in_bands_as_they_were_whole(monkeypatch, tmp_path):
    """Dots and proof, read back by another program, across the bands' borders."""
    pipeline, spec = (
        pipeline_of(np.asarray(picture("L"))),
        JobSpec(
            artwork=ArtworkPart(width_px=333, height_px=600),
            size=SizePart(width_mm=33.3, height_mm=60.0, pitch_mm=0.1),
        ),
    )
    dots, out = pipeline.burned(spec), tmp_path / "out.png"
    dots.write_png(out, spec.size.cell_mm)
    with Image.open(out) as read:
        assert (read.mode, read.size) == ("1", (333, 600))
        assert read.info["dpi"] == pytest.approx((254, 254))
        assert np.array_equal(np.asarray(read), dots.unpack() == 0)
    whole = Window(0, 0, 333, 600, 333, 600)
    wanted = shown_marks(
        pipeline.dots(spec), whole, pipeline.spot(spec), pipeline.palette(spec)
    )
    pipeline.write_proof(spec, out)
    with Image.open(out) as read:
        assert np.array_equal(np.asarray(read), wanted)


def test_large_diffusion_goes_in_parts_and_tells_how_far_it_is(monkeypatch):
    levels = np.asarray(picture("L"))
    kernel = KERNELS["floyd-steinberg"]
    whole = diffusion.diffuse(levels, kernel, serpentine=True)
    monkeypatch.setattr(diffusion, "_AT_ONCE_PX", 40_000)
    told = []
    with listening(lambda *one: told.append(one)):
        parts = diffusion.diffuse(levels, kernel, serpentine=True)
    assert np.array_equal(whole, parts)
    assert [done for _, done, _ in told] == [*range(112, 600, 112), 600]
    assert {total for *_, total in told} == {600}


@pytest.mark.parametrize("longest", [400, 150, 37])
@pytest.mark.parametrize("kind", ["gray", "sixteen bits", "colour", "clear"])
def test_a_likeness_is_the_picture_seen_from_afar(kind, longest):
    """Held against Pillow's area average, smoothed alike."""
    rgb = np.asarray(picture("RGB", (600, 333)))
    gray = rgb[..., 1].astype(np.uint16) * 257 if kind == "sixteen bits" else rgb[..., 1]
    colour = rgb if kind in ("colour", "clear") else None
    alpha = rgb[..., 2] if kind == "clear" else None
    found = likeness_of(gray, colour, alpha, longest)
    size = (longest, round(333 * longest / 600))
    assert found.shape == (size[1], size[0], 4)

    def afar(codes):
        image = Image.fromarray(codes)
        return np.asarray(image.resize(size, Image.Resampling.BILINEAR), float)

    wanted = afar(rgb) if colour is not None else afar(rgb[..., 1])[..., None]
    assert np.abs(found[..., :3] - wanted).mean() < 2.5
    wanted = 255 if alpha is None else afar(alpha)
    assert np.abs(found[..., 3] - wanted).mean() < 2.5
