"""A photo of a burned piece teaches its recipe: kept, offered, amended, left out."""

import io

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from standins.camera import Surface, View, photograph
from support.cards import burned, linear
from support.jobs import changed, png
from support.pages import read
from support.pieces import scene
from workshop.bench.lessons.changes import amend, leave_out
from workshop.bench.lessons.facts import offered
from workshop.bench.models import Lesson, Run
from workshop.bench.runs.keep import keep_as_recipe
from workshop.jobs.models import Job
from workshop.jobs.pictures.engine import pipeline
from workshop.jobs.pictures.intake import keep_artwork
from workshop.jobs.revisions.writer import change, spec_of
from workshop.jobs.stations.shelf_items import with_recipe
from workshop.jobs.ticket.lifecycle import open_job
from workshop.shelf.recipes.changes import add_version, recipe_part


@pytest.fixture
def job(shelf):
    """A ticket for a scene of soft lights, with bare board round it."""
    made = open_job(keep_artwork("lights.png", [png(scene(7), dpi=(254, 254))]), "Lights")
    size = {"width_mm": 28.0, "height_mm": 20.0, "pitch_mm": 0.1}
    spec = changed(spec_of(made), size=size, reproduction={"mode": "spot"})
    change(made, spec, "Size")
    return Job.objects.with_all().get(pk=made.pk)


def a_piece(job, **fields):
    """A burn that is done."""
    values = {"spec": job.spec_data, "state": "done", "machine": job.machine, **fields}
    return Run.objects.create(job=job, **values)


def a_photo(job, seed=1, **answer):
    """The piece on a material that answers as nobody knows, as an upload."""
    hidden = {"onset": 0.02, "scale": 0.8, "steep": 1.0, **answer}
    spec = spec_of(job)
    key = (spec.model_dump_json(), seed, *hidden.items())
    if key not in TAKEN:  # a burn and a photo take a second and more
        TAKEN[key] = photo_of(spec, seed, hidden)
    return SimpleUploadedFile("piece.png", TAKEN[key], "image/png")


TAKEN = {}


def photo_of(spec, seed, hidden):
    told = spec.substrate
    surface = Surface(ground=linear(told.ground), mark=linear(told.mark), **hidden)
    machine = burned(spec, pipeline())
    seen = photograph(
        machine.strokes(),
        surface,
        spec.place.x_mm,
        spec.place.y_mm,
        (spec.size.width_mm, spec.size.height_mm),
        View(px_mm=18, seed=seed),
    )
    stream = io.BytesIO()
    Image.fromarray(seen).save(stream, "PNG", compress_level=1)
    return stream.getvalue()


@pytest.fixture
def run(client, job):
    made = a_piece(job)
    client.post(f"/bench/log/{made.pk}/", {"photo": a_photo(job)})
    made.refresh_from_db()
    return made


def test_a_photo_is_read_as_it_comes(client, run, shelf):
    lesson = run.lesson
    assert lesson.fault == ""
    assert lesson.fits > 0.95
    assert len(lesson.tones) == 17
    page = client.get(f"/bench/log/{run.pk}/")
    assert "This piece would have Brown know its tones" in read(page)
    for kind in ("flat", "off"):
        picture = client.get(f"/bench/log/{run.pk}/{kind}.png")
        assert Image.open(io.BytesIO(b"".join(picture.streaming_content))).size[0] > 300
    assert client.get(f"/bench/log/{run.pk}/other.png").status_code == 404


def test_the_recipe_is_amended_once_for_what_was_seen(client, run, job, shelf):
    page = client.get(f"/bench/log/{run.pk}/")
    version = page.context["offer"].version
    answer = client.post(f"/bench/log/{run.pk}/amend/", {"version": version}, follow=True)
    assert "Brown is amended; it is version 2 now." in read(answer)
    recipe = shelf["brown"]
    recipe.refresh_from_db()
    part = recipe_part(recipe)
    assert (recipe.version, len(part.patches)) == (2, 17)
    assert "1 photographed piece" in recipe.versions.first().why
    spec = with_recipe(spec_of(job), recipe)
    assert (spec.reproduction.mode, spec.reproduction.patches) == ("measured", part.patches)
    again = client.post(f"/bench/log/{run.pk}/amend/", {"version": version}, follow=True)
    assert "changed meanwhile" in read(again)
    recipe.refresh_from_db()
    assert recipe.version == 2


def test_a_rating_takes_no_lesson_back(run, shelf):
    recipe = amend(run, offered(run).version)
    learned = recipe_part(recipe).patches
    keep_as_recipe(run, "Brown", 4)
    recipe.refresh_from_db()
    part = recipe_part(recipe)
    assert (part.patches, part.rating, part.confidence) == (learned, 4, "proven")


