"""Reading pictures of every kind, and bringing them onto the grid."""

import io

import numpy as np
import pytest
from PIL import Image

from engraving.artwork import cut_out, place_on_grid, read_artwork
from engraving.artwork.grid import resample
from engraving.artwork.mix import gray_plane
from engraving.artwork.reading import open_picture
from engraving.colour.light import luminance_codes, to_coded, to_linear
from engraving.errors import ArtworkError
from engraving.jobspec import ArtworkPart, Crop
from support.jobs import png


def saved(image, kind, **options):
    stream = io.BytesIO()
    image.save(stream, kind, **options)
    return stream.getvalue()


RAMP = np.tile(np.arange(0, 256, 4, dtype=np.uint8), (5, 1))


@pytest.mark.parametrize("kind", ["PNG", "TIFF", "BMP", "WEBP"])
def test_grays_come_through_untouched(kind):
    options = {"lossless": True} if kind == "WEBP" else {}
    found = read_artwork(saved(Image.fromarray(RAMP), kind, **options))
    assert np.array_equal(found.gray, RAMP)
    assert found.format == kind


def test_jpeg_is_close():
    found = read_artwork(saved(Image.fromarray(RAMP), "JPEG", quality=95))
    assert np.abs(found.gray.astype(int) - RAMP).max() <= 6


@pytest.mark.parametrize(
    ("code", "linear"),
    # IEC 61966-2-1:1999, agreed with colour-science 0.4.7 to 1e-9
    [
        (1, 0.000303527),
        (11, 0.003346536),
        (64, 0.051269458),
        (128, 0.215860500),
        (240, 0.871367119),
    ],
)
def test_srgb(code, linear):
    assert to_linear(np.array([code / 255]))[0] == pytest.approx(linear, abs=1e-9)
    assert to_coded(np.array([linear]))[0] * 255 == pytest.approx(code, abs=1e-5)


def test_luminance_in_linear_light():
    # linear Y of BT.709: red 0.2126, green 0.7152, blue 0.0722, (200, 100, 50) 0.216240
    colours = np.array(
        [[[255, 0, 0], [0, 255, 0], [0, 0, 255], [200, 100, 50], [77, 77, 77]]], np.uint8
    )
    wanted = to_coded(np.array([0.2126, 0.7152, 0.0722, 0.216240])) * 255
    found = luminance_codes(colours)[0]
    assert np.abs(found[:4] - wanted).max() <= 0.51
    assert found[4] == 77


@pytest.mark.parametrize(
    ("orientation", "shown"),
    # JEITA CP-3451, tag 0x0112; stored [10 20 30][40 50 60]
    [(1, [[10, 20, 30], [40, 50, 60]]), (2, [[30, 20, 10], [60, 50, 40]]),
     (3, [[60, 50, 40], [30, 20, 10]]), (4, [[40, 50, 60], [10, 20, 30]]),
     (5, [[10, 40], [20, 50], [30, 60]]), (6, [[40, 10], [50, 20], [60, 30]]),
     (7, [[60, 30], [50, 20], [40, 10]]), (8, [[30, 60], [20, 50], [10, 40]])],
)  # fmt: skip
def test_orientation_is_applied(orientation, shown):
    exif = Image.Exif()
    exif[0x0112] = orientation
    stored = np.array([[10, 20, 30], [40, 50, 60]], np.uint8)
    data = saved(Image.fromarray(stored), "PNG", exif=exif, dpi=(100, 200))
    found = read_artwork(data)
    assert found.gray.tolist() == shown
    wanted = (200, 100) if orientation >= 5 else (100, 200)
    assert found.dpi == pytest.approx(wanted, abs=0.1)


