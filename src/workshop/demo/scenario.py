"""The demo: the gift workshop of an imaginary observatory, Highmere.

Everything here is made up for the demo; recipes are starting points nobody
has burned.
"""

import io
import json
import math
from datetime import timedelta
from typing import Any

import numpy as np
from django.utils import timezone
from PIL import Image

from workshop.demo import pictures
from workshop.demo.machines import put_machines
from workshop.jobs.cards.opening import open_card
from workshop.jobs.models import STATIONS, Job
from workshop.jobs.patterns import patterns
from workshop.jobs.pictures.intake import keep_artwork
from workshop.jobs.stations.outlines import operations
from workshop.jobs.stations.place.fixture import fill_pockets
from workshop.jobs.stations.registry import change_station
from workshop.jobs.takes.takes import keep, pin
from workshop.jobs.ticket.findings import full_check
from workshop.jobs.ticket.lifecycle import open_job
from workshop.jobs.ticket.signing import sign_off
from workshop.shelf.blanks.changes import put_blank
from workshop.shelf.models import Blank, Machine, Recipe, Substrate
from workshop.shelf.starting.materials import put_materials
from workshop.shelf.starting.recipes import put_recipes

_CUSTOMER = "Highmere Observatory, gift workshop"


def load() -> None:
    """Fill a workshop."""
    _shelf()
    _jobs()


def _shelf() -> None:
    machines, substrates = put_machines(), put_materials()
    for machine in machines:
        put_recipes(machine)
    _blanks(substrates)


def _blanks(of: dict[str, Substrate]) -> None:
    """Put a dozen and some blanks on the shelf, one a row."""
    slate, beech, leather = of["Slate"], of["Beech"], of["Veg-tanned leather"]
    anodised, tile = of["Black anodised aluminium"], of["Coated white tile"]
    glass, lino = of["Window glass"], of["Grey lino"]
    rows: list[tuple[str, Substrate, dict[str, Any]]] = [
        ("Slate disc, 100 mm", slate,
         {"shape": "disc", "width_mm": 100, "height_mm": 100, "thickness_mm": 5.2,
          "margin_mm": 2, "keep_inside": True}),
        ("Beech board, 120 mm", beech,
         {"width_mm": 120, "height_mm": 120, "thickness_mm": 18, "margin_mm": 8}),
        ("Leather cover, A5", leather,
         {"width_mm": 148, "height_mm": 210, "thickness_mm": 2.5, "margin_mm": 14}),
        ("Tag, 60 × 34 mm", anodised,
         {"width_mm": 60, "height_mm": 34, "thickness_mm": 0.8, "margin_mm": 1}),
        ("Tile, 150 mm", tile,
         {"width_mm": 150, "height_mm": 150, "thickness_mm": 8, "margin_mm": 3}),
        ("Beech medallion, 90 mm", beech,
         {"shape": "disc", "width_mm": 90, "height_mm": 90, "thickness_mm": 6,
          "margin_mm": 3, "keep_inside": True}),
        ("Slate coaster, 100 mm", slate,
         {"shape": "rounded", "width_mm": 100, "height_mm": 100, "corner_mm": 12,
          "thickness_mm": 5, "margin_mm": 2, "keep_inside": True}),
        ("Oval plaque, 180 × 120 mm", beech,
         {"shape": "oval", "width_mm": 180, "height_mm": 120, "thickness_mm": 12,
          "margin_mm": 6, "keep_inside": True}),
        ("Glass pane, 130 × 180 mm", glass,
         {"width_mm": 130, "height_mm": 180, "thickness_mm": 4, "margin_mm": 5}),
        ("Ring band, 18 mm", anodised,
         {"shape": "ring", "diameter_mm": 18, "height_mm": 6, "thickness_mm": 1.2,
          "margin_mm": 0.5}),
        ("Tumbler wall, 72 mm", anodised,
         {"shape": "wall", "diameter_mm": 72, "height_mm": 110, "thickness_mm": 1,
          "margin_mm": 5}),
        ("Beaker wall, 84 to 62 mm", glass,
         {"shape": "taper", "diameter_mm": 84, "foot_mm": 62, "height_mm": 95,
          "thickness_mm": 3, "margin_mm": 8}),
        ("Arched tag, 40 × 60 mm", leather,
         {"shape": "outline", "width_mm": 40, "height_mm": 60, "thickness_mm": 3,
          "outline": _arch(40, 60), "margin_mm": 2, "keep_inside": True}),
        ("Carving board, 240 × 180 mm", of["Two-colour carving board"],
         {"width_mm": 240, "height_mm": 180, "thickness_mm": 3, "margin_mm": 6}),
        ("Brass plate, 80 × 60 mm", of["Blackened brass"],
         {"width_mm": 80, "height_mm": 60, "thickness_mm": 1, "margin_mm": 2}),
        ("Printing plate, 150 × 200 mm", lino,
         {"width_mm": 150, "height_mm": 200, "thickness_mm": 3.2, "margin_mm": 5}),
    ]  # fmt: skip
    colours = {
        "Tag, 60 × 34 mm": [("Black", "#17181b"), ("Night blue", "#16284a"),
                            ("Red", "#7c1a20")],
        "Leather cover, A5": [("Tan", "#b9794a"), ("Dark brown", "#5b3a26")],
        "Tumbler wall, 72 mm": [("Black", "#17181b"), ("Green", "#1d3b2c")],
    }  # fmt: skip
    marks = {"Leather cover, A5": "#3a1d10"}
    for name, substrate, values in rows:
        variants = [
            {"name": colour, "ground": ground, "mark": marks.get(name, "#d9d7d0")}
            for colour, ground in colours.get(name, [])
        ]
        put_blank(name, substrate, "", variants, **values)


