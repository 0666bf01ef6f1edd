"""Cards as tickets, their stations, readings and what reaches the shelf; the burn log."""

import io
import re

import numpy as np
import pytest
from PIL import Image

from engraving.cards import KINDS, lay_out
from engraving.errors import InputError
from engraving.jobspec import MachinePart
from standins.camera import photograph
from support.cards import burned, material
from support.jobs import png
from support.pages import read
from workshop.bench.models import Run
from workshop.jobs.cards.opening import open_card
from workshop.jobs.models import CardReading, Job
from workshop.jobs.pictures.engine import pipeline
from workshop.jobs.revisions.writer import spec_of
from workshop.jobs.stations.registry import form_of, station_values
from workshop.jobs.stations.shelf_items import with_recipe
from workshop.jobs.ticket.findings import full_check
from workshop.jobs.ticket.readings import full_readings
from workshop.shelf.machines.changes import put_machine
from workshop.shelf.models import Machine, Recipe, Substrate
from workshop.shelf.recipes.changes import put_recipe, recipe_part
from workshop.shelf.substrates.changes import put_substrate


@pytest.fixture
def beams(db):
    told, surface = material("soft wood")
    part = {"max_speed_mm_s": 500, "acceleration_mm_s2": 5000, "z_axis": True}
    machine = put_machine("Tube", **part)
    wood = put_substrate("Soft", ground=told.ground, mark=told.mark)
    return machine, wood, surface


def station(client, job, **fields):
    form = form_of(job, "artwork")(initial=station_values(job, "artwork"))
    shown = {bound.name: bound.value() for bound in form}
    data = {
        name: value
        for name, value in (shown | fields).items()
        if value not in (None, False)
    }
    answer = client.post(
        f"/jobs/{job.number}/artwork/", data, headers={"HX-Request": "true"}
    )
    job.refresh_from_db()
    return answer


def photo_of(job, surface):
    spec = spec_of(job)
    size = spec.size.width_mm, spec.size.height_mm
    taken = photograph(
        burned(spec).strokes(), surface, spec.place.x_mm, spec.place.y_mm, size
    )
    stream = io.BytesIO()
    Image.fromarray(taken).save(stream, "PNG")
    stream.seek(0)
    stream.name = "card.png"
    return stream


@pytest.mark.parametrize("kind", KINDS)
def test_every_kind_opens_as_a_ticket(client, beams, kind):
    machine, wood, _ = beams
    if KINDS[kind].touches:
        form = {"kind": kind, "machine": machine.pk, "substrate": wood.pk}
        assert "has a beam" in read(client.post("/cards/new/", form))
        machine = put_machine("Mill", kind="vtool", max_speed_mm_s=60)
    form = {"kind": kind, "machine": machine.pk, "substrate": wood.pk}
    answer = client.post("/cards/new/", form)
    assert answer.status_code == 302
    ticket = answer.url.removesuffix("check/")
    for place in ("", "artwork/", "tone/", "dots/", "burn/", "check/", "card/"):
        assert client.get(ticket + place).status_code == 200, place
    findings = read(client.get(f"{ticket}findings/"))
    assert "is-stop" not in findings, findings
    client.post(f"{ticket}sign/", {"initials": "mk"})
    gcode = client.get(f"{ticket}files/gcode/")
    assert gcode.status_code == 200
    gcode.close()


def test_a_substrate_nobody_knows_yet_is_named_where_its_card_is_opened(client, beams):
    machine, wood, _ = beams
    recipe = put_recipe(machine, wood, "Slow", power=30, speed_mm_s=200)
    form = {"kind": "power-speed", "machine": machine.pk, "new_substrate": " Cherry "}
    for _ in range(2):  # the second time it is known
        client.post("/cards/new/", form)
        assert Job.objects.first().substrate.name == "Cherry"
    assert Substrate.objects.filter(name__iexact="cherry").count() == 1
    # A recipe says what it is burned on; nothing typed is passed over without a word.
    answer = client.post("/cards/new/", {**form, "recipe": recipe.pk})
    assert "leave one of the two out" in read(answer)
    # What makes no card leaves no substrate behind.
    mill = put_machine("Mill", kind="vtool", max_speed_mm_s=60)
    form |= {"machine": mill.pk, "new_substrate": "Pear"}
    assert "without a beam" in read(client.post("/cards/new/", form))
    assert not Substrate.objects.filter(name="Pear").exists()


