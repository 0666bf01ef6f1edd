"""A file of G-code opens again: ours as its job, any other to look at, place and burn."""

import io
import time
from threading import Event

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from engraving.gcode import read_moves
from engraving.jobspec import MachinePart
from engraving.pipeline import Looked
from engraving.pipeline.file_path import Placing, burn_map, look_at, write_file
from support.jobs import png
from support.pages import read
from workshop.bench.models import FileBurn
from workshop.bench.runs.start import CannotBurnError, hold_free
from workshop.bench.where import address_of
from workshop.jobs.exports.opening import is_gcode
from workshop.jobs.models import Artwork, GcodeFile, Job
from workshop.jobs.pictures.engine import pipeline
from workshop.jobs.pictures.store import artwork_path
from workshop.jobs.revisions.writer import spec_of

LINES = b"""(made elsewhere)
N10 G21 G90
M4
G0 X10 Y20
G1 X30 S128 F6000
G0 X10 Y20.5
G1 X30 S255
G91
G0 X-20 Y0.5
G1 X10 S0
G1 X10 S255
M5
M30
"""


def upload(client, name, data):
    answer = client.post("/jobs/new/", {"files": SimpleUploadedFile(name, data)})
    return answer, answer.headers.get("HX-Redirect", "")


def ours(ticket):
    stream = io.BytesIO()
    pipeline().write_gcode(spec_of(ticket), stream)
    return stream.getvalue()


def test_ours_opens_as_the_job_it_was(client, ticket):
    data = ours(ticket)
    _, where = upload(client, "burned.gcode", data)
    job = Job.objects.with_all().get(number=int(where.split("/")[2]))
    assert job.pk != ticket.pk
    found, was = spec_of(job), spec_of(ticket)
    assert found.model_copy(update={"name": was.name}) == was
    stream = io.BytesIO()
    pipeline().write_gcode(found, stream)
    assert stream.getvalue() == data


def test_ours_without_its_picture_asks_for_it(client, ticket, scene):
    data, kept = ours(ticket), artwork_path(ticket.artwork.sha256)
    picture = kept.read_bytes()
    kept.unlink()
    _, where = upload(client, "burned.nc", data)
    page = client.get(where)
    assert "Choose scene.png, and it opens as its ticket" in read(page)
    assert "Size burned" in read(page)
    other = SimpleUploadedFile("other.png", png(scene[:10]))
    answer = client.post(f"{where}picture/", {"picture": other})
    assert (answer.status_code, "another picture" in read(answer)) == (422, True)
    assert client.post(f"{where}picture/").status_code == 422
    answer = client.post(
        f"{where}picture/", {"picture": SimpleUploadedFile("scene.png", picture)}
    )
    job = Job.objects.with_all().get(number=int(answer.url.split("/")[2]))
    assert spec_of(job).burn == spec_of(ticket).burn


def test_another_file_is_looked_at(client, shelf):
    _, where = upload(client, "elsewhere.nc", LINES)
    page = client.get(where)
    lies = page.context["lies"]
    assert lies.burned == pytest.approx((10, 20, 30, 21))
    assert (lies.look.estimate.rows, lies.look.most_power) == (3, 255)
    assert "20.0 × 1.0 mm" in read(page)
    for what in ("own", "bed"):
        picture = client.get(f"{where}{what}.png")
        assert Image.open(io.BytesIO(picture.content)).size[0] == 900
    assert client.get(f"{where}none.png").status_code == 404
    assert "elsewhere.nc" in read(client.get("/bench/files/"))
    client.post(f"{where}remove/")
    assert not GcodeFile.objects.exists()


@pytest.mark.parametrize("name", ["bench", "small"])
def test_it_lies_where_it_is_placed_whatever_corner_is_zero(client, shelf, name):
    """Also where axes run the other way: its front left corner is the bed's."""
    _, where = upload(client, "elsewhere.nc", LINES)
    words = {"machine": shelf[name].pk, "x_mm": "50", "y_mm": "1 in", "full_power": "255"}
    assert client.post(where, words).status_code == 302
    lies = client.get(where).context["lies"]
    assert lies.burned == pytest.approx((50, 25.4, 70, 26.4), abs=1e-6)
    assert lies.placing.times == pytest.approx(1000 / 255)
    bed = np.asarray(Image.open(io.BytesIO(client.get(f"{where}bed.png").content)), float)
    lit = np.argwhere(bed[..., 0] > 150)
    wide = shelf[name].part.get("bed_width_mm", MachinePart().bed_width_mm)
    assert lit[:, 1].min() * wide / bed.shape[1] == pytest.approx(50, abs=1.0)
    deep = bed.shape[0] - lit[:, 0].max() - 1
    assert deep * wide / bed.shape[1] == pytest.approx(25.4, abs=1.0)


