"""Tilted and squared pictures, held against the plain mean over each dot's own area."""

import math

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from engraving.artwork.warp import warp
from engraving.colour.light import LINEAR_OF_CODE, light_tables, to_coded

SIZE = (120, 110)


def screen(lines_px, side=1200):
    """A 45° screen of round dots, two levels, so many pixels a line."""
    y, x = np.mgrid[0:side, 0:side].astype(float)
    u, v = (x + y) / math.sqrt(2), (y - x) / math.sqrt(2)
    turn = 2 * math.pi / lines_px
    return ((np.cos(u * turn) + np.cos(v * turn) > 0) * 255).astype(np.uint8)


def tilt(scale, degrees, lean=0.0):
    turn = math.radians(degrees)
    cos, sin = scale * math.cos(turn), scale * math.sin(turn)
    return np.array([[cos, -sin, 200], [sin, cos, 120], [lean, lean / 2, 1]])


def integrated(picture, matrix, sub=10):
    """The mean light over each dot, by so many points each way; then sRGB codes."""
    cols, rows = SIZE
    light = LINEAR_OF_CODE[picture]
    total = np.zeros((rows, cols))
    for i in range(sub):
        for j in range(sub):
            x, y = np.meshgrid(
                np.arange(cols) + (i + 0.5) / sub, np.arange(rows) + (j + 0.5) / sub
            )
            px, py, w = np.moveaxis(np.stack([x, y, np.ones_like(x)], -1) @ matrix.T, -1, 0)
            total += light[(py / w).astype(int), (px / w).astype(int)]
    return to_coded(total / sub**2) * 255


def banding(codes):
    """How far wide areas differ: what the eye sees as moiré on an even tone."""
    return float(cv2.GaussianBlur(codes.astype(float), (0, 0), 5)[12:-12, 12:-12].std())


@pytest.mark.parametrize("scale", [2.36, 3.0, 3.7, 4.7])
@pytest.mark.parametrize("degrees", [1, -7])
def test_a_screen_does_not_beat_with_the_dots(scale, degrees):
    """133 lines scanned at 600 dpi, onto dots of 254 dpi and coarser."""
    picture = screen(600 / 133)
    found = warp(picture, tilt(scale, degrees), SIZE, *light_tables(picture))
    true = banding(integrated(picture, tilt(scale, degrees)))
    assert banding(found) <= true + 0.3


@settings(max_examples=25, deadline=None)
@given(st.floats(1.2, 5), st.floats(-40, 40), st.floats(0, 4e-4), st.integers(0, 99))
def test_any_homography_gives_the_mean_over_the_dot(scale, degrees, lean, seed):
    chance = np.random.default_rng(seed)
    soft = cv2.GaussianBlur(chance.normal(size=(1200, 1200)), (0, 0), 2 * scale)
    picture = (128 + 60 * soft / soft.std()).clip(0, 255).astype(np.uint8)
    matrix = tilt(scale, degrees, lean)
    middle = matrix @ [SIZE[0] / 2, SIZE[1] / 2, 1]
    matrix[:2, 2] += 600 * middle[2] - middle[:2]  # the dots' middle on the picture's
    found = warp(picture, matrix, SIZE, *light_tables(picture)).astype(float)
    wanted = integrated(picture, matrix)
    assert np.abs(found - wanted)[2:-2, 2:-2].mean() < 1.2
