"""The Place station's fixture, pictures for its pockets, the template sheet."""

import io
import zipfile

import numpy as np
import pytest
from PIL import Image

from engraving.place import burning_order, piece_at, pocket_offset
from support.jobs import png
from support.pages import read
from workshop.bench.models import Run
from workshop.jobs.exports.opening import open_job_file
from workshop.jobs.pictures.engine import pipeline
from workshop.jobs.revisions.writer import shown_spec, spec_of


@pytest.fixture
def rows(act, shelf):
    """The ticket on small boards, three by two."""
    act("blank", blank=shelf["board"].pk, fit="exact", width="40")
    act("place", fixture="on", columns="3", rows="2", gap_x="2", gap_y="2")


def upload(count):
    files = []
    for i in range(count):
        stream = io.BytesIO(png(np.full((30, 60), 30 + 12 * i, np.uint8)))
        stream.name = f"tag{i}.png"
        files.append(stream)
    return {"files": files}


def test_switched_on_and_off(act, ticket, rows):
    spec = spec_of(ticket)
    assert (spec.fixture.columns, spec.fixture.rows, spec.fixture.gap_x_mm) == (3, 2, 2)
    page = read(act("place", pocket_toggle="4"))
    assert "5 of 6 pockets" in page
    assert not spec_of(ticket).fixture.pocket(4).on
    act("place", fixture="")
    assert spec_of(ticket).fixture is None
    assert act("place").status_code == 200


def test_a_pocket_off_the_grid(act, ticket, rows):
    assert "Right of the first" not in read(act("place", shown="0"))
    page = read(act("place", shown="4"))
    assert "Right of the first" in page
    assert "Back onto the grid" not in page
    before = pocket_offset(spec_of(ticket), 4)
    page = read(act("place", pocket_x="90", pocket_turn="15"))
    assert "Back onto the grid" in page
    spec = spec_of(ticket)
    assert pocket_offset(spec, 4) == (90, before[1])
    assert piece_at(spec, 4).place.turn_deg == 15
    assert spec.fixture.pocket(3).x_mm is None
    act("place", order="near")
    assert sorted(burning_order(spec_of(ticket))) == list(range(6))
    act("place", pocket_grid="on")
    assert pocket_offset(spec_of(ticket), 4) == before
    assert piece_at(spec_of(ticket), 4).place.turn_deg == 0


def test_all_of_it_must_lie_on_the_bed(client, act, ticket, rows):
    assert "off the bed" in read(act("place", columns="6")).lower()
    page = read(client.get(f"/jobs/{ticket.number}/findings/"))
    assert "reaches beyond the bed" in page
    act("place", columns="2", pocket_toggle="")
    for pocket in range(4):
        act("place", pocket_toggle=str(pocket))
    page = read(client.get(f"/jobs/{ticket.number}/findings/"))
    assert "0 of 4 pockets" in page


def test_a_picture_for_each_pocket(client, act, ticket, rows):
    answer = client.post(f"/jobs/{ticket.number}/pockets/", upload(6))
    assert "6 pictures in the pockets" in answer.content.decode()
    ticket.refresh_from_db()
    spec = spec_of(ticket)
    assert spec.fixture.picture == "own"
    shares = []
    for pocket in range(6):
        act("place", shown=str(pocket))
        shares.append(pipeline().dots(shown_spec(ticket)).share)
    # in burning order: to and fro
    assert shares[0] > shares[1] > shares[2] > shares[5] > shares[4] > shares[3]
    page = read(act("place", shown="5"))
    assert "tag3.png" in page
    assert client.post(f"/jobs/{ticket.number}/pockets/", upload(7)).status_code == 422
    for place in ("artwork", "tone", "check", "run"):
        assert client.get(f"/jobs/{ticket.number}/{place}/").status_code == 200
    assert client.get(f"/jobs/{ticket.number}/readings/").status_code == 200


def test_one_picture_across(act, ticket, rows):
    act("place", picture="across", gap="skipped", rows="1")
    spec = spec_of(ticket)
    # three areas of 90 × 70 mm side by side
    assert (spec.size.width_mm, spec.size.height_mm) == (90, 70)
    crop = spec.artwork.crop
    whole = crop.width * 80 / (crop.height * 60)
    assert whole == pytest.approx(270 / 70, rel=1e-6)


def test_words_and_numbers(act, ticket, rows):
    act("artwork", line_add="1")
    act("artwork", line0_text="{n} {1}")
    act("place", words="Ada, first\nBo\n", first_number="7", digits="2", shown="1")
    lines = shown_spec(ticket).lettering.lines
    assert lines[0].text == "08 Bo"
    answer = act("place", words="\n".join("abcdefgh"))
    assert "8 lines do not fit" in answer.content.decode()


