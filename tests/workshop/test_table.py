"""Pictures, readings, findings, files, uploads, burns."""

import hashlib
import io
import json
import re
import zipfile
from typing import ClassVar

import cv2
import numpy as np
import pypdfium2
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image
from pypdf import PdfReader
from redis import RedisError

from engraving.proof import Window, shown_colours
from support.gate import signed
from support.jobs import changed, png
from support.pages import read
from workshop.bench.models import Run
from workshop.bench.runs import tasks
from workshop.bench.runs.files import program_path
from workshop.bench.runs.follow import PREPARING, give_up_left_over
from workshop.jobs.models import Artwork, Job
from workshop.jobs.pictures import windows
from workshop.jobs.pictures.pieces import unrolled
from workshop.jobs.pictures.windows import VIEWS, view_keys
from workshop.jobs.revisions.writer import change, shown_spec, spec_of
from workshop.program import cli
from workshop.shell.alone import alone


def keys(ticket):
    ticket.refresh_from_db()
    return view_keys(spec_of(Job.objects.with_all().get(pk=ticket.pk)))


def picture(client, ticket, view, **window):
    wanted = {"left": 0, "top": 0, "cols": 900, "rows": 675, "w": 90, "h": 67, **window}
    return client.get(f"/jobs/{ticket.number}/picture/{view}/{keys(ticket)[view]}/", wanted)


@pytest.mark.parametrize("view", VIEWS)
def test_every_view_far_and_near(client, ticket, view):
    far = picture(client, ticket, view)
    assert Image.open(io.BytesIO(far.content)).size == (90, 67)
    assert "immutable" in far["Cache-Control"]
    near = picture(client, ticket, view, left=300, top=200, cols=40, rows=30, w=320, h=240)
    assert near.status_code == 200


def test_dots_on_the_table_are_the_dots_in_the_file(client, ticket):
    shown = picture(client, ticket, "dots", w=900, h=675)
    assert shown.content[24] == 1, "bits a pixel"
    on_table = np.asarray(Image.open(io.BytesIO(shown.content)).convert("L")) < 128
    given = b"".join(client.get(f"/jobs/{ticket.number}/files/dots/").streaming_content)
    assert np.array_equal(on_table, ~np.asarray(Image.open(io.BytesIO(given))))


def test_a_past_key_is_gone_and_nonsense_gets_a_sentence(client, act, ticket):
    old = keys(ticket)["toned"]
    act("tone", gamma="2")
    assert keys(ticket)["toned"] != old
    assert keys(ticket)["source"]
    gone = client.get(f"/jobs/{ticket.number}/picture/toned/{old}/", {"left": 0})
    assert gone.status_code == 410
    for bad in (
        {"cols": 0},
        {"w": -1},
        {"left": "x"},
        {"cols": 10**9},
        {"left": 10**9},
        {"w": 10**6},
    ):
        assert picture(client, ticket, "dots", **bad).status_code == 422


def test_only_what_depends_on_a_change_gets_a_new_key(act, ticket):
    before = keys(ticket)
    act("tone", gamma="1.5")
    toned = keys(ticket)
    assert toned["source"] == before["source"]
    assert all(toned[view] != before[view] for view in ("toned", "dots", "proof"))
    act("dots", method="bayer")
    assert keys(ticket)["toned"] == toned["toned"]
    dotted = keys(ticket)
    act("burn", direction="one")
    assert keys(ticket) == dotted
    # another dose looks otherwise, but makes no other dots
    act("burn", speed="90")
    burned = keys(ticket)
    assert burned["proof"] != dotted["proof"]
    assert burned == {**dotted, "proof": burned["proof"]}


def test_readings_come_from_the_dots(client, ticket):
    html = read(client.get(f"/jobs/{ticket.number}/readings/"))
    assert "90.0 × 67.5 mm" in html
    assert "254 dpi, 0.100 mm" in html
    assert 'id="stub-time"' in html