def test_transparency_is_kept_apart_and_laid_on_what_is_asked():
    pixels = np.zeros((2, 2, 4), np.uint8)
    pixels[0, :, 3] = 255
    pixels[1, 0, 3] = 128
    found = read_artwork(png(pixels))
    assert found.alpha.tolist() == [[255, 255], [128, 0]]
    assert "transparent" in found.notes[0]
    # black at alpha 128/255 over white is 127, over gray 100 is 49.8
    for ground, shown in (
        ({"ground": "unburned"}, [[0, 0], [0, 0]]),
        ({"ground": "white"}, [[0, 0], [127, 255]]),
        ({"ground": "black"}, [[0, 0], [0, 0]]),
        ({"ground": "gray", "ground_gray": 100}, [[0, 0], [50, 100]]),
    ):
        part = ArtworkPart(width_px=2, height_px=2, **ground)
        assert gray_plane(found, part).tolist() == shown


def test_palette_with_transparency():
    image = Image.fromarray(np.array([[0, 1, 2]], np.uint8), "P")
    image.putpalette([0, 0, 0, 255, 255, 255, 9, 9, 9])
    found = read_artwork(saved(image, "PNG", transparency=2))
    assert found.gray.tolist() == [[0, 255, 9]]
    assert found.alpha.tolist() == [[255, 255, 0]]


@pytest.mark.parametrize("kind", ["PNG", "TIFF"])
def test_sixteen_bit_gray_stays_sixteen_bit(kind):
    pixels = np.array([[0, 257, 32768, 65535]], np.uint16)
    data = saved(Image.fromarray(pixels), kind)
    found = read_artwork(data)
    assert found.gray.dtype == np.uint16
    assert found.gray.tolist() == pixels.tolist()
    assert open_picture(data).likeness(100)[0, 3].tolist() == [255, 255, 255, 255]


def test_sixteen_bit_is_resampled_finer_than_eight():
    ramp = np.tile(np.linspace(20000, 20400, 64).astype(np.uint16), (8, 1))
    found = resample(ramp, 32, 4)
    assert found.dtype == np.uint16
    assert np.unique(found[:, 4:-4]).size > 20
    assert np.abs(found[0, 4:-4] - np.linspace(20003, 20397, 32)[4:-4]).max() < 8


def test_print_colours_say_so():
    image = Image.new("CMYK", (4, 3), (0, 0, 0, 255))
    found = read_artwork(saved(image, "JPEG"))
    assert found.gray.max() < 60
    assert any("profile" in note for note in found.notes)


@pytest.mark.parametrize("kind", ["WEBP", "GIF", "TIFF"])
def test_any_page_or_frame_can_be_read(kind):
    frames = [Image.new("L", (4, 4), shade) for shade in (200, 10)]
    options = {"lossless": True} if kind == "WEBP" else {}
    data = saved(frames[0], kind, save_all=True, append_images=frames[1:], **options)
    assert read_artwork(data).pages == 2
    assert read_artwork(data).gray.mean() == pytest.approx(200, abs=1)
    assert read_artwork(data, 1).gray.mean() == pytest.approx(10, abs=1)
    with pytest.raises(ArtworkError, match="no page 3"):
        read_artwork(data, 2)


def test_two_levels_are_noticed():
    noise = np.random.default_rng(0).integers(0, 2, (40, 40)) * 255
    assert read_artwork(png(noise.astype(np.uint8))).two_level
    assert not read_artwork(png(RAMP)).two_level
    assert not read_artwork(png(np.full((9, 9), 255, np.uint8))).two_level


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "empty"),
        (b"GIF89a hello", "not a picture|damaged"),
        (b"\x89PNG\r\n\x1a\n", "not a picture"),
        (b"plain words, saved as .png", "not a picture"),
    ],
)
def test_no_picture_gets_a_sentence(data, words):
    with pytest.raises(ArtworkError, match=words):
        read_artwork(data)


@pytest.mark.parametrize("kind", ["PNG", "JPEG", "TIFF", "BMP", "WEBP", "GIF", "HEIF"])
@pytest.mark.parametrize("share", [0.3, 0.6, 0.9])
def test_cut_short_gets_a_sentence(kind, share):
    noise = np.random.default_rng(0).integers(0, 256, (60, 60), dtype=np.uint8)
    data = saved(Image.fromarray(noise), kind)
    with pytest.raises(ArtworkError) as caught:
        read_artwork(data[: int(len(data) * share)])
    assert caught.value.message.endswith(".")


