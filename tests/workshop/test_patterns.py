"""The same again, and patterns."""

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from support.jobs import photograph, png
from support.pages import read
from workshop.jobs.models import Job, Pattern
from workshop.jobs.patterns import patterns
from workshop.jobs.revisions.writer import spec_of

ALL = list(patterns.PARTS)


def pictures(count=1):
    """Different pictures, each darker than the one before."""
    ramp = np.tile(np.linspace(0, 255, 90, dtype=np.uint8), (60, 1))
    return [
        SimpleUploadedFile(
            f"piece_{i + 1}.png", png((ramp * (1 - i / 40)).astype(np.uint8))
        )
        for i in range(count)
    ]


def made(client, ticket, where, count=1, **words):
    before = Job.objects.count()
    answer = client.post(where, {"files": pictures(count), **words})
    assert answer.status_code == 204
    assert Job.objects.count() == before + count
    return list(Job.objects.order_by("number"))[-count:]


@pytest.fixture
def tuned(act, ticket):
    """A ticket with something of its own at every station."""
    act("blank", fit="exact", width="40")
    act("tone", gamma="1.4", brightness="7")
    act("dots", method="atkinson")
    act("burn", speed="77")
    act("place", x="12", y="9")
    return ticket


class TestTheSameAgain:
    def test_all_but_the_picture_and_what_was_drawn_on_it_is_alike(
        self, client, act, tuned
    ):
        act("artwork", straighten="3")
        [twin] = made(client, tuned, f"/jobs/{tuned.number}/again/", tone="keep")
        old, new = spec_of(tuned), spec_of(twin)
        assert twin.name == "piece 1"
        assert (twin.artwork.width_px, new.artwork.width_px) == (90, 90)
        assert new.artwork.straighten_deg == 0
        for part in ("tone", "dots", "burn", "machine", "blank", "substrate", "marking"):
            assert getattr(new, part) == getattr(old, part)
        assert new.size.width_mm == 40
        assert new.size.height_mm == pytest.approx(40 * 60 / 90)
        assert (twin.blank, twin.machine, twin.recipe) == (
            tuned.blank,
            tuned.machine,
            tuned.recipe,
        )
        assert twin.checked_state == ""

    def test_the_tone_is_fitted_to_each_picture(self, client, tuned):
        tones = [
            spec_of(one).tone
            for one in made(client, tuned, f"/jobs/{tuned.number}/again/", 3)
        ]
        assert len({tone.model_dump_json() for tone in tones}) == 3
        assert all(tone.brightness == 0 for tone in tones)  # nothing of the old one's

    def test_what_is_no_picture_is_left_out_and_said(self, client, ticket):
        files = [*pictures(), SimpleUploadedFile("text.png", b"no picture")]
        where = f"/jobs/{ticket.number}/again/"
        assert client.post(where, {"files": files}).status_code == 204
        assert "Left out. text.png" in read(client.get("/"))
        answer = client.post(where, {"files": [SimpleUploadedFile("text.png", b"none")]})
        assert answer.status_code == 422
        assert client.post(where).content.decode() == "Choose a picture first."

    def test_own_pictures_of_pockets_are_not_taken_along(self, client, act, tuned):
        act("place", fixture=True)
        act("place", columns="2")
        client.post(f"/jobs/{tuned.number}/pockets/", {"files": pictures(2)})
        tuned.refresh_from_db()
        assert spec_of(tuned).fixture.picture == "own"
        [twin] = made(client, tuned, f"/jobs/{tuned.number}/again/")
        fixture = spec_of(twin).fixture
        assert (fixture.columns, fixture.picture) == (2, "same")
        assert all(pocket.artwork is None for pocket in fixture.pockets)