def test_columns_and_rows_are_typed(client, beams):
    job = open_card("power-speed", *beams[:2])
    wide = spec_of(job).size.width_mm
    station(
        client,
        job,
        columns_count="10",
        columns_even="steps",
        columns_first="10",
        columns_last="100",
    )
    spec = spec_of(job)
    assert spec.card.columns.values == tuple(range(10, 101, 10))
    assert spec.size.width_mm > wide
    assert spec.artwork.width_px == spec.size.cols
    station(client, job, kind="gray-ramp")
    assert spec_of(job).card.columns.values == tuple(range(0, 101, 10))
    client.post(f"/jobs/{job.number}/undo/")
    job.refresh_from_db()
    assert spec_of(job).card.kind == "power-speed"


@pytest.mark.parametrize(
    ("field", "value", "sentence"),
    [("columns_last", "130", "0 to 100 %"), ("rows_first", "0", "above 0"), ("columns_count", "40", "24"),
     ("cell", "0.2", "at least 1"), ("columns_last", "8", "too close"), ("rows_last", "", "required")],
)  # fmt: skip
def test_what_makes_no_card_is_told(client, beams, field, value, sentence):
    job = open_card("power-speed", *beams[:2])
    station(client, job, columns_first="8", columns_last="90")
    before = spec_of(job)
    answer = station(client, job, **{field: value})
    assert sentence in answer.content.decode()
    assert spec_of(job) == before


def test_a_machine_without_a_beam_burns_no_card(client, beams):
    point = put_machine("Point", kind="drag")
    form = {"kind": "gray-ramp", "machine": point.pk, "substrate": beams[1].pk}
    assert "without a beam" in read(client.post("/cards/new/", form))
    assert "Choose the machine" in read(client.post("/cards/new/", {"kind": "focus"}))


def test_a_photo_becomes_a_recipe_and_a_curve(client, beams):
    machine, wood, surface = beams
    job = open_card("power-speed", machine, wood)
    client.post(f"/jobs/{job.number}/card/", {"photo": photo_of(job, surface)})
    reading = job.readings.get()
    assert reading.fault == ""
    page = client.get(f"/jobs/{job.number}/card/")
    assert "Best cell" in read(page)
    kept = client.post(f"/jobs/{job.number}/card/keep/", {"name": "Found", "cell": ""})
    recipe = Recipe.objects.get(name="Found")
    assert kept.url == f"/shelf/recipes/{recipe.pk}/"
    best = page.context["picked"]["cell"]
    part = recipe_part(recipe)
    assert (part.power, part.speed_mm_s, part.origin) == (
        best.power,
        best.speed_mm_s,
        "card",
    )
    client.post(f"/jobs/{job.number}/card/keep/", {"name": "By eye", "cell": "2-3"})
    spec = spec_of(job)
    other = recipe_part(Recipe.objects.get(name="By eye"))
    assert (other.power, other.speed_mm_s) == (
        spec.card.columns.values[2],
        spec.card.rows.values[3],
    )

    ramp = open_card("gray-ramp", machine, wood, recipe)
    client.post(f"/jobs/{ramp.number}/card/", {"photo": photo_of(ramp, surface)})
    client.post(f"/jobs/{ramp.number}/card/keep/", {"name": ""})
    recipe.refresh_from_db()
    assert recipe.version == 2
    light = [lightness for _, lightness in recipe_part(recipe).patches]
    assert len(light) == 11
    assert light == sorted(light, reverse=True)


@pytest.mark.parametrize(
    ("kind", "burn"),
    [("row-shift", {"power": 90.0}), ("focus", {"power": 60.0, "speed_mm_s": 50.0})],
)
def test_what_belongs_to_the_machine_is_kept_there(client, beams, kind, burn):
    machine, wood, surface = beams
    Recipe.objects.create(name="Strong", machine=machine, substrate=wood,
                          part={"pitch_mm": 0.1, "speed_mm_s": 100.0, **burn})  # fmt: skip
    job = open_card(kind, machine, wood)
    client.post(f"/jobs/{job.number}/card/", {"photo": photo_of(job, surface)})
    assert job.readings.get().fault == ""
    client.post(f"/jobs/{job.number}/card/keep/", {"machine": "1"})
    part = Machine.objects.get(pk=machine.pk).part
    if kind == "focus":
        assert part["spot_mm"] == pytest.approx(surface.spot_mm, rel=0.05)
        assert part["lenses"][0]["known"] == "measured"
    else:
        assert len(part["row_shift"]) == 4
        assert all(abs(shift) < 0.01 for _, shift in part["row_shift"])
        picks = " ".join(f"3-{row}" for row in range(4))
        client.post(f"/jobs/{job.number}/card/keep/", {"machine": "1", "cells": picks})
        by_eye = Machine.objects.get(pk=machine.pk).part["row_shift"]
        assert {shift for _, shift in by_eye} == {spec_of(job).card.columns.values[3]}


