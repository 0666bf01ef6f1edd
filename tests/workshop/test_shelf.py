"""The shelf in the browser's words: machines, substrates, recipes and their versions."""

import csv
import importlib
import io
import json
import time

import pytest

from engraving.jobspec import JobSpec, MachinePart
from support.pages import read
from workshop.jobs.revisions.writer import spec_of
from workshop.shelf.machines.changes import (
    STARTS,
    machine_values,
    set_row_shift,
    starting_machine,
)
from workshop.shelf.machines.form import MachineForm
from workshop.shelf.models import Machine, Recipe, Substrate
from workshop.shelf.recipes import import_recipes
from workshop.shelf.recipes.changes import put_recipe, recipe_part, recipe_values
from workshop.shelf.recipes.form import RecipeForm
from workshop.shelf.recipes.table import read_rows
from workshop.shelf.substrates.changes import put_substrate, substrate_values
from workshop.shelf.substrates.form import SubstrateForm
from workshop.shell.choices import labelled


def posted(form):
    """What a browser posts of an unbound form."""
    shown = {bound.name: bound.value() for bound in form}
    return {name: value for name, value in shown.items() if value not in (None, False, "")}


def errors_of(answer):
    return answer.context["form"].errors


@pytest.mark.django_db
@pytest.mark.parametrize("kind", STARTS)
def test_a_machine_of_each_kind_in_one_page(client, kind):
    assert client.get(f"/shelf/machines/new/?kind={kind}").status_code == 200
    data = posted(MachineForm(initial=starting_machine(kind))) | {"name": "Mine"}
    assert client.post(f"/shelf/machines/new/?kind={kind}", data).status_code == 302
    part = Machine.objects.get(name="Mine").part
    assert part["kind"] == kind
    assert part["spot_mm"] == STARTS[kind]["spot_mm"]


def test_a_machine_left_alone_stays_as_it_was(client, shelf):
    bench = shelf["bench"]
    client.post(
        f"/shelf/machines/{bench.pk}/", posted(MachineForm(initial=machine_values(bench)))
    )
    again = Machine.objects.get(pk=bench.pk).part
    lens = again.pop("lenses")
    assert lens[0]["spot_mm"] == bench.part["spot_mm"]
    for name in ("lens", "lenses"):
        again.pop(name, None), bench.part.pop(name, None)
    assert again == bench.part


@pytest.mark.parametrize(
    ("field", "value", "sentence"),
    [("max_speed_mm_s", "fast", "read"), ("rated_power_w", "-3", "at least 0.1 W"), ("name", "Small", "Another machine"),
     ("header", "Gé", "plain ASCII"), ("lowest_power", "140", "at most 100 %"), ("lens0_name", "", "one lens")],
)  # fmt: skip
def test_a_bad_machine_is_told_at_its_place(client, shelf, field, value, sentence):
    bench = shelf["bench"]
    data = posted(MachineForm(initial=machine_values(bench))) | {field: value}
    answer = client.post(f"/shelf/machines/{bench.pk}/", data)
    assert answer.status_code == 200
    assert sentence in " ".join(errors_of(answer)[field])
    assert Machine.objects.get(pk=bench.pk).part == bench.part


def test_an_empty_spot_is_computed(client, shelf):
    data = posted(MachineForm(initial=starting_machine("co2"))) | {"name": "Tube"}
    data["lens0_spot_mm"] = ""
    facts = read(client.post("/shelf/machines/facts/", data))
    assert "0.114 mm" in facts
    assert "4·M²·λ·f / (π·D)" in facts
    client.post("/shelf/machines/new/", data)
    lens = Machine.objects.get(name="Tube").part["lenses"][0]
    assert (lens["known"], lens["spot_mm"]) == ("computed", pytest.approx(0.1143))


def test_shift_rows_are_kept_in_order_and_reach_new_jobs(client, shelf, ticket):
    set_row_shift(shelf["bench"], ((100.0, 0.02), (300.0, 0.06)))
    page = read(client.get(f"/shelf/machines/{shelf['bench'].pk}/"))
    assert 'name="shift1_mm"' in page
    assert 'value="0.06"' in page
    assert (
        spec_of(ticket).machine.row_shift == ()
    )  # a job keeps the machine it was made for