def test_findings_and_their_fixes(client, act, ticket):
    act("place", x="380")
    page = read(client.get(f"/jobs/{ticket.number}/findings/"))
    assert "reaches beyond the bed" in page
    assert client.get(f"/jobs/{ticket.number}/files/gcode/").status_code == 422
    answer = client.post(f"/jobs/{ticket.number}/findings/on_the_bed/fix/")
    assert "Centre on the bed. Undo takes it back." in answer.content.decode()
    assert "beyond the bed" not in read(client.get(f"/jobs/{ticket.number}/findings/"))
    assert client.post(f"/jobs/{ticket.number}/findings/none/fix/").status_code == 200


def test_a_signature_is_void_when_its_grounds_change_and_only_then(client, act, ticket):
    act("blank", pitch="0.08")
    findings, rule = f"/jobs/{ticket.number}/findings/", "pitch_against_spot"

    def shown():
        found = client.get(findings).context["findings"]
        return next((one, name) for _, one, name, _ in found if one.rule == rule)

    words = {"name": "HW", "rests_on": shown()[0].rests_on}
    answer = client.post(f"/jobs/{ticket.number}/sign/{rule}/", words)
    assert "Signed by HW" in read(answer)
    act("tone", gamma="1.1")
    act("place", x="31")
    assert shown()[1].name == "HW"
    act("blank", pitch="0.07")
    assert shown()[1] is None
    assert "HW signed it for “0.080 mm rows, 0.100 mm spot”" in read(client.get(findings))
    act("blank", pitch="0.08")
    assert shown()[1].name == "HW"
    client.post(f"/jobs/{ticket.number}/sign/{rule}/", {**words, "back": "1"})
    assert shown()[1] is None


def test_nobody_signs_without_a_name(client, act, ticket):
    act("blank", pitch="0.08")
    answer = client.post(f"/jobs/{ticket.number}/sign/pitch_against_spot/", {"name": " "})
    assert (answer.status_code, b"Type your name" in answer.content) == (422, True)


def test_files(client, ticket):
    signed(client, ticket)
    for kind, start in {
        "gcode": b"; Old Ember",
        "dots": b"\x89PNG",
        "proof": b"\x89PNG",
        "job": b"PK",
    }.items():
        answer = client.get(f"/jobs/{ticket.number}/files/{kind}/")
        assert b"".join(answer.streaming_content).startswith(start)
        assert f"{ticket.number:04d}-scene" in answer["Content-Disposition"]
    sheet = read(client.get(f"/jobs/{ticket.number}/sheet/"))
    assert "Moves" in sheet
    assert client.get(f"/jobs/{ticket.number}/files/secret/").status_code == 404


def test_files_for_a_card_are_named_cut_and_checked(client, act, ticket, shelf):
    shelf["small"].part |= {"short_names": True, "file_ending": "nc", "file_mb": 0.1}
    shelf["small"].save()
    act("blank", width="60")
    act("burn", machine=shelf["small"].pk)
    answer = client.get(f"/jobs/{signed(client, ticket)}/files/gcode/")
    assert answer.status_code == 200, answer.content
    packed = zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content)))
    *names, sums = packed.namelist()
    assert names == [f"J{ticket.number:04d}{n:02d}.NC" for n in range(1, len(names) + 1)]
    assert len(names) > 2
    for line in packed.read(sums).decode().splitlines():
        told, name = line.split("  ")
        assert told == hashlib.sha256(packed.read(name)).hexdigest()
        assert len(packed.read(name)) <= 100_000

    def checked(**contents):
        copies = [SimpleUploadedFile(name, data) for name, data in contents.items()]
        where = f"/jobs/{ticket.number}/files/gcode/check/"
        answer = read(client.post(where, {"copies": copies}))
        return " ".join(re.sub("<[^>]+>", " ", answer).split())

    first, second = (packed.read(name) for name in names[:2])
    changed_byte = first.replace(b"\nG90\n", b"\nG91\n", 1)
    line = first[: first.index(b"\nG90\n")].count(b"\n") + 2
    says = checked(**{names[0].lower(): first, names[1]: second[:-40], "other.nc": b"G0"})
    assert f"{names[0].lower()} whole" in says
    cut = second[:-40].count(b"\n") + 1
    assert f"{names[1]} ends in line {cut}" in says
    assert "other.nc no file of this job" in says
    assert f"{names[2]} not chosen" in says
    assert f"differs from line {line} on" in checked(**{names[0]: changed_byte})
    assert "goes on after line" in checked(**{names[0]: first + b"G0X0\n"})
    nothing = client.post(f"/jobs/{ticket.number}/files/gcode/check/")
    assert (nothing.status_code, "Choose the files" in read(nothing)) == (422, True)