class TestPatterns:
    def keep(self, client, ticket, name="Coasters", parts=ALL):
        return client.post(
            f"/jobs/{ticket.number}/pattern/",
            {"name": name, "parts": parts},
            headers={"HX-Request": "true"},
        )

    def test_twenty_pictures_on_a_pattern_are_twenty_tickets(self, client, tuned):
        self.keep(client, tuned)
        pattern = Pattern.objects.get()
        assert "Coasters" in read(client.get("/"))
        jobs = made(client, tuned, f"/patterns/{pattern.pk}/drop/", 20)
        specs = [spec_of(job) for job in jobs]
        assert len({spec.tone.model_dump_json() for spec in specs}) == 20
        for job, spec in zip(jobs, specs, strict=True):
            assert (spec.burn.speed_mm_s, spec.dots.method, spec.size.width_mm) == (
                77,
                "atkinson",
                40,
            )
            assert (spec.place.x_mm, job.blank, job.recipe) == (
                12,
                tuned.blank,
                tuned.recipe,
            )
        assert "20 tickets" in read(client.get("/"))

    def test_pictures_fill_the_pockets_of_its_fixture_load_by_load(
        self, client, act, tuned
    ):
        act("place", fixture=True)
        act("place", columns="4")
        tuned.refresh_from_db()
        self.keep(client, tuned)
        where = f"/patterns/{Pattern.objects.get().pk}/drop/"
        assert "fill its 4 pockets" in " ".join(read(client.get("/")).split())
        before = Job.objects.count()
        files = [*pictures(6), SimpleUploadedFile("text.png", b"no picture")]
        client.post(where, {"files": files, "pockets": "fill"})
        jobs = list(Job.objects.order_by("number"))[before:]
        loads = [
            [(pocket.artwork and pocket.artwork.file, pocket.on) for pocket in pockets]
            for pockets in (spec_of(job).fixture.pockets for job in jobs)
        ]
        assert loads == [
            [(f"piece_{i}.png", True) for i in (1, 2, 3, 4)],
            [("piece_5.png", True), ("piece_6.png", True), (None, False), (None, False)],
        ]
        tones = {pocket.tone.model_dump_json()
                 for job in jobs for pocket in spec_of(job).fixture.pockets[:2]}  # fmt: skip
        assert len(tones) == 4
        assert "Left out. text.png" in read(client.get("/"))
        # Without the switch it is a ticket a picture, as ever.
        assert len(made(client, tuned, where, 2)) == 2

    @pytest.mark.parametrize("part", ALL)
    def test_a_part_alone_changes_nothing_else(self, client, act, tuned, part):
        self.keep(client, tuned, parts=[part])
        tuned.refresh_from_db()
        kept = spec_of(tuned)
        act("burn", speed="50")
        act("tone", gamma="1")
        act("dots", method="stucki")
        [job] = made(
            client, tuned, f"/patterns/{Pattern.objects.get().pk}/drop/", tone="keep"
        )
        spec = spec_of(job)
        for one, names in patterns.PARTS.items():
            for name in names:
                if name in ("size", "place"):
                    continue  # both follow the new picture
                assert (one != part) or getattr(spec, name) == getattr(kept, name)
        assert (spec.burn.speed_mm_s == 77) is (part == "burn")
        assert (spec.tone.gamma == 1.4) is (part == "tone")
        assert (spec.dots.method == "atkinson") is (part == "dots")

    def test_a_changed_pattern_is_offered_to_its_open_tickets(self, client, act, tuned):
        self.keep(client, tuned)
        [job] = made(client, tuned, f"/patterns/{Pattern.objects.get().pk}/drop/")
        picture, where = spec_of(job).artwork, f"/jobs/{job.number}/artwork/"
        assert "has changed since" not in read(client.get(where))
        act("burn", speed="55")
        assert "version 2" in read(self.keep(client, tuned))
        assert "has changed since" in read(client.get(where))
        client.post(f"/jobs/{job.number}/pattern/take/", headers={"HX-Request": "true"})
        job.refresh_from_db()
        assert spec_of(job).burn.speed_mm_s == 55
        assert spec_of(job).artwork == picture
        assert "has changed since" not in read(client.get(where))
        client.post(f"/jobs/{job.number}/undo/", headers={"HX-Request": "true"})
        job.refresh_from_db()
        assert spec_of(job).burn.speed_mm_s == 77

    def test_what_is_no_pattern_is_refused_in_words(self, client, tuned):
        assert (
            "Give the pattern a name" in self.keep(client, tuned, name=" ").content.decode()
        )
        assert "at least one part" in self.keep(client, tuned, parts=[]).content.decode()
        assert not Pattern.objects.exists()

    def test_a_pattern_outlives_what_it_took_from_the_shelf(self, client, tuned, shelf):
        self.keep(client, tuned)
        shelf["brown"].delete()
        shelf["board"].delete()
        [job] = made(client, tuned, f"/patterns/{Pattern.objects.get().pk}/drop/")
        assert (job.recipe, job.blank) == (None, None)
        assert spec_of(job).blank.name == "Board"

    def test_it_is_renamed_and_thrown_away(self, client, tuned):
        self.keep(client, tuned)
        self.keep(client, tuned, name="Other")
        pattern = Pattern.objects.get(name="Coasters")
        where = f"/patterns/{pattern.pk}/"
        assert "Another pattern has this name" in read(
            client.post(where, {"name": "Other"})
        )
        assert client.post(where, {"name": "Round ones"}).url == "/"
        assert "Round ones" in read(client.get(where))
        assert client.post(where, {"do": "remove"}).url == "/"
        tuned.refresh_from_db()
        assert tuned.pattern.name == "Other"


def test_a_photograph_of_any_size_fits(client, ticket):
    upload = SimpleUploadedFile("wide.png", photograph(1600, 200))
    client.post(f"/jobs/{ticket.number}/again/", {"files": [upload]})
    spec = spec_of(Job.objects.order_by("-number")[0])
    assert spec.size.width_mm == pytest.approx(8 * spec.size.height_mm)
    assert spec.size.width_mm <= 90  # the board less its margin
