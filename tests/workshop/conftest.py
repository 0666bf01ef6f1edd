"""A small workshop."""

import threading

import pytest

from standins.controller.machine import Settings
from standins.controller.server import StandIn
from support.jobs import png
from workshop.controller.server import LinkServer
from workshop.jobs.pictures.intake import keep_artwork
from workshop.jobs.ticket.lifecycle import open_job
from workshop.shelf.blanks.changes import put_blank
from workshop.shelf.machines.changes import put_machine
from workshop.shelf.recipes.changes import put_recipe
from workshop.shelf.substrates.changes import put_substrate


@pytest.fixture(autouse=True)
def own_files(tmp_path, settings):
    settings.MEDIA_ROOT = tmp_path / "files"


@pytest.fixture
def shelf(db):
    """Two machines, two substrates, two blanks, two recipes."""
    bench = put_machine("Bench", acceleration_mm_s2=3000, rapid_mm_s=300)
    small = put_machine("Small", bed_width_mm=200, bed_height_mm=150, origin="back-left")
    wood = put_substrate("Wood")
    slate = put_substrate("Slate", polarity="lightens", ground="#333333", mark="#cccccc")
    board = put_blank("Board", wood, width_mm=100, height_mm=80, margin_mm=5)
    disc = put_blank(
        "Disc", slate, shape="disc", width_mm=90, height_mm=90, keep_inside=True
    )
    brown = put_recipe(bench, wood, "Brown", speed_mm_s=120.0, power=33.0, pitch_mm=0.1)
    pale = put_recipe(
        bench, slate, "Pale", speed_mm_s=80.0, power=55.0, pitch_mm=0.125, passes=2
    )
    return {"bench": bench, "small": small, "wood": wood, "slate": slate,
            "board": board, "disc": disc, "brown": brown, "pale": pale}  # fmt: skip


@pytest.fixture
def ticket(shelf, scene):
    """A ticket for the scene, 80 × 60 pixels."""
    return open_job(keep_artwork("scene.png", [png(scene, dpi=(254, 254))]), "Scene")


@pytest.fixture
def act(client, ticket):
    """Post the fields of a station that were changed by hand, as its page does."""

    def post(station, live=False, **fields):
        client.get(f"/jobs/{ticket.number}/{station}/")
        headers = {"HX-Request": "true", **({"X-Live": "1"} if live else {})}
        data = {name: value for name, value in fields.items() if value not in (None, False)}
        data["changed"] = list(fields)
        answer = client.post(f"/jobs/{ticket.number}/{station}/", data, headers=headers)
        ticket.refresh_from_db()
        return answer

    return post


@pytest.fixture
def link(settings, tmp_path):
    """A link of this test's own, in a thread."""
    settings.LINK_FOLDER = tmp_path / "link"
    server = LinkServer(settings.LINK_FOLDER)
    threading.Thread(target=server.serve, daemon=True).start()
    yield server
    server.close()


@pytest.fixture
def standin(settings, link):
    """A stand-in controller of this test's own, at no pace, and the link to it."""
    with StandIn(Settings(), pace=0) as running:
        settings.CONTROLLER_PORT, settings.WITNESS_PORT = running.port, running.witness_port
        yield running
