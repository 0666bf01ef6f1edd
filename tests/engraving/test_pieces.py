"""A finished piece is found in its photo, compared, and learned from; what does not fit is not."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from engraving.colour.light import to_coded, to_linear
from engraving.colour.lightness import lightness
from engraving.errors import ArtworkError
from engraving.pieces import KNOTS, STEP, Learned, amended, read_piece
from support.cards import HIDDEN, material
from support.jobs import changed, pipeline_of
from support.pieces import one_piece, piece_spec, scene, taught


@pytest.mark.parametrize("name", HIDDEN)
def test_three_photographs_bring_the_fourth_near(name):
    off = taught(name)
    assert off[-1] < 3.0
    assert off[-1] < 0.5 * off[0]


def _in_light(photo, share):
    return np.rint(255 * to_coded(share * to_linear(photo / 255))).astype(np.uint8)


def _shaded(photo, share):
    rows, cols = photo.shape[:2]
    lit = np.ones((rows, cols, 1))
    lit[:, : cols // 2] = share
    return (photo * lit).astype(np.uint8)


def _on_table(photo, degrees):
    high, wide = photo.shape[:2]
    table = np.full((high + 300, wide + 400, 3), 60, np.uint8)
    table[150 : 150 + high, 200 : 200 + wide] = photo
    middle = table.shape[1] / 2, table.shape[0] / 2
    turn = cv2.getRotationMatrix2D(middle, degrees, 0.85)
    return cv2.warpAffine(table, turn, table.shape[1::-1], borderValue=(60, 60, 60))


FOUND = {
    "as it lies": lambda photo: photo,
    "a quarter": np.rot90,
    "half a turn": lambda photo: np.rot90(photo, 2),
    "on a table, by 7°": lambda photo: _on_table(photo, 7),
    "on a table, by 100°": lambda photo: _on_table(photo, 100),
    "darker": lambda photo: _in_light(photo, 0.5),
}


@pytest.mark.parametrize("name", FOUND)
def test_a_piece_is_found_however_it_lies(name):
    expected, photo = one_piece()
    plain = read_piece(photo, expected)
    seen = read_piece(np.ascontiguousarray(FOUND[name](photo)), expected)
    assert seen.fits > 0.97
    came = np.array(seen.learned.lightness) - plain.learned.lightness
    covered = np.array(seen.learned.covered) > 0.5
    assert np.abs(came[covered]).max() < 1.5


def test_corners_by_hand_need_not_be_exact():
    expected, photo = one_piece()
    found = read_piece(photo, expected).corners
    off = [
        (x + 12 * way, y - 14 * way)
        for (x, y), way in zip(found, (1, -1, 0.5, 1), strict=True)
    ]
    seen = read_piece(photo, expected, off)
    assert seen.found_by == "points"
    assert np.abs(np.array(seen.corners) - found).max() < 3


def test_a_round_piece_is_found_by_its_edge():
    told, _ = material("slate")
    spec = piece_spec(
        told, shape="disc", width_mm=22, height_mm=22, margin_mm=3, keep_inside=True
    )
    expected = pipeline_of(scene(7)).expected(spec)
    seen = (255 * to_coded(expected.picture())).astype(np.uint8)
    rows, cols = seen.shape
    y, x = np.mgrid[0:rows, 0:cols]
    px = expected.frame.px_mm
    beyond = (x - cols / 2) ** 2 + (y - rows / 2) ** 2 > (11 * px) ** 2
    photo = np.where(beyond[..., None], np.array([180, 160, 140]), seen[..., None]).astype(
        np.uint8
    )
    big = cv2.copyMakeBorder(
        photo, 90, 90, 90, 90, cv2.BORDER_CONSTANT, value=(180, 160, 140)
    )
    turn = cv2.getRotationMatrix2D((big.shape[1] / 2, big.shape[0] / 2), 33, 1.0)
    turned = cv2.warpAffine(big, turn, big.shape[1::-1], borderValue=(180, 160, 140))
    found = read_piece(turned, expected)
    assert found.fits > 0.98
    known = lightness(expected.known)
    covered = np.array(found.learned.covered) > 0.5
    assert np.abs(np.array(found.learned.lightness) - known)[covered].max() < 1.5


TOLD = {
    "another piece": (lambda e, p: (one_piece(seed=55)[0], p, None), "not what was burned|not found"),
    "another, by corners": (
        lambda e, p: (one_piece(seed=55)[0], p, read_piece(p, e).corners), "not what was burned",
    ),
    "turned, by corners": (
        lambda e, p: (e, p, [read_piece(p, e).corners[i] for i in (3, 2, 1, 0)]), "turned by 180°",
    ),
    "mirrored, by corners": (
        lambda e, p: (e, p, [read_piece(p, e).corners[i] for i in (1, 0, 3, 2)]), "mirrored",
    ),
    "mirrored": (lambda e, p: (e, p[:, ::-1], None), "mirrored"),
    "half in shadow": (lambda e, p: (e, _shaded(p, 0.6), None), "too uneven"),
    "only half of it": (lambda e, p: (e, p[:, : p.shape[1] // 2], None), "found|two thirds|not what"),
    "nothing": (lambda e, p: (e, np.full_like(p, 200), None), "not found"),
    "noise": (
        lambda e, p: (e, np.random.default_rng(0).integers(0, 255, p.shape, np.uint8), None),
        "not found",
    ),
    "small": (lambda e, p: (e, p[:90, :90], None), "too small"),
    "three corners": (lambda e, p: (e, p, [(1, 1), (90, 1), (1, 90)]), "four points"),
    "corners that are none": (
        lambda e, p: (e, p, [(float("nan"), 1), (90, 1), (1, 90), (90, 90)]), "four points",
    ),
    "overexposed": (lambda e, p: (e, np.clip(p * 1.25, 0, 255).astype(np.uint8), None), "overexposed"),
}  # fmt: skip


@pytest.mark.parametrize("name", TOLD)
def test_a_photo_that_does_not_fit_is_told(name):
    change, said = TOLD[name]
    expected, photo, places = change(*one_piece())
    with pytest.raises(ArtworkError, match=said):
        read_piece(np.ascontiguousarray(photo), expected, places)


def test_without_a_rim_nothing_is_learned():
    told, _ = material("soft wood")
    spec = piece_spec(told, width_mm=27, height_mm=19)
    expected = pipeline_of(scene(7)).expected(spec)
    _, photo = one_piece()
    with pytest.raises(ArtworkError, match="Too little of the bare blank"):
        read_piece(photo, expected)


NOT_LEARNED = {
    "two tones": {"dots": {"method": "threshold"}},
    "its own dots": {"artwork": {"keep_dots": True}},
    "a round wall": {
        "mount": {"kind": "chuck"},
        "blank": {"shape": "wall", "diameter_mm": 60},
    },
    "a plate": {"side": {"printing_plate": True}},
}


@pytest.mark.parametrize("name", NOT_LEARNED)
def test_some_pieces_have_no_curve(name):
    spec = changed(piece_spec(material("soft wood")[0]), **NOT_LEARNED[name])
    with pytest.raises(ArtworkError):
        pipeline_of(scene(7)).expected(spec)


def test_one_tone_only_is_told():
    told, _ = material("soft wood")
    expected = pipeline_of(np.full((200, 280), 255, np.uint8)).expected(piece_spec(told))
    with pytest.raises(ArtworkError, match="too few tones"):
        read_piece(one_piece()[1], expected)


LIGHT = st.lists(st.floats(0, 100), min_size=KNOTS.size, max_size=KNOTS.size)
COVERED = st.lists(st.floats(0, 1), min_size=KNOTS.size, max_size=KNOTS.size)
PIECES = st.lists(st.builds(Learned, LIGHT.map(tuple), COVERED.map(tuple)), max_size=6)


@given(PIECES, st.booleans())
def test_a_curve_moves_by_a_step_at_most_and_runs_one_way(pieces, rising):
    known = ((0.0, 20.0), (40.0, 50.0), (100.0, 80.0))
    known = known if rising else tuple((share, 100 - light) for share, light in known)
    found = amended(known, pieces)
    if found is None:
        assert not any(
            sum(c) >= 0.25 for c in zip(*(p.covered for p in pieces), strict=True)
        )
        return
    light = np.array([one for _, one in found.patches])
    assert (np.diff(light) * (1 if rising else -1) >= -1e-9).all()
    assert np.abs(found.moved).max() <= STEP + 0.01
    assert found.pieces == len(pieces)


def test_more_pieces_are_believed_more():
    known = ((0.0, 80.0), (100.0, 20.0))
    says = Learned(tuple(np.linspace(80, 20, KNOTS.size) - 4), (1.0,) * KNOTS.size)
    moved = [amended(known, [says] * n).largest for n in (1, 2, 3)]
    assert moved == pytest.approx([-2.0, -3.0, -3.5])
    apart = Learned(tuple(np.linspace(80, 20, KNOTS.size) + 4), (1.0,) * KNOTS.size)
    found = amended(known, [says, apart])
    assert (found.largest, found.apart) == (0.0, 4.0)


AIMED = {
    "plain": {},
    "lettered": {"border": {"on": True, "width_mm": 2.0}},
    "kept inside a disc": {"blank": {"shape": "disc", "width_mm": 24, "height_mm": 24, "keep_inside": True}},
    "a tapered wall": {
        "mount": {"kind": "chuck"},
        "blank": {"shape": "taper", "diameter_mm": 60, "foot_mm": 50, "height_mm": 40},
    },
}  # fmt: skip


@pytest.mark.parametrize("name", AIMED)
def test_what_is_aimed_at_is_what_dots_are_made_of(name):
    spec = changed(piece_spec(material("soft wood")[0]), **AIMED[name])
    pipeline = pipeline_of(scene(7))
    aimed, grid = pipeline.aimed(spec), pipeline.dots(spec)
    dots = np.unpackbits(grid.packed, axis=1, count=grid.cols).astype(np.float32)
    asked = 1 - aimed / np.float32(255)
    assert aimed.shape == dots.shape
    over = [
        cv2.resize(one, (14, 10), interpolation=cv2.INTER_AREA) for one in (asked, dots)
    ]
    # Errors spread over a dozen dots; a mask's edge cuts some of them off.
    assert np.abs(over[0] - over[1]).mean() < 0.02
    outside = cv2.erode((aimed == 255).astype(np.uint8), np.ones((9, 9))) > 0
    assert dots[outside].sum() <= 0.01 * outside.sum()
