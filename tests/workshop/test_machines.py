"""The machines' pages: creeping, walking, asking, going on after a break; two at once."""

import json

import numpy as np
import pytest

from engraving.place import frame_of, piece_box
from support.gate import sign_all, tick_all
from support.pages import read
from support.ports import until
from workshop.bench.models import Run
from workshop.bench.runs.files import folder_of
from workshop.bench.runs.follow import (
    PREPARING,
    follow,
    follow_to_the_end,
    give_up_left_over,
    prepare,
)
from workshop.bench.runs.start import CannotBurnError, queue_run, start_run, stop_run
from workshop.bench.where import address_of, link_to
from workshop.bench.where import link as link_at
from workshop.controller.errors import LinkError
from workshop.jobs.revisions.writer import spec_of
from workshop.shelf.models import Machine, Recipe
from workshop.shelf.recipes.changes import recipe_part


@pytest.fixture
def on_machine(client, ticket, standin, act, shelf):
    """A small job on its machine, and what its buttons do."""
    act("blank", blank=shelf["disc"].pk, width="12")
    act("burn", machine=shelf["small"].pk, recipe=shelf["pale"].pk)
    sign_all(ticket)
    machine = shelf["small"]

    def do(deed, **words):
        words = {"job": ticket.number, **words}
        return client.post(f"/bench/machines/{machine.pk}/do/{deed}/", words).json()

    do.machine, do.job = machine, ticket

    def stop():
        client.post(f"/bench/machines/{machine.pk}/stop/")
        until(lambda: not do.state()["busy"])

    do.stop = stop
    do.state = lambda: client.get(f"/bench/machines/{machine.pk}/state/").json()
    return do


def arrives(on_machine, x, y):
    until(lambda: on_machine.state().get("bed") == pytest.approx([x, y], abs=2e-3))


def test_the_pages_show_the_machines(client, on_machine):
    assert "Small" in read(client.get("/bench/"))
    page = read(client.get(f"/bench/machines/{on_machine.machine.pk}/"))
    assert "Walk round" in page
    assert "Stop" in page
    assert client.get("/bench/machines/9999/").status_code == 404


def test_a_job_that_is_asked_for_is_never_another(client, on_machine, shelf, act):
    """Who comes from a ticket would burn the machine's newest, and not what they meant."""
    bed, number = f"/bench/machines/{on_machine.machine.pk}/", on_machine.job.number
    burns = f"Burn job {number:04d}"
    assert burns in read(client.get(f"{bed}?job={number}"))
    gone = read(client.get(f"{bed}?job=99999"))
    assert "There is no job 99999 any more." in gone
    assert burns not in gone
    act("burn", machine=shelf["bench"].pk)
    page = read(client.get(f"{bed}?job={number}"))
    assert "not for this machine" in page
    assert f"/bench/machines/{shelf['bench'].pk}/?job={number}" in page


def test_an_old_job_of_a_machine_is_still_the_one_asked_for(
    client, on_machine, monkeypatch
):
    monkeypatch.setattr("workshop.bench.machines.facts._MOST_JOBS", 0)
    bed, number = f"/bench/machines/{on_machine.machine.pk}/", on_machine.job.number
    assert f"Burn job {number:04d}" in read(client.get(f"{bed}?job={number}"))


def test_creeping_is_on_the_bed_as_it_is_seen(on_machine):
    """The machine's zero is at the back left: its y runs to the front."""
    assert on_machine("go-to", x="50", y="40") == {"said": ""}
    arrives(on_machine, 50, 40)
    for _ in range(3):  # quicker than the head
        on_machine("jog", x="-10", y="0.5")
    arrives(on_machine, 20, 41.5)
    on_machine("jog", x="-100", y="0")
    arrives(on_machine, 0, 41.5)  # the bed ends there


@pytest.mark.parametrize(
    ("deed", "words", "says"),
    [
        ("jog", {"x": "nan"}, "Type a number"),
        ("jog", {"x": "1e9"}, "more than any bed"),
        ("faint", {"percent": "50"}, "at most 5 %"),
        ("trim", {"what": "speed", "by": "7"}, "steps of 1 or 10"),
        ("walk", {"job": "0"}, "Choose a job"),
        ("nudge", {"x": "60"}, "at most 50 mm"),
        ("dry", {"speed": "-3"}, "1 to 2000 mm/s"),
        ("continue", {"run": "0", "row": "1"}, "no burn to go on with"),
    ],
)
def test_what_cannot_be_done_has_its_sentence(on_machine, deed, words, says):
    assert says in on_machine(deed, **words)["fault"]