@pytest.mark.parametrize(
    ("field", "typed"),
    [
        ("x_mm", "wide"),
        ("x_mm", "nan"),
        ("y_mm", ""),
        ("full_power", "0"),
        ("full_power", "1e9"),
    ],
)
def test_a_bad_place_is_told_and_nothing_moved(client, shelf, field, typed):
    _, where = upload(client, "elsewhere.nc", LINES)
    words = {
        "machine": shelf["bench"].pk,
        "x_mm": "5",
        "y_mm": "5",
        "full_power": "255",
        field: typed,
    }
    answer = client.post(where, words)
    assert answer.status_code == 422
    assert answer.context["form"].errors
    assert GcodeFile.objects.get().x_mm is None


HELD = {
    "off the bed": ({"x_mm": "390"}, {}, "beyond the bed"),
    "no name": ({}, {"name": ""}, "Type your name"),
    "not looked at": ({}, {"seen": ""}, "Look at what was found"),
    "not ticked": ({}, {"tick": ["focus"]}, "Not ticked on the list"),
    "too strong": ({"full_power": "100"}, {}, "more than the S1000"),
}


@pytest.mark.parametrize("name", HELD)
def test_a_file_is_held_until_all_is_done(client, shelf, name):
    place, burn, said = HELD[name]
    _, where = upload(client, "elsewhere.nc", LINES)
    words = {
        "machine": shelf["bench"].pk,
        "x_mm": "5",
        "y_mm": "5",
        "full_power": "255",
        **place,
    }
    client.post(where, words)
    ticks = [one.slug for one in client.get(where).context["hands"]]
    answer = client.post(
        f"{where}burn/", {"name": "mk", "seen": "on", "tick": ticks, **burn}
    )
    assert (answer.status_code, said in read(answer)) == (422, True)
    assert not FileBurn.objects.exists()


def test_it_burns_as_it_was_placed(client, shelf, standin):
    _, where = upload(client, "elsewhere.nc", LINES)
    words = {"machine": shelf["bench"].pk, "x_mm": "50", "y_mm": "60", "full_power": "255"}
    client.post(where, words)
    assert client.post(f"{where}walk/", {"power": "99"}).status_code == 422
    assert client.post(f"{where}walk/", {"power": "x"}).status_code == 422
    ticks = [one.slug for one in client.get(where).context["hands"]]
    answer = client.post(f"{where}burn/", {"name": "mk", "seen": "on", "tick": ticks})
    assert answer.status_code == 302
    made = FileBurn.objects.get()
    for _ in range(200):
        page = client.get(where)
        made.refresh_from_db()
        if made.state != "running":
            break
    assert (made.state, made.error, made.rows_done) == ("done", "", 3)
    assert "by mk" in read(page)
    strokes = standin.controller.device.machine.strokes()
    lit = strokes[strokes[:, 4] > 0]
    assert lit[:, [0, 2]].min() == pytest.approx(50, abs=0.01)
    assert lit[:, [1, 3]].max() == pytest.approx(61, abs=0.01)
    # Half power in the first row, full power in the next; the first is come into moving.
    rows = [lit[np.isclose(lit[:, 1], y)][:, 4].sum() for y in (60, 60.5)]
    assert rows[0] / rows[1] == pytest.approx(128 / 255, rel=0.04)


def test_the_walk_goes_round_it(client, shelf, standin):
    _, where = upload(client, "elsewhere.nc", LINES)
    answer = client.post(f"{where}walk/", {"power": "0"})
    assert answer.status_code == 302


BAD = {
    "empty": ("x.gcode", b"", "empty"),
    "no text": ("x.gcode", b"G1\0" * 20, "no text"),
    "damaged job": ("x.nc", b"; job !!!!\nG1 X1 S5 F100\n", "damaged"),
}


@pytest.mark.parametrize("name", BAD)
def test_what_cannot_be_opened_is_told(client, shelf, name):
    file, data, said = BAD[name]
    answer, where = upload(client, file, data)
    assert (answer.status_code, where) == (422, "")
    assert said in answer.content.decode()


