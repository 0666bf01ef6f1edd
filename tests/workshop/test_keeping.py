"""Nothing is lost: backups and their return, the bin, and data of older versions."""

import hashlib
import io
import json
import os
import sqlite3
import subprocess
import sys
import zipfile
from datetime import timedelta
from pathlib import Path

import pytest
from django.utils import timezone

from engraving.errors import InputError
from support.jobs import changed, png
from support.pages import read
from workshop.bench.models import Run
from workshop.jobs.exports.opening import open_job_file
from workshop.jobs.models import Artwork, Job
from workshop.jobs.pictures.intake import keep_artwork
from workshop.jobs.pictures.store import artwork_path
from workshop.jobs.revisions.writer import change, spec_of
from workshop.jobs.ticket import bin as the_bin
from workshop.jobs.ticket.lifecycle import copy, open_job
from workshop.keeping import nightly, tasks
from workshop.keeping.backup import BASE, LIST, check_backup, restore, write_backup
from workshop.keeping.models import Keeping

ROOT = Path(__file__).parents[2]
OLD = ROOT / "tests/support/version-0.1.0.zip"


@pytest.fixture(autouse=True)
def own_data(settings, tmp_path):
    settings.VAR = tmp_path


def backed_up():
    stream = io.BytesIO()
    write_backup(stream)
    return stream


def spoiled(stream, *, instead=None, without=None, more=None, listed=None):
    """A backup with something in it changed."""
    out = io.BytesIO()
    with zipfile.ZipFile(stream) as was, zipfile.ZipFile(out, "w") as now:
        for name in was.namelist():
            data = was.read(name)
            if name == LIST and listed:
                contents = json.loads(data)
                listed(contents)
                data = json.dumps(contents).encode()
            if name != without:
                now.writestr(name, (instead or {}).get(name, data))
        for name, data in (more or {}).items():
            now.writestr(name, data)
    return out


