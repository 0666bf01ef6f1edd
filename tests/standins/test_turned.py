"""A piece that lies at an angle: its dots are burned where they belong, in the planned time."""

import math

import numpy as np
import pytest

from engraving.place import anchor_of, burned_box, frame_of, from_anchor, piece_box
from support.cards import burned
from support.jobs import changed


@pytest.mark.parametrize("turn", [30.0, -7.5, 90.0, 180.0])
@pytest.mark.parametrize("origin", ["front-left", "back-right", "back-left"])
def test_a_turned_piece_is_burned_as_it_was_made(job, turn, origin):
    spec, pipeline = job
    spec = changed(spec, machine={"origin": origin}, place={"x_mm": 60, "y_mm": 50, "turn_deg": turn})  # fmt: skip
    machine, planned = burned(spec, pipeline), pipeline.estimate(spec)
    bits, frame = pipeline.burned(spec), frame_of(spec.machine)
    box = piece_box(spec.size, spec.place)
    corners = [
        frame.to_machine(x, y) for x in (box.left, box.right) for y in (box.front, box.back)
    ]
    left, front = np.min(corners, axis=0)
    about = turn * frame.sign_x * frame.sign_y, *frame.to_machine(*box.middle)
    energy = machine.map(left, front, spec.size.cell_mm, (bits.rows, bits.cols), about)
    share = energy[:: frame.sign_y, :: frame.sign_x] / energy.max()
    assert np.array_equal(share > 0.5, bits.unpack().astype(bool))
    assert machine.clock_s == pytest.approx(planned.seconds, rel=0.01)
    straight = pipeline.estimate(changed(spec, place={"turn_deg": 0}))
    assert planned.rows == straight.rows
    assert planned.burn_mm == pytest.approx(straight.burn_mm, rel=2e-3)


def test_turned_about_its_middle_by_the_anchor():
    """Rotate 100 × 50 at (10, 30) by 90° about (60, 55): corners of x 35 … 85, y 5 … 105."""
    from engraving.jobspec import JobSpec

    spec = JobSpec(size={"width_mm": 100, "height_mm": 50}, place={"x_mm": 10, "y_mm": 30, "turn_deg": 90})  # fmt: skip
    box = burned_box(spec)
    assert (box.left, box.front, box.right, box.back) == pytest.approx((35, 5, 85, 105))
    assert anchor_of(spec.size, spec.place, "front-left") == pytest.approx((85, 5))
    # Bounding box of 100 × 50 at 30°: 111.602540 × 93.301270; 75 × 75 at 45°: 106.066017²
    turned = burned_box(changed(spec, place={"turn_deg": 30}))
    assert (turned.width, turned.height) == pytest.approx((111.602540, 93.301270))
    square = changed(spec, size={"width_mm": 75, "height_mm": 75}, place={"turn_deg": 45})
    assert burned_box(square).width == pytest.approx(106.066017)


@pytest.mark.parametrize("turn", [0, 30, -123.4])
@pytest.mark.parametrize("anchor", ["front-left", "back-centre", "middle-centre"])
def test_the_anchor_comes_to_lie_where_it_is_told(turn, anchor):
    from engraving.jobspec import PlacePart, SizePart

    size = SizePart(width_mm=75, height_mm=75)
    x, y = from_anchor(size, anchor, 10, 30, turn)
    place = PlacePart(x_mm=x, y_mm=y, turn_deg=turn)
    assert anchor_of(size, place, anchor) == pytest.approx((10, 30))


def test_a_piece_of_75_mm_at_10_and_30():
    """All positions for any anchor: its centre lies at 47.5, 67.5, its far corner at 85, 105."""
    from engraving.jobspec import PlacePart, SizePart

    size, place = SizePart(width_mm=75, height_mm=75), PlacePart(x_mm=10, y_mm=30)
    assert anchor_of(size, place, "middle-centre") == (47.5, 67.5)
    assert anchor_of(size, place, "back-right") == (85, 105)


def test_the_run_up_turns_with_the_rows(job):
    spec, _ = job
    turned = changed(spec, place={"turn_deg": 90})
    box, grown = burned_box(turned), burned_box(turned, 5.0)
    assert grown.left == pytest.approx(box.left)
    assert grown.front == pytest.approx(box.front - 5)
    assert math.isclose(grown.back, box.back + 5)
