"""The closed loop: a card is burned by the stand-in, photographed aslant in uneven
light by the stand-in camera, and read; what was hidden comes out.

The materials are ours, made up; the demands are those the program sets itself.
"""

import numpy as np
import pytest

from engraving.cards import KINDS, card_job, card_patches, lay_out, starting_card
from engraving.jobspec import JobSpec
from support.cards import EMPTY, HIDDEN, burned, card_spec, material
from support.jobs import pipeline_of
from support.loop import (
    MACHINE,
    best_off,
    focus_off,
    second_ramp_off,
    shifts_off,
)

materials = pytest.mark.parametrize("name", HIDDEN)


@materials
def test_a_tone_curve_makes_the_next_ramp_come_out(name):
    assert second_ramp_off(name) < 2.0


@materials
def test_the_shift_card_finds_delay_and_slack(name):
    assert shifts_off(name) < 0.01


@materials
def test_the_focus_card_finds_spot_and_focus(name):
    spot, focus = focus_off(name)
    assert spot < 0.05
    assert focus < 0.15


@materials
def test_the_best_cell_is_the_best(name):
    assert best_off(name) <= 1 + 1e-9


@pytest.mark.parametrize("kind", KINDS)
def test_every_card_burns_as_planned(kind):
    """Every patch on the stand-in, dot for dot, and the clock."""
    told, _ = material("soft wood")
    spec = card_spec(told, starting_card(kind, MACHINE), {"speed_mm_s": 150})
    pipeline = pipeline_of(EMPTY)
    machine = burned(spec, pipeline)
    planned = pipeline.estimate(spec)
    assert machine.clock_s == pytest.approx(planned.seconds, rel=0.01)
    assert machine.beam_s == pytest.approx(planned.burn_s, rel=0.01)
    for field in card_patches(spec):
        patch, bits = field.spec, field.bits
        along = patch.size.along_mm
        left = min(
            field.path.left_mm, field.path.left_mm + bits.cols * field.path.step_x_mm
        )
        energy = machine.map(
            left, patch.place.y_mm, patch.size.cell_mm, (bits.rows, bits.cols)
        )
        once = patch.burn.power / 100 * along / patch.burn.speed_mm_s
        share = energy / (once * patch.burn.passes)
        dots = bits.unpack()[:, :: 1 if field.path.step_x_mm > 0 else -1]
        assert np.abs(share - dots)[2:-2].max() < 0.05
    left, front, right, back = planned.burn_bounds_mm
    box = spec.place.x_mm, spec.place.y_mm, spec.size.width_mm, spec.size.height_mm
    assert min(left - box[0], front - box[1]) >= -0.51
    assert max(right - box[0] - box[2], back - box[1] - box[3]) <= 0.01


def test_a_card_is_as_large_as_its_layout():
    spec = card_job(JobSpec(card=starting_card("power-speed", MACHINE)))
    layout = lay_out(spec)
    assert (spec.size.width_mm, spec.size.height_mm) == (layout.width_mm, layout.height_mm)
    assert spec.burn.power == max(cell.power for cell in layout.cells)