def test_a_photo_that_is_none(client, beams):
    job = open_card("power-speed", *beams[:2])
    where = f"/jobs/{job.number}/card/"
    assert "Choose a photo" in read(client.post(where))
    text = io.BytesIO(b"no picture")
    text.name = "x.png"
    assert "cannot be read" in read(client.post(where, {"photo": text}))
    stream = io.BytesIO()
    Image.fromarray(np.full((800, 900, 3), 180, np.uint8)).save(stream, "PNG")
    stream.seek(0)
    stream.name = "plain.png"
    client.post(where, {"photo": stream})
    page = read(client.get(where))
    assert "0 of the four corner marks" in page
    crossed = "0.1,0.9 0.9,0.9 0.9,0.1 0.1,0.1"
    client.post(where, {"again": "1", "corners": crossed})
    assert "four-sided" in read(client.get(where))
    assert "cannot be read" in read(client.post(where, {"again": "1", "corners": "x,y"}))
    assert "Choose a cell first" in read(client.post(f"{where}keep/", {"name": "N"}))


def test_other_jobs_have_no_card(client, ticket):
    assert client.get(f"/jobs/{ticket.number}/card/").status_code == 404


# The burn log


def test_this_worked(client, ticket, shelf):
    run = Run.objects.create(job=ticket, spec=ticket.spec_data, state="done", clock_s=12.0)
    assert "Nothing was burned" not in read(client.get("/bench/log/"))
    client.post(f"/bench/runs/{run.pk}/keep/", {"name": "Worked", "rating": "5"})
    spec = spec_of(ticket)
    made = recipe_part(Recipe.objects.get(name="Worked"))
    assert (made.power, made.speed_mm_s, made.pitch_mm) == (
        spec.burn.power,
        spec.burn.speed_mm_s,
        spec.size.pitch_mm,
    )
    assert (made.origin, made.confidence, made.rating) == ("burn", "proven", 5)
    run.refresh_from_db()
    assert run.rating == 5
    client.post(f"/bench/runs/{run.pk}/keep/", {"name": "Worked", "rating": "2"})
    assert Recipe.objects.get(name="Worked").version == 2
    Machine.objects.all().delete()
    gone = client.post(f"/bench/runs/{run.pk}/keep/", {"name": "W", "rating": "x"})
    assert "not on the shelf" in gone.content.decode()


def test_no_picture_of_what_was_not_burned(client, beams):
    job = open_card("power-speed", *beams[:2])
    page = read(client.post(f"/bench/jobs/{job.number}/photograph/"))
    assert "Nothing was burned of this job yet" in page
    Run.objects.create(job=job, spec=job.spec_data, state="done")
    other = open_card("focus", *beams[:2])
    Run.objects.create(job=other, spec=other.spec_data, state="done")
    page = read(client.post(f"/bench/jobs/{job.number}/photograph/"))
    assert "Another piece lies" in page


def test_a_card_has_its_own_time(beams):
    job = open_card("power-speed", *beams[:2])
    assert pipeline().estimate(spec_of(job)).rows > 36 * 40


def test_a_reading_and_check_tell_the_same_share(beams):
    """A card burns at many powers: what it burns is one figure, wherever it is told."""
    job = open_card("power-speed", *beams[:2])
    told = {one.rule: one.figure for one in full_check(job)[1]}["something_to_burn"]
    assert told == f"{100 * full_readings(spec_of(job)).burned:.1f} %"


def test_wells_are_typed_and_kept_as_a_recipe(client, beams):
    """Depths of two powers; one is off by a little; the recipe carries to a relief."""
    machine, wood, _ = beams
    job = open_card("depth", machine, wood, None)
    layout = lay_out(spec_of(job))
    where = f"/jobs/{job.number}/card/"
    depth = {
        f"well-{cell.column}-{cell.row}": f"{0.1 * (cell.column + 1) * cell.passes:.3f}"
        for cell in layout.cells
        if cell.column < 2
    }
    page = read(client.post(f"{where}keep/", {"wells": 1, **depth}, follow=True))
    assert "0.100 mm" in page
    assert "0.200 mm" in page
    assert "off by 0.000 mm at most" in page
    answer = client.post(f"{where}keep/", {"cell": "1", "name": "Wells"})
    assert answer.status_code == 302
    recipe = Recipe.objects.get(name="Wells")
    part = recipe_part(recipe)
    assert part.per_pass_mm == pytest.approx(0.2)
    assert part.power == pytest.approx(layout.cell(1, 0).power)
    fresh = spec_of(job).model_copy(update={"card": None})
    assert with_recipe(fresh, recipe).marking.relief.per_pass_mm == pytest.approx(0.2)