def _arch(width: float, height: float) -> list[list[tuple[float, float]]]:
    """Return a tag with a round head and a hole in it, mm from its middle."""
    radius, y = width / 2, -height / 2 + width / 2
    head = [
        (-radius * math.cos(math.pi * i / 48), y - radius * math.sin(math.pi * i / 48))
        for i in range(49)
    ]
    turn = 2 * math.pi / 32
    hole = [(3.0 * math.cos(turn * i), y - 9 + 3.0 * math.sin(turn * i)) for i in range(32)]
    return [[*head, (radius, height / 2), (-radius, height / 2)], hole]


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
    sign_off(board, "HW", full_check(board)[0])
    full = _job(
        "Full moon medallion",
        "full-moon.png",
        pictures.moon(1400, 12, 23),
        "North bench",
        "Beech medallion, 90 mm",
        done[:6],
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
    _moon_takes(gibbous)
    patterns.keep(gibbous, "Slate discs", ("blank", "dots", "burn", "place"))
    Job.objects.filter(pk=cover.pk).update(
        due=timezone.localdate() + timedelta(days=4), note="Initials on the back, later."
    )
    _window_picture()
    _swatch_card()
    _two_tiles()
    _twenty_tags()
    _round_pieces()
    _silhouette()
    _depth_and_touch()


def _depth_and_touch() -> None:
    """Open a relief, a carved board with a title, and a plate for the drag point."""
    board = _job(
        "Moon board",
        "moon-board.png",
        pictures.moon(1000, 40, 31),
        "Mill bench",
        "Carving board, 240 × 180 mm",
        ["artwork", "blank"],
        "dots",
    )
    _set(board, "dots", ruling_mm=2.5, angle_deg=43.0, wavelength_mm=50.0, swing_mm=3.0)
    _set(board, "dots", carve_deepest=1.2)
    _set(board, "burn", speed=25.0)
    _set(board, "artwork", line_add="1")
    _set(
        board, "artwork", line0_text="Highmere", line0_font="cinzel", line0_cap=8.0,
        line0_x=-50.0, line0_y=-77.0,
    )  # fmt: skip
    at = operations.add(board, "inside", "lettering")
    operations.edit(board, at, {"deepest_mm": 1.2, "tool_deg": 60.0, "speed_mm_s": 15.0})
    plate = _job(
        "Comet plate",
        "comet-plate.png",
        pictures.comet(1200, 900, 8),
        "Needle bench",
        "Brass plate, 80 × 60 mm",
        ["artwork", "blank"],
        "dots",
    )
    _set(plate, "tone", input_black=18.0, gamma=1.3)
    _set(plate, "burn", speed=40.0)
    crater = _job(
        "Crater in beech",
        "crater-depth.png",
        pictures.crater(),
        "North bench",
        "Beech medallion, 90 mm",
        ["artwork", "blank"],
        "dots",
    )
    _set(crater, "artwork", holds="depth")
    _set(crater, "dots", way="relief")
    _set(crater, "dots", relief_depth=3.0, relief_pass=0.25, relief_rim=2.0)


def _silhouette() -> None:
    """Open a dome cut out along its mask, and a star cut out along its traced edge."""
    job = _job(
        "Dome to hang",
        "dome-to-hang.jpg",
        pictures.dome(1200, 1200, 33),
        "North bench",
        "Beech board, 120 mm",
        ["artwork", "blank", "tone", "dots", "burn"],
        "outlines",
    )
    _set(job, "artwork", mask_add=json.dumps(_CUT_OUT))
    at = operations.add(job, "cut", "picture")
    line = {"offset_mm": 2.5, "hole_mm": 4.0, "hole_inset_mm": 4.5, "bridges": 3}
    operations.edit(job, at, {**line, "speed_mm_s": 12.0, "power": 85.0})
    star = _job(
        "Star to hang",
        "star-to-hang.png",
        pictures.star(),
        "North bench",
        "Beech board, 120 mm",
        ["artwork", "blank", "tone", "dots", "burn"],
        "outlines",
    )
    at = operations.add(star, "cut", "traced")
    found = {"lightest": 92.0, "least_mm": 12.0, "offset_mm": 1.5, "bridges": 4}
    operations.edit(star, at, {**found, "speed_mm_s": 12.0, "power": 85.0})


def _round_pieces() -> None:
    """Open a ring that is wrapped all round, and a tapered beaker on rollers."""
    ring = _job(
        "Star ring",
        "ring-sky.jpg",
        pictures.star_trails(1500, 500),
        "North bench",
        "Ring band, 18 mm",
        ["artwork", "blank", "tone", "dots", "burn", "outlines"],
        "place",
    )
    _set(ring, "place", mount="chuck")
    _set(ring, "place", wrap=True, overlap=0.3, output="degrees")
    beaker = _job(
        "Dome beaker",
        "dome-beaker.jpg",
        pictures.dome(1300, 1000),
        "North bench",
        "Beaker wall, 84 to 62 mm",
        ["artwork", "blank", "tone", "dots", "burn", "outlines"],
        "place",
    )
    _set(beaker, "blank", fit="exact", height=70.0)
    _set(beaker, "place", mount="chuck")


def _two_tiles() -> None:
    """Open a panorama over two tiles; what falls between them stays hidden."""
    job = _job(
        "Night sky over two tiles",
        "night-sky.jpg",
        pictures.star_trails(1800, 900),
        "North bench",
        "Tile, 150 mm",
        ["artwork", "blank", "tone", "dots", "burn", "outlines"],
        "place",
    )
    _set(job, "place", fixture=True, columns=2, rows=1, gap_x=3.0, picture="across")


def _twenty_tags() -> None:
    """Open a batch: twenty tags with twenty phases of the moon, numbered."""
    job = _job(
        "Twenty nights",
        "night.png",
        _wide(pictures.moon(220, 90)),
        "Window bench",
        "Tag, 60 × 34 mm",
        ["artwork", "blank", "tone", "dots", "burn", "outlines"],
        "place",
    )
    _set(job, "blank", fit="stretch", lock=False)
    _set(job, "artwork", line_add="1")
    _set(job, "artwork", line0_text="{n}", line0_cap=5.0, line0_x=-22.0, line0_y=-12.0)
    _set(job, "place", fixture=True, columns=4, rows=5, gap_x=3.0, gap_y=3.0)
    nights = [
        keep_artwork(
            f"night-{i + 1:02d}.png", [_png(_wide(pictures.moon(220, 9 * i, 60 + i)))]
        )
        for i in range(20)
    ]
    fill_pockets(job, nights)


def _wide(moon: Any) -> Any:
    """Return a square picture on a sky as wide as a tag is."""
    return np.pad(moon, ((10, 10), (100, 100)))


def _png(pixels: Any) -> bytes:
    stream = io.BytesIO()
    Image.fromarray(pixels).save(stream, "PNG")
    return stream.getvalue()


def _swatch_card() -> None:
    """Open a card for the newest material, the first of the two that calibrate it."""
    north = Machine.objects.get(name="North bench")
    open_card("power-speed", north, Substrate.objects.get(name="MDF"))


def _moon_takes(job: Job) -> None:
    """Keep three takes of the moon; two are pinned to be laid side by side."""
    _set(job, "tone", auto="on")
    _set(job, "dots", choose=json.dumps({"method": "round", "ruling_cm": 17.0}))
    pin(keep(job, "Auto tone, round dots"))
    _set(job, "dots", choose=json.dumps({"method": "blue-noise"}))
    _set(job, "tone", shade=2)
    keep(job, "Two shades lighter")
    _set(job, "dots", choose=json.dumps({"method": "floyd-steinberg"}))
    _set(job, "tone", reset="on")
    _set(job, "tone", input_black=6.0, input_white=244.0, gamma=0.92, sharpen_amount=60.0)
    pin(keep(job))


def _window_picture() -> None:
    """Open the job that shows the Artwork station: cut out, framed, lettered, for glass."""
    job = _job(
        "The dome on glass",
        "dome-for-glass.jpg",
        pictures.dome(1500, 1500, 21),
        "North bench",
        "Glass pane, 130 × 180 mm",
        ["artwork"],
        "artwork",
    )
    _set(job, "artwork", mask_add=json.dumps(_CUT_OUT))
    _set(job, "artwork", feather=0.4, border_on=True, border_look="light")
    _set(job, "artwork", line_add="1")
    _set(
        job,
        "artwork",
        line0_text="Highmere Observatory",
        line0_font="cinzel",
        line0_cap=6.5,
        line0_y=36.0,
        line0_arc=70.0,
        line0_look="light",
    )
    _set(job, "blank", seen_from="back")


_CUT_OUT = {
    "kind": "cutout",
    "outline": [[0.2, 0.2], [0.8, 0.2], [0.8, 0.92], [0.2, 0.92]],
}


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
