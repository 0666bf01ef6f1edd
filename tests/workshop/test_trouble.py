"""What is no fault of the program gets its sentence, and nothing is lost."""

import errno
from collections import OrderedDict

import pytest
from django.db import OperationalError

from engraving.pipeline import StageCache
from support.jobs import png
from support.pages import read
from workshop.jobs.models import Job
from workshop.jobs.pictures import engine
from workshop.jobs.pictures.intake import keep_artwork
from workshop.jobs.ticket.lifecycle import open_job

RAISED = {
    "is busy": OperationalError("database is locked"),
    "disk is full": OSError(errno.ENOSPC, "No space left on device"),
    "disk is full too": OperationalError("database or disk is full"),
}


@pytest.mark.parametrize("says", RAISED)
def test_a_busy_base_and_a_full_disk(client, act, ticket, monkeypatch, says):
    before = ticket.spec_data

    def fails(*_, **__):
        raise RAISED[says]

    monkeypatch.setattr("workshop.jobs.revisions.writer.Revision.objects.create", fails)
    answer = act("burn", power="44")
    assert answer.status_code in (503, 507)
    assert answer["Content-Type"].startswith("text/plain")
    assert "Nothing was changed" in answer.content.decode()
    ticket.refresh_from_db()
    assert ticket.spec_data == before
    page = client.post(f"/jobs/{ticket.number}/burn/", {"power": "44", "changed": "power"})
    assert says.removesuffix(" too") in read(page)


@pytest.mark.parametrize("says", RAISED)
def test_a_station_is_shown_though_its_visit_cannot_be_noted(
    client, ticket, monkeypatch, says
):
    def fails(*_, **__):
        raise RAISED[says]

    monkeypatch.setattr(Job, "save", fails)
    for station in ("tone", "dots", "check"):
        assert client.get(f"/jobs/{ticket.number}/{station}/").status_code == 200


def test_a_picture_that_is_gone(client, shelf, scene, settings, monkeypatch):
    upside_down = png(scene[::-1], dpi=(254, 254))  # no other test has it in the cache
    job = open_job(keep_artwork("gone.png", [upside_down]), "Gone")
    for path in settings.MEDIA_ROOT.rglob("*"):
        if path.is_file():
            path.unlink()
    monkeypatch.setattr(engine.pipeline(), "cache", StageCache(1 << 20))
    monkeypatch.setattr(engine.pipeline(), "_jobs", OrderedDict())
    pages = [f"/jobs/{job.number}/{one}/" for one in ("tone", "place", "findings", "sheet")]
    answers = [client.get(page) for page in ("/", *pages)]
    assert {one.status_code for one in answers} == {200, 422}
    said = [read(one) for one in answers if one.status_code == 422]
    assert all("The picture of this job is missing" in one for one in said)
    assert Job.objects.get().name == "Gone"