def test_a_giant_is_refused_before_it_is_unpacked():
    """A PNG header that promises 40 000 × 40 000 pixels."""
    import struct
    import zlib

    def chunk(kind, body):
        return (
            struct.pack(">I", len(body))
            + kind
            + body
            + struct.pack(">I", zlib.crc32(kind + body))
        )

    header = struct.pack(">IIBBBBB", 40000, 40000, 8, 0, 0, 0, 0)
    data = (
        b"\x89PNG\r\n\x1a\n"
        + chunk(b"IHDR", header)
        + chunk(b"IDAT", zlib.compress(b"\0"))
        + chunk(b"IEND", b"")
    )
    with pytest.raises(ArtworkError, match="million pixels"):
        read_artwork(data)


@pytest.mark.parametrize(
    ("data", "dpi"),
    [
        (saved(Image.fromarray(RAMP), "PNG", dpi=(300, 300)), (300, 300)),
        (saved(Image.fromarray(RAMP), "PNG"), None),
        (saved(Image.fromarray(RAMP), "JPEG", dpi=(72, 72)), (72, 72)),
        (
            saved(Image.fromarray(RAMP), "TIFF", resolution=120, resolution_unit=3),
            (304.8, 304.8),
        ),
        (
            saved(Image.fromarray(RAMP), "TIFF", resolution=300, resolution_unit=2),
            (300, 300),
        ),
        (saved(Image.fromarray(RAMP), "BMP", dpi=(254, 254)), (254, 254)),
    ],
)
def test_embedded_resolution(data, dpi):
    found = read_artwork(data).dpi
    assert found == (None if dpi is None else pytest.approx(dpi, abs=0.02))


def test_turns_mirror_and_crop():
    pixels = np.arange(6, dtype=np.uint8).reshape(2, 3)
    part = ArtworkPart(width_px=3, height_px=2, turns=1)
    assert cut_out(pixels, part).tolist() == [[3, 0], [4, 1], [5, 2]]
    mirrored = part.model_copy(update={"mirror": True})
    assert cut_out(pixels, mirrored).tolist() == [[0, 3], [1, 4], [2, 5]]
    cropped = ArtworkPart(width_px=3, height_px=2, crop=Crop(left=1 / 3, width=2 / 3))
    assert cut_out(pixels, cropped).tolist() == [[1, 2], [4, 5]]
    four = pixels
    for _ in range(4):
        four = cut_out(
            four, ArtworkPart(width_px=four.shape[1], height_px=four.shape[0], turns=1)
        )
    assert np.array_equal(four, pixels)


def test_one_pixel_a_dot_is_left_alone(scene):
    part = ArtworkPart(width_px=80, height_px=60)
    assert np.array_equal(place_on_grid(scene, part, 80, 60), scene)


def test_resampling_averages_light_not_codes():
    """A checkerboard of one pixel becomes code 187.5, not 127.5 (sRGB)."""
    board = (np.indices((64, 64)).sum(axis=0) % 2 * 255).astype(np.uint8)
    small = resample(board, 16, 16)
    assert np.abs(small[2:-2, 2:-2].astype(float) - 187.5).max() <= 2


@pytest.mark.parametrize("size", [(7, 5), (33, 41), (200, 150), (1, 1)])
def test_flat_stays_flat(size):
    flat = np.full((41, 33), 93, np.uint8)
    assert (resample(flat, *size) == 93).all()


def test_resampling_is_like_pillows_in_linear_light():
    y, x = np.mgrid[0:120, 0:160]
    codes = (128 + 90 * np.sin(x / 11) * np.cos(y / 13)).astype(np.uint8)
    light = Image.fromarray(to_linear(codes / 255).astype(np.float32))
    theirs = to_coded(np.asarray(light.resize((53, 47), Image.Resampling.LANCZOS))) * 255
    ours = resample(codes, 53, 47)
    assert np.abs(ours - theirs).max() <= 1.0
