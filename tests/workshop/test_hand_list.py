"""The list for the hands: made from the job, ticked before the beam, kept with the log."""

import pytest

from engraving.jobspec import LensPart
from support.gate import sign_all, tick_all
from support.jobs import changed
from support.pages import read
from workshop.bench.models import Run
from workshop.bench.runs.start import CannotBurnError, begin_queued, queue_run, start_run
from workshop.jobs.hands.lines import before
from workshop.jobs.hands.ticks import hand_list
from workshop.jobs.models import Job
from workshop.jobs.revisions.writer import spec_of
from workshop.jobs.ticket.lifecycle import copy
from workshop.shelf.machines.changes import put_machine

EACH_PIECE = {"clean", "fixed", "focus"}


@pytest.fixture
def ready(ticket):
    """A job whose cautions are signed, its list not ticked."""
    sign_all(ticket)
    ticket.machine.ticks.all().delete()
    return Job.objects.with_all().get(pk=ticket.pk)


def lines(job, **parts):
    found = before(job, changed(spec_of(job), **parts))
    return {one.slug: one.text for one in found}


def still_open(job):
    job = Job.objects.with_all().get(pk=job.pk)
    return {one.line.slug for one in hand_list(job) if one.open}


def ended(run):
    run.note(state="done")


def test_no_beam_before_all_is_ticked(client, ready):
    words = client.post(f"/bench/jobs/{ready.number}/burn/").content.decode()
    assert "Not ticked on the list for the hands: " in words
    assert not Run.objects.exists()
    path = f"/jobs/{ready.number}/hands/"
    for slug in sorted(still_open(ready)):
        with pytest.raises(CannotBurnError, match="Not ticked"):
            start_run(ready)
        assert client.post(f"{path}{slug}/", {"done": "1"}).status_code == 200
    run = start_run(ready)
    assert {one["what"] for one in run.hands} >= {
        "Focus",
        "Piece",
        "Surface",
        "Eyes",
        "Air",
    }
    assert all("at" in one for one in run.hands)


def test_what_is_the_same_for_the_next_piece_stays_ticked(ready):
    tick_all(ready)
    ended(start_run(ready))
    assert still_open(ready) == EACH_PIECE
    twin = copy(ready)
    assert still_open(twin) == EACH_PIECE
    tick_all(twin)
    assert still_open(ready) == EACH_PIECE, "another piece was focused, not this one"
    assert still_open(twin) == set()


def test_another_height_or_air_is_asked_for_anew(act, ready):
    tick_all(ready)
    act("burn", air="on", focus="2")
    assert still_open(ready) == {"air", "focus"}
    act("burn", air="", focus="0")
    assert still_open(ready) == set()


def test_a_line_is_left_out_on_one_machine_and_the_log_says_so(client, ready):
    tick_all(ready)
    path = f"/jobs/{ready.number}/hands/exhaust/"
    client.post(path, {"done": "0"})
    assert still_open(ready) == {"exhaust"}
    assert "left out on this machine" in read(client.post(path, {"out": "1"}))
    run = start_run(Job.objects.with_all().get(pk=ready.pk))
    [line] = [one for one in run.hands if one["what"] == "Exhaust"]
    assert (line["left_out"], "at" in line) == (True, False)
    client.post(path, {"out": "0"})
    assert "exhaust" in still_open(ready)


def test_a_piece_that_comes_next_has_its_own_list(ready):
    queued = queue_run(ready)
    with pytest.raises(CannotBurnError, match="Not ticked"):
        begin_queued(queued)
    tick_all(ready)
    begin_queued(queued)
    queued.refresh_from_db()
    assert queued.state == "waiting"
    assert queued.hands
    assert still_open(ready) == EACH_PIECE


def test_going_on_asks_for_nothing(ready):
    assert still_open(ready)
    assert start_run(ready, after=3).first_row == 3


def test_the_list_is_of_this_job(ready):
    plain = lines(ready)
    assert {"rotary", "side"}.isdisjoint(plain)
    assert plain["air"] == "off"
    assert lines(ready, burn={"air": True})["air"] == "on, by M8"
    glass = lines(ready, side={"seen_from": "back"})
    assert glass["side"] == "the face that is looked at lies down"
    thick = {"blank": {"thickness_mm": 8}, "machine": {"block_mm": 12.7}}
    assert lines(ready, **thick)["focus"].startswith(
        "block of 12.7 mm on the piece, 20.7 mm above the bed; at the middle of the picture"
    )
    wide = {"size": {"width_mm": 90, "height_mm": 20, "fit": "exact"}}
    lens = LensPart(name="2 in", depth_mm=1.5).model_dump()
    fitted = lines(ready, **wide, machine={"lenses": [lens], "lens": "2 in"})
    assert fitted["level"] == "all four corners as high as one another, within 1.5 mm"
    assert fitted["lens"] == "2 in is fitted"
    assert "level" not in lines(
        ready, size={"width_mm": 20, "height_mm": 20, "fit": "exact"}
    )


def test_a_rotary_is_plugged_in_and_out_again(act, shelf, ready):
    from workshop.shelf.blanks.changes import put_blank

    wall = put_blank("Cup", shelf["slate"], shape="wall", diameter_mm=60, height_mm=80)
    flat = copy(ready)
    act("blank", blank=str(wall.pk))
    act("place", mount="chuck")
    round_one = Job.objects.with_all().get(pk=ready.pk)
    assert "chuck plugged in and switched on" in lines(round_one)["rotary"]
    assert "rotary" not in still_open(flat)
    tick_all(round_one)
    assert "rotary" in still_open(flat), "it would move the bed's axis, and turn the mount"
    tick_all(flat)
    assert "rotary" not in still_open(flat)
    assert "rotary" in still_open(round_one)


def test_inches_are_the_same_height(client, ready):
    tick_all(ready)
    client.cookies["units"] = "in"
    page = read(client.get(f"/jobs/{ready.number}/hands/"))
    assert (" in " in page, " mm" in page) == (True, False)
    assert page.count("checked") == len(hand_list(ready))


def test_a_touching_tool_needs_no_air(client, ready):
    machine = put_machine("Drag point", kind="drag")
    ready.machine = machine
    ready.save()
    found = lines(ready, machine=machine.part)
    assert {"air", "exhaust"}.isdisjoint(found)
    assert found["focus"] == "touched off on the piece, where it lies"
    assert "glasses" in found["eyes"]


def test_a_line_that_is_gone_is_refused_in_words(client, ready):
    answer = client.post(f"/jobs/{ready.number}/hands/rotary/", {"done": "1"})
    assert (answer.status_code, b"changed since" in answer.content) == (422, True)