def upload(client, *files):
    return client.post(
        "/jobs/new/", {"files": [SimpleUploadedFile(n, d) for n, d in files]}
    )


def test_upload_opens_a_ticket(client, shelf, scene):
    answer = upload(client, ("my_moon-1.png", png(scene)))
    job = Job.objects.get()
    assert answer["HX-Redirect"] == f"/jobs/{job.number}/"
    assert job.name == "my moon 1"
    upload(client, ("a.png", png(scene)), ("b.png", png(scene[::-1])))
    assert (Job.objects.count(), Artwork.objects.count()) == (3, 2)


@pytest.mark.parametrize(
    ("name", "data"),
    [("empty.png", b""), ("words.png", b"no picture"), ("cut.png", png(np.zeros((50, 50), np.uint8))[:60]),
     ("job.zip", b"PK\x03\x04 broken")],
)  # fmt: skip
def test_a_bad_upload_gets_a_sentence_and_leaves_nothing(
    client, shelf, name, data, settings
):
    answer = upload(client, (name, data))
    assert answer.status_code == 422
    assert answer.content.decode().startswith(f"{name}: ")
    assert not Job.objects.exists()
    kept = settings.MEDIA_ROOT
    assert not kept.exists() or not [p for p in kept.rglob("*") if p.is_file()]
    assert client.post("/jobs/new/").status_code == 422


def test_a_job_file_opens_as_the_same_job(client, act, ticket):
    act("tone", gamma="1.9")
    given = b"".join(client.get(f"/jobs/{ticket.number}/files/job/").streaming_content)
    assert set(zipfile.ZipFile(io.BytesIO(given)).namelist()) == {"job.json", "scene.png"}
    upload(client, ("job.zip", given))
    twin = Job.objects.with_all().order_by("-number").first()
    assert spec_of(twin) == spec_of(Job.objects.with_all().get(pk=ticket.pk))


def test_one_pixel_makes_a_job(client, shelf):
    upload(client, ("dot.png", png(np.zeros((1, 1), np.uint8))))
    job = Job.objects.get()
    assert client.get(f"/jobs/{job.number}/findings/").status_code == 200


def test_a_burn_from_button_to_map(client, act, ticket, standin, shelf):
    act("blank", blank=shelf["disc"].pk, width="12")
    act("burn", machine=shelf["small"].pk, recipe=shelf["pale"].pk)
    page = read(client.post(f"/bench/jobs/{signed(client, ticket)}/burn/"))
    run = Run.objects.get()
    assert (run.state, run.error) == ("done", "")
    assert run.dots_wrong == 0
    assert run.dots_planned > 1000
    assert run.clock_s == pytest.approx(run.planned_s, rel=0.01)
    assert "lies where it was planned" in page
    shown, planned = (
        np.asarray(
            Image.open(
                io.BytesIO(b"".join(client.get(f"/bench/runs/{run.pk}/{name}.png")))
            ),
            float,
        )
        for name in ("map", "plan")
    )
    assert np.abs(shown - planned).max() <= 1
    assert "Last burn" in read(client.get("/bench/now/"))
    ticket.refresh_from_db()
    assert ticket.burned_at
    assert "Burned this week" in read(client.get("/"))


