"""Error diffusion against exact rationals, plain float32, and Pillow."""

import hashlib

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from PIL import Image

from engraving.dots.diffusion import Diffuser, diffuse
from engraving.dots.kernels import KERNELS
from support import reference

BOTH = pytest.mark.parametrize("serpentine", [True, False])
ALL = pytest.mark.parametrize("name", KERNELS)

# TEST-32: g(x, y) = (7 x² + 13 y + 3 x y) mod 256. White dots and the first 16 hex
# digits of SHA-256 of the packed rows, threshold 127.5, (one-way, serpentine).
# Reproduced independently by a compiled open-source dithering library.
TEST_32 = {
    "floyd-steinberg": ((504, "61084b7f28dc2cc3"), (503, "d45961af1860d720")),
    "jarvis": ((504, "cdcec414f7e94f08"), (505, "9fa9ab76ddb0b401")),
    "stucki": ((503, "10292b7ba646fc85"), (504, "ea8538c70ef74fb2")),
    "burkes": ((503, "7cfa84e24d28102e"), (504, "489d15a772b52dcd")),
    "sierra": ((504, "06ba605a9100fc05"), (504, "d022e102eb7329f5")),
    "sierra-two-row": ((501, "e98aa1db39e8215a"), (503, "c4c325f21f5411cd")),
    "sierra-lite": ((506, "53f64a5da4c77fe5"), (502, "86c1a4e3ab651112")),
    "atkinson": ((509, "09d82f38c3661971"), (509, "46edaff2bc55dc7e")),
}


def white(levels, name, serpentine):
    packed = diffuse(levels, KERNELS[name], serpentine=serpentine)
    return 1 - np.unpackbits(packed, axis=1, count=levels.shape[1])


@ALL
def test_the_table_is_the_published_one(name):
    assert KERNELS[name].divisor == reference.TABLES[name][0]
    assert sorted(KERNELS[name].taps()) == sorted(reference.taps(name))


@ALL
@BOTH
def test_published_digest(name, serpentine):
    y, x = np.mgrid[0:32, 0:32]
    levels = ((7 * x * x + 13 * y + 3 * x * y) % 256).astype(np.uint8)
    dots = white(levels, name, serpentine)
    digest = hashlib.sha256(np.packbits(dots, axis=1).tobytes()).hexdigest()[:16]
    assert (int(dots.sum()), digest) == TEST_32[name][serpentine]


@ALL
@BOTH
def test_small_pictures_equal_exact_rationals(name, serpentine):
    levels = np.random.default_rng(4).integers(0, 256, (7, 9), dtype=np.uint8)
    exact = reference.diffuse(levels.tolist(), name, serpentine=serpentine)
    assert white(levels, name, serpentine).tolist() == exact


@ALL
@BOTH
def test_every_dot_equals_the_scalar_float32_loop(name, serpentine):
    levels = np.random.default_rng(7).integers(0, 256, (40, 53), dtype=np.uint8)
    plain = reference.diffuse_float32(levels, name, serpentine=serpentine)
    assert np.array_equal(white(levels, name, serpentine), plain)


@BOTH
def test_bands_make_no_difference(serpentine):
    levels = np.random.default_rng(1).integers(0, 256, (50, 37), dtype=np.uint8)
    whole = diffuse(levels, KERNELS["stucki"], serpentine=serpentine)
    bands = Diffuser(KERNELS["stucki"], 37, serpentine=serpentine)
    parts = [bands.feed(levels[a:b]) for a, b in [(0, 1), (1, 8), (8, 9), (9, 50)]]
    assert np.array_equal(np.concatenate(parts), whole)


@ALL
@BOTH
def test_the_negative_is_the_exact_complement(name, serpentine):
    """No value of TEST-32 falls on 127.5 exactly, so nothing is a tie."""
    y, x = np.mgrid[0:32, 0:32]
    levels = ((7 * x * x + 13 * y + 3 * x * y) % 256).astype(np.uint8)
    assert (
        white(levels, name, serpentine) + white(255 - levels, name, serpentine) == 1
    ).all()


@settings(max_examples=40, deadline=None)
@given(
    arrays(np.uint8, st.tuples(st.integers(1, 12), st.integers(1, 20))),
    st.sampled_from(sorted(KERNELS)),
    st.booleans(),
)
def test_any_picture_equals_the_scalar_loop(levels, name, serpentine):
    plain = reference.diffuse_float32(levels, name, serpentine=serpentine)
    assert np.array_equal(white(levels, name, serpentine), plain)


@pytest.mark.parametrize("name", sorted(set(KERNELS) - {"atkinson"}))
@BOTH
def test_the_mean_follows_the_tone(name, serpentine):
    # on flat 256 x 256 the largest difference seen over all levels is 0.0029
    for level in range(3, 256, 21):
        flat = np.full((256, 256), level, np.uint8)
        assert abs(white(flat, name, serpentine).mean() - level / 255) <= 0.003


@settings(max_examples=30, deadline=None)
@given(
    arrays(np.uint8, (6, 6)),
    st.sampled_from(sorted(set(KERNELS) - {"atkinson"})),
    st.booleans(),
)
def test_the_mean_of_any_picture_is_kept(patches, name, serpentine):
    """Only error over the edge is lost: less than a dot for each dot of the border."""
    levels = np.kron(patches, np.ones((12, 12), np.uint8))
    lost = abs(float(white(levels, name, serpentine).sum()) - levels.sum() / 255)
    assert lost <= 0.5 * 4 * 72


def test_six_eighths_lets_the_ends_go():
    for level, share in [(31, 0.0), (64, 0.175), (128, 0.5), (192, 0.825), (224, 1.0)]:
        flat = np.full((256, 256), level, np.uint8)
        assert white(flat, "atkinson", serpentine=False).mean() == pytest.approx(
            share, abs=0.01
        )


def test_flat_128_is_a_checkerboard():
    dots = white(np.full((4, 8), 128, np.uint8), "floyd-steinberg", serpentine=False)
    assert np.packbits(dots, axis=1).ravel().tolist() == [0xAA, 0x55, 0xAA, 0x55]


def test_likeness_to_pillow():
    """Pillow truncates and clamps, so only mean and blurred likeness can agree."""
    y, x = np.mgrid[0:200, 0:300]
    levels = (127 + 90 * np.sin(x / 31) * np.cos(y / 23)).astype(np.uint8)
    ours = white(levels, "floyd-steinberg", serpentine=False).astype(float)
    theirs = np.asarray(Image.fromarray(levels).convert("1")).astype(float)
    assert abs(ours.mean() - theirs.mean()) < 0.002
    tiles = [a.reshape(20, 10, 30, 10).mean((1, 3)) for a in (ours, theirs)]
    assert np.abs(tiles[0] - tiles[1]).max() < 0.05
