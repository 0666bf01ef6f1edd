"""A workshop that has nothing yet: its machine, its shelf, the first ticket."""

import pytest
from django.core.management import call_command

from engraving.jobspec import MachinePart, RecipePart
from engraving.recipe import setting
from support.jobs import photograph
from support.pages import read
from workshop.controller.errors import LinkError
from workshop.jobs.pictures.intake import keep_artwork
from workshop.jobs.revisions.writer import spec_of
from workshop.jobs.stations.registry import change_station
from workshop.jobs.ticket.lifecycle import open_job
from workshop.shelf.blanks.changes import put_blank
from workshop.shelf.models import Blank, Machine, Recipe, Substrate
from workshop.shelf.starting.recipes import REFERENCES


def kept(name="scene.png", width=640, height=480):
    return keep_artwork(name, [photograph(width, height)])


pytestmark = pytest.mark.django_db


@pytest.fixture
def empty(db):
    call_command("fill_shelf")


def set_up(client, **values):
    typed = {
        "kind": "co2", "name": "Shed", "bed_width_mm": "300", "bed_height_mm": "200",
        "rated_power_w": "40", "link": "",
    }  # fmt: skip
    return client.post("/bench/machines/first/", typed | values)


def test_the_rack_asks_for_a_machine_first_and_never_again(client, empty):
    assert client.get("/").url == "/bench/machines/first/"
    assert "Which machine is it?" in read(client.get("/bench/machines/first/"))
    assert set_up(client).url == "/"
    page = read(client.get("/"))
    assert "Shed is on the shelf" in page
    assert "Drop a photograph" in page
    part = Machine.objects.get().part
    assert (part["bed_width_mm"], part["bed_height_mm"], part["rated_power_w"]) == (
        300,
        200,
        40,
    )


@pytest.mark.parametrize(
    ("field", "text", "sentence"),
    [
        ("bed_width_mm", "wide", "number"),
        ("name", " ", "Type a name."),
        ("link", "/etc/passwd", "no serial port"),
    ],
)
def test_what_makes_no_machine_is_said_at_its_field(client, empty, field, text, sentence):
    page = read(set_up(client, **{field: text}))
    assert sentence in page
    assert 'value="40"' in page  # nothing that was typed is lost
    assert not Machine.objects.exists()


def test_another_kind_begins_with_its_own_values(client):
    page = read(
        client.get("/bench/machines/first/", {"kind": "fibre", "name": "Yard", "link": ""})
    )
    assert 'value="110"' in page
    assert 'value="Yard"' in page
    assert "Rated power" not in read(client.get("/bench/machines/first/", {"kind": "drag"}))


def test_recipes_begin_with_the_dose_of_those_they_come_from(client, empty):
    set_up(client, kind="diode", rated_power_w="20")
    machine = MachinePart.model_validate(Machine.objects.get().part)
    assert {one.substrate.name for one in Recipe.objects.all()} >= {"Slate", "Beech"}
    from workshop.shelf.starting.recipes import _ROWS

    thought_for = MachinePart.model_validate({"name": "R", **REFERENCES["diode"]})
    plain = {name: values for kind, _, name, values in _ROWS if kind == "diode"}
    for recipe in Recipe.objects.all():
        begun = setting(RecipePart.model_validate(plain[recipe.name]), thought_for)
        ours = setting(RecipePart.model_validate(recipe.part), machine)
        assert ours.dose == pytest.approx(begun.dose, rel=0.05)
        assert recipe.part["origin"] == "start"


def test_a_machine_that_does_not_answer_is_not_kept(client, empty, monkeypatch):
    def silent(*_args, **_words):
        raise LinkError("The controller does not answer.")

    monkeypatch.setattr("workshop.bench.machines.asked.link_to", silent)
    page = read(set_up(client, read="1", link="socket://127.0.0.1:9"))
    assert "does not answer" in page
    assert not Machine.objects.exists()


def test_a_machine_tells_its_bed_and_speeds(client, empty, monkeypatch):
    told = {
        "settings": {"130": 600.0, "131": 350.0, "110": 18000.0, "30": 1000.0},
        "bytes": 128,
        "blocks": 16,
    }
    monkeypatch.setattr("workshop.bench.machines.asked.link_to", lambda *_: told)
    assert set_up(client, read="1").url == "/"
    part = Machine.objects.get().part
    assert (part["bed_width_mm"], part["bed_height_mm"], part["max_speed_mm_s"]) == (
        600,
        350,
        300,
    )
    assert part["look_ahead"] == 16
    assert Recipe.objects.exists()


def test_the_shelf_is_filled_once(empty):
    Substrate.objects.all().delete()
    assert Blank.objects.exists()
    call_command("fill_shelf")
    assert not Substrate.objects.exists()  # what was thrown out stays out


class TestFirstBlank:
    def test_it_is_flat_and_suits_the_picture(self, client, empty):
        set_up(client)
        put_blank("Cup", None, shape="wall", diameter_mm=80, height_mm=90)
        put_blank("Panorama", None, width_mm=290, height_mm=90)
        put_blank("Door", None, width_mm=2000, height_mm=620)
        assert open_job(kept("wide.png", width=640, height=200)).blank.name == "Panorama"
        # The next one goes on as the last began.
        assert open_job(kept("tall.png", width=200, height=300)).blank.name == "Panorama"

    def test_after_a_cup_it_is_flat_again(self, client, empty):
        set_up(client)
        cup = put_blank("Cup", None, shape="wall", diameter_mm=80, height_mm=90)
        job = open_job(kept())
        flat = job.blank
        change_station(job, "blank", {"blank": cup})
        assert open_job(kept()).blank == flat


def test_a_blank_is_made_in_the_middle_of_a_job(client, empty):
    set_up(client)
    job = open_job(kept())
    where = f"/jobs/{job.number}/new-blank/"
    assert f"for ticket {job.number:04d}" in read(client.get(where))
    made = {
        "name": "Odd",
        "shape": "rectangle",
        "width_mm": "70",
        "height_mm": "40",
        "thickness_mm": "3",
        "margin_mm": "0",
    }
    assert "Type a name." in read(client.post(where, made | {"name": ""}))
    assert client.post(where, made).url == f"/jobs/{job.number}/"
    job.refresh_from_db()
    assert (job.blank.name, spec_of(job).blank.width_mm, job.station) == (
        "Odd",
        70,
        "blank",
    )


def test_a_blank_that_is_burned_as_something_else_says_so_and_becomes_it(client, empty):
    set_up(client)
    job = open_job(kept())
    walnut = Substrate.objects.get(name="Walnut")
    change_station(job, "blank", {"substrate": walnut})
    page = read(client.get(f"/jobs/{job.number}/blank/"))
    assert "on the shelf, but burned as Walnut." in page
    job.refresh_from_db()
    before, size = job.blank, spec_of(job).size
    for _ in range(2):
        change_station(job, "blank", {"restock": True})
        job.refresh_from_db()
    assert job.blank.substrate == walnut
    assert job.blank.part["width_mm"] == before.part["width_mm"]
    assert spec_of(job).size == size
    assert "but burned as" not in read(client.get(f"/jobs/{job.number}/blank/"))
