"""Nothing leaves for a machine past the gate, and a stop that was asked for is heeded."""

import pytest

from support.gate import sign_all
from support.jobs import changed
from support.pages import read
from workshop.bench.machines.walk import walk
from workshop.bench.models import Run
from workshop.bench.runs.follow import prepare
from workshop.bench.runs.start import CannotBurnError, start_run, stop_run
from workshop.bench.simulator_client import Witness
from workshop.jobs.revisions.writer import change, spec_of
from workshop.jobs.ticket.findings import full_check


@pytest.fixture
def with_a_caution(act, ticket):
    """A job with cautions and no stop."""
    act("burn", power="60")
    weights = [one.severity for one in full_check(ticket)[0]]
    assert "caution" in weights
    assert "stop" not in weights
    return ticket


def posted(client, job):
    return client.post(f"/bench/jobs/{job.number}/burn/").content.decode()


def gcode(client, job):
    return client.get(f"/jobs/{job.number}/files/gcode/")


def test_cautions_are_signed_before_a_burn(client, with_a_caution, monkeypatch):
    monkeypatch.setattr("workshop.bench.runs.tasks.burn", lambda _: None)
    job = with_a_caution
    assert "not signed off" in posted(client, job)
    assert not Run.objects.exists()
    sign_all(job)
    assert "not signed off" not in posted(client, job)
    assert Run.objects.get().job == job


def test_cautions_are_signed_before_the_file_is_given_away(client, with_a_caution):
    job = with_a_caution
    refused = gcode(client, job)
    assert (refused.status_code, b"not signed off" in refused.content) == (422, True)
    sign_all(job)
    assert b"".join(gcode(client, job).streaming_content).startswith(b"; Old Ember")


def test_a_signature_is_of_one_state(client, act, with_a_caution):
    sign_all(with_a_caution)
    act("burn", power="61")
    assert gcode(client, with_a_caution).status_code == 422


def test_what_only_the_full_check_finds_holds_the_file(client, ticket):
    """An outline beyond the bed is known only once its lines are followed."""
    spec = changed(
        spec_of(ticket),
        operations=[
            {"kind": "raster"},
            {"kind": "cut", "shape": "rectangle", "offset_mm": 80},
        ],
        place={"x_mm": 60, "y_mm": 60},
    )
    change(ticket, spec, "Far out")
    sign_all(ticket)
    answer = gcode(client, ticket)
    assert (answer.status_code, b"beyond the bed" in answer.content) == (422, True)
    page = read(client.get(f"/jobs/{ticket.number}/sheet/"))
    assert "No G-code yet. A stop holds this job" in page


def test_outlines_are_on_the_bed_in_every_pocket(ticket):
    """The last pocket's cut would hit the end; the first one's lies well inside."""
    spec = changed(
        spec_of(ticket),
        size={"width_mm": 20, "height_mm": 15},
        blank={"width_mm": 30, "height_mm": 30},
        machine={"bed_width_mm": 112, "bed_height_mm": 100},
        place={"x_mm": 15, "y_mm": 20},
        operations=[{"kind": "raster", "on": False}, {"kind": "cut", "offset_mm": 5}],
        fixture={"columns": 3, "rows": 1, "gap_x_mm": 7},
    )
    rules = [one.rule for one in full_check(ticket, spec)[0]]
    assert "outlines_are_there" in rules
    near = changed(spec, fixture={"gap_x_mm": 0})
    assert "outlines_are_there" not in [one.rule for one in full_check(ticket, near)[0]]


def test_a_bench_burns_one_thing_at_a_time(ticket):
    sign_all(ticket)
    start_run(ticket)
    with pytest.raises(CannotBurnError, match="busy"):
        start_run(ticket)
    with pytest.raises(CannotBurnError, match="busy"):
        walk(ticket)


def test_a_stop_asked_for_while_it_gets_ready_is_kept(ticket, standin, monkeypatch):
    """Whether before the file is written, or in the moment before the first line."""
    sign_all(ticket)
    run = start_run(ticket)
    monkeypatch.setattr(Witness, "become", lambda *_: stop_run(run))
    prepare(Run.objects.get(pk=run.pk))
    assert standin.controller.device.machine.beam_s == 0
    ended = Run.objects.get(pk=run.pk)
    assert (ended.state, ended.stop_wanted) == ("stopped", True)


def test_a_run_is_never_saved_whole(ticket):
    """What was asked for meanwhile is not written back by an object loaded before."""
    run = Run.objects.create(job=ticket, spec=ticket.spec_data, state="running")
    old = Run.objects.get(pk=run.pk)
    stop_run(run)
    old.note(clock_s=3.0)
    found = Run.objects.get(pk=run.pk)
    assert (found.stop_wanted, found.clock_s, old.clock_s) == (True, 3.0, 3.0)
