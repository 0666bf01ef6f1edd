"""Lines over a slow link, and few moves planned together: what they cost, and who says so."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from engraving.check import check_job
from engraving.jobspec import ArtworkPart, JobSpec
from engraving.sending import Sending
from support.jobs import changed, pipeline_of


def fed_slowly(sizes, seconds, rate, blocks, receives=128):
    """The same in small steps of time: bytes trickle in, moves run out."""
    step, now, clock = 2e-5, 0.0, 0.0
    out, way, buffer, plan, left = list(sizes), 0.0, [], [], 0.0
    durations = list(seconds)
    while out or buffer or plan or left > 0:
        while out and (way or sum(buffer) + out[0] <= receives):
            # The line under way has its place in the buffer already.
            way = way or out[0] / rate
            break
        if way:
            way -= step
            if way <= 1e-12:
                buffer.append(out.pop(0))
                way = 0.0
        while buffer and len(plan) + (left > 0) < blocks:
            buffer.pop(0)
            plan.append(durations.pop(0))
        if left <= 0 and plan:
            left += plan.pop(0)
        if left > 0:
            left -= step
            clock += step
        now += step
    return now - clock


@settings(max_examples=25, deadline=None)
@given(
    st.lists(
        st.tuples(st.integers(4, 30), st.sampled_from([0.001, 0.003, 0.02])),
        min_size=1, max_size=60,
    ),
    st.sampled_from([2, 15]),
    st.integers(1, 7),
)  # fmt: skip
def test_as_bytes_that_trickle_in(lines, blocks, cut):
    sizes, seconds = (np.array(column) for column in zip(*lines, strict=True))
    sending = Sending(19200, blocks)
    for at in range(0, len(lines), -(-len(lines) // cut)):
        upto = at - (-len(lines) // cut)
        sending.add(sizes[at:upto], seconds[at:upto].astype(float))
    slow = fed_slowly(sizes, seconds, 1920.0, blocks)
    assert sending.wait_s == pytest.approx(slow, abs=0.01 + 0.02 * seconds.sum())


def noise(machine, speed=300.0, side=200):
    """A ticket of dots by chance: runs one or two dots long."""
    chance = np.random.default_rng(1).integers(0, 2, (side, side)).astype(np.uint8) * 255
    spec = JobSpec(artwork=ArtworkPart(width_px=side, height_px=side),
                   size={"width_mm": side / 10, "height_mm": side / 10, "pitch_mm": 0.1},
                   burn={"speed_mm_s": speed}, machine=machine,
                   dots={"method": "threshold"}, place={"x_mm": 100, "y_mm": 100})  # fmt: skip
    return spec, pipeline_of(chance)


def test_a_slow_link_takes_as_long_as_its_bytes():
    spec, pipeline = noise({"link_baud": 9600})
    sent, planned = pipeline.sent(spec), pipeline.estimate(spec).seconds
    size = 0

    class Sink:
        def write(self, data):
            nonlocal size
            size += len(data)

    pipeline.write_gcode(spec, Sink())
    assert planned + sent.wait_s == pytest.approx(size / 960, rel=0.03)
    fast = pipeline.sent(changed(spec, machine={"link_baud": 10**7}))
    assert fast.wait_s < 0.01
    assert pipeline.sent(changed(spec, machine={"link_baud": 0})) is None


def told(pipeline, spec, rule="enough_moves_are_planned"):
    findings, _ = check_job(pipeline.facts(spec))
    return {one.rule: one for one in findings}.get(rule)


def test_a_beam_that_stays_on_over_a_full_link_is_told():
    spec, pipeline = noise({"link_baud": 57600, "beam": "M3"})
    found = told(pipeline, spec, "waits_with_the_beam_off")
    assert (found.severity.value, "M4" in found.sentence) == ("note", True)
    for machine in ({"beam": "M4"}, {"link_baud": 10**7}):
        other = changed(spec, machine=machine)
        assert told(pipeline, other, "waits_with_the_beam_off") is None


@pytest.mark.parametrize(("beam", "weight"), [("M3", "caution"), ("M4", "note")])
def test_few_moves_hold_fine_dots_back_and_the_fix_helps(beam, weight):
    spec, pipeline = noise({"look_ahead": 15, "beam": beam})
    found = told(pipeline, spec)
    assert (found.severity.value, "slows" in found.sentence) == (weight, True)
    planned = pipeline.estimate(spec)
    free = pipeline.estimate(changed(spec, machine={"look_ahead": 0}))
    assert planned.held_back_s == pytest.approx(planned.seconds - free.seconds)
    assert planned.burn_mm_s < 290 < free.burn_mm_s + 1e-6
    assert told(pipeline, changed(spec, **found.fix.changes)) is None
    assert told(pipeline, changed(spec, machine={"look_ahead": 0})) is None
