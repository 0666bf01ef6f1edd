"""Dots are told from line art on a set of made-up pictures of every kind."""

import numpy as np
import pytest

from engraving.artwork import read_artwork
from engraving.artwork.dotted import LIKELY, dotted_odds
from support.drawings import dots, line_art
from support.jobs import png

COUNT = 150


def test_wrong_on_fewer_than_one_in_fifty():
    """Other pictures than the rule's weights were fitted to; both kinds count alike."""
    wrong = []
    for seed in range(COUNT):
        for make, dotted in ((dots, True), (line_art, False)):
            picture = make(np.random.default_rng([77, seed, dotted]))
            if (dotted_odds(picture) >= LIKELY) != dotted:
                wrong.append((make.__name__, seed, round(dotted_odds(picture), 2)))
    assert len(wrong) < 2 * COUNT / 50, wrong


@pytest.mark.parametrize("shape", ["disc", "triangle", "specks"])
def test_plain_shapes_are_line_art(shape):
    y, x = np.mgrid[0:300, 0:400]
    dark = {"disc": np.hypot(x - 200, y - 150) < 90, "triangle": (y > 60) & (y < 260) & (abs(x - 200) < (y - 60) / 2),
            "specks": (x % 97 == 13) & (y % 71 == 20)}[shape]  # fmt: skip
    picture = np.where(dark, 0, 255).astype(np.uint8)
    assert dotted_odds(picture) < 0.2
    found = read_artwork(png(picture))
    assert not found.dotted
    assert any("line art" in note and "% sure" in note for note in found.notes)


def test_nothing_is_no_dots():
    assert dotted_odds(np.full((90, 90), 255, np.uint8)) == 0


def test_a_small_drawing_on_a_large_page_is_found():
    """Between the squares that are looked at first, and beyond the last whole one."""
    page = np.full((1500, 1530), 255, np.uint8)
    page[700:730, 200:203] = page[710:713, 190:220] = 0
    assert 0 < dotted_odds(page) < 0.2
    rim = np.full((1500, 1530), 255, np.uint8)
    rim[300:360, 1526:1530] = 0
    assert 0 < dotted_odds(rim) < 0.2


def test_what_ends_where_the_squares_do_is_no_dots():
    page = np.full((640, 640), 255, np.uint8)
    page[:, 320:] = 0
    assert dotted_odds(page) == 0
