"""The bed camera on the Place station: calibrated, the bed looked at, pieces laid."""

import io
import re

import numpy as np
import pytest
from PIL import Image

from engraving.camera import bed_marks
from engraving.geometry.rotation import turned_about
from engraving.jobspec import MachinePart
from engraving.place import from_picture, piece_at, piece_box
from standins.camera import Lying, hidden_camera, photograph_bed
from support.bed import WOOD, marks_photo
from support.pages import read
from workshop.bench.camera import bed as bench
from workshop.bench.runs.start import CannotBurnError
from workshop.jobs.camera import bed_camera
from workshop.jobs.models import Job
from workshop.jobs.revisions.writer import change, spec_of, updated
from workshop.shelf.machines.changes import duplicate_machine, machine_values, save_machine

HX = {"HX-Request": "true"}


def as_png(codes):
    stream = io.BytesIO()
    Image.fromarray(codes).save(stream, "PNG")
    return stream.getvalue()


def part_of(machine):
    return MachinePart.model_validate(machine.part)


@pytest.fixture
def calibrated(ticket):
    bed_camera.calibrate_by(ticket.machine, as_png(marks_photo(part_of(ticket.machine), 4)))
    return ticket


@pytest.fixture
def send(client):
    def do(job, what, data):
        client.get(f"/jobs/{job.number}/place/")
        upload = io.BytesIO(data)
        upload.name = "photo.png"
        return client.post(
            f"/jobs/{job.number}/camera/{what}/", {"photo": upload}, headers=HX
        )

    return do


def photo_of(machine, laid):
    part = part_of(machine)
    bed = part.bed_width_mm, part.bed_height_mm
    return as_png(photograph_bed(np.zeros((0, 6)), None, bed, laid, hidden_camera(4)))


def blanks_on(job, *places):
    blank = spec_of(job).blank
    return [Lying("rectangle", blank.width_mm, blank.height_mm, *at, WOOD) for at in places]


def middle_of_blank(piece):
    across, up = from_picture(piece)
    x, y = piece_box(piece.size, piece.place).middle
    return turned_about(x + across, y + up, (x, y), piece.place.turn_deg)


def test_marks_card_is_an_ordinary_job(client, ticket):
    client.get(f"/jobs/{ticket.number}/place/")
    answer = client.post(f"/jobs/{ticket.number}/camera/marks-card/", headers=HX)
    number = int(re.search(r"/jobs/(\d+)/burn/", answer["HX-Redirect"])[1])
    spec = spec_of(Job.objects.get(number=number))
    left, front, *_ = bed_marks(spec.machine).box()
    assert (spec.place.x_mm, spec.place.y_mm) == pytest.approx((left, front))
    assert spec.keeps_dots
    assert spec.artwork.width_px == spec.size.cols


def test_a_photo_of_the_marks_calibrates_and_its_residual_is_shown(send, ticket):
    page = send(ticket, "bed", b"nothing")
    assert page.content.decode() == "Calibrate the camera first."
    page = send(ticket, "marks", as_png(np.full((600, 800, 3), 90, np.uint8)))
    assert "0 of" in read(page)
    photo = as_png(marks_photo(part_of(ticket.machine), 4))
    page = send(ticket, "marks", photo).content.decode()
    residual = float(re.search(r"marks lie ([\d.]+) mm off", page)[1])
    assert 0 < residual < 0.3
    assert "Marks lie off" in page
    page = send(ticket, "bed", b"nothing")
    assert "cannot be read" in read(page)


def test_the_piece_is_laid_on_a_found_blank_turned_as_it_lies(client, send, calibrated):
    job = calibrated
    laid = blanks_on(job, (110, 90, 23.0))
    page = send(job, "bed", photo_of(job.machine, laid)).content.decode()
    assert "1 blank found." in page
    assert "bed__found is-alike" in page
    job.machine.refresh_from_db()
    picture = client.get(f"/jobs/{job.number}/bed/{job.machine.bed_seen['photo']}.jpg")
    assert b"".join(picture.streaming_content).startswith(bytes([0xFF, 0xD8]))
    change(job, updated(spec_of(job), {"size": {"offset_x_mm": 3, "offset_y_mm": -2}}), "x")
    client.post(f"/jobs/{job.number}/camera/lay/", {"at": "0"}, headers=HX)
    spec = spec_of(Job.objects.get(pk=job.pk))
    assert spec.place.turn_deg == pytest.approx(23, abs=0.3)
    assert middle_of_blank(spec) == pytest.approx((110, 90), abs=0.4)
    gone = client.post(f"/jobs/{job.number}/camera/lay/", {"at": "7"}, headers=HX)
    assert "not in the newest photo" in gone.content.decode()
    page = read(client.post(f"/jobs/{job.number}/camera/forget/", headers=HX))
    assert "bed__found" not in page


def test_each_found_blank_gets_a_piece(client, send, calibrated):
    job = calibrated
    places = [(90, 70, 12.0), (210, 80, -30.0), (120, 190, 40.0)]
    send(job, "bed", photo_of(job.machine, blanks_on(job, *places)))
    page = client.post(f"/jobs/{job.number}/camera/lay/", {"at": "all"}, headers=HX)
    assert "3 pockets" in read(page)
    spec = spec_of(Job.objects.get(pk=job.pk))
    assert spec.fixture.count == 3
    pieces = [piece_at(spec, index) for index in range(3)]
    for x, y, angle in places:
        mine = min(pieces, key=lambda p: np.hypot(*np.subtract(middle_of_blank(p), (x, y))))
        assert middle_of_blank(mine) == pytest.approx((x, y), abs=0.4)
        assert mine.place.turn_deg == pytest.approx(angle, abs=0.3)
    # A pocket that lies turned is burned turned, and its template drawn so.
    assert client.get(f"/jobs/{job.number}/template.pdf").content[:4] == b"%PDF"


def test_a_machine_saved_or_changed_keeps_its_camera_and_another_has_none(
    client, calibrated
):
    machine = calibrated.machine
    page = read(client.get(f"/shelf/machines/{machine.pk}/"))
    assert "Bed camera calibrated on" in page
    save_machine(machine_values(machine), machine)
    machine.refresh_from_db()
    assert bed_camera.camera_of(machine) is not None
    assert bed_camera.camera_of(duplicate_machine(machine)) is None


def test_a_real_machine_has_a_camera_of_its_own(ticket):
    ticket.machine.link = "socket://127.0.0.1:1"
    with pytest.raises(CannotBurnError, match="camera of its own"):
        bench.photograph_bed(ticket, "marks")
