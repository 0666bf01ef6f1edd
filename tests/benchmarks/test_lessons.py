"""What finished pieces teach, in figures. Printed, never asserted here."""

import time

import pytest

from engraving.pieces import read_piece
from support.cards import HIDDEN
from support.pieces import one_piece, taught


@pytest.mark.parametrize("name", HIDDEN)
def test_the_fourth_piece(benchmark, name):
    off = benchmark.pedantic(lambda: taught(name), rounds=1)
    print(
        f"\n{name}: "
        + ", ".join(f"{one:.2f}" for one in off)
        + " L* RMS to what was promised"
    )


def test_a_photo_is_read(benchmark):
    expected, photo = one_piece()
    read_piece(photo, expected)
    begun = time.perf_counter()
    found = benchmark.pedantic(lambda: read_piece(photo, expected), rounds=5)
    took = (time.perf_counter() - begun) / 5
    high, wide = photo.shape[:2]
    print(f"\na photo of {wide} × {high}, found by {found.found_by}: {took:.2f} s")