def test_a_job_of_another_machine_is_refused(on_machine, shelf, act):
    act("burn", machine=shelf["bench"].pk)
    assert "another machine" in on_machine("walk")["fault"]


def test_job_zero_here(on_machine):
    on_machine("go-to", x="70", y="60")
    arrives(on_machine, 70, 60)
    assert "70.0, 60.0" in on_machine("zero")["said"]
    on_machine.job.refresh_from_db()
    place = spec_of(on_machine.job).place
    assert (place.x_mm, place.y_mm) == pytest.approx((70, 60))


def test_a_walk_follows_a_nudge(on_machine):
    before = spec_of(on_machine.job).place.x_mm
    assert on_machine("walk", percent="0") == {"said": ""}
    on_machine("nudge", x="0.5", y="0")
    on_machine.job.refresh_from_db()
    assert spec_of(on_machine.job).place.x_mm == pytest.approx(before + 0.5)
    assert on_machine.state()["program"]["kind"] == "walk"
    on_machine("burn")
    assert not Run.objects.filter(state="done").exists()


def lit_way(standin):
    """The ends of all that a faint beam went along."""
    return standin.controller.device.machine.strokes()[:, :4].reshape(-1, 2)


@pytest.mark.parametrize("turn", [0, 7])
def test_a_walk_goes_along_the_blank_or_what_is_burned(on_machine, act, standin, turn):
    """A disc of 90 mm, and on it a picture of 12 mm, whose corners are white."""
    act("place", x="90", y="70", turn=str(turn))
    spec = spec_of(on_machine.job)
    frame, middle = frame_of(spec.machine), piece_box(spec.size, spec.place).middle

    def went(along):
        standin.controller.device.become(standin.controller.device.machine.settings)
        on_machine("walk", percent="1", along=along)
        until(lambda: len(lit_way(standin)) > 40)
        on_machine("hold")
        way = np.array([frame.to_bed(x, y) for x, y in lit_way(standin).tolist()])
        on_machine.stop()
        return np.hypot(*(way - middle).T)

    assert went("blank") == pytest.approx(45, abs=0.1)
    assert went("burned").max() <= went("border").max() + 0.2
    assert "no such way" in on_machine("walk", along="moon")["fault"]


def test_the_lens_goes_up_and_down(on_machine):
    assert "by hand" in on_machine("lift", z="1")["fault"]
    on_machine.machine.part |= {"z_axis": True}
    on_machine.machine.save()
    on_machine("lift", z="1")
    on_machine("lift", z="-0.1")
    until(lambda: on_machine.state().get("height") == pytest.approx(0.9))
    assert "at most 5 mm" in on_machine("lift", z="50")["fault"]


def test_stop_goes_straight_to_the_machine(client, on_machine):
    on_machine("walk", percent="0")
    answer = client.post(f"/bench/machines/{on_machine.machine.pk}/stop/")
    assert answer.json() == {"said": ""}
    until(lambda: not on_machine.state()["busy"])
    assert on_machine.state()["program"]["state"] == "stopped"


def test_stop_is_for_what_gets_ready_too(client, on_machine, standin):
    run = start_run(on_machine.job)
    client.post(f"/bench/machines/{on_machine.machine.pk}/stop/")
    prepare(Run.objects.get(pk=run.pk))
    run.refresh_from_db()
    assert (run.state, standin.controller.device.machine.beam_s) == ("stopped", 0)


def test_a_stop_where_nothing_is_connected_stops_nothing_later(client, on_machine):
    client.post(f"/bench/machines/{on_machine.machine.pk}/stop/")
    assert on_machine("burn") == {"said": ""}
    assert Run.objects.get().state == "done"


def test_the_machine_is_asked_and_the_shelf_learns(client, on_machine):
    where = f"/bench/machines/{on_machine.machine.pk}/ask/"
    page = read(client.get(where))
    assert "It receives 128 bytes" in page
    assert "18000" not in page  # mm/min are told as mm/s
    client.post(where, {"take": ["rapid_mm_s", "junction_mm"]})
    part = Machine.objects.get(pk=on_machine.machine.pk).part
    assert part["rapid_mm_s"] == 300
    link = on_machine.machine
    assert link_to(link, "settings")["settings"]["110"] == 18000


def test_what_would_spoil_a_burn_is_found(client, on_machine, standin):
    standin.controller.device.receive(b"$32=0\n$30=255\n$130=90\n")
    page = read(client.get(f"/bench/machines/{on_machine.machine.pk}/ask/"))
    assert "Laser mode is off" in page
    assert "Full power is S255" in page
    assert "200 mm wide here, and the machine reaches 90 mm" in page


