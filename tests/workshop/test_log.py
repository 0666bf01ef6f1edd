"""The burn log: found again, said how it came out, burned again, laid side by side."""

import csv
import io
from datetime import timedelta

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone

from support.gate import sign_all
from support.jobs import changed, photograph
from support.pages import read
from workshop.bench.log.search import Wanted, found
from workshop.bench.models import Run
from workshop.bench.runs.follow import note
from workshop.bench.runs.keep import keep_as_recipe, note_piece
from workshop.bench.runs.start import start_run
from workshop.bench.runs.timing import learn_from
from workshop.jobs.models import Job
from workshop.jobs.revisions.writer import change, spec_of
from workshop.jobs.ticket import bin as the_bin

LINK = {"elapsed_s": 1.0, "rows": 3, "remaining_s": 2.0, "trims": []}


def burned(ticket, **fields):
    fields = {"spec": ticket.spec_data, "state": "done", **fields}
    return Run.objects.create(job=ticket, machine=ticket.machine, **fields)


@pytest.fixture
def three(ticket, shelf):
    """Three burns: a good one, a spoiled one on another material, one that failed."""
    slate = changed(spec_of(ticket), substrate={"name": "Slate"}, burn={"power": 55})
    return (
        burned(ticket, result="good", operator="hanne", clock_s=12.5, rows=60),
        burned(ticket, spec=slate.model_dump(mode="json"), result="spoiled", why="moved"),
        burned(ticket, state="failed", error="The door is open.", notes="=2+2"),
    )


FOUND = {
    "nothing asked": ({}, (2, 1, 0)),
    "a material": ({"find": "slate"}, (1,)),
    "two words": ({"find": "scene hanne"}, (0,)),
    "a number": ({"find": "401"}, (2, 1, 0)),
    "a result": ({"went": "spoiled"}, (1,)),
    "a state": ({"went": "failed"}, (2,)),
    "no such result": ({"went": "x"}, (2, 1, 0)),
    "nonsense": ({"machine": "x", "since": "soon", "until": "9"}, (2, 1, 0)),
    "why": ({"find": "moved"}, (1,)),
}


@pytest.mark.parametrize("name", FOUND)
def test_burns_are_found(client, three, name):
    words, wanted = FOUND[name]
    assert list(found(Wanted.of(words))) == [three[at] for at in wanted]
    page = client.get("/bench/log/", words)
    assert [row.run for row in page.context["rows"]] == [three[at] for at in wanted]


def test_by_day_and_machine(three, shelf):
    Run.objects.filter(pk=three[0].pk).update(created=timezone.now() - timedelta(days=3))
    day = timezone.now() - timedelta(days=3)
    words = {"since": f"{day:%Y-%m-%d}", "until": f"{day:%Y-%m-%d}"}
    assert list(found(Wanted.of(words))) == [three[0]]
    assert list(found(Wanted.of({"machine": str(shelf["small"].pk)}))) == []


def test_pages_and_csv_hold_all_of_it(client, ticket):
    for _ in range(52):
        burned(ticket)
    burned(ticket, state="failed", notes="=2+2", result="spoiled", why="moved, twice")
    page = client.get("/bench/log/", {"find": "scene"})
    assert len(page.context["rows"]) == 50
    assert "Page 1 of 2" in read(page)
    assert len(client.get("/bench/log/", {"page": "2"}).context["rows"]) == 3
    assert len(client.get("/bench/log/", {"page": "99"}).context["rows"]) == 3
    answer = client.get("/bench/log/", {"as": "csv"})
    text = b"".join(answer.streaming_content).decode("utf-8-sig")
    rows = list(csv.DictReader(io.StringIO(text)))
    assert len(rows) == 53
    first = rows[0]
    assert (first["result"], first["why"], first["notes"]) == (
        "spoiled",
        "moved, twice",
        "'=2+2",
    )
    assert (first["job"], first["material"], first["power_percent"]) == (
        "401",
        "Wood",
        "33",
    )


def test_what_came_out_is_noted_with_a_photo(client, ticket):
    run = burned(ticket)
    address = f"/bench/log/{run.pk}/"
    assert "No photo of the piece yet" in read(client.get(address))
    answer = client.post(address, {"result": "spoiled"})
    assert (answer.status_code, "Say why it was spoiled" in read(answer)) == (422, True)
    photo = SimpleUploadedFile("piece.png", photograph(), "image/png")
    words = {
        "result": "dark",
        "why": "two passes",
        "notes": "one next time",
        "photo": photo,
    }
    assert "Noted." in read(client.post(address, words, follow=True))
    run.refresh_from_db()
    assert (run.result, run.why, run.notes) == ("dark", "two passes", "one next time")
    picture = client.get(f"{address}photo.jpg")
    assert b"".join(picture.streaming_content).startswith(b"\xff\xd8")
    assert client.get(f"{address}proof.jpg").status_code == 200
    client.post(address, {"result": "good"})
    run.refresh_from_db()
    assert (run.result, bool(run.photo)) == ("good", True)


def test_a_photo_that_is_none_is_refused_and_nothing_lost(client, ticket):
    run = burned(ticket)
    photo = SimpleUploadedFile("piece.png", b"no picture", "image/png")
    answer = client.post(f"/bench/log/{run.pk}/", {"notes": "kept", "photo": photo})
    assert (answer.status_code, "kept" in read(answer)) == (422, True)
    run.refresh_from_db()
    assert run.photo == ""