def test_no_controller_gets_a_sentence(client, ticket, settings, link):
    settings.WITNESS_PORT = settings.CONTROLLER_PORT = 9
    page = read(client.post(f"/bench/jobs/{signed(client, ticket)}/burn/"))
    assert "The stand-in controller is not there" in page
    assert Run.objects.get().state == "failed"


def test_no_link_gets_a_sentence(client, ticket, standin, link):
    link.close()
    page = read(client.post(f"/bench/jobs/{signed(client, ticket)}/burn/"))
    assert "The machine link is not running" in page


def test_burns_left_behind_are_closed(ticket):
    run = Run.objects.create(job=ticket, spec=ticket.spec_data, state="waiting")
    give_up_left_over()
    run.refresh_from_db()
    assert run.state == "waiting"  # no worker has begun with it: the next one will
    run.note(held=PREPARING)
    with alone(program_path(run).with_suffix(".held")):
        give_up_left_over()  # another worker is at it
    run.refresh_from_db()
    assert run.state == "waiting"
    give_up_left_over()
    run.refresh_from_db()
    assert (run.state, bool(run.error)) == ("failed", True)


def test_a_held_job_is_not_burned(client, act, ticket, standin):
    act("place", x="390")
    page = read(client.post(f"/bench/jobs/{ticket.number}/burn/"))
    assert "A stop holds this job" in page
    assert not Run.objects.exists()


def test_faults_have_pages_and_policy(client, ticket):
    page = client.get("/jobs/999/")
    assert page.status_code == 404
    assert "There is nothing here" in read(page)
    policy = client.get("/")["Content-Security-Policy"]
    assert "default-src 'none'" in policy
    assert "unsafe" not in policy
    assert json.loads(client.get("/ready/").content) in ({"ready": True}, {"ready": False})


def test_the_rack_finds_tickets(client, ticket):
    assert "Scene" in read(client.get("/", {"find": "sce"}))
    assert "No ticket matches." in read(client.get("/", {"find": "zebra"}))
    assert client.get("/shelf/").status_code == 200


def _file(client, ticket, kind, **query):
    answer = client.get(f"/jobs/{ticket.number}/files/{kind}/", query)
    return b"".join(answer.streaming_content) if answer.streaming else answer.content


def test_dots_in_every_format_are_the_same_dots_at_their_size(client, ticket):
    pictures = {
        kind: Image.open(io.BytesIO(_file(client, ticket, kind)))
        for kind in ("dots", "dots-bmp", "dots-tiff")
    }
    first = np.asarray(pictures["dots"])
    for picture_ in pictures.values():
        assert picture_.mode == "1"
        assert np.array_equal(np.asarray(picture_), first)
        assert picture_.info["dpi"] == pytest.approx((254, 254), rel=1e-4)


def test_dots_of_power_keep_their_grays(client, act, ticket):
    act("dots", method="power", family="power")
    pictures = [
        np.asarray(Image.open(io.BytesIO(_file(client, ticket, kind))))
        for kind in ("dots", "dots-bmp", "dots-tiff")
    ]
    assert all(np.array_equal(one, pictures[0]) for one in pictures)
    assert len(np.unique(pictures[0])) > 20


def test_toned_and_original(client, ticket):
    toned = Image.open(io.BytesIO(_file(client, ticket, "toned")))
    assert (toned.mode, toned.size) == ("L", (900, 675))
    assert toned.info["dpi"] == pytest.approx((254, 254), abs=0.01)
    given = _file(client, ticket, "original")
    assert hashlib.sha256(given).hexdigest() == ticket.artwork.sha256


def test_the_proof_comes_in_the_size_asked_for_and_prints_true(client, ticket):
    proof = Image.open(io.BytesIO(_file(client, ticket, "proof", pixels=500)))
    assert proof.size == (500, 400)  # the blank is 100 × 80 mm
    assert proof.info["dpi"] == pytest.approx((127, 127), abs=0.01)
    answer = client.get(f"/jobs/{ticket.number}/files/proof/", {"pixels": 20})
    assert answer.status_code == 422
    assert "200 to 8000 pixels" in answer.content.decode()
    answer = client.get(f"/jobs/{ticket.number}/files/proof/", {"pixels": "abc"})
    assert answer.status_code == 422
    assert "“abc” is no number of pixels" in answer.content.decode()


