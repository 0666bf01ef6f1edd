"""The demo: the gift workshop of an imaginary observatory, Highmere.

Everything here is made up for the demo; recipes are starting points nobody
has burned.
"""

import io
from typing import Any

from django.utils import timezone
from PIL import Image

from workshop.demo import pictures
from workshop.jobs.models import STATIONS, Job
from workshop.jobs.services.intake import keep_artwork
from workshop.jobs.services.stations import change_station
from workshop.jobs.services.tickets import open_job, sign_off
from workshop.shelf.models import Blank, Machine, Recipe
from workshop.shelf.services import put_blank, put_machine, put_recipe, put_substrate

_CUSTOMER = "Highmere Observatory, gift workshop"


def load(*, force: bool = False) -> bool:
    """Fill an empty workshop; return whether anything was loaded."""
    if Job.objects.exists() and not force:
        return False
    _shelf()
    _jobs()
    return True


def _shelf() -> None:
    north = put_machine(
        "North bench",
        "A 60 W tube on a moving gantry.",
        bed_width_mm=400,
        bed_height_mm=400,
        max_speed_mm_s=500,
        rapid_mm_s=500,
        acceleration_mm_s2=5000,
        spot_mm=0.12,
        rated_power_w=60,
        lowest_power=8,
    )
    window = put_machine(
        "Window bench",
        "A small diode head; its zero is at the back left.",
        bed_width_mm=300,
        bed_height_mm=200,
        origin="back-left",
        max_speed_mm_s=200,
        rapid_mm_s=200,
        acceleration_mm_s2=1500,
        spot_mm=0.09,
        rated_power_w=10,
        lowest_power=2,
        beam="M4",
    )
    slate = put_substrate(
        "Slate",
        "Wipe with a drop of oil afterwards.",
        polarity="lightens",
        ground="#33383c",
        mark="#c3c3bd",
        response=1.9,
    )
    beech = put_substrate(
        "Beech",
        "Mask it against smoke.",
        ground="#d8b384",
        mark="#4a2c17",
        response=2.2,
    )
    leather = put_substrate(
        "Veg-tanned leather",
        "Low power; it shrinks where it is burned long.",
        ground="#b9794a",
        mark="#3a1d10",
        response=2.6,
    )
    anodised = put_substrate(
        "Black anodised aluminium",
        "Degrease first.",
        polarity="lightens",
        ground="#17181b",
        mark="#d9d7d0",
        response=3.0,
    )
    tile = put_substrate(
        "Coated white tile",
        "Coat with titanium white, burn, wash off.",
        ground="#eeeae2",
        mark="#2b2826",
        response=2.4,
    )
    put_blank(
        "Slate disc, 100 mm",
        slate,
        shape="disc",
        width_mm=100,
        height_mm=100,
        thickness_mm=5.2,
        margin_mm=2,
        keep_inside=True,
    )
    put_blank(
        "Beech board, 120 mm",
        beech,
        width_mm=120,
        height_mm=120,
        thickness_mm=18,
        margin_mm=8,
    )
    put_blank(
        "Leather cover, A5",
        leather,
        width_mm=148,
        height_mm=210,
        thickness_mm=2.5,
        margin_mm=14,
    )
    put_blank(
        "Tag, 60 × 34 mm",
        anodised,
        width_mm=60,
        height_mm=34,
        thickness_mm=0.8,
        margin_mm=1,
    )
    put_blank(
        "Tile, 150 mm", tile, width_mm=150, height_mm=150, thickness_mm=8, margin_mm=3
    )
    put_blank(
        "Beech medallion, 90 mm",
        beech,
        shape="disc",
        width_mm=90,
        height_mm=90,
        thickness_mm=6,
        margin_mm=3,
        keep_inside=True,
    )
    for machine, substrate, name, values in (
        (north, slate, "Slate, pale mark", _recipe(300, 22, 0.12)),
        (north, beech, "Beech, brown", _recipe(350, 26, 0.12, "jarvis")),
        (north, leather, "Leather, gentle", _recipe(400, 16, 0.12)),
        (north, anodised, "Anodised, bright", _recipe(400, 30, 0.12)),
        (north, tile, "Tile, titanium white", _recipe(250, 40, 0.12, "stucki")),
        (window, slate, "Slate, slow and pale", _recipe(60, 70, 0.1)),
        (window, beech, "Beech, fine", _recipe(90, 55, 0.1)),
        (window, leather, "Leather, fine", _recipe(110, 40, 0.1, "atkinson")),
        (window, anodised, "Anodised, fine", _recipe(80, 80, 0.1)),
        (window, tile, "Tile, two passes", _recipe(50, 85, 0.1, passes=2)),
    ):
        put_recipe(machine, substrate, name, **values)


