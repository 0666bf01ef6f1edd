"""More than eight bits, decimals, gamma and profiles, held against what was written.

Files by tifffile, Pillow and OpenCV; profiles by LittleCMS.
"""

import io
import struct
import zlib

import cv2
import numpy as np
import pytest
import tifffile
from PIL import Image, ImageCms

from engraving.artwork import read_artwork
from engraving.artwork.grid import place_share
from engraving.artwork.seen import place_seen
from engraving.colour.light import LUMINANCE, to_coded, to_linear
from engraving.jobspec import ArtworkPart
from support.profiles import gray_profile

RAMP = np.linspace(0, 1, 200 * 3).reshape(3, 200)
COLOURS = np.stack([RAMP, RAMP[:, ::-1], RAMP**2], axis=-1)


def tiff(pixels, **options):
    stream = io.BytesIO()
    tifffile.imwrite(stream, pixels, **options)
    return stream.getvalue()


def off(found, share):
    """The largest distance from sRGB codes of shares 0..1, in codes of 255."""
    full = 65535 if found.gray.dtype == np.uint16 else 255
    return float(np.abs(found.gray / full - share).max()) * 255


@pytest.mark.parametrize(("kind", "full"), [
    (np.uint16, 65535), (np.uint32, 2**32 - 1), (np.float16, 1), (np.float32, 1), (np.float64, 1),
    (np.float32, 255), (np.float64, 65535),
])  # fmt: skip
@pytest.mark.parametrize("compression", [None, "zlib", "lzw"])
def test_gray_of_any_depth(kind, full, compression):
    pixels = (RAMP * full).astype(kind)
    found = read_artwork(tiff(pixels, compression=compression, photometric="minisblack"))
    assert off(found, RAMP) < 0.3
    assert found.gray.dtype == np.uint16
    assert len(np.unique(found.gray)) > 400 or kind == np.float16
    if kind not in (np.uint16, np.uint32):
        assert any("Decimal pixels" in note for note in found.notes)


def test_twelve_bits_reach_white():
    """TIFF 6.0, BitsPerSample 12: two samples in three bytes, the first one's bits first."""
    values = np.rint(RAMP * 4095).astype(int)
    packed = b"".join(
        bytes([a >> 4, (a & 15) << 4 | b >> 8, b & 255])
        for row in values for a, b in zip(row[0::2], row[1::2], strict=True)
    )  # fmt: skip
    tags = [(256, 3, 200), (257, 3, 3), (258, 3, 12), (259, 3, 1), (262, 3, 1),
            (273, 4, 8), (277, 3, 1), (278, 3, 3), (279, 4, len(packed))]  # fmt: skip
    directory = struct.pack("<H", len(tags)) + b"".join(
        struct.pack("<HHI", tag, kind, 1) + (struct.pack("<I", value) if kind == 4 else struct.pack("<HH", value, 0))
        for tag, kind, value in tags
    ) + b"\0\0\0\0"  # fmt: skip
    pad = b"\0" * (len(packed) % 2)
    data = (
        b"II*\0" + struct.pack("<I", 8 + len(packed) + len(pad)) + packed + pad + directory
    )
    assert off(read_artwork(data), RAMP) < 0.1


def test_gray_with_alpha_white_is_zero_and_planes_apart():
    pixels = np.stack([RAMP, RAMP[:, ::-1]], axis=-1)
    deep = np.rint(pixels * 65535).astype(np.uint16)
    found = read_artwork(tiff(deep, photometric="minisblack", extrasamples=["unassalpha"]))
    assert off(found, RAMP) < 0.1
    assert np.abs(found.alpha / 255 - RAMP[:, ::-1]).max() < 0.003
    negative = read_artwork(tiff(deep[..., 0], photometric="miniswhite"))
    assert off(negative, 1 - RAMP) < 0.1
    apart = np.moveaxis(np.rint(COLOURS * 65535).astype(np.uint16), -1, 0)
    found = read_artwork(
        tiff(apart, photometric="rgb", planarconfig="separate"), colour=True
    )
    assert np.abs(found.colour / 255 - COLOURS).max() < 0.004


def luminance(colours):
    return to_coded(to_linear(colours) @ LUMINANCE)


@pytest.mark.parametrize("kind", ["TIFF", "PNG"])
def test_colour_of_sixteen_bits_keeps_its_tones(kind):
    deep = np.rint(COLOURS * 65535).astype(np.uint16)
    if kind == "TIFF":
        data = tiff(deep, photometric="rgb")
    else:
        data = cv2.imencode(".png", deep[..., ::-1])[1].tobytes()
    found = read_artwork(data, colour=True)
    assert off(found, luminance(COLOURS)) < 0.1
    assert len(np.unique(found.gray)) > 400
    assert np.abs(found.colour / 255 - COLOURS).max() < 0.004