def test_a_fault_in_a_fold_opens_it(client, shelf):
    where = f"/shelf/machines/{shelf['small'].pk}/"
    data = posted(client.get(where).context["form"])
    answer = client.post(where, data | {"file_ending": "n.c!", "file_mb": "-1"})
    assert {"file_ending", "file_mb"} <= set(errors_of(answer))
    assert '<details class="fold" open> <summary>What it is told' in read(answer)


def test_duplicate_and_remove(client, shelf):
    client.post(f"/shelf/machines/{shelf['bench'].pk}/duplicate/")
    copy = Machine.objects.get(name="Bench (2)")
    client.post(f"/shelf/machines/{copy.pk}/remove/")
    assert not Machine.objects.filter(pk=copy.pk).exists()
    wood = put_substrate("Spare")
    client.post(f"/shelf/substrates/{wood.pk}/remove/")
    assert not Substrate.objects.filter(name="Spare").exists()


def test_a_substrate_with_its_care(client, shelf):
    data = posted(SubstrateForm(initial=substrate_values(None)))
    data |= {"name": "Foam vinyl", "hazard": "chlorine", "fumes": "Acid gas"}
    assert client.post("/shelf/substrates/new/", data).status_code == 302
    made = Substrate.objects.get(name="Foam vinyl")
    assert made.care == {"fumes": "Acid gas"}
    page = read(client.get(f"/shelf/substrates/{made.pk}/"))
    assert "holds chlorine" in page
    answer = client.post("/shelf/substrates/new/", data | {"ground": "red"})
    assert "name" in errors_of(answer)
    assert "ground" in errors_of(answer)


def test_chlorine_is_refused_for_a_beam(client, ticket, act):
    vinyl = put_substrate("Vinyl", hazard="chlorine")
    act("blank", substrate=vinyl.pk)
    page = read(client.get(f"/jobs/{ticket.number}/findings/"))
    assert "acid gas" in page
    assert client.get(f"/jobs/{ticket.number}/files/gcode/").status_code != 200


def test_each_save_of_a_recipe_is_a_version(client, shelf):
    brown = shelf["brown"]
    data = posted(RecipeForm(initial=recipe_values(brown)))
    address = f"/shelf/recipes/{brown.pk}/"
    client.post(address, data | {"power": "40", "why": "too pale"})
    client.post(address, data | {"power": "40"})  # nothing changed
    brown.refresh_from_db()
    assert (brown.version, recipe_part(brown).power) == (2, 40)
    page = read(client.get(address))
    assert "too pale" in page
    client.post(f"{address}back/1/")
    brown.refresh_from_db()
    assert (brown.version, recipe_part(brown).power) == (3, 33)
    assert client.post(f"{address}back/9/").status_code == 404


def test_a_job_keeps_the_version_it_used(client, shelf, ticket, act):
    act("burn", recipe=shelf["brown"].pk)
    assert spec_of(ticket).burn.recipe_version == 1
    put_recipe(
        shelf["bench"], shelf["wood"], "Brown", speed_mm_s=120.0, power=50.0, pitch_mm=0.1
    )
    ticket.refresh_from_db()
    assert spec_of(ticket).burn.power == 33
    page = client.get(f"/jobs/{ticket.number}/burn/", headers={"HX-Request": "true"})
    assert "this job keeps version 1" in read(page)
    act("burn", again="on")
    assert (spec_of(ticket).burn.power, spec_of(ticket).burn.recipe_version) == (50, 2)


@pytest.mark.parametrize(
    ("field", "value", "at"),
    [("lowest_power", "60", "__all__"), ("power", "abc", "power"), ("passes", "0", "passes"), ("machine", "", "machine")],
)  # fmt: skip
def test_a_bad_recipe_changes_nothing(client, shelf, field, value, at):
    brown = shelf["brown"]
    data = posted(RecipeForm(initial=recipe_values(brown))) | {field: value}
    answer = client.post(f"/shelf/recipes/{brown.pk}/", data)
    assert at in errors_of(answer)
    assert Recipe.objects.get(pk=brown.pk).version == 1


