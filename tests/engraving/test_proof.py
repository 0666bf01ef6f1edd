"""The proof: spot geometry, averages in linear light, colours."""

import numpy as np
import pytest

from engraving.artwork.light import to_coded
from engraving.dots import BitGrid
from engraving.proof import (
    Window,
    dot_palette,
    shown_dots,
    shown_marks,
    shown_tones,
    spot_model,
    substrate_palette,
)
from engraving.spec import SubstratePart

GAUSS = 2.2


def framed(dots):
    return np.pad(dots, ((1, 1), (2, 2)))


def checkerboard(n):
    return (np.indices((n, n)).sum(axis=0) % 2).astype(np.uint8)


class TestDisc:
    """Union of stadia swept by a disc of diameter d (in pitches), by plane geometry.

    A single dot covers d + πd²/4 cells; polygon values for the checkerboard.
    """

    def marks(self, dots, ratio):
        return spot_model(ratio, "disc", GAUSS).marks(framed(dots)) / 65535

    @pytest.mark.parametrize("ratio", [0.8, 1.0])
    def test_single_dot(self, ratio):
        dots = np.zeros((7, 9), np.uint8)
        dots[3, 4] = 1
        area = ratio + np.pi * ratio**2 / 4
        assert self.marks(dots, ratio).sum() == pytest.approx(area, abs=0.03)

    @pytest.mark.parametrize(("ratio", "share"), [(1.0, 0.892689), (1.27, 1.0)])
    def test_checkerboard(self, ratio, share):
        inner = self.marks(checkerboard(20), ratio)[4:-4, 4:-4]
        assert inner.mean() == pytest.approx(share, abs=0.01)

    def test_full_rows_at_every_second_row(self):
        dots = np.zeros((20, 20), np.uint8)
        dots[::2] = 1
        assert self.marks(dots, 1.0)[4:-4, 4:-4].mean() == pytest.approx(0.5, abs=0.01)

    @pytest.mark.parametrize("long", [0.5, 2.0, 4.0])
    def test_a_dot_longer_or_shorter_than_the_rows_are_apart(self, long):
        """A single dot covers l·d + πd²/4 in row pitches, where l is its length."""
        dots = np.zeros((7, 13), np.uint8)
        dots[3, 6] = 1
        marks = spot_model(0.9, "disc", GAUSS, long).marks(framed(dots)) / 65535
        assert marks.sum() * long == pytest.approx(
            long * 0.9 + np.pi * 0.81 / 4, abs=0.03 * long
        )


class TestGaussian:
    @pytest.mark.parametrize("ratio", [0.5, 1.0, 1.6, 2.0, 3.0])
    def test_a_solid_is_fully_marked_and_nothing_not_at_all(self, ratio):
        model = spot_model(ratio, "gaussian", GAUSS)
        solid = np.ones((20, 20), np.uint8)
        inner = model.marks(framed(solid))[6:-6, 6:-6] / 65535
        # a spot no wider than the pitch leaves gaps between the rows
        assert (inner.mean() > 0.99) == (ratio > 1.2)
        assert not model.marks(framed(np.zeros((9, 9), np.uint8))).any()

    @pytest.mark.parametrize(
        ("ratio", "along"), [(0.6, 1), (1.2, 1), (1.9, 1), (1.2, 0.6), (1.2, 1.8)]
    )
    def test_the_table_equals_integrating_every_dot(self, ratio, along):
        """Energy of each dot summed on a fine grid, without the table."""
        dots = (np.random.default_rng(3).random((12, 14)) < 0.5).astype(np.uint8)
        fine, sigma, sigma_x = 16, ratio / 4, ratio / along / 4
        y = (np.arange(12 * fine) + 0.5) / fine - 0.5
        x = (np.arange(14 * fine) + 0.5) / fine - 0.5
        sub = (np.arange(32) + 0.5) / 32 - 0.5
        energy = np.zeros((len(y), len(x)))
        for row, col in zip(*np.nonzero(dots), strict=True):
            swept = np.exp(-((x[:, None] - col - sub) ** 2) / (2 * sigma_x**2)).mean(axis=1)
            down = np.exp(-((y - row) ** 2) / (2 * sigma**2))
            energy += np.outer(down, swept) / (2 * np.pi * sigma * sigma_x)
        mark = np.minimum((1 - np.exp(-GAUSS * energy)) / (1 - np.exp(-GAUSS)), 1)
        cells = mark.reshape(12, fine, 14, fine).mean(axis=(1, 3))
        model = spot_model(ratio, "gaussian", GAUSS, along)
        found = model.marks(framed(dots)) / 65535
        # the table leaves out dots farther than one row or two columns
        assert np.abs(found - cells).max() < 0.016
        near = model.marks_within(framed(dots)) / 65535
        assert near.shape == (48, 56)
        assert np.abs(near.reshape(12, 4, 14, 4).mean(axis=(1, 3)) - cells).max() < 0.04

    def test_wider_spots_mark_more(self):
        dots = (np.random.default_rng(3).random((40, 40)) < 0.3).astype(np.uint8)
        shares = [
            spot_model(r, "gaussian", GAUSS).marks(framed(dots)).mean()
            for r in (0.5, 1, 1.9, 3)
        ]
        assert shares == sorted(shares)