@pytest.mark.parametrize("orientation", range(1, 9))
@pytest.mark.parametrize("kind", [np.uint8, np.uint16])
def test_a_turned_tiff_turns_its_resolution(orientation, kind):
    """TIFF 6.0, tag 274: 5 to 8 lie on their side. Pillow's own turning is the truth."""
    pixels = np.rint(RAMP[:, :40] * np.iinfo(kind).max).astype(kind)
    data = tiff(pixels, photometric="minisblack", resolution=(300, 150), resolutionunit=2,
                extratags=[(274, 3, 1, orientation, True)])  # fmt: skip
    found = read_artwork(data)
    assert found.dpi == pytest.approx((150, 300) if orientation > 4 else (300, 150))
    turned = {1: pixels, 2: pixels[:, ::-1], 3: pixels[::-1, ::-1], 4: pixels[::-1], 5: pixels.T,
              6: np.rot90(pixels, -1), 7: pixels[::-1, ::-1].T, 8: np.rot90(pixels)}[orientation]  # fmt: skip
    assert np.array_equal(found.gray, turned)


def chunk(name, data):
    return (
        struct.pack(">I", len(data))
        + name
        + data
        + struct.pack(">I", zlib.crc32(name + data))
    )


def with_gamma(pixels, gamma, extra=b""):
    data = cv2.imencode(".png", pixels)[1].tobytes()
    return (
        data[:33]
        + chunk(b"gAMA", struct.pack(">I", round(gamma * 100000)))
        + extra
        + data[33:]
    )


@pytest.mark.parametrize("kind", [np.uint8, np.uint16])
@pytest.mark.parametrize("gamma", [1.0, 0.5555, 0.3])
def test_png_gamma(kind, gamma):
    """ISO/IEC 15948, 11.3.3.2: code = light ^ gAMA."""
    pixels = np.rint(RAMP * np.iinfo(kind).max).astype(kind)
    wanted = to_coded((pixels / np.iinfo(kind).max) ** (1 / gamma))
    found = read_artwork(with_gamma(pixels, gamma))
    assert off(found, wanted) < 0.6
    assert any("gamma" in note for note in found.notes)
    told = read_artwork(with_gamma(pixels, gamma, chunk(b"sRGB", b"\0")))
    assert off(told, RAMP) < 0.6
    usual = read_artwork(with_gamma(pixels, 0.45455))
    assert off(usual, RAMP) < 0.6


@pytest.mark.parametrize("gamma", [1.0, 1.8, 2.2])
def test_gray_of_sixteen_bits_goes_through_its_profile(gamma):
    profile = gray_profile(gamma)
    deep = np.rint(RAMP * 65535).astype(np.uint16)
    data = tiff(deep, photometric="minisblack", iccprofile=profile)
    found = read_artwork(data)
    assert off(found, to_coded(RAMP**gamma)) < 0.6
    # And as LittleCMS gives it for eight bits.
    eight = Image.fromarray(np.rint(RAMP * 255).astype(np.uint8))
    theirs = ImageCms.profileToProfile(
        eight, io.BytesIO(profile), ImageCms.createProfile("sRGB"), outputMode="RGB"
    )
    shares = to_coded((np.asarray(eight) / 255) ** gamma)
    light = RAMP > 0.15  # below, its eight bits are too coarse for a straight curve
    assert np.abs(np.asarray(theirs)[..., 0] - shares * 255)[light].max() < 2


def test_colour_of_sixteen_bits_goes_through_its_profile():
    """The sRGB profile as LittleCMS writes it: nothing changes."""
    profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    deep = np.rint(COLOURS * 65535).astype(np.uint16)
    found = read_artwork(tiff(deep, photometric="rgb", iccprofile=profile), colour=True)
    assert np.abs(found.colour / 255 - COLOURS).max() < 0.008
    assert off(found, luminance(COLOURS)) < 0.5


@pytest.mark.parametrize("times", [3, 5.5, 0.5])
def test_transparent_edges_have_no_dark_fringe(times):
    """White on nothing is white up to its edge, however it is enlarged."""
    y, x = np.mgrid[0:40, 0:40] - 19.5
    alpha = (255 * np.clip(14.5 - np.hypot(x, y), 0, 1)).astype(np.uint8)
    tones = np.where(alpha > 0, 255, 0).astype(np.uint8)
    side = round(40 * times)
    part = ArtworkPart(width_px=40, height_px=40)
    found = place_seen(tones, alpha, part, side, side)
    opacity = place_share(alpha, part, side, side)
    assert found[opacity > 2].min() >= 250