@pytest.mark.django_db(transaction=True)
class TestBackup:
    def test_all_comes_back_into_an_empty_folder(self, ticket, tmp_path):
        stream, folder = backed_up(), tmp_path / "new"
        contents = restore(stream, folder)
        sha = ticket.artwork.sha256
        assert (folder / f"files/artwork/{sha[:2]}/{sha}").read_bytes() == artwork_path(
            sha
        ).read_bytes()
        with sqlite3.connect(folder / BASE) as base:
            rows = base.execute("select number, name from jobs_job").fetchall()
        assert rows == [(ticket.number, "Scene")]
        with zipfile.ZipFile(stream) as zipped:
            plain = json.loads(zipped.read(f"tickets/{ticket.number:04d}.json"))
        assert plain == ticket.spec_data
        assert f"tickets/{ticket.number:04d}.json" in contents["files"]
        with pytest.raises(InputError, match="holds a workshop already"):
            restore(stream, folder)

    @pytest.mark.parametrize(
        ("spoil", "says"),
        [
            ({"without": BASE}, "files are missing"),
            ({"instead": {BASE: b"no base"}}, "not as it was"),
            ({"more": {"files/../../out": b"x"}}, "files are missing, or were added"),
            ({"instead": {LIST: b"[]"}}, "list of contents is damaged"),
            ({"listed": lambda one: one.update(format="other")}, "another program"),
            ({"listed": lambda one: one.update(version=9)}, "newer version"),
            (
                {
                    "more": {"../out": b""},
                    "listed": lambda one: one["files"].update({"../out": {}}),
                },
                "would lie elsewhere",
            ),
        ],
    )
    def test_what_is_not_whole_is_refused_and_nothing_written(
        self, ticket, tmp_path, spoil, says
    ):
        folder = tmp_path / "new"
        with pytest.raises(InputError, match=says):
            restore(spoiled(backed_up(), **spoil), folder)
        assert not folder.exists()

    def test_a_cut_off_zip_and_none_at_all(self, ticket, tmp_path):
        whole = backed_up().getvalue()
        for data in (whole[: len(whole) // 2], b"", b"PK\x05\x06"):
            with pytest.raises(InputError, match="no whole backup"):
                restore(io.BytesIO(data), tmp_path / "new")

    def test_a_damaged_base_is_seen_though_its_sum_is_right(self, ticket, tmp_path):
        data = bytearray(backed_up().getvalue())
        with zipfile.ZipFile(io.BytesIO(bytes(data))) as zipped:
            base = bytearray(zipped.read(BASE))
        base[4096:8192] = b"\xff" * 4096
        facts = {"bytes": len(base), "sha256": hashlib.sha256(base).hexdigest()}
        stream = spoiled(
            io.BytesIO(bytes(data)),
            instead={BASE: bytes(base)},
            listed=lambda one: one["files"].update({BASE: facts}),
        )
        with pytest.raises(InputError, match="database is damaged"):
            restore(stream, tmp_path / "new")
        assert not list((tmp_path / "new").iterdir())

    def test_the_page_gives_a_backup(self, client, ticket):
        assert "Back everything up" in read(client.get("/backups/"))
        answer = client.post("/backups/now/")
        data = b"".join(answer.streaming_content)
        assert BASE in check_backup(io.BytesIO(data))["files"]
        assert client.get("/backups/../secret").status_code == 404

    def test_from_one_command_line_to_another(self, ticket, tmp_path):
        """One command into an empty folder, and the ticket opens there."""
        (tmp_path / "all.zip").write_bytes(backed_up().getvalue())
        found = managed(tmp_path / "new", "restore", str(tmp_path / "all.zip"))
        assert "are in place" in found
        assert pages(tmp_path / "new", [f"/jobs/{ticket.number}/tone/"]) == [200]


def managed(folder, *command):
    environment = {**os.environ, "OLD_EMBER_VAR": str(folder), "PYTHONPATH": str(ROOT / "src"),
                   "DJANGO_SETTINGS_MODULE": "workshop.settings.base"}  # fmt: skip
    done = subprocess.run(
        [sys.executable, str(ROOT / "src/workshop/manage.py"), *command],
        env=environment, check=False, capture_output=True, text=True, timeout=180,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    return done.stdout


def pages(folder, addresses):
    """The status of pages, as a program with its data there answers."""
    script = (
        "from django.test import Client\n"
        "import json\n"
        "client = Client(headers={'host': '127.0.0.1'})\n"
        f"print(json.dumps([client.get(one).status_code for one in {addresses!r}]))"
    )
    return json.loads(managed(folder, "shell", "--no-imports", "-c", script))


class TestNightly:
    @pytest.mark.django_db(transaction=True)
    def test_it_is_made_once_a_night_and_seven_are_kept(self, ticket, settings):
        assert not nightly.due()
        Keeping.objects.update_or_create(pk=1, defaults={"nightly": True})
        nightly.folder().mkdir(parents=True)
        for day in range(1, 10):
            (nightly.folder() / f"night-2020-01-{day:02d}.zip").write_bytes(b"")
        assert nightly.due()
        tasks.keep_house.call_local()
        assert not nightly.due()
        names = [one.name for one in nightly.kept()]
        assert len(names) == 7
        assert names[-1] == "night-2020-01-04.zip"
        with nightly.kept()[0].open("rb") as stream:
            assert BASE in check_backup(stream)["files"]

    def test_it_is_switched_in_one_place(self, client, db):
        assert "Back up every night" in read(client.get("/backups/"))
        page = read(client.post("/backups/", {"nightly": "1"}, follow=True))
        assert "A backup is made every night." in page
        assert Keeping.now().nightly
        client.post("/backups/", {"nightly": "0"})
        assert not nightly.due()


class TestBin:
    def removed(self, job, days=0):
        the_bin.remove(job)
        when = timezone.now() - timedelta(days=days)
        Job.everything.filter(pk=job.pk).update(removed_at=when)

    def test_a_removed_ticket_lies_in_the_bin_and_comes_back(self, client, ticket):
        client.post(f"/jobs/{ticket.number}/remove/")
        assert not Job.objects.exists()
        assert "Scene" in read(client.get("/bin/"))
        answer = client.get(f"/jobs/{ticket.number}/", follow=True)
        assert answer.redirect_chain == [("/bin/", 302)]
        assert client.get(f"/jobs/{ticket.number}/tone/").status_code == 404
        client.post("/bin/", {"number": ticket.number, "do": "back"})
        assert client.get(f"/jobs/{ticket.number}/tone/").status_code == 200

    def test_after_thirty_days_it_is_gone_with_its_picture(
        self, ticket, django_capture_on_commit_callbacks
    ):
        path = artwork_path(ticket.artwork.sha256)
        self.removed(ticket, 29)
        assert the_bin.empty_old() == 0
        self.removed(ticket, 31)
        with django_capture_on_commit_callbacks(execute=True):
            assert the_bin.empty_old() == 1
        assert not Job.everything.exists()
        assert not Artwork.objects.exists()
        assert not path.exists()

    def test_a_picture_that_another_ticket_names_stays(
        self, ticket, scene, django_capture_on_commit_callbacks
    ):
        twin = copy(ticket)
        other = open_job(keep_artwork("other.png", [png(scene[::-1])]), "Other")
        # One state of the other names the picture, and is undone by now.
        spec = changed(spec_of(other), artwork={"sha256": ticket.artwork.sha256})
        change(other, spec, "Another sheet")
        for job in (ticket, twin):
            with django_capture_on_commit_callbacks(execute=True):
                the_bin.drop(job)
            assert artwork_path(ticket.artwork.sha256).exists()
        with django_capture_on_commit_callbacks(execute=True):
            the_bin.drop(other)
        assert not Artwork.objects.exists()

    def test_what_was_burned_stays_for_the_log(self, client, ticket):
        Run.objects.create(job=ticket, spec=ticket.spec_data, state="done")
        self.removed(ticket, 400)
        assert the_bin.empty_old() == 0
        assert client.get("/bench/log/").status_code == 200
        client.post("/bin/", {"number": ticket.number, "do": "drop"})
        assert not Job.everything.exists()


class TestOlderVersions:
    """Data made by version 0.1.0 itself."""

    def test_its_base_is_migrated_and_its_pages_open(self, tmp_path):
        folder = tmp_path / "old"
        with zipfile.ZipFile(OLD) as zipped:
            zipped.extractall(folder)
        managed(folder, "migrate", "--verbosity", "0")
        stations = ("artwork", "blank", "tone", "dots", "burn", "place", "check", "run")
        asked = [f"/jobs/{number}/{one}/" for number in (401, 402) for one in stations]
        asked += ["/", "/shelf/", "/bench/", "/bench/log/", "/jobs/401/findings/"]
        assert set(pages(folder, asked)) == {200}
        with sqlite3.connect(folder / BASE) as base:
            count = base.execute("select count(*) from jobs_revision").fetchone()
        assert count == (5,)

    def test_its_job_file_opens(self, shelf):
        with zipfile.ZipFile(OLD) as zipped:
            job = open_job_file(io.BytesIO(zipped.read("waves.zip")))
        spec = spec_of(Job.objects.with_all().get(pk=job.pk))
        assert (spec.name, spec.burn.power, spec.tone.gamma) == ("Waves", 41.0, 1.2)