def test_it_is_burned_again_exactly(client, act, ticket):
    sign_all(ticket)
    run = start_run(Job.objects.with_all().get(pk=ticket.pk), operator="mk")
    run.note(state="done")
    assert (run.operator, run.revision) == ("mk", ticket.head.number)
    act("burn", power="77")
    act("tone", gamma="1.4")
    the_bin.remove(ticket)
    client.post(f"/bench/log/{run.pk}/again/")
    job = Job.objects.with_all().get(pk=ticket.pk)
    assert job.spec_data == run.spec
    client.post(f"/jobs/{job.number}/undo/")
    assert spec_of(Job.objects.with_all().get(pk=ticket.pk)).burn.power == 77


def test_two_burns_side_by_side_and_a_take_between(client, ticket):
    first = burned(ticket)
    change(ticket, changed(spec_of(ticket), burn={"power": 53.0}), "Power")
    second = burned(Job.objects.with_all().get(pk=ticket.pk))
    words = {"run": [first.pk, second.pk]}
    page = read(client.get("/bench/log/beside/", words))
    assert "33" in page
    assert "53" in page
    assert "A take between them" in page
    query = f"/bench/log/beside/?run={first.pk}&run={second.pk}"
    client.post(query, {"share": "25"})
    job = Job.objects.with_all().get(pk=ticket.pk)
    assert spec_of(job).burn.power == pytest.approx(38)
    assert job.takes.get().name == "25 % between two burns"
    assert "Type a share" in read(client.post(query, {"share": "x"}, follow=True))
    for asked in ([first.pk], [first.pk, "x"], []):
        answer = client.get("/bench/log/beside/", {"run": asked})
        assert "Choose two burns" in read(answer)


def test_the_same_twice_says_so(client, ticket):
    pair = [burned(ticket).pk, burned(ticket).pk]
    page = read(client.get("/bench/log/beside/", {"run": pair}))
    assert "with the same settings" in page
    assert "A take between" not in page


def test_holds_and_alarms_are_noted_as_the_link_counts_them(client, ticket):
    run = burned(ticket, state="running")
    note(run, {**LINK, "state": "running"})
    note(run, {**LINK, "state": "held", "holds": 2, "alarms": [[3.5, "The door is open."]]})
    run = Run.objects.get(pk=run.pk)
    assert (run.holds, run.alarms) == (2, [[3.5, "The door is open."]])
    assert "The door is open." in read(client.get(f"/bench/log/{run.pk}/"))


def test_what_was_signed_is_kept_with_the_burn(client, ticket):
    sign_all(ticket)
    given = {one.sentence for one in ticket.signatures.all()}
    run = start_run(Job.objects.with_all().get(pk=ticket.pk))
    kept = {one["sentence"] for one in run.signed}
    assert kept
    assert kept <= given
    page = read(client.get(f"/bench/log/{run.pk}/"))
    assert "Signed off before" in page


def test_what_was_done_by_hand_is_on_its_page(client, ticket):
    sign_all(ticket)
    run = start_run(Job.objects.with_all().get(pk=ticket.pk))
    run.note(state="done", trims=[[12.0, 110, 90]], holds=2, error="It was late.")
    page = read(client.get(f"/bench/log/{run.pk}/"))
    for words in ("Focus", "ticked", "speed 110 %, power 90 %", "2 times", "It was late."):
        assert words in page


def test_a_machine_learns_how_long_it_takes(client, ticket):
    planned = client.get(f"/jobs/{ticket.number}/sheet/").context["takes"]
    for rows, planned_s in ((40, 20.0), (60, 90.0), (100, 50.0), (80, 200.0)):
        run = burned(ticket, planned_s=planned_s, clock_s=planned_s + 0.1 * rows, rows=rows)
    held = burned(ticket, planned_s=10.0, clock_s=900.0, rows=50, holds=3)
    for one in (run, held):
        learn_from(one)
    ticket.machine.refresh_from_db()
    timing = ticket.machine.timing
    assert (timing["factor"], timing["row_s"], timing["burns"]) == (1.0, 0.1, 4)
    answer = client.get(f"/jobs/{ticket.number}/sheet/")
    rows = answer.context["sheet"].estimate.rows
    assert answer.context["takes"] == pytest.approx(planned + 0.1 * rows)
    assert "before 4 burns corrected it" in read(answer)
    page = read(client.get(f"/shelf/machines/{ticket.machine_id}/"))
    assert "corrected by its last 4 burns" in page
    readings = client.get(f"/jobs/{ticket.number}/readings/").context["readings"]
    assert readings.seconds == pytest.approx(planned + 0.1 * rows)


def test_a_recipe_tells_what_it_rests_on(client, ticket, shelf):
    address = f"/shelf/recipes/{shelf['brown'].pk}/"
    assert "Nothing was burned by it yet" in read(client.get(address))
    run = burned(ticket, trims=[[3.0, 100, 110]])
    note_piece(run)
    note_piece(run)
    keep_as_recipe(run, "Brown", 5)
    page = read(client.get(address))
    assert "What it rests on" in page
    assert f'href="/bench/log/{run.pk}/"' in page
    assert "5 of 5" in page
    assert "36.3 %" in page
    assert shelf["brown"].evidence.count() == 1
    client.post(f"/bench/log/{run.pk}/", {"result": "dark"})
    assert "came out too dark" in read(client.get(address))
    client.post(f"/bench/log/{run.pk}/", {"result": ""})
    assert "came out" not in read(client.get(address))
