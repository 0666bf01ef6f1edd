"""What every dot method must hold, and the ordered ones' own values."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from engraving.dots import METHODS, BitGrid, make_dots
from engraving.dots.ordered import (
    bayer_matrix,
    blue_noise_ranks,
    blue_noise_thresholds,
    ordered,
    otsu_share,
)
from engraving.dots.power import power_table
from engraving.errors import ChoiceError
from engraving.jobspec import DotsPart
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
            make_dots(np.full((64, 64), level, np.uint8), DotsPart(method=method)).share
            for level in range(0, 256, 15)
        ]
        assert all(a >= b - 0.02 for a, b in pairwise(shares))

    def test_reads_what_it_says_and_nothing_else(self, method, scene):
        """Every value of another kind is passed over; each of its own changes dots."""
        plain = DotsPart(method=method)
        other = {"scan": "one-way", "level": 31.0, "level_auto": True, "noise": 20.0, "edges": 90.0,
                 "matrix": 4, "ruling_cm": 23.0, "angle_deg": 17.0, "least_mark_mm": 0.3,
                 "most_mark_mm": 0.4, "every": 2, "wavelength_mm": 3.0, "swing_mm": 0.4,
                 "floor": 12.0, "ceiling": 77.0, "steps": 9}  # fmt: skip
        before = make_dots(scene, plain)
        for name, value in other.items():
            after = make_dots(scene, plain.model_copy(update={name: value}))
            same = np.array_equal(
                before.strengths(0, 0, 80, 60), after.strengths(0, 0, 80, 60)
            )
            assert same == (name not in METHODS[method].settings), name

    def test_is_the_same_every_time_and_leaves_its_input_alone(self, method, scene):
        before = scene.copy()
        first, again = (make_dots(scene, DotsPart(method=method)) for _ in range(2))
        assert np.array_equal(first.packed, again.packed)
        assert np.array_equal(first.strengths(0, 0, 80, 60), again.strengths(0, 0, 80, 60))
        assert np.array_equal(scene, before)

    def test_bits_beyond_the_last_column_are_off(self, method):
        grid = make_dots(np.zeros((3, 11), np.uint8), DotsPart(method=method))
        assert grid.packed.shape == (3, 2)
        assert (grid.packed[:, 1] == 0b11100000).all()
        assert grid.count == 33


def test_an_unknown_method_lists_the_known():
    with pytest.raises(ChoiceError, match="choose one of floyd-steinberg, jarvis"):
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


@pytest.mark.parametrize("size", [2, 4, 16])
def test_bayer_in_other_sizes(size):
    """Levels n² + 1; 4 × 4 as published: 0 8 2 10 / 12 4 14 6 / 3 11 1 9 / 15 7 13 5."""
    matrix = bayer_matrix(size)
    assert sorted(matrix.ravel()) == list(range(size * size))
    if size == 4:
        assert matrix.tolist() == [
            [0, 8, 2, 10],
            [12, 4, 14, 6],
            [3, 11, 1, 9],
            [15, 7, 13, 5],
        ]
    counts = {
        burned(np.full((size, size), level, np.uint8), "bayer", matrix=size).sum()
        for level in range(256)
    }
    assert len(counts) == min(size * size + 1, 256)


class TestBlueNoise:
    """Void-and-cluster, Ulichney 1993; bounds from an independent implementation."""

    def test_the_mean_is_exact_at_every_level_and_patterns_nest(self):
        ranks = blue_noise_ranks()
        assert sorted(ranks.ravel()) == list(range(128 * 128))
        before = np.zeros((128, 128), bool)
        for level in range(256):
            flat = np.full((128, 128), level, np.uint8)
            packed = ordered(flat, blue_noise_thresholds())
            white = ~np.unpackbits(packed, axis=1).astype(bool)
            assert white.sum() == (level * 128 * 128 * 2 + 255) // 510
            assert not (before & ~white).any()
            before = white

    @pytest.mark.parametrize("sixteenths", [1, 3, 5, 8, 11, 15])
    def test_little_energy_at_low_frequencies_and_the_same_all_round(self, sixteenths):
        share = sixteenths / 16
        on = (blue_noise_ranks() < share * 128 * 128).astype(float)
        power = np.abs(np.fft.fft2(on - on.mean())) ** 2 / (on.size * on.var())
        fy, fx = np.meshgrid(*[np.fft.fftfreq(128)] * 2, indexing="ij")
        radius, angle = np.hypot(fx, fy), np.degrees(np.arctan2(fy, fx)) % 180
        principal = min(np.sqrt(min(share, 1 - share)), 0.5)
        assert power[(radius > 0) & (radius < principal / 2)].mean() < 0.2
        assert power[(radius > 0) & (radius < 0.1)].mean() < 0.15
        ring = (radius > 0.1) & (radius < 0.5)
        sectors = [
            power[ring & (np.abs((angle - turn + 90) % 180 - 90) < 22.5)].mean()
            for turn in (0, 45, 90, 135)
        ]
        assert max(sectors) / min(sectors) < 1.5
        assert power.max() < 40


def test_automatic_level_is_otsus():
    """scikit-image's threshold_otsu parts the same pixels."""
    from skimage import data, filters

    for picture in (data.camera(), data.coins()):
        expected = picture <= filters.threshold_otsu(picture)
        assert np.array_equal(burned(picture, "threshold", level_auto=True), expected)
    assert otsu_share(np.full((3, 3), 9, np.uint8)) == 0.5


def test_power_runs_from_floor_to_ceiling_in_equal_steps():
    table = power_table(DotsPart(floor=20, ceiling=80, steps=4))
    assert sorted(set(table.tolist())) == [0, 400, 600, 800]
    assert (table[0], table[255]) == (800, 0)
    grid = make_dots(
        np.array([[0, 128, 255]], np.uint8), DotsPart(method="power", steps=256)
    )
    assert grid.power.tolist() == [[1000, 498, 0]]
    assert grid.share == pytest.approx(0.4993, abs=1e-3)
    assert np.asarray(grid.image()).tolist() == [[0, 128, 255]]


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
