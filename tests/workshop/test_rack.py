"""The rack: narrowed, sorted, a page at a time, several at once."""

from datetime import timedelta

import pytest
from django.utils import timezone

from support.jobs import photograph
from support.pages import read
from workshop.jobs.models import Job
from workshop.jobs.pictures.intake import keep_artwork
from workshop.jobs.revisions.writer import change, relations_of, spec_of
from workshop.jobs.ticket.lifecycle import open_job
from workshop.jobs.ticket.wanted import DUES, PAGE, SORTS, STATES, Wanted, found


@pytest.fixture
def tickets(shelf):
    """Six tickets: two for Ada, one of slate on the small machine, one burned, one put away."""
    artwork = keep_artwork("scene.png", [photograph(64, 48)])
    jobs = [open_job(artwork, name) for name in "fedcba"]
    today = timezone.localdate()
    for job, day in zip(jobs, (-1, 3, 30), strict=False):
        Job.objects.filter(pk=job.pk).update(due=today + timedelta(days=day))
    Job.objects.filter(pk__in=[jobs[0].pk, jobs[3].pk]).update(customer="Ada")
    other = relations_of(jobs[2]) | {
        "machine": shelf["small"].pk,
        "substrate": shelf["slate"].pk,
    }
    change(
        jobs[2], spec_of(jobs[2]).model_copy(update={"name": "d, slate"}), "x", "", other
    )
    Job.objects.filter(pk=jobs[1].pk).update(checked_state=jobs[1].state)
    Job.objects.filter(pk=jobs[4].pk).update(burned_at=timezone.now())
    Job.objects.filter(pk=jobs[5].pk).update(put_away_at=timezone.now())
    return jobs


def names(**words):
    return "".join(
        job.name[0] for job in found(Wanted.of({k: str(v) for k, v in words.items()}))
    )


def test_each_narrowing_and_sort(tickets, shelf):
    assert names() == "cdef"
    assert names(state="open") == "cdf"
    assert names(state="ready") == "e"
    assert names(state="burned") == "b"
    assert names(state="away") == "a"
    assert names(due="late") == "f"
    assert names(due="soon") == "ef"
    assert names(due="none") == "c"
    assert names(customer="Ada") == "cf"
    assert names(machine=shelf["small"].pk) == "d"
    assert names(substrate=shelf["slate"].pk) == "d"
    assert names(find="slate small") == "d"
    assert names(sort="old") == "fedc"
    assert names(sort="due") == "fedc"
    assert names(sort="name") == "cdef"
    assert names(sort="customer", customer="") == "decf"
    assert names(customer="Ada", due="late", sort="name") == "f"


def test_what_makes_no_sense_narrows_nothing(tickets):
    odd = {
        "state": "x",
        "due": "??",
        "sort": "1",
        "machine": "abc",
        "page": "-3",
        "substrate": "",
    }
    assert names(**odd) == "cdef"
    assert Wanted.of(odd).page == 1


@pytest.mark.django_db
@pytest.mark.parametrize(
    ("name", "value"),
    [("state", v) for v in STATES] + [("due", v) for v in DUES] + [("sort", v) for v in SORTS],
)  # fmt: skip
def test_every_choice_is_shown_as_it_is_asked_for(client, tickets, name, value):
    page = read(client.get("/", {name: value}))
    assert (
        f'<option value="{value}" selected> ' in page
        or f'<option value="{value}" selected>' in page
    )


def test_more_tickets_come_a_page_at_a_time(client, shelf):
    artwork = keep_artwork("scene.png", [photograph(64, 48)])
    jobs = [open_job(artwork, f"n{i}") for i in range(PAGE + 3)]
    page = read(client.get("/", {"find": "n"}))
    assert f"{len(jobs)} tickets" in page
    assert page.count('name="number"') == PAGE
    assert "page=2" in page
    assert "<html" in read(client.get("/?find=n&page=2"))  # followed as a link
    rest = read(client.get("/?find=n&page=2", headers={"HX-Request": "true"}))
    assert rest.count('name="number"') == 3
    assert "page=3" not in rest
    assert "<html" not in rest


class TestSeveral:
    def act(self, client, jobs, do):
        numbers = [job.number for job in jobs]
        return client.post("/several/", {"number": numbers, "do": do}, follow=True)

    def test_they_are_put_away_and_come_back(self, client, tickets):
        assert "2 tickets put away" in read(self.act(client, tickets[:2], "away"))
        assert names() == "cd"
        assert names(state="away") == "aef"
        self.act(client, tickets[:1], "back")
        assert names() == "cdf"

    def test_they_are_removed_and_put_back(self, client, tickets):
        page = read(self.act(client, tickets[:2], "remove"))
        numbers = f"{tickets[0].number},{tickets[1].number}"
        assert f'value="{numbers}"' in page
        assert names() == "cd"
        client.post("/bin/", {"number": numbers, "then": "rack"})
        assert names() == "cdef"

    def test_their_proof_sheets_are_one_file(self, client, tickets):
        from pypdf import PdfReader

        answer = client.post(
            "/several/", {"number": [one.number for one in tickets[:3]], "do": "sheets"}
        )
        assert answer["Content-Type"] == "application/pdf"
        import io

        assert len(PdfReader(io.BytesIO(answer.content)).pages) == 3

    @pytest.mark.parametrize("numbers", [[], ["x"], ["99999"]])
    def test_none_is_said(self, client, tickets, numbers):
        page = read(
            client.post("/several/", {"number": numbers, "do": "remove"}, follow=True)
        )
        assert "Choose tickets first" in page
        assert names() == "cdef"


def test_tickets_are_lined_up_at_a_machine_in_their_order(client, ticket, shelf):
    other = open_job(keep_artwork("b.png", [photograph(64, 48)]), "Second")
    machine = shelf["small"]
    numbers = [ticket.number, other.number]
    client.post("/several/", {"number": numbers, "do": "line", "at": machine.pk})
    page = client.get("/bench/").content.decode()
    assert page.index(f"{ticket.number:04d} {ticket.name}") < page.index("Second")
    assert [one.machine_id for one in Job.objects.in_line_at(machine)] == [machine.pk] * 2
    client.post("/several/", {"number": ticket.number, "do": "leave"})
    assert [one.number for one in Job.objects.in_line_at(machine)] == [other.number]
    Job.objects.filter(pk=other.pk).update(burned_at=timezone.now())
    assert not Job.objects.in_line_at(machine)
    client.post("/several/", {"number": ticket.number, "do": "line", "at": ""})
    assert [one.number for one in Job.objects.in_line_at(machine)] == [ticket.number]
    answer = client.post("/several/", {"number": numbers, "do": "line", "at": "999"})
    assert answer.status_code == 404
