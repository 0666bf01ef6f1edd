"""Profiles, print colours, phone pictures, and files that mean harm."""

import io

import numpy as np
import pytest
from PIL import Image, ImageCms
from skimage import data as outside

from engraving.artwork import read_artwork
from engraving.artwork.mix import MIXES, dropped_share, gray_plane, mixed
from engraving.colour.light import luminance_codes
from engraving.errors import ArtworkError
from engraving.jobspec import ArtworkPart, DroppedColour, Mix
from support.jobs import png


def saved(image, kind, **options):
    stream = io.BytesIO()
    image.save(stream, kind, **options)
    return stream.getvalue()


PHOTO = outside.astronaut()[100:260, 120:320]


def lab_profile():
    return ImageCms.ImageCmsProfile(ImageCms.createProfile("LAB")).tobytes()


def test_embedded_profiles_go_through_littlecms():
    """Lab in a TIFF: the profile's own way to sRGB, as Pillow's ImageCms gives it."""
    srgb, lab = ImageCms.createProfile("sRGB"), ImageCms.createProfile("LAB")
    there = ImageCms.buildTransform(srgb, lab, "RGB", "LAB")
    image = ImageCms.applyTransform(Image.fromarray(PHOTO), there)
    found = read_artwork(saved(image, "TIFF", icc_profile=lab_profile()), colour=True)
    wanted = np.asarray(
        ImageCms.profileToProfile(
            image, io.BytesIO(lab_profile()), srgb, renderingIntent=ImageCms.Intent.RELATIVE_COLORIMETRIC,
            outputMode="RGB", flags=ImageCms.Flags.BLACKPOINTCOMPENSATION,
        )
    )  # fmt: skip
    assert np.array_equal(found.colour, wanted)
    # 8-bit Lab is coarse: half of its steps are wider than a code
    assert np.abs(found.colour.astype(int) - PHOTO).mean() < 3
    assert any("profile" in note for note in found.notes)


def test_a_damaged_profile_is_left_out_and_says_so():
    found = read_artwork(saved(Image.fromarray(PHOTO), "PNG", icc_profile=b"no profile"))
    assert np.array_equal(found.gray, luminance_codes(PHOTO))
    assert any("left out" in note for note in found.notes)


def test_print_colours_without_a_profile_are_converted_as_documented():
    inks = np.array(
        [[[0, 0, 0, 0], [255, 0, 0, 0], [0, 0, 0, 255], [51, 102, 0, 128]]], np.uint8
    )
    found = read_artwork(saved(Image.fromarray(inks, "CMYK"), "TIFF"), colour=True)
    c, m, y, k = (inks[..., i] / 255 for i in range(4))
    wanted = np.stack([(1 - c) * (1 - k), (1 - m) * (1 - k), (1 - y) * (1 - k)], -1) * 255
    assert np.abs(found.colour - wanted).max() <= 1.01
    assert any("without a profile" in note for note in found.notes)


def test_phone_pictures_are_read_upright():
    image = Image.fromarray(PHOTO)
    exif = Image.Exif()
    exif[0x0112] = 6
    found = read_artwork(saved(image, "HEIF", quality=95, exif=exif.tobytes()))
    assert found.format == "HEIC"
    assert (found.width_px, found.height_px) == (160, 200)
    turned = np.rot90(luminance_codes(PHOTO), -1)
    assert np.abs(found.gray.astype(int) - turned).mean() < 4


def test_a_phone_picture_that_promises_too_much_is_refused():
    data = saved(Image.fromarray(PHOTO), "HEIF")
    size = (200).to_bytes(4, "big") + (160).to_bytes(4, "big")
    at = data.index(b"ispe") + 8
    assert data[at : at + 8] == size
    bomb = data.replace(size, (60_000).to_bytes(4, "big") * 2)
    with pytest.raises(ArtworkError) as caught:
        read_artwork(bomb)
    assert caught.value.message.endswith(".")


def test_white_is_zero_tiffs_are_not_negatives():
    pixels = np.array([[0, 20000, 65535]], np.uint16)
    data = saved(Image.fromarray(pixels), "TIFF", tiffinfo={262: 0})
    assert read_artwork(data).gray.tolist() == (65535 - pixels).tolist()


def halftone(rows=240, cols=240):
    """A picture already made of dots: Pillow's own diffusion of a gray ramp."""
    ramp = np.tile(np.linspace(60, 190, cols), (rows, 1)).astype(np.uint8)
    return np.asarray(Image.fromarray(ramp).convert("1")).astype(np.uint8) * 255


def test_dots_are_told_from_photographs_and_smeared_ones_from_sharp_ones():
    sharp = read_artwork(png(halftone()))
    assert (sharp.two_level, sharp.smeared) == (True, False)
    smeared = read_artwork(saved(Image.fromarray(halftone()), "JPEG", quality=85))
    assert (smeared.two_level, smeared.smeared) == (False, True)
    for picture in (outside.astronaut(), outside.camera(), outside.page(), outside.text()):
        found = read_artwork(saved(Image.fromarray(picture), "JPEG", quality=85))
        assert not found.smeared
    lines = np.full((300, 300), 255, np.uint8)
    lines[:, ::60] = 0
    assert not read_artwork(saved(Image.fromarray(lines), "JPEG", quality=85)).smeared


@pytest.mark.parametrize("name", MIXES)
def test_every_mix_leaves_grays_alone(name):
    grays = np.repeat(np.arange(256, dtype=np.uint8)[None, :, None], 3, axis=2)
    assert np.array_equal(mixed(grays, ArtworkPart(mix=MIXES[name]))[0], np.arange(256))


def test_mixes_weigh_linear_light():
    # linear codes 255, 128, 64: 1, 0.2158605, 0.0512695 (IEC 61966-2-1)
    colour = np.array([[[255, 128, 64]]], np.uint8)
    part = ArtworkPart(mix=Mix(red=0, green=150, blue=50))
    light = 0.75 * 0.2158605 + 0.25 * 0.0512695
    code = 255 * (1.055 * light ** (1 / 2.4) - 0.055)
    assert mixed(colour, part)[0, 0] == pytest.approx(code, abs=0.51)
    only = mixed(colour, ArtworkPart(mix=MIXES["red"]))
    assert only.tolist() == [[255]]


def test_dropped_colours_go_by_their_distance():
    """Pencil and paper go, ink stays; ΔE*ab by scikit-image."""
    from skimage.color import rgb2lab

    rgb = np.array(
        [[[243, 229, 190], [240, 226, 186], [90, 150, 220], [20, 20, 20]]], np.uint8
    )
    dropped = (
        DroppedColour(colour="#f3e5be"),
        DroppedColour(colour="#5a96dc", tolerance=10),
    )
    part = ArtworkPart(dropped=dropped)
    assert mixed(rgb, part)[0].tolist() == [255, 255, 255, 20]
    away = np.linalg.norm(rgb2lab(rgb)[0, 3] - rgb2lab(rgb)[0, 0])
    share = dropped_share(
        rgb, (DroppedColour(colour="#f3e5be", tolerance=round(away / 1.25)),)
    )
    assert share[0, 3] == pytest.approx(0.5, abs=0.03)


def test_a_gray_picture_has_nothing_to_mix():
    found = read_artwork(png(np.full((4, 4), 90, np.uint8)), colour=True)
    part = ArtworkPart(width_px=4, height_px=4, mix=MIXES["blue"])
    assert (gray_plane(found, part) == 90).all()
