"""Screens: shares, rulings, angles, marks, and the lines as geometry."""

import numpy as np
import pytest
from skimage.measure import points_in_poly

from engraving.dots import METHODS, make_dots
from engraving.dots.lines import screen_lines
from engraving.dots.runs import count_short, least_run_dots, without_short
from engraving.dots.screens import SPOTS, WAVES, tones
from engraving.jobspec import DotsPart

CELL = (0.1, 0.1)
SHAPES = pytest.mark.parametrize("shape", [*SPOTS, *WAVES])


def burned(share, shape, side=512, cell=CELL, **settings):
    flat = np.full((side, side), round(255 * (1 - share)), np.uint8)
    return make_dots(flat, DotsPart(method=shape, **settings), cell).unpack()


@SHAPES
@pytest.mark.parametrize("angle", [0, 18.4, 45, -60])
def test_the_share_follows_the_tone(shape, angle):
    for share in (0.1, 0.3, 0.5, 0.85):
        dots = burned(share, shape, ruling_cm=7.3, angle_deg=angle)
        assert dots.mean() == pytest.approx(round(255 * share) / 255, abs=0.012)


@pytest.mark.parametrize("shape", ["round", "square", "ellipse", "line"])
@pytest.mark.parametrize("ruling", [8, 16, 24])
@pytest.mark.parametrize("angle", [0, 15, 45, 75])
def test_ruling_and_angle_are_the_strongest_frequency(shape, ruling, angle):
    """Strongest peak at ruling / dots per cm cycles a dot, at the angle or across it."""
    dots = burned(0.35, shape, ruling_cm=ruling, angle_deg=angle).astype(float)
    window = np.outer(np.hanning(512), np.hanning(512))
    power = np.abs(np.fft.fft2((dots - dots.mean()) * window))
    fy, fx = np.unravel_index(np.argmax(power), power.shape)
    fx, fy = (np.fft.fftfreq(512)[int(k)] for k in (fx, fy))
    assert np.hypot(fx, fy) == pytest.approx(ruling * 0.01, abs=1.5 / 512)
    # y counts down, angles counter-clockwise; lines repeat across themselves
    found = np.degrees(np.arctan2(-fy, fx)) % 180
    wanted = [(angle + 90) % 180] if shape == "line" else [angle % 180, (angle + 90) % 180]
    far = [min(abs(found - w), 180 - abs(found - w)) for w in wanted]
    assert min(far) < np.degrees(1.6 / 512 / (ruling * 0.01))


def test_a_round_dot_has_its_radius():
    """Coverage a in a unit cell: radius √(a/π); 0.25 → 0.282095 (plane geometry)."""
    dots = burned(0.25, "round", side=100, ruling_cm=2, angle_deg=0)  # one cell is 50 dots
    rows, cols = np.nonzero(dots[:50, :50])
    assert np.hypot(rows - 24.5, cols - 24.5).max() / 50 == pytest.approx(
        0.282095, abs=0.012
    )


@pytest.mark.parametrize(
    ("dpi", "lpi", "expected"),
    [(300, 60, 26), (254, 25.4, 101), (254, 50.8, 26), (317.5, 40, 64), (508, 50, 104),
     (600, 85, 50), (1200, 150, 65)],
)  # fmt: skip
def test_tones_a_screen_can_show(dpi, lpi, expected):
    """(dpi / ruling)² + 1, the square floored."""
    settings = DotsPart(ruling_cm=lpi / 2.54)
    assert tones("round", settings, (25.4 / dpi, 25.4 / dpi)) == expected


@SHAPES
def test_marks_keep_their_bounds(shape):
    bounds = {"ruling_cm": 5, "angle_deg": 0, "least_mark_mm": 0.6, "most_mark_mm": 1.2}
    shares = {
        round(float(burned(s, shape, **bounds).mean()), 2) for s in (0.02, 0.2, 0.95, 1)
    }
    none, *some = sorted(shares)
    assert none == 0
    assert max(some) < 0.9
    plain = burned(0.2, shape, ruling_cm=5, angle_deg=0).mean()
    least = {**bounds, "most_mark_mm": 0}
    assert burned(0.2, shape, **least).mean() >= plain - 0.01


@pytest.mark.parametrize("every", [2, 5])
@pytest.mark.parametrize("shape", WAVES)
def test_every_nth_line(shape, every):
    dots = burned(0.6, shape, ruling_cm=10, angle_deg=90, every=every)
    assert dots.mean() == pytest.approx(0.6 / every, abs=0.02)


@pytest.mark.parametrize("shape", WAVES)
@pytest.mark.parametrize(("angle", "cell"), [(0, CELL), (30, CELL), (-50, (0.05, 0.1))])
def test_the_outlines_hold_the_dots(shape, angle, cell):
    """Filled by another library, the outlines give the same dots.

    But for a little where the tone changes across a line's own width.
    """
    levels = np.tile(np.linspace(70, 190, 120), (90, 1)).astype(np.uint8)
    settings = DotsPart(
        method=shape, ruling_cm=9, angle_deg=angle, wavelength_mm=5, swing_mm=0.6
    )
    dots = make_dots(levels, settings, cell).unpack().astype(bool)
    lines = screen_lines(shape, levels, settings, cell)
    y, x = np.mgrid[0:90, 0:120]
    centres = np.stack([(x + 0.5) * cell[0], (y + 0.5) * cell[1]], axis=-1).reshape(-1, 2)
    inside = sum(points_in_poly(centres, line.outline).astype(int) for line in lines)
    assert (inside.reshape(90, 120) == dots).mean() > 0.97


class TestShortRuns:
    ROW = np.array(
        [[1, 0, 1, 1, 1, 0, 0, 0, 1, 0, 0, 0, 0, 1, 1, 0, 1, 1, 1, 1, 0, 0, 1]], np.uint8
    )

    def test_counted(self):
        packed = np.packbits(self.ROW, axis=1)
        assert [count_short(packed, 23, n) for n in (1, 2, 3, 4, 5)] == [0, 3, 4, 5, 6]

    def test_dropped_or_lengthened_none_is_left(self):
        rng = np.random.default_rng(5)
        dots = (rng.random((40, 83)) < 0.4).astype(np.uint8)
        packed = np.packbits(dots, axis=1)
        for rule in ("drop", "lengthen"):
            after = without_short(packed, 83, 3, rule)
            assert count_short(after, 83, 3) == 0
            kept = np.unpackbits(after, axis=1, count=83)
            if rule == "drop":
                assert (kept <= dots).all()
            else:
                assert kept.sum() > dots.sum()

    def test_lengthened_to_the_neighbour_or_onwards(self):
        after = without_short(np.packbits(self.ROW, axis=1), 23, 3, "lengthen")
        expected = [1, 1, 1, 1, 1, 0, 0, 0, 1, 1, 1, 0, 0, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1]
        assert np.unpackbits(after, axis=1, count=23)[0].tolist() == expected

    def test_least_run(self):
        assert least_run_dots(0.0, 0.1) == 1
        assert least_run_dots(0.2, 0.1) == 2
        assert least_run_dots(0.21, 0.1) == 3


def test_line_methods_are_the_ones_with_outlines():
    assert {name for name, one in METHODS.items() if one.family == "line"} == set(WAVES)