@pytest.mark.parametrize(
    ("address", "fine"),
    [("/dev/ttyUSB0", True), ("COM3", True), ("socket://127.0.0.1:4210", True),
     ("socket://localhost:4210", True), ("spy://loop://?file=/tmp/made", False),
     ("socket://10.0.0.9:23", False), ("/etc/passwd", False), ("/dev/tty/../sda", False),
     ("socket://127.0.0.1:4210/?file=x", False), ("loop://", False), ("hwgrep://.*", False),
     ("file:///tmp/x", False), ("socket://127.0.0.1:99999", False)],
)  # fmt: skip
def test_only_what_may_be_opened_is_a_port(client, shelf, address, fine, link, tmp_path):
    machine = shelf["small"]
    page = client.get(f"/shelf/machines/{machine.pk}/")
    fields = {
        name: field
        for name, field in page.context["form"].initial.items()
        if field is not None
    }
    fields = {
        name: value
        for name, value in fields.items()
        if not isinstance(value, bool) or value
    }
    client.post(f"/shelf/machines/{machine.pk}/", {**fields, "link": address})
    machine.refresh_from_db()
    assert (machine.link == address) is fine
    if not fine:
        machine.link = address  # even if it came into the table some other way
        with pytest.raises(Exception, match=r"no serial port|LINK_HOSTS"):
            link_to(machine, "connect")
    assert not list(tmp_path.glob("made*"))


def test_a_broken_off_burn_is_gone_on_with(client, on_machine, standin, monkeypatch):
    """All dots are where they were planned, as if it had never been broken off."""
    run = start_run(on_machine.job)
    device = standin.controller.device
    monkeypatch.setattr(type(device), "advance", slow(type(device).advance))
    prepare(run)
    until(lambda: on_machine.state()["program"]["rows"] > 20)
    stop_run(run)
    follow_to_the_end(run)
    assert (run.state, 20 < run.rows_done < run.rows) == ("stopped", True)
    page = read(client.get(f"/bench/machines/{on_machine.machine.pk}/"))
    assert f"ended after {run.rows_done} rows" in page
    row = client.get(f"/bench/runs/{run.pk}/row/?row={run.rows_done}").json()
    assert 0.1 < row["share"] < 1
    said = on_machine("show-row", run=run.pk, row=run.rows_done, percent="1")["said"]
    assert f"Row {run.rows_done} begins at" in said
    arrives(on_machine, row["x"], row["y"])
    assert on_machine.state()["beam_s"] > 0
    assert client.get(f"/bench/runs/{run.pk}/row/?row=99999").json() == {}
    answer = on_machine("continue", run=run.pk, row=run.rows_done - 1)
    assert answer == {"said": ""}
    again = Run.objects.latest_of(on_machine.job)
    assert (again.state, again.error, again.first_row) == ("done", "", run.rows_done - 1)
    assert again.dots_wrong == 0


def slow(advance):
    """Let a device at no pace move a little at a time, so that one can come between."""

    def step(self, seconds, patience_s):
        return advance(self, min(seconds, 0.05), patience_s)

    return step


def test_what_gets_ready_is_told(on_machine):
    assert on_machine.state()["waiting"] is None
    start_run(on_machine.job)
    assert on_machine.state()["waiting"]["number"] == on_machine.job.number


def test_what_comes_next_waits_for_its_hands(client, on_machine, act):
    where = f"/bench/machines/{on_machine.machine.pk}/"
    assert on_machine("queue") == {"said": ""}
    assert on_machine("queue") == {"said": ""}
    first, second = Run.objects.order_by("pk")
    assert "Burn the next" in read(client.get(where))
    assert not Run.objects.active().exists()
    on_machine("take-off", run=first.pk)
    assert "not in the queue" in on_machine("next", run=first.pk)["fault"]
    assert on_machine("next", run=second.pk) == {"said": ""}
    second.refresh_from_db()
    assert (second.state, second.dots_wrong) == ("done", 0)
    assert "not in the queue" in on_machine("next", run=second.pk)["fault"]
    on_machine("queue")
    act("burn", power="56")
    last = Run.objects.get(state="queued")
    assert "changed since" in on_machine("next", run=last.pk)["fault"]


def test_the_next_waits_until_the_machine_is_free(on_machine):
    queued = queue_run(on_machine.job)
    start_run(on_machine.job)
    assert "busy with another burn" in on_machine("next", run=queued.pk)["fault"]


def test_a_changed_job_is_not_gone_on_with(on_machine, act):
    run = Run.objects.create(
        job=on_machine.job, machine=on_machine.machine, spec={}, state="failed", rows=9,
        address=address_of(on_machine.machine),
    )  # fmt: skip
    assert "was changed since" in on_machine("continue", run=run.pk, row="3")["fault"]


