"""The proof of the whole: the stand-in burns just the planned dots, in the planned time.

The stand-in shares no code with the program: its own parser, its own
time-stepped motion, its own map.
"""

import io

import numpy as np
import pytest

from engraving.dots import METHODS
from standins.controller import Machine, Settings
from support.jobs import changed


def burn(spec, pipeline):
    stream = io.BytesIO()
    planned = pipeline.write_gcode(spec, stream)
    data = spec.machine
    machine = Machine(Settings(data.acceleration_mm_s2, data.rapid_mm_s, data.s_max))
    for line in stream.getvalue().decode().splitlines():
        machine.take(line)
    machine.run()
    return machine, planned


def burned_dots(machine, spec, bits, left, front):
    energy = machine.map(left, front, spec.size.cell_mm, (bits.rows, bits.cols))
    burn_ = spec.burn
    one_dot = burn_.power / 100 * spec.size.along_mm / burn_.speed_mm_s * burn_.passes
    return energy / one_dot


@pytest.mark.parametrize("both_ways", [True, False])
@pytest.mark.parametrize("method", METHODS)
def test_every_dot_and_the_clock(job, method, both_ways):
    spec, pipeline = job
    spec = changed(spec, dots={"method": method}, burn={"both_ways": both_ways})
    machine, planned = burn(spec, pipeline)
    bits = pipeline.dots(spec)
    share = burned_dots(machine, spec, bits, spec.place.x_mm, spec.place.y_mm)
    planned_share = bits.strengths(0, 0, bits.cols, bits.rows)
    # as planned or not at all: no beam in run-ups, none while speeding up; a
    # power is a whole S word, of which 40 % has 400
    fine = 1e-3 if bits.power is None else 0.5 / 400 + 1e-3
    assert np.abs(share - planned_share).max() < fine
    assert machine.clock_s == pytest.approx(planned.seconds, rel=0.01)
    assert machine.beam_s == pytest.approx(planned.burn_s, rel=0.01)
    assert machine.words.beam == 5


@pytest.mark.parametrize(
    ("origin", "left", "front", "turn"),
    [("front-left", 30, 40, (1, 1)), ("front-right", 362, 40, (1, -1)),
     ("back-left", 30, 354, (-1, 1)), ("back-right", 362, 354, (-1, -1))],
)  # fmt: skip
def test_every_origin_corner(job, origin, left, front, turn):
    """8 × 6 mm at 30, 40 on a bed of 400 × 400; the machine counts from its own corner."""
    spec, pipeline = job
    spec = changed(spec, machine={"origin": origin}, place={"x_mm": 30, "y_mm": 40})
    machine, _ = burn(spec, pipeline)
    bits = pipeline.dots(spec)
    share = burned_dots(machine, spec, bits, left, front)[:: turn[0], :: turn[1]]
    assert np.array_equal(share > 0.5, bits.unpack().astype(bool))


@pytest.mark.parametrize(
    ("speed", "acceleration", "rapid", "pitch"),
    [
        (300, 5000, 500, 0.1),
        (500, 3000, 300, 0.1),
        (40, 800, 150, 25.4 / 300),
        (150, 2000, 600, 0.06),
    ],
)
def test_other_machines(job, speed, acceleration, rapid, pitch):
    spec, pipeline = job
    spec = changed(
        spec,
        size={"pitch_mm": pitch, "width_mm": 80 * pitch, "height_mm": 60 * pitch},
        burn={"speed_mm_s": speed, "passes": 2},
        machine={"acceleration_mm_s2": acceleration, "rapid_mm_s": rapid, "beam": "M4"},
        place={"x_mm": 60, "y_mm": 40},
    )
    machine, planned = burn(spec, pipeline)
    bits = pipeline.dots(spec)
    share = burned_dots(machine, spec, bits, 60, 40)
    assert np.array_equal(share > 0.5, bits.unpack().astype(bool))
    assert machine.clock_s == pytest.approx(planned.seconds, rel=0.01)


@pytest.mark.parametrize("along", [0.04, 0.16])
def test_dots_longer_or_shorter_than_the_rows_are_apart(job, along):
    spec, pipeline = job
    spec = changed(spec, size={"dot_pitch_mm": along}, machine={"origin": "back-right"})
    assert pipeline.dots(spec).cols == round(spec.size.width_mm / along)
    machine, planned = burn(spec, pipeline)
    bits, size, bed = pipeline.dots(spec), spec.size, spec.machine
    left = bed.bed_width_mm - spec.place.x_mm - size.width_mm
    front = bed.bed_height_mm - spec.place.y_mm - size.height_mm
    share = burned_dots(machine, spec, bits, left, front)[::-1, ::-1]
    assert np.array_equal(share > 0.5, bits.unpack().astype(bool))
    assert machine.clock_s == pytest.approx(planned.seconds, rel=0.01)


def test_a_wrong_dot_would_be_seen(job):
    """The comparison can fail: shift the burn by one dot and it does."""
    spec, pipeline = job
    machine, _ = burn(spec, pipeline)
    bits = pipeline.dots(spec)
    share = burned_dots(machine, spec, bits, spec.place.x_mm + 0.1, spec.place.y_mm)
    assert not np.array_equal(share > 0.5, bits.unpack().astype(bool))