def test_pieces_of_one_recipe_are_weighed_together(client, run, job, shelf):
    alone = offered(run).amendment
    other = a_piece(job)
    client.post(f"/bench/log/{other.pk}/", {"photo": a_photo(job, seed=2)})
    both = offered(other).amendment
    assert (alone.pieces, both.pieces) == (1, 2)
    assert abs(both.largest) > 1.2 * abs(alone.largest)
    client.post(f"/bench/log/{other.pk}/leave-out/", {"out": "1"})
    assert "This piece is left out." in read(client.get(f"/bench/log/{other.pk}/"))
    assert offered(run).amendment == alone
    client.post(f"/bench/log/{other.pk}/leave-out/", {"out": "0"})
    assert offered(run).amendment == both
    leave_out(run, out=True)
    leave_out(other, out=True)
    assert (offered(run).amendment, "left out" in offered(run).why) == (None, True)


def test_what_a_recipe_says_otherwise_by_now_is_not_mixed_in(run, shelf):
    part = recipe_part(shelf["brown"])
    add_version(shelf["brown"], part.model_copy(update={"power": 50.0}), "stronger")
    assert "otherwise than Brown says by now: power" in offered(run).why
    shelf["brown"].delete()
    assert "not on the shelf" in offered(run).why


def test_what_was_burned_by_hand_makes_a_recipe(client, job, shelf):
    spec = changed(spec_of(job), burn={"recipe": "", "recipe_version": 0, "power": 41})
    change(job, spec, "By hand")
    job = Job.objects.with_all().get(pk=job.pk)
    made = a_piece(job)
    client.post(f"/bench/log/{made.pk}/", {"photo": a_photo(job)})
    assert "Keep a recipe with these tones" in read(client.get(f"/bench/log/{made.pk}/"))
    recipe = amend(made, offered(made).version)
    part = recipe_part(recipe)
    assert (part.power, len(part.patches), recipe.version) == (41, 17, 2)


def test_points_are_dragged_and_the_photo_read_again(client, run):
    found = run.lesson.corners
    typed = " ".join(f"{x + 0.005:.4f},{y:.4f}" for x, y in found)
    client.post(f"/bench/log/{run.pk}/read/", {"corners": typed})
    lesson = Lesson.objects.get(run=run)
    assert (lesson.found_by, lesson.fault) == ("points", "")
    turned = " ".join(f"{x:.4f},{y:.4f}" for x, y in reversed(found))
    client.post(f"/bench/log/{run.pk}/read/", {"corners": turned})
    page = read(client.get(f"/bench/log/{run.pk}/"))
    assert "turned by 180°" in page
    assert "Amend the recipe" not in page
    client.post(f"/bench/log/{run.pk}/read/", {"corners": ""})
    assert Lesson.objects.get(run=run).fault == ""


def test_points_that_are_none_are_told(client, run):
    wrong = ("1,2", "a,b c,d e,f g,h", "nan,1 1,1 1,0 0,0", "1e400,1 0,0 1,1 0,1")
    for typed in (*wrong, "1,1 1,1 1,1 1,1"):
        page = client.post(f"/bench/log/{run.pk}/read/", {"corners": typed}, follow=True)
        assert page.status_code == 200
        assert "four points" in read(page), typed


NOTHING = {
    "trimmed": ({"trims": [[1.0, 90, 100]]}, "trimmed while it burned"),
    "stopped": ({"state": "stopped"}, "not burned to its end"),
}


@pytest.mark.parametrize("name", NOTHING)
def test_some_burns_teach_nothing_and_say_so(client, job, name):
    fields, said = NOTHING[name]
    made = a_piece(job, **fields)
    client.post(f"/bench/log/{made.pk}/", {"photo": a_photo(job), "notes": "kept"})
    page = read(client.get(f"/bench/log/{made.pk}/"))
    assert said in page
    made.refresh_from_db()
    assert (made.notes, bool(made.photo)) == ("kept", True)


def test_a_photo_of_something_else_is_kept_but_not_learned(client, job):
    made = a_piece(job)
    photo = SimpleUploadedFile("x.png", png(scene(9, 560, 400)), "image/png")
    client.post(f"/bench/log/{made.pk}/", {"photo": photo, "result": "good"})
    page = client.get(f"/bench/log/{made.pk}/")
    assert Lesson.objects.get(run=made).fault
    assert (page.status_code, offered(made).amendment) == (200, None)
    answer = client.post(f"/bench/log/{made.pk}/amend/", {"version": ""}, follow=True)
    assert "says nothing yet" in read(answer)


def test_without_a_photo_there_is_nothing_to_read(client, job):
    made = a_piece(job)
    page = client.post(f"/bench/log/{made.pk}/read/", {"corners": ""}, follow=True)
    assert "Add a photo of the piece first." in read(page)
    page = client.post(f"/bench/log/{made.pk}/photograph/", follow=True)
    assert "no stand-in camera" in read(page)