@pytest.mark.parametrize(("side_mm", "pixels"), [(3, 900), (60, 8000), (2500, 200)])
def test_a_piece_of_any_size_is_drawn_in_any_number_of_pixels(ticket, side_mm, pixels):
    """Finer, or coarser, than any dots may be."""
    spec = spec_of(ticket)
    face = {"shape": "disc", "width_mm": side_mm, "height_mm": side_mm}
    blank = spec.blank.model_copy(update=face)
    drawn = unrolled(spec.model_copy(update={"blank": blank}), pixels)
    assert drawn.shape == (pixels, pixels, 4)
    assert drawn[..., 3].mean() == pytest.approx(255 * np.pi / 4, rel=0.01)


def test_the_proof_sheet_is_one_page_with_what_is_to_be_approved(client, ticket, tmp_path):
    data = _file(client, ticket, "proof-sheet")
    assert data.startswith(b"%PDF-")
    reader = PdfReader(io.BytesIO(data))
    assert len(reader.pages) == 1
    text = reader.pages[0].extract_text()
    for words in (f"Job {ticket.number:04d}", "90.0 × 67.5 mm", "254 dpi", "Wood", "Board",
                  "subject to the material", "Signature", "True size", "Floyd–Steinberg"):  # fmt: skip
        assert words in text
    assert len(reader.pages[0].images) == 1


def test_the_job_sheet_is_one_page_with_what_the_machine_needs(client, ticket):
    data = _file(client, ticket, "job-sheet")
    reader = PdfReader(io.BytesIO(data))
    assert len(reader.pages) == 1
    text = " ".join(reader.pages[0].extract_text().split())
    for words in (f"Job {ticket.number:04d}", "Power and speed", "mm/s, both ways", "Front left",
                  "Focus", "Goggles for 10.6 µm", "clean, dry, no fingerprints", "its ticket"):  # fmt: skip
        assert words in text
    page = pypdfium2.PdfDocument(data)[0]
    picture = np.asarray(page.render(scale=3).to_pil().convert("L"))
    address, *_ = cv2.QRCodeDetector().detectAndDecode(picture)
    assert address == f"http://testserver/jobs/{ticket.number}/"


def test_texture_stays_put_and_can_be_left_out(client, act, ticket):
    """The same millimetres look the same whatever window they are seen through."""
    spec = changed(spec_of(ticket), substrate={"texture": "wood", "texture_strength": 100})
    change(ticket, spec, "Grain")
    whole = windows.face_pixels(spec, Window(0, 0, 400, 300, 400, 300))
    part = windows.face_pixels(spec, Window(100, 50, 200, 100, 200, 100))
    assert np.abs(whole[50:150, 100:300].astype(int) - part).max() <= 1
    assert np.ptp(whole.astype(int), axis=(0, 1)).min() > 20
    bare = changed(spec, substrate={"texture_strength": 0})
    flat = windows.face_pixels(bare, Window(0, 0, 40, 30, 40, 30))
    assert np.ptp(flat.astype(int), axis=(0, 1)).max() == 0
    tile = windows.face_pixels(spec, Window(0, 0, 1280, 1280, 640, 640))  # it repeats so
    assert tile.mean() == pytest.approx(flat.mean(), abs=1)


@pytest.mark.parametrize("backing", ["white", "black", "mirror", "light"])
def test_what_lies_behind_clear_material_changes_its_look(act, ticket, backing):
    look = {"clear": True, "ground": "#9fb3b5", "mark": "#eef2f0"}
    change(ticket, changed(spec_of(ticket), substrate=look), "Glass")
    plain = shown_colours(spec_of(ticket).substrate)
    act("blank", backing=backing)
    assert spec_of(ticket).substrate.backing == backing
    assert shown_colours(spec_of(ticket).substrate) != plain


