"""A large picture read a band at a time is the one that is read at once."""

import dataclasses
import io

import numpy as np
import pytest
from PIL import Image, ImageCms

from engraving.artwork import banded, read_artwork
from engraving.artwork.likeness import likeness_of
from engraving.dots import diffusion
from engraving.dots.kernels import KERNELS
from engraving.errors import ArtworkError
from engraving.jobspec import ArtworkPart, JobSpec, SizePart
from engraving.progress import listening
from engraving.proof import Window, shown_marks
from support.jobs import pipeline_of

PROFILE = ImageCms.ImageCmsProfile(ImageCms.createProfile("LAB")).tobytes()
WIDE = ImageCms.ImageCmsProfile(ImageCms.createProfile("XYZ")).tobytes()


def picture(mode, size=(333, 600)):
    rng = np.random.default_rng(5)
    wide, high = size
    y, x = np.mgrid[0:high, 0:wide]
    bands = [
        127
        + 100 * np.sin(x / (19 + 5 * c)) * np.cos(y / 23)
        + rng.normal(0, 9, (high, wide))
        for c in range({"L": 1, "RGB": 3, "RGBA": 4}[mode])
    ]
    data = np.stack(bands, -1).clip(0, 255).astype(np.uint8)
    return Image.fromarray(data[..., 0] if mode == "L" else data)


def file_of(mode, kind, **how):
    stream = io.BytesIO()
    if kind == "MPO":
        how |= {"save_all": True, "append_images": [picture("RGB", (80, 60))]}
    if turned := how.pop("orientation", 0):
        how["exif"] = Image.Exif()
        how["exif"][0x0112] = turned
    picture(mode).save(stream, kind, **how)
    return stream.getvalue()


FILES = {
    "gray PNG": ("L", "PNG", {}),
    "colour PNG": ("RGB", "PNG", {"dpi": (254, 127)}),
    "transparent PNG": ("RGBA", "PNG", {}),
    "one colour of a PNG is clear": ("L", "PNG", {"transparency": 90}),
    "gray JPEG": ("L", "JPEG", {}),
    "JPEG of halved colours": ("RGB", "JPEG", {"quality": 80}),
    "JPEG of full colours": ("RGB", "JPEG", {"quality": 95, "subsampling": 0}),
    "JPEG that comes in passes": ("RGB", "JPEG", {"progressive": True}),
    "JPEG with a preview behind it": ("RGB", "MPO", {"orientation": 6}),
    "packed TIFF": ("RGB", "TIFF", {"compression": "tiff_lzw"}),
    "gray TIFF": ("L", "TIFF", {"compression": "tiff_deflate"}),
    "JPEG in a TIFF": ("RGB", "TIFF", {"compression": "jpeg"}),
    "another profile": ("RGB", "JPEG", {"icc_profile": WIDE}),
    "a profile of another kind": ("RGB", "PNG", {"icc_profile": PROFILE}),
    **{f"turned {tag}": ("RGB", "JPEG", {"orientation": tag}) for tag in range(2, 9)},
    "a PNG that is turned": ("RGB", "PNG", {"orientation": 6}),
    "a TIFF that is turned": ("RGB", "TIFF", {"orientation": 6}),
}


@pytest.mark.parametrize("colour", [False, True], ids=["gray", "colour"])
@pytest.mark.parametrize("name", FILES)
def test_it_is_the_same_picture(name, colour, monkeypatch):
    data = file_of(*FILES[name][:2], **dict(FILES[name][2]))
    at_once = read_artwork(data, colour=colour)
    monkeypatch.setattr(banded, "LARGE_PX", 0)
    monkeypatch.setattr(banded, "_ROWS", 64)
    for field in dataclasses.fields(at_once):
        whole, bands = (
            getattr(one, field.name) for one in (at_once, read_artwork(data, colour=colour))
        )
        if isinstance(whole, np.ndarray):
            assert whole.dtype == bands.dtype
            assert np.array_equal(whole, bands), field.name
        else:
            assert whole == bands, field.name


@pytest.mark.parametrize("kind", ["PNG", "JPEG", "TIFF"])
def test_cut_short_it_is_refused(kind, monkeypatch):
    monkeypatch.setattr(banded, "LARGE_PX", 0)
    data = file_of("RGB", kind)
    with pytest.raises(ArtworkError, match=r"damaged or cut short \(\w") as told:
        read_artwork(data[: len(data) * 2 // 3])
    assert "vips" not in str(told.value).lower()


def test_large_plain_pictures_are_read_so():
    found = []
    for mode, kind in (("L", "PNG"), ("RGB", "JPEG"), ("RGB", "TIFF"), ("RGBA", "PNG")):
        data = file_of(mode, kind)
        image = Image.open(io.BytesIO(data))
        image._size = (4000, 4000)
        found.append(banded.is_banded(data, image))
    assert all(found)


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