def _recipe(
    speed: float,
    power: float,
    pitch: float,
    method: str = "floyd-steinberg",
    passes: int = 1,
) -> dict[str, Any]:
    return {
        "speed_mm_s": float(speed),
        "power": float(power),
        "pitch_mm": pitch,
        "method": method,
        "passes": passes,
    }


def _jobs() -> None:
    done = list(STATIONS)
    crescent = _job(
        "Crescent disc",
        "crescent.png",
        pictures.moon(1200, 118),
        "North bench",
        "Slate disc, 100 mm",
        done,
        "run",
    )
    _set(crescent, "tone", gamma=1.2)
    crescent.burned_at = timezone.now()
    crescent.save(update_fields=["burned_at"])
    tags = _job(
        "Comet tag",
        "comet.jpg",
        pictures.comet(),
        "Window bench",
        "Tag, 60 × 34 mm",
        done[:7],
        "run",
    )
    _set(tags, "tone", gamma=0.85, contrast=18.0)
    cover = _job(
        "Star trails",
        "star-trails.jpg",
        pictures.star_trails(),
        "North bench",
        "Leather cover, A5",
        done[:2],
        "tone",
    )
    _set(cover, "tone", brightness=12.0)
    board = _job(
        "The dome at dusk",
        "dome.jpg",
        pictures.dome(),
        "North bench",
        "Tile, 150 mm",
        done[:6],
        "check",
    )
    _set(board, "tone", sharpen_amount=80.0)
    _set(board, "blank", pitch=0.1)
    sign_off(board, "HW")
    full = _job(
        "Full moon medallion",
        "full-moon.png",
        pictures.moon(1400, 12, 23),
        "North bench",
        "Beech medallion, 90 mm",
        done[:5],
        "place",
    )
    _set(full, "place", anchor="front-left", x=318.0, y=60.0)
    gibbous = _job(
        "Moon portrait",
        "gibbous-moon.png",
        pictures.moon(1600, 52),
        "North bench",
        "Slate disc, 100 mm",
        done[:2],
        "tone",
    )
    _set(
        gibbous, "tone", input_black=6.0, input_white=244.0, gamma=0.92, sharpen_amount=60.0
    )


def _set(job: Job, station: str, **changes: Any) -> None:
    change_station(job, station, changes)


def _job(  # noqa: PLR0913, PLR0917 (a table of jobs, a row a call)
    name: str,
    file: str,
    pixels: Any,
    machine: str,
    blank: str,
    visited: list[str],
    station: str,
) -> Job:
    stream = io.BytesIO()
    image = Image.fromarray(pixels)
    image.save(
        stream, "JPEG" if file.endswith("jpg") else "PNG", quality=92, dpi=(300, 300)
    )
    artwork = keep_artwork(file, [stream.getvalue()])
    job = open_job(artwork, name, _CUSTOMER)
    _set(job, "burn", machine=Machine.objects.get(name=machine))
    chosen = Blank.objects.get(name=blank)
    _set(job, "blank", blank=chosen, substrate=chosen.substrate)
    _set(job, "blank", fit="inside")
    recipe = Recipe.objects.fitting(job.machine_id, chosen.substrate_id).first()
    if recipe:
        _set(job, "burn", recipe=recipe)
    _set(job, "place", centre=True)
    job.visited, job.station = visited, station
    job.save(update_fields=["visited", "station"])
    return job
