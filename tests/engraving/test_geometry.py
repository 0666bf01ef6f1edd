"""Corners, turns, mirror, tilt and crop as one map, held against scikit-image."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from skimage import transform

from engraving.artwork import place_on_grid
from engraving.artwork.placing import grid_to_file, level_to_file
from engraving.artwork.warp import warp
from engraving.colour.light import LINEAR_OF_CODE, to_coded
from engraving.errors import JobError
from engraving.geometry.homography import homography, mapped, scale_at
from engraving.jobspec import ArtworkPart, Crop, JobSpec

CORNERS = ((0.1, 0.05), (0.9, 0.2), (0.85, 0.95), (0.02, 0.8))


def test_homography_against_scikit_image():
    source = np.array([(0, 0), (640, 0), (640, 480), (0, 480)], float)
    target = np.array([(x * 800, y * 600) for x, y in CORNERS])
    wanted = transform.ProjectiveTransform.from_estimate(source, target)
    points = np.random.default_rng(3).uniform(0, 480, (200, 2))
    found = mapped(homography(source, target), points)
    assert np.abs(found - wanted(points)).max() < 1e-6


@given(
    turns=st.integers(0, 3),
    mirror=st.booleans(),
    left=st.sampled_from([0.0, 0.25, 0.5]),
    width=st.sampled_from([0.25, 0.5]),
)
def test_the_map_agrees_with_turning_the_pixels(turns, mirror, left, width):
    """Each pixel of the cut-out window is the one the map points at."""
    pixels = np.arange(40 * 24, dtype=np.uint16).reshape(24, 40)
    part = ArtworkPart(
        width_px=40, height_px=24, turns=turns, mirror=mirror, crop=Crop(left=left, width=width)
    )  # fmt: skip
    _, _, across, down = part.window_px
    seen = place_on_grid(pixels, part, across, down)
    x, y = np.meshgrid(np.arange(across) + 0.5, np.arange(down) + 0.5)
    points = np.stack([x.ravel(), y.ravel()], axis=1)
    at = np.floor(mapped(grid_to_file(part, across, down), points)).astype(int)
    assert np.array_equal(pixels[at[:, 1], at[:, 0]], seen.ravel())


@given(angle=st.floats(-45, 45), width=st.integers(30, 900), height=st.integers(30, 900))
def test_a_levelled_picture_has_no_empty_corner(angle, width, height):
    part = ArtworkPart(width_px=width, height_px=height, straighten_deg=angle)
    across, down = part.level_px
    corners = np.array([(0, 0), (across, 0), (across, down), (0, down)], float)
    found = mapped(level_to_file(part), corners)
    assert (found >= -1).all()
    assert (found <= np.array([width, height]) + 1).all()


def test_straightening_turns_clockwise():
    """A line that rises to the right by ten degrees lies level after turning by ten."""
    part = ArtworkPart(width_px=400, height_px=400, straighten_deg=10)
    across, down = part.level_px
    level = np.array([(0.2 * across, 0.5 * down), (0.8 * across, 0.5 * down)])
    (x0, y0), (x1, y1) = mapped(level_to_file(part), level)
    assert np.degrees(np.arctan2(y0 - y1, x1 - x0)) == pytest.approx(10)


def test_corners_are_taken_apart_and_put_back():
    """A drawn sheet, photographed askew, comes back as it was drawn."""
    y, x = np.mgrid[0:300, 0:400]
    sheet = (128 + 100 * np.sin(x / 20) * np.cos(y / 15)).astype(np.uint8)
    part = ArtworkPart(width_px=600, height_px=500, corners=CORNERS)
    target = np.array([(px * 600, py * 500) for px, py in CORNERS])
    flat = np.array([(0, 0), (400, 0), (400, 300), (0, 300)], float)
    back = np.linalg.inv(homography(flat, target))
    askew = warp(sheet, back, (600, 500), LINEAR_OF_CODE, np.arange(1 << 14) // 64)
    codes = np.rint(to_coded(askew / 255.0) * 255).astype(np.uint8)
    found = place_on_grid(codes, part, 200, 150)
    wanted = sheet.reshape(150, 2, 200, 2).mean(axis=(1, 3))
    inside = np.s_[6:-6, 6:-6]
    assert np.abs(found[inside].astype(float) - wanted[inside]).mean() < 3


@pytest.mark.parametrize("size", [(50, 40), (200, 160), (640, 512)])
def test_tilted_pictures_keep_their_mean_light_and_detail(size):
    """Against scikit-image's rotation, in linear light, shrinking and enlarging."""
    y, x = np.mgrid[0:320, 0:400]
    light = 0.5 + 0.4 * np.sin(x / 30) * np.cos(y / 22)
    codes = np.rint(to_coded(light) * 255).astype(np.uint8)
    part = ArtworkPart(width_px=400, height_px=320, straighten_deg=12)
    found = LINEAR_OF_CODE[place_on_grid(codes, part, *size)]
    matrix = grid_to_file(part, *size)
    dots = np.stack(np.meshgrid(np.arange(size[0]) + 0.5, np.arange(size[1]) + 0.5), -1)
    at = mapped(matrix, dots.reshape(-1, 2)).reshape(size[1], size[0], 2)
    wanted = 0.5 + 0.4 * np.sin((at[..., 0] - 0.5) / 30) * np.cos((at[..., 1] - 0.5) / 22)
    assert np.abs(found - wanted).max() < (0.03 if scale_at(matrix, 9, 9) > 3 else 0.012)
    assert found.mean() == pytest.approx(wanted.mean(), abs=0.002)


@pytest.mark.parametrize(
    "corners",
    [((0, 0), (1, 1), (1, 0), (0, 1)), ((0, 0), (0, 1), (1, 1), (1, 0)),
     ((0, 0), (1, 0), (0.2, 0.2), (0, 1)), ((0, 0), (0, 0), (1, 1), (0, 1))],
)  # fmt: skip
def test_corners_that_make_no_sheet_are_refused(corners):
    with pytest.raises(JobError, match="corners"):
        JobSpec.from_json(
            JobSpec(artwork=ArtworkPart(width_px=100, height_px=100))
            .model_dump_json()
            .replace('"corners":null', f'"corners":{[list(c) for c in corners]}')
        )