@pytest.mark.parametrize("text", ["deep", "-1", "1e9", "nan"])
def test_what_is_no_depth_has_its_sentence(client, beams, text):
    machine, wood, _ = beams
    job = open_card("depth", machine, wood, None)
    answer = client.post(f"/jobs/{job.number}/card/keep/", {"wells": 1, "well-0-0": text})
    assert answer.status_code == 422
    assert "needs a depth in mm" in read(answer)
    assert f'name="well-0-0" value="{text}"' in read(answer)
    empty = client.post(f"/jobs/{job.number}/card/keep/", {"wells": 1})
    assert "one well at least" in read(empty)


def test_a_photo_fills_in_wells_and_a_bad_one_loses_none(client, beams):
    machine, wood, _ = beams
    job = open_card("depth", machine, wood, None)
    cells = lay_out(spec_of(job)).cells
    where = f"/jobs/{job.number}/card/"
    lit = [[c.column, c.row, 40 - 4 * c.row - c.column, 0.5] for c in cells]
    CardReading.objects.create(
        job=job, spec=job.spec_data, photo="a", result={"patches": lit}
    )
    typed = {f"well-0-{row}": str(0.3 * (row + 1)) for row in (0, 1, 2)}
    page = read(client.post(f"{where}keep/", {"wells": 1, **typed}, follow=True))
    assert "depths are read from the photo, between the measured ones" in page
    assert re.search(r'name="well-1-1" value="" placeholder="0.\d+"', page)
    # The photo of something else is no reason to type them again.
    shot = io.BytesIO(png(np.full((300, 300), 200, np.uint8)))
    page = read(client.post(where, {"photo": shot}, follow=True))
    assert 'name="well-0-1" value="0.6"' in page
    assert "corner" in page


def test_widths_of_lines_become_a_recipe_of_the_tool(client, beams):
    wood = beams[1]
    mill = put_machine("Mill", kind="vtool", max_speed_mm_s=60)
    with pytest.raises(InputError, match="marks without a beam"):
        open_card("power-speed", mill, wood)
    job = open_card("lines", mill, wood)
    where = f"/jobs/{job.number}/card/"
    cells = [cell for cell in lay_out(spec_of(job)).cells if cell.row == 1]
    typed = {f"line-{c.column}-1": f"{0.2 + c.depth_mm:.3f}" for c in cells}
    page = read(client.post(f"{where}keep/", {"lines": 1, **typed}, follow=True))
    assert "53.1°" in page  # 2·atan(1/2)
    assert "0.200 mm" in page
    wrong = {"lines": 1, "line-0-0": "wide", "line-1-0": "1.2"}
    page = read(client.post(f"{where}keep/", wrong))
    assert "needs a width" in page
    assert 'value="wide"' in page
    assert 'value="1.2"' in page  # nothing that was typed is lost
    client.post(f"{where}keep/", {"name": "Worn tool"})
    recipe = Recipe.objects.get(name="Worn tool")
    assert recipe_part(recipe).tool.tip_mm == pytest.approx(0.2)
    assert "It holds a tool" in read(client.get(f"/shelf/recipes/{recipe.pk}/"))
    recipe.part["per_pass_mm"] = 0.3  # as somebody typed it on the shelf
    fresh = with_recipe(spec_of(job).model_copy(update={"card": None}), recipe)
    assert fresh.marking.carving.tool.angle_deg == pytest.approx(53.13, abs=0.01)
    assert fresh.marking.relief.per_pass_mm == 0.3


def test_a_points_width_is_kept_for_its_machine(client, beams):
    needle = put_machine("Needle", kind="drag", max_speed_mm_s=80)
    job = open_card("lines", needle, beams[1])
    where = f"/jobs/{job.number}/card/"
    typed = {"lines": 1, "line-0-0": "0.14", "line-1-0": "0.16"}
    assert "0.150 mm" in read(client.post(f"{where}keep/", typed, follow=True))
    client.post(f"{where}keep/", {"machine": 1})
    needle.refresh_from_db()
    assert MachinePart.model_validate(needle.part).spot_mm == pytest.approx(0.15)