def test_a_burn_whose_link_died_is_closed_by_its_journal(on_machine, standin, link):
    run = start_run(on_machine.job)
    run.note(state="running")
    journal = folder_of(run) / "job.journal"
    line = {"state": "running", "rows": 17, "elapsed_s": 3.0, "remaining_s": 9.0, "trims": [],
            "fault": ""}  # fmt: skip
    journal.write_text(json.dumps(line) + "\n" + '{"half a li')
    assert follow(run)
    assert (run.state, run.rows_done) == ("failed", 17)
    assert "17 rows are burned" in run.error


def test_who_follows_may_look_at_any_moment_of_a_start(on_machine, monkeypatch):
    """Between any two steps of it the follower looks; nothing is taken for broken off."""
    steps = []

    def follow_all():
        steps.append(1)
        for run in Run.objects.filter(state="running"):
            follow(run)

    def looked_at(do, **words):
        if do == "program":
            return link_at(do, **words)
        follow_all()
        answer = link_at(do, **words)
        follow_all()
        return answer

    noted = Run.note

    def note(run, **fields):
        noted(run, **fields)
        if fields.get("state") == "running":
            follow_all()

    monkeypatch.setattr("workshop.bench.runs.follow.link", looked_at)
    monkeypatch.setattr(Run, "note", note)
    run = start_run(on_machine.job)
    prepare(run)
    until(lambda: follow_all() or not Run.objects.active().exists())
    run.refresh_from_db()
    assert (run.state, run.error, run.dots_wrong) == ("done", "", 0)
    assert len(steps) > 5


def test_a_link_that_does_not_answer_has_not_ended(on_machine, monkeypatch):
    run = start_run(on_machine.job)
    prepare(run)
    monkeypatch.setattr("workshop.bench.runs.follow.link", busy)
    assert not follow(run)
    monkeypatch.undo()
    follow_to_the_end(run)
    assert run.state == "done"


def busy(do, **words):
    raise LinkError("It does not answer.")


def test_a_worker_that_ended_amid_a_start_finds_the_burn(on_machine):
    """It reached the link, and was not noted any more."""
    run = start_run(on_machine.job)
    prepare(run)
    Run.objects.filter(pk=run.pk).update(state="waiting", held=PREPARING)
    give_up_left_over()
    run.refresh_from_db()
    follow_to_the_end(run)
    assert (run.state, run.error) == ("done", "")


def test_what_was_trimmed_is_offered_to_the_recipe(client, on_machine):
    on_machine("burn")
    run = Run.objects.get()
    assert (run.state, run.trimmed) == ("done", None)
    run.note(trims=[[1.0, 110, 100], [2.5, 120, 90]])
    assert "as trimmed: 96 mm/s, 49.5 %" in read(client.get(f"/bench/log/{run.pk}/"))
    kept = {"name": "Pale, trimmed", "rating": "4"}
    client.post(f"/bench/runs/{run.pk}/keep/", {**kept, "trimmed": "on"})
    client.post(f"/bench/runs/{run.pk}/keep/", {**kept, "name": "Pale, as said"})
    parts = {one.name: recipe_part(one) for one in Recipe.objects.all()}
    assert parts["Pale, trimmed"].speed_mm_s == pytest.approx(96)
    assert parts["Pale, trimmed"].power == pytest.approx(49.5)
    assert parts["Pale, as said"].speed_mm_s == pytest.approx(80)


def test_a_fixture_is_drawn_with_all_its_blanks(client, on_machine, act):
    act("place", fixture="on", columns="3", rows="2")
    page = read(client.get(f"/bench/machines/{on_machine.machine.pk}/"))
    assert page.count('class="bed__blank') == 6


def test_two_starts_at_once_are_one_burn(on_machine, monkeypatch):
    """Both looked before either began: the table lets only one through."""
    monkeypatch.setattr("workshop.bench.runs.start.hold_free", lambda _: None)
    start_run(on_machine.job)
    tick_all(on_machine.job)
    with pytest.raises(CannotBurnError, match="busy with another burn"):
        start_run(on_machine.job)
    assert Run.objects.active().count() == 1


def test_events_are_told_and_not_to_everybody(client, on_machine):
    where = f"/bench/machines/{on_machine.machine.pk}/events/"
    answers = [client.get(where) for _ in range(8)]
    told = answers[0].streaming_content
    assert next(told).startswith(b"retry")
    assert json.loads(next(told).removeprefix(b"data: "))["address"].startswith("socket://")
    assert client.get(where).status_code == 503
    for one in answers:
        one.close()
    assert client.get(where).status_code == 200
