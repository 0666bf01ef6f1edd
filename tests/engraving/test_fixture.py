"""Pockets: where they lie, in which order, what each burns; on the stand-in as planned."""

from itertools import permutations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from engraving.jobspec import (
    ArtworkPart,
    FixturePart,
    JobSpec,
    LetteringPart,
    PocketPart,
    TextLine,
)
from engraving.place import burned_box, burning_order, piece_at, pieces, pocket_offset
from support.cards import burned
from support.jobs import changed, pipeline_of


def job(**fixture):
    spec = JobSpec(
        artwork=ArtworkPart(width_px=120, height_px=40),
        blank={"width_mm": 20, "height_mm": 10},
        size={"width_mm": 12, "height_mm": 4, "pitch_mm": 0.2},
        place={"x_mm": 50, "y_mm": 60},
    )
    return spec.model_copy(update={"fixture": FixturePart(**fixture)})


@pytest.mark.parametrize(
    ("order", "walk"),
    [("rows", [0, 1, 2, 3, 4, 5]), ("snake", [0, 1, 2, 5, 4, 3]), ("columns", [0, 3, 4, 1, 2, 5])],
)  # fmt: skip
def test_orders(order, walk):
    assert (
        burning_order(JobSpec(fixture=FixturePart(columns=3, rows=2, order=order))) == walk
    )


@given(st.integers(1, 8), st.integers(1, 8), st.sampled_from(["rows", "snake", "columns"]))
def test_each_pocket_once(columns, rows, order):
    walk = burning_order(
        JobSpec(fixture=FixturePart(columns=columns, rows=rows, order=order))
    )
    assert sorted(walk) == list(range(columns * rows))


def long(places, order):
    at = np.array([places[index] for index in order])
    return np.hypot(*np.diff(at, axis=0).T).sum()


def way(places, order):
    pockets = tuple(PocketPart(x_mm=x, y_mm=y) for x, y in places)
    return burning_order(job(columns=len(places), pockets=pockets, order=order))


@given(st.lists(st.tuples(st.floats(0, 300), st.floats(0, 200)), min_size=3, max_size=12))
def test_the_shortest_way_is_no_longer_than_to_and_fro(places):
    near, snake = way(places, "near"), way(places, "snake")
    assert sorted(near) == list(range(len(places)))
    assert near[0] == 0
    assert long(places, near) <= long(places, snake) + 1e-6


def test_the_shortest_way_against_all_ways():
    """Twenty sets of seven places, every order tried: at most an eighth longer than the best."""
    random = np.random.default_rng(7)
    for _ in range(20):
        places = [tuple(at) for at in random.uniform(0, 200, (7, 2))]
        best = min(long(places, (0, *rest)) for rest in permutations(range(1, 7)))
        assert long(places, way(places, "near")) <= 1.125 * best


def test_places_and_pockets_that_are_off():
    """Blanks of 20 × 10 mm, gaps of 5 and 3: 25 mm and 13 mm from one to the next."""
    spec = job(
        columns=3,
        rows=2,
        gap_x_mm=5,
        gap_y_mm=3,
        pockets=(PocketPart(on=False), PocketPart(x_mm=27.5)),
    )
    assert pocket_offset(spec, 5) == (50, 13)
    assert pocket_offset(spec, 1) == (27.5, 0)
    assert [(one.place.x_mm, one.place.y_mm) for one in pieces(spec)][:2] == [
        (77.5, 60),
        (100, 60),
    ]
    box = burned_box(spec)
    assert (box.left, box.front, box.right, box.back) == (50, 60, 112, 77)
    none = job(pockets=(PocketPart(on=False),))
    assert pieces(none) == []


def test_numbers_and_words():
    spec = job(
        columns=3,
        first_number=8,
        digits=3,
        order="rows",
        pockets=(PocketPart(words=("Ada", "x")), PocketPart(on=False)),
    )
    lines = (TextLine(text="No {n} {1}"), TextLine(text="{2}"))
    spec = spec.model_copy(update={"lettering": LetteringPart(lines=lines)})
    texts = [[line.text for line in piece_at(spec, i).lettering.lines] for i in (0, 2)]
    assert texts == [["No 008 Ada", "x"], ["No 009 "]]


def test_a_panorama_hides_what_falls_into_the_gap():
    """12 mm engraved, 25 mm from one to the next: 37 mm in all, the second from 25/37 on."""
    hidden = piece_at(job(columns=2, gap_x_mm=5, picture="across"), 1).artwork.crop
    assert (hidden.left, hidden.width) == pytest.approx((25 / 37, 12 / 37))
    skipped = piece_at(job(columns=2, picture="across", gap="skipped"), 1).artwork.crop
    assert (skipped.left, skipped.width) == pytest.approx((0.5, 0.5))
    front, back = (
        piece_at(job(rows=2, picture="across", gap="skipped"), i).artwork.crop
        for i in (0, 1)
    )
    assert (front.top, back.top) == pytest.approx((0.5, 0))


@pytest.mark.parametrize("gap", ["hidden", "skipped"])
@pytest.mark.parametrize("origin", ["front-left", "back-right"])
def test_two_tiles_burn_one_picture(gap, origin):
    """On the stand-in, dot for dot, each its own part of the picture."""
    x = np.linspace(0, 255, 120)
    gray = np.tile(x.astype(np.uint8), (40, 1))
    spec = job(columns=2, picture="across", gap=gap)
    spec = changed(spec, machine={"origin": origin}, dots={"method": "bayer"})
    pipeline = pipeline_of(gray)
    machine, planned = burned(spec, pipeline), pipeline.estimate(spec)
    assert machine.clock_s == pytest.approx(planned.seconds, rel=0.01)
    way = 1 if origin == "front-left" else -1
    shares = []
    for piece in pieces(spec):
        bits = pipeline.burned(piece)
        left, front = piece.place.x_mm, piece.place.y_mm
        if way < 0:
            left, front = 400 - left - 12, 400 - front - 4
        energy = machine.map(left, front, piece.size.cell_mm, (bits.rows, bits.cols))[
            ::way, ::way
        ]
        one = piece.burn.power / 100 * 0.2 / piece.burn.speed_mm_s
        assert np.abs(energy / one - bits.unpack()).max() < 1e-3
        shares.append(bits.share)
    assert shares[0] > shares[1] + 0.2  # dark at the left


def test_it_waits_between_pockets_and_only_there():
    spec = job(columns=3, pause=True)
    gray = np.zeros((40, 120), np.uint8)
    pipeline = pipeline_of(gray)
    waits = [moves.waits for moves in pipeline.bands(spec)]
    assert sum(waits) == 2
    assert not waits[0]
    machine = burned(spec, pipeline)
    held = 0
    while machine.held:
        held += 1
        machine.held = False
        machine.run()
    assert held == 2
    assert machine.beam_s == pytest.approx(pipeline.estimate(spec).burn_s, rel=0.01)


def test_a_fixture_holds_so_many():
    with pytest.raises(ValueError, match="at most 400"):
        FixturePart(columns=30, rows=30)