def test_carried_over_with_its_arithmetic(client, shelf):
    brown, small = shelf["brown"], shelf["small"]
    page = read(client.get(f"/shelf/recipes/{brown.pk}/to/{small.pk}/"))
    # 33 % of 40 W at 120 mm/s and 0.1 mm
    assert "13.20·1 / (120·0.1) = <b>1.100 J/mm²" in page
    client.post(f"/shelf/recipes/{brown.pk}/to/{small.pk}/")
    made = Recipe.objects.get(machine=small)
    assert recipe_part(made).origin == "carried"
    assert "Brown v1 on Bench" in recipe_part(made).origin_note


def test_a_begun_with_the_nearest(client, shelf):
    oak = put_substrate("Oak")
    where = f"/shelf/recipes/new/?machine={shelf['small'].pk}&substrate={oak.pk}"
    page = read(client.get(where))
    assert "Brown on Bench" in page
    assert "Oak, to be tested" in page


def test_filter_and_favourites(client, shelf):
    client.post(f"/shelf/recipes/{shelf['pale'].pk}/favourite/")

    def rows(query):
        found = client.get(f"/shelf/recipes/?{query}").context["rows"]
        return [row["recipe"].name for row in found]

    assert rows("") == ["Pale", "Brown"]
    assert rows("favourites=on") == ["Pale"]
    assert rows("find=wood bro") == ["Brown"]
    assert rows(f"substrate={shelf['wood'].pk}") == ["Brown"]
    assert rows("kind=cut") == rows("find=nothing") == []


# In and out


def test_out_and_in_again_changes_nothing(shelf):
    set_to = {
        "patches": ((0.0, 80.0), (50.0, 51.25), (100.0, 22.0)),
        "cleaning": "=SUM(A1)",
        "tool": {"name": "V-tool 60°", "angle_deg": 60, "tip_mm": 0.12},
    }
    put_recipe(
        shelf["bench"],
        shelf["wood"],
        "Brown",
        speed_mm_s=120.0,
        power=33.0,
        pitch_mm=0.1,
        **set_to,
    )
    for written in (import_recipes.as_csv, import_recipes.as_json):
        data = written(Recipe.objects.with_all())
        found = import_recipes.preview(read_rows(data))
        assert (found.same, found.new, found.changed, found.faults) == (2, [], [], [])


def test_no_cell_is_a_formula(shelf):
    """OWASP, CSV injection: what begins with = + - @ is text for a spreadsheet too."""
    for evil in ("=cmd|' /C calc'!A0", "+1+1", "-2+3", "@SUM(1)"):
        put_recipe(shelf["bench"], shelf["wood"], evil, power=10.0)
    text = import_recipes.as_csv(Recipe.objects.with_all()).decode("utf-8-sig")
    for row in csv.reader(io.StringIO(text)):
        assert not any(cell.startswith(("=", "+", "@", "\t")) for cell in row)
    again = import_recipes.preview(read_rows(text.encode()))
    assert (again.same, again.faults) == (6, [])


def _table(*rows, head="name,substrate,machine,speed_mm_s,power,pitch_mm"):
    return "\n".join([head, *rows]).encode()


def test_nothing_is_half_imported(client, shelf):
    bad = _table("A,Wood,Bench,100,20,0.1", "B,Wood,Bench,fast,20,0.1", "C,Gold,Bench,100,20,0.1",
                 "D,Wood,Bench,100,120,0.1", "A,Wood,Bench,90,20,0.1", ",Wood,Bench,1,1,0.1")  # fmt: skip
    upload = io.BytesIO(bad)
    upload.name = "bad.csv"
    page = client.post("/shelf/recipes/import/", {"file": upload})
    faults = {one.row: one.sentence for one in page.context["preview"].faults}
    assert set(faults) == {3, 4, 5, 6, 7}
    assert "“fast” is no number" in faults[3]
    assert "no “Gold” on the shelf" in faults[4]
    assert faults[5].startswith("power")
    assert "row 2" in faults[6]
    client.post("/shelf/recipes/import/", {"held": page.context["held"]})
    assert Recipe.objects.count() == 2


def test_looked_at_then_taken_in(client, shelf):
    upload = io.BytesIO(_table("Brown,Wood,Bench,150,33,0.1", "New,Slate,Small,100,20,0.1"))
    upload.name = "good.csv"
    page = client.post("/shelf/recipes/import/", {"file": upload})
    assert Recipe.objects.count() == 2  # only looked at
    text = read(page)
    assert "speed_mm_s 120 to 150" in text
    assert "Import 1 new and 1 changed" in text
    client.post("/shelf/recipes/import/", {"held": page.context["held"]})
    brown = Recipe.objects.get(name="Brown")
    assert (brown.version, recipe_part(brown).speed_mm_s) == (2, 150)
    assert "good.csv" in brown.versions.first().why
    gone = client.post("/shelf/recipes/import/", {"held": page.context["held"]})
    assert "not held any more" in gone.content.decode()


