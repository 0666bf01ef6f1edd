"""What is computed for a ticket stops where the ticket is changed, and begins again."""

import threading

import pytest

from support.jobs import changed
from workshop.jobs.models import Job
from workshop.jobs.pictures import contact_sheet, windows
from workshop.jobs.pictures.engine import pipeline, stage_cache
from workshop.jobs.revisions import standing
from workshop.jobs.revisions.writer import change, spec_of

WINDOW = {"left": 0, "top": 0, "cols": 20, "rows": 15, "w": 20, "h": 15}


class NotThereError(Exception):
    """A stage's result is not there."""


def is_made(stage, spec):
    def refuse():
        raise NotThereError

    try:
        stage_cache().get(stage.key(spec), refuse)
    except NotThereError:
        return False
    return True


@pytest.fixture(autouse=True)
def nothing_made():
    """Nothing is kept of what other tests had made of the same picture."""
    stage_cache.cache_clear()
    pipeline.cache_clear()


@pytest.fixture
def meanwhile(monkeypatch, ticket):
    """Change the ticket at the n-th look into the base while something is computed."""
    monkeypatch.setattr(standing, "LOOKS_EVERY_S", 0)
    first = spec_of(ticket)

    def arrange(moment, **parts):
        newest, looks = changed(first, **parts), []
        asked = standing._state

        def state(number):
            looks.append(number)
            if len(looks) == 1 + moment:
                change(Job.objects.get(number=number), newest, "Meanwhile")
            return asked(number)

        monkeypatch.setattr(standing, "_state", state)
        return newest

    return arrange


@pytest.mark.parametrize("moment", [1, 2, 5])
def test_readings_are_asked_for_again_and_the_past_is_left(
    client, ticket, meanwhile, moment
):
    past = spec_of(ticket)
    newest = meanwhile(moment, tone={"gamma": 1.31}, size={"pitch_mm": 0.25})
    address = f"/jobs/{ticket.number}/readings/"
    answer = client.get(address).content.decode()
    assert "101.6 dpi" in answer
    assert f'hx-get="{address}"' in answer, "the page asks again"
    assert not is_made(pipeline().estimate, past)
    assert "hx-get" not in client.get(address).content.decode()
    assert is_made(pipeline().estimate, newest)


def test_a_picture_that_is_past_is_gone_and_not_made(client, ticket, meanwhile, caplog):
    past = changed(spec_of(ticket), tone={"gamma": 1.47})
    change(Job.objects.get(pk=ticket.pk), past, "Gamma")
    newest = meanwhile(1, tone={"gamma": 1.48})
    answer = client.get(address(ticket, past), WINDOW)
    assert (answer.status_code, answer["Cache-Control"]) == (410, "no-store")
    assert not caplog.records, "that is no fault"
    assert not is_made(pipeline().finished, past)
    assert client.get(address(ticket, newest), WINDOW).status_code == 200
    assert is_made(pipeline().finished, newest)


def test_a_picture_that_a_change_leaves_as_it_was_comes(client, ticket, meanwhile):
    """Its address is still that of the ticket as it stands."""
    now = spec_of(ticket)
    newest = meanwhile(3, name="Another name")
    answer = client.get(address(ticket, now), WINDOW)
    assert answer.status_code == 200
    assert Job.objects.get(pk=ticket.pk).name == newest.name


def test_a_contact_sheet_is_of_the_ticket_as_it_stands(client, ticket, meanwhile):
    """Else each of its pictures would be gone."""
    meanwhile(6, tone={"gamma": 1.56})
    page = client.get(f"/jobs/{ticket.number}/contact/", {"x": 2, "y": 2, "closer": 1})
    now = spec_of(Job.objects.get(pk=ticket.pk))
    assert now.tone.gamma == 1.56
    assert contact_sheet.sheet_key(now) in page.content.decode()


def test_what_was_begun_ahead_is_left_for_the_next_change(ticket):
    """Of a queue of changes only the last one's picture is made."""
    specs = [changed(spec_of(ticket), tone={"gamma": 1.6 + n / 100}) for n in range(4)]
    windows.picture(spec_of(ticket), "dots", windows.Window(0, 0, 20, 15, 20, 15), 77)
    kept = windows._ahead()
    release = threading.Event()
    kept.submit(release.wait)
    for spec in specs:
        windows.begin(77, spec)
    release.set()
    kept.submit(int).result()
    made = [is_made(pipeline().finished, one) for one in specs]
    assert made == [False, False, False, True]


def address(ticket, spec):
    return f"/jobs/{ticket.number}/picture/dots/{windows.view_key(spec, 'dots')}/"