UNREAD = {
    "nothing burned": b"G21\nG90\nG0X1Y1\nM2\n",
    "a canned cycle": b"G90\nG81 X1 Y1 Z-1 R1 F100\nG1 X5 S10\n",
    "far away": b"G90\nG1 X900000 S10 F100\nM2\n",
    "huge numbers": b"G90\nG1 X1" + b"0" * 400 + b" S10 F100\nM2\n",
}


@pytest.mark.parametrize("name", UNREAD)
def test_what_says_nothing_has_a_page_that_says_so(client, shelf, name):
    _, where = upload(client, "odd.gcode", UNREAD[name])
    page = client.get(where)
    assert page.status_code == 200
    assert page.context.get("unread")
    ticks = {"name": "mk", "seen": "on"}
    assert client.post(f"{where}burn/", ticks).status_code == 422
    assert client.get(f"{where}own.png").status_code == 404


def test_files_are_known_by_what_they_hold(scene):
    assert is_gcode("x.txt", LINES)
    assert is_gcode("x", b"%\nG21\n")
    assert is_gcode("x", b"; words\n; more\nM3 S0\n")
    assert not is_gcode("x.png", png(scene)[:4096])
    assert not is_gcode("letter.txt", b"Good day,\nhere is the picture.\n")


def test_inches_and_a_machine_told_in_inches_burn_the_same_place():
    inch = b"G20\nG90\nM3\nG0X1Y1\nG1X2S500F100\nG0X1Y1.02\nG1X2S500\nM5\n"
    part = MachinePart(inches=True, decimals=4)
    look = look_at(lambda: io.BytesIO(inch), part, Placing())
    assert look.estimate.burn_bounds_mm == pytest.approx((25.4, 25.4, 50.8, 25.908))
    out = io.BytesIO()
    write_file(lambda: io.BytesIO(inch), part, Placing(10, 5, 1), out, "inch.nc")
    moves = list(read_moves(out.getvalue()))
    ends = np.concatenate([m.x[m.power > 0] * m.unit_mm for m in moves])
    assert ends.max() == pytest.approx(60.8, abs=0.003)
    assert b"G20" in out.getvalue()


def test_the_burn_map_holds_all_of_the_energy():
    part = MachinePart(s_max=255)
    looked = Looked(0, 0, 60, 40, 300, 200)
    found = burn_map(lambda: io.BytesIO(LINES), part, Placing(), looked)
    # Two rows and a half of 20 mm at 100 mm/s: at S128, at S255, the half at S255.
    wanted = 0.2 * 128 / 255 + 0.2 + 0.1
    assert found.sum() == pytest.approx(wanted, rel=1e-3)
    rows = np.flatnonzero(found.sum(axis=1))
    assert (200 - rows.max() - 1) * 0.2 == pytest.approx(20, abs=0.2)


def test_no_two_pictures_of_one_file_are_kept(client, ticket):
    before = Artwork.objects.count()
    upload(client, "a.gcode", ours(ticket))
    assert Artwork.objects.count() == before


def test_a_large_file_is_read_beside_and_nobody_waits(client, shelf, monkeypatch):
    monkeypatch.setattr("workshop.bench.files.facts.QUICK_BYTES", 10)
    gate = Event()

    def slow(*words):
        gate.wait(20)
        return look_at(*words)

    monkeypatch.setattr("workshop.bench.files.facts.look_at", slow)
    lines = LINES.replace(b"Y20", b"Y25")
    _, where = upload(client, "large.nc", lines)
    page = client.get(where)
    assert "still being read" in read(page)
    assert b'hx-trigger="every 2s"' in page.content
    answer = client.post(f"{where}burn/", {"name": "mk", "seen": "on"})
    assert (answer.status_code, FileBurn.objects.count()) == (422, 0)
    gate.set()
    for _ in range(200):
        page = client.get(where)
        if page.context.get("lies"):
            break
        time.sleep(0.02)
    assert page.context["lies"].burned[1] == pytest.approx(25)


@pytest.mark.parametrize(
    ("state", "busy"), [("running", True), ("held", True), ("done", False)]
)
def test_no_job_begins_where_a_file_burns(shelf, ticket, monkeypatch, state, busy):
    """A fresh blank would be laid under the beam, and the file's burn be lost."""
    file = GcodeFile.objects.create(sha256="0" * 64, name="x.nc", size_bytes=1)
    address = address_of(ticket.machine)
    FileBurn.objects.create(file=file, address=address, operator="mk")
    monkeypatch.setattr("workshop.bench.runs.start.link", lambda *_, **__: {"state": state})
    if busy:
        with pytest.raises(CannotBurnError, match="busy"):
            hold_free(ticket)
    else:
        hold_free(ticket)
