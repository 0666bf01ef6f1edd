"""Depth wells burned on the stand-in, measured, and what a pass takes away."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from engraving.cards import (
    KINDS,
    flatten,
    lay_out,
    measure,
    starting_card,
    wells_by_light,
    wells_found,
)
from engraving.errors import ArtworkError
from engraving.jobspec import MachinePart
from standins.camera import photograph
from standins.controller.removal import depth_map, taken_mm_a_j
from support.cards import burned, card_spec, material

CELL = 0.1


def measured(machine, spec, cell, **words):
    """The middle of a well, as a depth gauge finds it."""
    rows, cols = round(cell.height_mm / CELL), round(cell.width_mm / CELL)
    found = depth_map(machine, {
        "left": spec.place.x_mm + cell.x_mm, "front": spec.place.y_mm + cell.y_mm,
        "cell": (CELL, CELL), "rows": rows, "cols": cols, **words,
    })  # fmt: skip
    return float(np.median(found[rows // 4 : -rows // 4, cols // 4 : -cols // 4]))


def test_wells_tell_what_a_pass_takes_at_each_power():
    told, _ = material("soft wood")
    card = starting_card("depth", MachinePart(z_axis=True)).model_dump(mode="json")
    card |= {"columns": {"first": 20, "last": 80, "count": 3}, "rows": {"first": 1, "last": 4, "count": 4}, "cell_mm": 4}  # fmt: skip
    spec = card_spec(told, card)
    machine = burned(spec)
    words = {"power_w": 40, "material": "fibre board"}
    cells = lay_out(spec).cells
    assert {cell.passes for cell in cells} == {1, 2, 3, 4}
    wells = [
        (cell.column, cell.passes, measured(machine, spec, cell, **words)) for cell in cells
    ]
    found = wells_found(wells)
    single = [mm for column, passes, mm in sorted(wells) if passes == 1]
    assert [one.per_pass_mm for one in found] == pytest.approx(single, rel=0.05)
    assert found[0].per_pass_mm < found[1].per_pass_mm < found[2].per_pass_mm
    assert all(one.wells == 4 for one in found)


@given(st.floats(0.01, 2), st.lists(st.integers(1, 20), min_size=1, max_size=8))
def test_even_wells_give_their_own_pass_back(per_pass, passes):
    [found] = wells_found([(3, n, n * per_pass) for n in passes])
    assert found.per_pass_mm == pytest.approx(per_pass)
    assert found.off_mm == pytest.approx(0, abs=1e-9)
    assert found.column == 3


def test_its_kind_has_its_axes():
    assert (KINDS["depth"].columns, KINDS["depth"].rows) == ("Power, %", "Passes")


def deep_card(**burn):
    told, surface = material("soft wood", shade=0.35 * taken_mm_a_j("fibre board"))
    card = starting_card("depth", MachinePart(z_axis=True)).model_dump(mode="json")
    card |= {"columns": {"first": 40, "last": 80, "count": 2}, "rows": {"first": 2, "last": 8, "count": 4}, "cell_mm": 4}  # fmt: skip
    spec = card_spec(told, card, burn)
    words = {"power_w": 40, "material": "fibre board"}
    machine = burned(spec)
    cells = {
        (c.column, c.row): measured(machine, spec, c, **words) for c in lay_out(spec).cells
    }
    photo = photograph(
        machine.strokes(), surface, spec.place.x_mm, spec.place.y_mm,
        (spec.size.width_mm, spec.size.height_mm),
    )  # fmt: skip
    light = measure(spec, flatten(photo, lay_out(spec))).patches
    return cells, {(one.cell.column, one.cell.row): one.lightness for one in light}


def test_a_photo_tells_the_wells_between_those_that_were_measured():
    depths, light = deep_card(speed_mm_s=40)
    ends = sorted(depths, key=depths.get)
    typed = {at: depths[at] for at in (ends[0], ends[3], ends[-1])}
    read = wells_by_light(typed, light)
    assert len(read) >= 4
    for at, mm in read.items():
        assert mm == pytest.approx(depths[at], abs=0.1 * max(depths.values()))
    with pytest.raises(ArtworkError, match="Measure three wells"):
        wells_by_light({ends[0]: 0.4}, light)


@pytest.mark.parametrize(
    ("light", "says"),
    [((40.0, 40.5, 41.0), "look alike"), ((20.0, 40.0, 30.0), "are not deeper")],
)
def test_a_photo_that_does_not_show_depths_says_so(light, says):
    typed = {(0, row): 0.5 * (row + 1) for row in range(3)}
    with pytest.raises(ArtworkError, match=says):
        wells_by_light(typed, {(0, row): one for row, one in enumerate(light)})
