"""What is made quickly is what a plain way makes, to the last bit."""

import threading
from decimal import Decimal

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from engraving import strips
from engraving.artwork import grid
from engraving.colour.light import light_tables
from engraving.dots import BitGrid, run_in, screens
from engraving.gcode.numbers import put_number
from engraving.jobspec import DotsPart
from engraving.proof import MaterialResponse, averaging, spot_model


@given(st.integers(0, 700))
def test_strips_are_all_rows_once(rows):
    seen = np.zeros(rows, int)

    def work(first, last):
        seen[first:last] += 1

    strips.in_strips(rows, work)
    assert (seen == 1).all()


def test_a_fault_in_a_strip_is_told():
    def work(first, last):
        raise ValueError(f"{first} to {last}")

    with pytest.raises(ValueError, match=" to "):
        strips.in_strips(500, work)


def test_nobody_waits_behind_anothers_large_work():
    """All helpers are at it; what they have not begun is done by who wants it."""
    let_go = threading.Event()
    for _ in range(max(strips.processors() - 1, 1)):
        strips._pool().submit(let_go.wait, 10)
    try:
        seen = np.zeros(500, int)
        strips.in_strips(500, lambda first, last: seen.__setitem__(slice(first, last), 1))
        assert seen.all()
        assert not let_go.is_set()
    finally:
        let_go.set()


@given(st.integers(-(10**9), 10**9), st.integers(0, 6))
def test_numbers_are_written_as_decimals_have_them(value, decimals):
    text = np.zeros(32, np.uint8)
    size = put_number(text, 3, value, decimals)
    exact = Decimal(value).scaleb(-decimals)
    plain = format(exact, "f")
    wanted = plain.rstrip("0").rstrip(".") if "." in plain else plain
    assert text[3:size].tobytes().decode() == wanted
    assert not text[size:].any()


def plainly_resampled(plane, cols, rows):
    """Row after row, then along each: float32, in the same order of sums."""
    linear, codes = light_tables(plane)
    (first_y, weight_y), (first_x, weight_x) = (
        grid.weights(count, wanted)
        for count, wanted in zip(plane.shape, (rows, cols), strict=True)
    )
    light, out = linear[plane], np.zeros((rows, cols), codes.dtype)
    for y in range(rows):
        line, total = np.zeros(plane.shape[1], np.float32), np.zeros(cols, np.float32)
        for k in range(weight_y.shape[1]):
            if 0 <= first_y[y] + k < len(plane):
                line += weight_y[y, k] * light[first_y[y] + k]
        for k in range(weight_x.shape[1]):
            at = first_x + k
            inside = (at >= 0) & (at < plane.shape[1])
            total[inside] += weight_x[inside, k] * line[at[inside]]
        share = np.clip(total, 0, 1) * np.float32(codes.size - 1) + np.float32(0.5)
        out[y] = codes[share.astype(np.int64)]
    return out


@pytest.mark.parametrize("kind", [np.uint8, np.uint16])
@pytest.mark.parametrize(
    ("size", "wanted"), [((200, 300), (133, 171)), ((90, 50), (173, 141)), ((7, 5), (9, 3))]
)
def test_resampled_in_strips_of_eight_rows(kind, size, wanted):
    top = np.iinfo(kind).max + 1
    plane = np.random.default_rng(0).integers(0, top, size).astype(kind)
    assert np.array_equal(grid.resample(plane, *wanted), plainly_resampled(plane, *wanted))


@pytest.mark.parametrize("size", [(1, 5), (2, 7), (300, 90)])
def test_rows_before_the_first(size):
    levels = np.random.default_rng(3).integers(0, 256, size, dtype=np.uint8)
    kept = levels.copy()
    before = run_in.rows_before(levels)
    out_of = np.abs((np.arange(128) + size[0] - 1) % max(2 * size[0] - 2, 1) - size[0] + 1)
    plain = levels[(size[0] - 1 - out_of)[::-1] if size[0] > 1 else np.zeros(128, int)]
    broken = plain[:96].astype(int)
    away = np.minimum(broken, 255 - broken)
    times = np.clip(64 // np.maximum(away, 1) + 1, 1, 16)
    chance = np.random.default_rng(run_in._SEED).random(broken.shape)
    far = np.where(chance * times < 1, away * times, 0)
    plain[:96] = np.where(broken > 127, 255 - far, far)
    assert np.array_equal(before, plain)
    assert np.array_equal(levels, kept)


BITS = BitGrid.from_dots(
    (np.random.default_rng(5).random((151, 203)) < 0.4).astype(np.uint8)
)
CELLS = spot_model(1.2, MaterialResponse()).cells


PLACES = st.tuples(
    st.integers(-30, 190), st.integers(-30, 140), st.integers(2, 220), st.integers(2, 170)
)


@given(PLACES, st.floats(0.05, 1), st.floats(0.05, 1), st.data())
def test_any_window_is_a_part_of_the_whole_however_it_is_cut(place, across, down, data):
    left, top, cols, rows = place
    size = max(int(cols * across), 1), max(int(rows * down), 1)
    found = averaging.averaged_marks(BITS, place, size, CELLS)
    # Two dots beyond the window are seen from within.
    part = BitGrid.from_dots(BITS.window(left - 2, top - 2, cols + 4, rows + 4))
    assert np.array_equal(
        found, averaging.averaged_marks(part, (2, 2, cols, rows), size, CELLS)
    )
    at = data.draw(st.integers(0, size[1]))
    out = np.zeros((size[1], size[0]), np.uint16)
    for first, last in ((0, at), (at, size[1])):
        averaging._average(
            BITS.packed, BITS.cols, place, CELLS, averaging._SPREAD, out, first, last
        )
    assert np.array_equal(found, out)


@pytest.mark.parametrize("shape", [*screens.SPOTS, *screens.WAVES])
def test_screens_are_the_same_however_they_are_cut(shape, monkeypatch):
    levels = np.random.default_rng(1).integers(0, 256, (300, 120), dtype=np.uint8)
    settings = DotsPart(method="line" if shape in screens.WAVES else shape, angle_deg=23)
    found = screens.screened(shape, levels, settings, (0.1, 0.1))
    monkeypatch.setattr(screens, "in_strips", lambda rows, work: work(0, rows))
    assert np.array_equal(found, screens.screened(shape, levels, settings, (0.1, 0.1)))