def test_a_large_job_gets_a_quick_look_that_is_like_it(client, act, ticket):
    """Coarser dots, the same tones; small jobs need none."""
    address = f"/jobs/{ticket.number}/picture/proof/{{}}/"
    window = {"left": 0, "top": 0, "cols": 900, "rows": 675, "w": 90, "h": 67}
    exact = client.get(address.format(keys(ticket)["proof"]), window).content
    quick = client.get(
        address.format(keys(ticket)["proof"]), {**window, "quick": 1}
    ).content
    assert quick == exact
    act("blank", pitch="0.018")
    page = read(client.get(f"/jobs/{ticket.number}/blank/"))
    assert 'data-large="1"' in page
    size = spec_of(ticket).size
    window = {"left": 0, "top": 0, "cols": size.cols, "rows": size.rows, "w": 90, "h": 67}
    shown = [
        np.asarray(
            Image.open(
                io.BytesIO(client.get(address.format(keys(ticket)["proof"]), one).content)
            )
        )
        for one in (window, {**window, "quick": 1})
    ]
    assert shown[0].shape == shown[1].shape
    assert (
        np.abs(shown[0].astype(float).mean(axis=(0, 1)) - shown[1].mean(axis=(0, 1))).max()
        < 5
    )
    assert np.corrcoef(shown[0].ravel(), shown[1].ravel())[0, 1] > 0.98


class TestLooks:
    """The picture of a change before it is written."""

    WINDOW: ClassVar = {"left": 0, "top": 0, "cols": 80, "rows": 60, "w": 80, "h": 60}

    def look(self, client, ticket, station, **typed):
        where = "&".join(f"{name}={value}" for name, value in self.WINDOW.items())
        return client.post(
            f"/jobs/{ticket.number}/look/{station}/?view=proof&{where}",
            {"changed": list(typed), **typed},
        )

    @pytest.mark.parametrize(
        ("station", "typed"),
        [
            ("tone", {"brightness": "20"}),
            ("tone", {"input_black": "30", "input_white": "200"}),
            ("dots", {"noise": "12"}),
            ("artwork", {"border_on": "on"}),
        ],
    )
    def test_it_is_what_comes_when_it_is_written(self, client, act, ticket, station, typed):
        before = spec_of(ticket)
        looked = self.look(client, ticket, station, **typed)
        ticket.refresh_from_db()
        assert spec_of(ticket) == before
        act(station, **typed)
        ticket.refresh_from_db()
        key = view_keys(shown_spec(ticket))["proof"]
        assert looked["X-Key"] == key
        where = f"/jobs/{ticket.number}/picture/proof/{key}/"
        assert client.get(where, self.WINDOW).content == looked.content

    def test_what_is_refused_or_lies_otherwise_has_no_picture(self, client, ticket):
        assert self.look(client, ticket, "tone", brightness="fast").status_code == 204
        assert self.look(client, ticket, "tone", input_black="300").status_code == 204
        assert self.look(client, ticket, "artwork", turn="left").status_code == 204
        assert self.look(client, ticket, "burn", power="3").status_code == 404


def test_without_its_redis_a_burn_has_failed_in_words(client, ticket, monkeypatch):
    def unheard(_):
        raise RedisError

    monkeypatch.setattr(tasks, "burn", unheard)
    page = read(client.post(f"/bench/jobs/{signed(client, ticket)}/burn/"))
    assert "does not answer" in page
    assert Run.objects.get().state == "failed"


@pytest.mark.parametrize("address", ["nonsense", "redis://127.0.0.1:1/0"])
def test_a_wrong_address_of_the_tasks_is_told_in_words(address, monkeypatch, capsys):
    monkeypatch.setenv("OLD_EMBER_REDIS", address)
    assert cli.main(["worker"]) == 2
    assert "OLD_EMBER_REDIS" in capsys.readouterr().err
