"""The bed camera: held against OpenCV's own calibration, and against a hidden one."""

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from engraving.camera import BedCamera, bed_marks, calibrate, find_blanks, find_marks
from engraving.camera.fits import fit_shape
from engraving.errors import ArtworkError
from engraving.jobspec import BlankPart, MachinePart
from support.bed import (
    SLATE,
    STEEL,
    WHITE,
    WOOD,
    bed_of,
    laid_photo,
    marks_photo,
)

PIECES = [
    ("rectangle", 80, 50, WOOD), ("disc", 45, 45, STEEL), ("rectangle", 90, 30, WHITE),
    ("disc", 40, 40, SLATE),
]  # fmt: skip


@pytest.fixture(scope="module")
def bed():
    return bed_of(400, 300)


@pytest.fixture(scope="module")
def photo(bed):
    return marks_photo(bed, 2)


@pytest.fixture(scope="module")
def camera(bed, photo):
    return calibrate(photo, bed)


def test_a_hidden_camera_is_found_within_a_third_of_a_millimetre(bed, camera):
    """0.3 mm is what the work was asked to reach."""
    assert camera.marks == len(bed_marks(bed).corners)
    assert camera.residual_mm < 0.3
    assert camera.worst_mm < 0.6


def opencv_to_bed(pixels, on_bed, size):
    """OpenCV's calibration by one flat view, as a function from pixels to mm."""
    flat = np.column_stack([on_bed, np.zeros(len(on_bed))]).astype(np.float32)
    guess = np.array(
        [[max(size), 0, size[0] / 2], [0, max(size), size[1] / 2], [0, 0, 1.0]]
    )
    rule = cv2.CALIB_USE_INTRINSIC_GUESS | cv2.CALIB_FIX_PRINCIPAL_POINT
    rule |= cv2.CALIB_FIX_ASPECT_RATIO | cv2.CALIB_ZERO_TANGENT_DIST
    _, matrix, bend, _, _ = cv2.calibrateCamera(
        [flat], [pixels.astype(np.float32)], size, guess, None, flags=rule
    )
    straight = lambda at: cv2.undistortPoints(at[:, None], matrix, bend)[:, 0]  # noqa: E731
    onto, _ = cv2.findHomography(straight(pixels), on_bed)
    return lambda at: cv2.perspectiveTransform(straight(at)[None], onto)[0]


def test_pixels_lie_where_opencv_puts_them(bed, photo, camera):
    """``cv2.calibrateCamera`` (Zhang 2000, its documentation) on the same corners."""
    marks = bed_marks(bed)
    found = find_marks(photo, len(marks.corners), 2400)
    pixels = np.concatenate(list(found.values()))
    on_bed = np.concatenate([marks.ends(number) for number in found])
    theirs = opencv_to_bed(pixels, on_bed, (camera.width, camera.height))
    off = np.hypot(*(theirs(pixels) - on_bed).T)
    assert camera.residual_mm < 1.1 * np.sqrt((off**2).mean())
    x, y = np.meshgrid(np.linspace(30, 370, 15), np.linspace(30, 270, 15))
    at = camera.to_pixels(np.stack([x.ravel(), y.ravel()], axis=1))
    assert np.abs(theirs(at) - camera.to_bed(at)).max() < 0.15


@settings(max_examples=60)
@given(st.floats(0, 400), st.floats(0, 300))
def test_there_and_back(x, y):
    seen = BedCamera(
        1920, 1600, (400.0, 8.0, 200.0, -6.0, 380.0, 150.0, 0.04, 0.02, 1.0),
        (0.12, 0.02, 0.003), 0.1, 0.2, 30,
    )  # fmt: skip
    point = np.array([[x, y]])
    assert np.abs(seen.to_bed(seen.to_pixels(point)) - point).max() < 1e-3


def test_it_is_kept_as_plain_data(camera):
    assert BedCamera.from_dict(camera.to_dict()) == camera


def test_too_few_marks_and_another_photo_are_told(bed, camera):
    bare = np.full((1600, 1920, 3), 180, np.uint8)
    with pytest.raises(ArtworkError, match=r"0 of .* marks were found; 6 are needed"):
        calibrate(bare, bed)
    with pytest.raises(ArtworkError, match="calibrated with 1920 × 1600"):
        camera.look(bare[:800], bed, 2.0)


def test_blanks_are_found_where_they_were_laid(bed, camera):
    laid, photo = laid_photo(bed, PIECES, 2)
    found = find_blanks(camera.look(photo, bed, 4.0), 4.0)
    assert len(found) == len(laid)
    for one in laid:
        mine = min(
            found, key=lambda other: np.hypot(other.x_mm - one.x, other.y_mm - one.y)
        )
        dark = one.colour == SLATE  # on a bed nearly as dark, the web in between
        assert np.hypot(mine.x_mm - one.x, mine.y_mm - one.y) < (0.6 if dark else 0.3)
        assert abs(mine.width_mm - one.width) < (1.5 if dark else 0.5)
        blank = BlankPart(shape=one.shape, width_mm=one.width, height_mm=one.height)
        angle = mine.turned_to(blank)
        assert angle == pytest.approx(one.angle_deg, abs=0.2)
        assert mine.turned_to(BlankPart(width_mm=200, height_mm=100)) is None


def test_a_bare_bed_holds_nothing(bed, camera):
    _, photo = laid_photo(bed, [], 2)
    assert find_blanks(camera.look(photo, bed, 4.0), 4.0) == []


@settings(max_examples=40, deadline=None)
@given(
    st.floats(60, 200), st.floats(40, 150), st.floats(-44, 44), st.booleans(),
    st.integers(0, 2**32 - 1),
)  # fmt: skip
def test_a_bite_in_the_edge_moves_nothing(wide, high, turn, is_disc, seed):
    """An outline with a dent of a twentieth of its length."""
    share = np.linspace(0, 1, 800, endpoint=False)
    if is_disc:
        points = (
            wide / 2 * np.stack([np.cos(2 * np.pi * share), np.sin(2 * np.pi * share)], 1)
        )
    else:
        ring = np.array([(-wide, -high), (wide, -high), (wide, high), (-wide, high)]) / 2
        at = np.cumsum([0, wide, high, wide, high])
        along = share * at[-1]
        points = np.stack(
            [np.interp(along, at, [*ring[:, k], ring[0, k]]) for k in (0, 1)], 1
        )
    start = np.random.default_rng(seed).integers(0, 800)
    bite = (np.arange(40) + start) % 800
    points[bite] *= 0.93
    cos, sin = np.cos(np.radians(turn)), np.sin(np.radians(turn))
    points = points @ np.array([[cos, sin], [-sin, cos]]) + (300, 200)
    found = fit_shape(points.astype(np.float32))
    assert found.round == is_disc
    assert (found.x, found.y) == pytest.approx((300, 200), abs=1.0)
    if not is_disc:
        sides = sorted([found.width, found.height])
        assert sides == pytest.approx(sorted([wide, high]), abs=2.0)
        off = (found.angle_deg - turn + 45) % 90 - 45
        assert abs(off) < 1.0


def test_marks_lie_on_the_bed_and_apart():
    for wide, deep in ((110, 110), (400, 300), (1300, 900)):
        marks = bed_marks(MachinePart(bed_width_mm=wide, bed_height_mm=deep))
        left, front, across, up = marks.box()
        assert min(left, front) > 0
        assert left + across < wide
        assert front + up < deep
        assert len(set(marks.corners)) == len(marks.corners) <= 49
