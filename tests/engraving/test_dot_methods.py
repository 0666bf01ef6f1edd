"""What every dot method must hold, and the ordered ones' own values."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from engraving.dots import METHODS, BitGrid, make_dots
from engraving.dots.ordered import bayer_matrix
from engraving.errors import ChoiceError
from engraving.spec import DotsPart
from engraving.tone.stages import levels_to_burn

ALL = pytest.mark.parametrize("method", METHODS)


def burned(levels, method, **settings_):
    return make_dots(levels, DotsPart(method=method, **settings_)).unpack()


@ALL
class TestEveryMethod:
    def test_describes_itself(self, method):
        found = METHODS[method]
        assert found.name == method
        assert found.reason.endswith(".")
        assert found.source

    def test_black_burns_and_white_does_not(self, method):
        for size in [(1, 1), (5, 13)]:
            assert burned(np.zeros(size, np.uint8), method).all()
            assert not burned(np.full(size, 255, np.uint8), method).any()

    def test_darker_burns_no_less(self, method):
        shares = [
            burned(np.full((64, 64), level, np.uint8), method).mean()
            for level in range(0, 256, 15)
        ]
        assert all(a >= b - 0.02 for a, b in pairwise(shares))

    def test_is_the_same_every_time_and_leaves_its_input_alone(self, method, scene):
        before = scene.copy()
        assert np.array_equal(burned(scene, method), burned(scene, method))
        assert np.array_equal(scene, before)

    def test_bits_beyond_the_last_column_are_off(self, method):
        grid = make_dots(np.zeros((3, 11), np.uint8), DotsPart(method=method))
        assert grid.packed.shape == (3, 2)
        assert (grid.packed[:, 1] == 0b11100000).all()
        assert grid.count == 33


def test_an_unknown_method_lists_the_known():
    with pytest.raises(ChoiceError, match="choose one of threshold, floyd-steinberg"):
        make_dots(np.zeros((2, 2), np.uint8), DotsPart(method="none"))


def test_bayer_matrix_as_published():
    """Bayer 1973; rows of the 8 x 8 matrix."""
    matrix = bayer_matrix(8)
    assert matrix[0].tolist() == [0, 32, 8, 40, 2, 34, 10, 42]
    assert matrix[7].tolist() == [63, 31, 55, 23, 61, 29, 53, 21]
    assert sorted(matrix.ravel()) == list(range(64))


def test_bayer_whites_at_a_level():
    """White when g/255 > (M + ½)/64; 128 gives 32 of 64."""
    for level in range(0, 256, 5):
        expected = int((level / 255 > (bayer_matrix(8) + 0.5) / 64).sum())
        whites = 64 - int(burned(np.full((8, 8), level, np.uint8), "bayer").sum())
        assert whites == expected
    assert burned(np.full((8, 8), 128, np.uint8), "bayer").sum() == 32


def test_threshold_turns_at_half_or_where_told():
    ramp = np.arange(256, dtype=np.uint8)[None]
    assert burned(ramp, "threshold").sum() == 128  # 127.5 or more is white
    assert burned(ramp, "threshold", level=25).sum() == 64


def test_polarity_swaps_what_burns(scene):
    dark = levels_to_burn(scene, "darkens")
    light = levels_to_burn(scene, "lightens")
    assert np.array_equal(dark.astype(int) + light, np.full(scene.shape, 255))


@settings(max_examples=30, deadline=None)
@given(st.integers(-5, 30), st.integers(-5, 20), st.integers(1, 30), st.integers(1, 30))
def test_a_window_is_the_whole_cut(left, top, cols, rows):
    dots = np.random.default_rng(2).integers(0, 2, (13, 21), dtype=np.uint8)
    padded = np.zeros((100, 100), np.uint8)
    padded[30:43, 30:51] = dots
    expected = padded[30 + top : 30 + top + rows, 30 + left : 30 + left + cols]
    assert np.array_equal(BitGrid.from_dots(dots).window(left, top, cols, rows), expected)


@pytest.mark.parametrize(("dpi", "read"), [(254, 254), (300, 299.9994), (317.5, 317.5)])
def test_png_is_one_bit_black_burns_and_knows_its_size(tmp_path, dpi, read, scene):
    grid = make_dots(scene, DotsPart())
    path = tmp_path / "dots.png"
    grid.write_png(path, (25.4 / dpi, 25.4 / dpi))
    image = Image.open(path)
    assert image.mode == "1"
    assert image.info["dpi"] == pytest.approx((read, read), abs=1e-3)
    assert np.array_equal(~np.asarray(image), grid.unpack().astype(bool))