class TestViews:
    def test_from_afar_a_pixel_is_the_mean_of_its_light(self):
        """Half the codes 0, half 255: mean light 0.5 is code 187.5."""
        codes = checkerboard(64) * np.uint8(255)
        shown = shown_tones(codes, Window(0, 0, 64, 64, 10, 10))
        assert np.abs(shown.astype(float) - to_coded(np.array(0.5)) * 255).max() <= 1.5

    def test_dots_far_apart_one_way_are_averaged_the_other(self):
        """Every second column black, shown with half as many columns but all rows twice."""
        bits = BitGrid.from_dots(np.tile([0, 1], (16, 32)).astype(np.uint8))
        shown = shown_dots(bits, Window(0, 0, 64, 16, 32, 32), dot_palette("darkens"))
        assert shown.shape == (16, 32, 3)
        assert np.ptp(shown.astype(int), axis=(0, 1)).max() <= 1

    def test_beyond_the_grid_is_white_and_unburned(self):
        codes = np.zeros((4, 4), np.uint8)
        assert shown_tones(codes, Window(-4, 0, 4, 4, 4, 4)).min() == 255
        bits = BitGrid.from_dots(np.ones((4, 4), np.uint8))
        shown = shown_dots(bits, Window(4, 4, 4, 4, 4, 4), dot_palette("darkens"))
        assert (shown == shown[0, 0]).all()

    def test_dots_near_are_true(self):
        dots = (np.random.default_rng(0).random((9, 11)) < 0.5).astype(np.uint8)
        shown = shown_dots(
            BitGrid.from_dots(dots), Window(0, 0, 11, 9, 88, 72), dot_palette("darkens")
        )
        assert np.array_equal(shown[..., 0] < 128, dots.astype(bool))

    def test_the_share_of_marks_does_not_depend_on_the_distance(self):
        dots = (np.random.default_rng(0).random((96, 96)) < 0.4).astype(np.uint8)
        bits, spot = BitGrid.from_dots(dots), spot_model(1.2, "gaussian", GAUSS)
        grays = substrate_palette(SubstratePart(ground="#ffffff", mark="#000000"))
        sizes = (12, 48, 96, 192, 384)
        light = []
        for size in sizes:
            shown = shown_marks(bits, Window(0, 0, 96, 96, size, size), spot, grays)
            codes = shown[..., 0].astype(float) / 255
            light.append(
                np.where(
                    codes <= 0.04045, codes / 12.92, ((codes + 0.055) / 1.055) ** 2.4
                ).mean()
            )
        assert np.ptp(light) < 0.01

    def test_colours_mix_in_light(self):
        palette = substrate_palette(SubstratePart(ground="#ffffff", mark="#000000"))
        half = palette.paint(np.full((1, 1), 32767, np.uint16))[0, 0]
        assert half.tolist() == [188, 188, 188]