def test_the_template_sheet(client, ticket, rows):
    sheet = client.get(f"/jobs/{ticket.number}/template.pdf")
    assert sheet["Content-Type"] == "application/pdf"
    # 3 boards of 100 mm and 2 gaps of 2 mm, 12 mm round them, in points
    box = sheet.content.split(b"/MediaBox [ ")[1].split(b"]")[0].split()
    assert [float(side) for side in box[2:]] == pytest.approx(
        [(304 + 24) * 72 / 25.4, (162 + 24) * 72 / 25.4], abs=0.1
    )


def test_a_waiting_burn_goes_on(client, ticket):
    run = Run.objects.create(
        job=ticket, spec=ticket.spec_data, state="running", held="waiting"
    )
    assert "It waits for you" in read(client.get(f"/bench/runs/{run.pk}/"))


def test_a_pocket_has_a_likeness(client, act, ticket, rows):
    client.post(f"/jobs/{ticket.number}/pockets/", upload(2))
    picture = client.get(f"/jobs/{ticket.number}/pockets/1/anykey.jpg")
    assert Image.open(io.BytesIO(picture.content)).size[0] > 20
    assert client.get(f"/jobs/{ticket.number}/pockets/60/anykey.jpg").status_code == 404


def test_the_job_file_carries_every_picture(client, act, ticket, rows):
    client.post(f"/jobs/{ticket.number}/pockets/", upload(6))
    ticket.refresh_from_db()
    data = b"".join(client.get(f"/jobs/{ticket.number}/files/job/").streaming_content)
    held = zipfile.ZipFile(io.BytesIO(data)).namelist()
    assert sum(name.startswith("pictures/") for name in held) == 6
    again = open_job_file(io.BytesIO(data))
    assert spec_of(again).fixture == spec_of(ticket).fixture
    stripped = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as whole, zipfile.ZipFile(stripped, "w") as less:
        for name in held:
            text = whole.read(name)
            if name == "job.json":
                text = text.replace(
                    spec_of(ticket).fixture.pockets[0].artwork.sha256.encode(), b"f" * 64
                )
            less.writestr(name, text)
    bare = spec_of(open_job_file(io.BytesIO(stripped.getvalue())))
    assert bare.fixture.pockets[0].artwork is None


def scenes(count):
    """Pictures that differ in what they are like, so that different tones suit them."""
    random = np.random.default_rng(3)
    files = []
    for i in range(count):
        middle, spread = 40 + 30 * i, 8 + 9 * i
        stream = io.BytesIO(
            png(random.normal(middle, spread, (40, 80)).clip(0, 255).astype(np.uint8))
        )
        stream.name = f"tag{i}.png"
        files.append(stream)
    return files


def test_each_pocket_may_have_a_tone_of_its_own(client, act, ticket, rows):
    said = client.post(
        f"/jobs/{ticket.number}/pockets/",
        {"files": scenes(3), "fit": "on"},
        headers={"HX-Request": "true"},
    )
    assert said.status_code == 200
    ticket.refresh_from_db()
    spec = spec_of(ticket)
    order = burning_order(spec)
    tones = [piece_at(spec, index).tone for index in order]
    assert len({repr(tone) for tone in tones[:3]}) == 3
    assert tones[3:] == [spec.tone] * 3
    # The Tone station shows and changes the tone of the pocket that is looked at.
    act("place", shown=str(order[1]))
    page = client.get(f"/jobs/{ticket.number}/tone/").content.decode()
    assert "This pocket&#x27;s own tone" in page
    act("tone", brightness="7")
    ticket.refresh_from_db()
    changed = spec_of(ticket)
    assert piece_at(changed, order[1]).tone.brightness == 7
    assert [piece_at(changed, index).tone for index in order[2:]] == tones[2:]
    assert changed.tone == spec.tone
    act("tone", own="")
    ticket.refresh_from_db()
    assert piece_at(spec_of(ticket), order[1]).tone == spec.tone


def test_a_tone_can_be_fitted_to_each_pocket_later(client, act, ticket, rows):
    where = f"/jobs/{ticket.number}/pockets/"
    client.post(where, {"files": scenes(2)}, headers={"HX-Request": "true"})
    act("tone", each="on")
    ticket.refresh_from_db()
    spec = spec_of(ticket)
    own = [piece_at(spec, index).tone for index in burning_order(spec)]
    assert own[0] != own[1]
    assert own[2] == spec.tone
    page = client.get(f"/jobs/{ticket.number}/place/").content.decode()
    assert "Own in 2 pockets" in page