@pytest.mark.parametrize(
    ("data", "sentence"),
    [(b"\x89PNG\r\n\x1a\n\x00\x00", "no text"), (b"", "empty"), (b"a,b\n1,2", "name, substrate, machine"),
     (b'name,substrate,machine\n"open', "no CSV"), (b"{nonsense", "cannot be read"), (b'{"recipes": 3}', "no list")],
)  # fmt: skip
def test_what_is_no_table_is_refused(client, db, data, sentence):
    upload = io.BytesIO(data)
    upload.name = "x.csv"
    page = client.post("/shelf/recipes/import/", {"file": upload} if data else {"file": ""})
    expected = sentence if data else "Choose a file"
    assert expected in read(page)


@pytest.mark.parametrize("coding", ["utf-8", "utf-8-sig", "utf-16", "cp1252"])
@pytest.mark.parametrize("apart", [",", ";", "\t"])
def test_what_spreadsheets_write(shelf, coding, apart):
    number = "0,1" if apart == ";" else "0.1"
    rows = [
        ["Name", "Substrate", "Machine", "Speed_mm_s", "Pitch_mm", "Note"],
        ["Brün", "Wood", "Bench", "100", number, "süß"],
    ]
    data = "\r\n".join(apart.join(row) for row in rows).encode(coding)
    found = import_recipes.preview(read_rows(data))
    assert found.faults == []
    assert found.new[0][0] == "Brün, Wood, Bench"


def test_a_hundred_thousand_rows(shelf):
    """Read, checked and refused for one bad row, with nothing written."""
    rows = [f"R{i},Wood,Bench,{100 + i % 50},20,0.1" for i in range(100_000)]
    rows[70_000] = "R70000,Wood,Bench,100,-1,0.1"
    begun = time.monotonic()
    found = import_recipes.preview(read_rows(_table(*rows)))
    assert (len(found.new), len(found.faults)) == (99_999, 1)
    assert found.faults[0].row == 70_002
    assert time.monotonic() - begun < 120  # a guard against what never ends


def test_json_of_the_list(client, shelf):
    answer = client.get("/shelf/recipes/export.json?find=brown")
    held = json.loads(answer.content)
    assert [row["name"] for row in held["recipes"]] == ["Brown"]
    assert client.get("/shelf/recipes/export.xml").status_code == 404


def test_continuous_tone_and_presets_reach_the_job(shelf, ticket, act):
    tone = put_recipe(shelf["bench"], shelf["wood"], "Soft", kind="tone", power=60.0, lowest_power=15.0,
                      pitch_mm=0.1, tone={"gamma": 1.4}, angle_deg=90.0, air=True)  # fmt: skip
    act("burn", recipe=tone.pk)
    spec: JobSpec = spec_of(ticket)
    assert (spec.dots.method, spec.dots.floor, spec.dots.ceiling) == ("power", 25, 100)
    assert (spec.tone.gamma, spec.burn.rows, spec.burn.air) == (1.4, "y", True)


ROOMS = (*(f"shelf.{one}" for one in ("machines", "substrates", "blanks", "recipes")), *(f"jobs.stations.{one}" for one in
         ("artwork", "blank", "burn", "dots", "place", "tone")))  # fmt: skip


@pytest.mark.django_db
@pytest.mark.parametrize("room", ROOMS)
def test_every_choice_of_a_form_can_be_made(room):
    # A value of the job's types without a word, or a word without one, would raise.
    module = importlib.import_module(f"workshop.{room}.choices")
    made = [one for name, one in vars(module).items() if name.endswith("_choices")]
    assert made
    assert all(len(one()) > 1 for one in made)


def test_a_value_without_a_word_is_not_forgotten():
    with pytest.raises(LookupError, match="crlf"):
        labelled(MachinePart, "line_end", {"lf": "LF"})
    with pytest.raises(TypeError, match="no choice"):
        labelled(MachinePart, "decimals")
