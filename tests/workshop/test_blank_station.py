"""The Blank station and the shelf of blanks."""

import io
import re

import numpy as np
import pytest
from PIL import Image

from support.pages import read
from workshop.jobs.models import Job
from workshop.jobs.revisions.writer import spec_of, undo
from workshop.jobs.stations.blank.materials import materials, on_material
from workshop.shelf.blanks.changes import put_blank
from workshop.shelf.models import Blank, Substrate
from workshop.shell.services import inches_shown


def spec(ticket):
    ticket.refresh_from_db()
    return spec_of(Job.objects.with_all().get(pk=ticket.pk))


class TestSize:
    def test_fitting_inside_covering_and_stretching(self, act, ticket):
        """A 4 : 3 picture on a board of 100 × 80 mm with 5 mm of margin."""
        found = spec(ticket).size
        assert (found.width_mm, found.height_mm) == (90, 67.5)
        act("blank", fit="cover", bleed="1.3")
        act("blank", bleed="1.3")
        found = spec(ticket)
        assert found.size.height_mm == pytest.approx(82.6)
        assert found.size.width_mm == pytest.approx(82.6 * 4 / 3)
        assert found.blank.keep_inside
        act("blank", fit="stretch", bleed="0")
        assert (spec(ticket).size.width_mm, spec(ticket).size.height_mm) == (90, 70)

    def test_stretching_says_how_much(self, act, ticket, client):
        act("blank", fit="stretch")
        page = read(client.get(f"/jobs/{ticket.number}/blank/"))
        # 90/70 against 4/3: 3.6 % narrower
        assert "Stretched: 3.6 % narrower" in page

    def test_the_size_of_the_file_is_offered(self, act, ticket, client):
        """80 × 60 pixels at 254 dpi are 8 × 6 mm."""
        page = read(client.get(f"/jobs/{ticket.number}/blank/"))
        assert "As in the file, 8.0 × 6.0 mm" in page
        act("blank", fit="exact", width="8.0000 mm")
        assert spec(ticket).size.height_mm == pytest.approx(6)
        act("artwork", straighten="1")
        page = read(client.get(f"/jobs/{ticket.number}/blank/"))
        assert "As in the file" not in page

    def test_the_ratio_can_be_let_go(self, act, ticket):
        act("blank", lock="")
        act("blank", lock="", width="40")
        act("blank", lock="", height="40")
        assert (spec(ticket).size.width_mm, spec(ticket).size.height_mm) == (40, 40)

    def test_another_blank_refits_by_itself(self, act, ticket, shelf):
        act("blank", blank=str(shelf["disc"].pk))
        assert spec(ticket).size.width_mm == 90

    def test_nudging_moves_the_picture_on_the_blank(self, act, ticket, client):
        before = spec(ticket)
        act("blank", nudge_x="1", nudge_y="-0.1")
        found = spec(ticket)
        assert (found.size.offset_x_mm, found.size.offset_y_mm) == (1, -0.1)
        assert found.place.x_mm == pytest.approx(before.place.x_mm + 1)
        act("blank", nudge_x="30")
        page = read(client.get(f"/jobs/{ticket.number}/blank/"))
        # 45 + 31 mm to the right of the middle, the board ends at 50
        assert "28.9 % of the picture lies beyond the blank" in page
        act("blank", centre="on")
        assert spec(ticket).size.offset_x_mm == 0
        assert spec(ticket).place.x_mm == pytest.approx(before.place.x_mm)

    def test_a_mirrored_picture_is_nudged_as_it_looks(self, act, ticket):
        act("blank", seen_from="back")
        before = spec(ticket).place.x_mm
        act("blank", nudge_x="2")
        assert spec(ticket).size.offset_x_mm == 2
        assert spec(ticket).place.x_mm == pytest.approx(before - 2)


class TestResolution:
    @pytest.mark.parametrize(
        ("field", "typed", "pitch"),
        # 0.08 mm = 317.5 dpi, 12.5 lines a mm
        [("dpi", "317.5", 0.08), ("lines", "12.5", 0.08), ("pitch", "0.08", 0.08),
         ("pitch", "1/300 in", 25.4 / 300)],
    )  # fmt: skip
    def test_three_fields_one_pitch(self, act, ticket, field, typed, pitch):
        act("blank", **{field: typed})
        assert spec(ticket).size.pitch_mm == pytest.approx(pitch)

    def test_dots_of_a_row_may_lie_otherwise_than_the_rows(self, act, ticket, client):
        act("blank", pitch="0.1 mm", dot_pitch="0.05 mm")
        size = spec(ticket).size
        assert size.cell_mm == (0.05, 0.1)
        assert size.cols == round(size.width_mm / 0.05)
        refused = read(act("blank", dot_pitch="0.7 mm"))
        assert "Dots may lie 0.020 mm to 0.500 mm apart on these rows." in refused
        act("blank", dot_pitch="")
        assert spec(ticket).size.dot_pitch_mm is None

    def test_overlap_and_even_steps_are_said(self, act, ticket, client, shelf):
        act("blank", pitch="0.08")
        page = read(client.get(f"/jobs/{ticket.number}/blank/"))
        # a spot of 0.1 mm over rows of 0.08
        assert "rows overlap by 20 %" in page
        job = Job.objects.with_all().get(pk=ticket.pk)
        job.head.spec["machine"]["step_mm"] = 0.0125
        job.head.save()
        page = read(client.get(f"/jobs/{ticket.number}/blank/"))
        for even in ("0.0625 mm", "0.075 mm", "0.0875 mm"):
            assert even in page


class TestSide:
    def test_sentences_follow_and_overruling_stays_flagged(self, act, ticket, client):
        def said():
            return client.get(f"/jobs/{ticket.number}/blank/").content.decode()

        assert "The beam darkens it: dark tones are burned." in said()
        act("blank", seen_from="back")
        assert "worked from behind and looked at from its face" in said()
        act("blank", seen_from="front", printing_plate="on")
        assert "Inverted, so that black prints." in said()
        act("blank", side_mirror="no")
        assert "Not mirrored, as set by hand. Overruled." in said()

    def test_a_colour_of_the_blank_is_the_ground(self, act, ticket, shelf):
        colours = [{"name": "Red", "ground": "#7c1a20", "mark": "#d9d7d0"},
                   {"name": "Blue", "ground": "#16284a", "mark": ""}]  # fmt: skip
        tag = put_blank("Tag", shelf["slate"], "", colours, width_mm=60, height_mm=34)
        act("blank", blank=str(tag.pk))
        assert spec(ticket).substrate.ground == "#7c1a20"
        act("blank", colour="Blue")
        assert (spec(ticket).substrate.ground, spec(ticket).substrate.mark) == (
            "#16284a",
            "#d9d7d0",
        )
        assert b"does not come in that colour" in act("blank", colour="Pink").content


class TestInches:
    def test_an_operator_reads_and_types_inches(self, client, act, ticket):
        client.cookies["units"] = "in"
        token = inches_shown.set(True)  # for what the browser would post back
        page = read(client.get(f"/jobs/{ticket.number}/blank/"))
        assert 'value="3.5433"' in page  # 90 mm
        act("blank", width="4 1/2")
        # 4 1/2 in = 114.3 mm
        assert spec(ticket).size.width_mm == pytest.approx(114.3)
        act("blank", width="100 mm")
        assert spec(ticket).size.width_mm == pytest.approx(100)
        assert "at most 118.1102 in" in read(act("blank", width="200"))
        client.cookies["units"] = "mm"
        inches_shown.reset(token)
        assert b'value="100"' in client.get(f"/jobs/{ticket.number}/blank/").content


SVG = b'<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="40mm" viewBox="0 0 40 40"><path d="M20 0 L40 40 L0 40 Z"/></svg>'
PLAIN = {
    "name": "Slate square",
    "shape": "rectangle",
    "width_mm": "100",
    "height_mm": "100",
    "thickness_mm": "5",
}


def upload(data, name):
    stream = io.BytesIO(data)
    stream.name = name
    return stream


class TestShelf:
    @pytest.mark.parametrize(
        ("fields", "width"),
        [({}, 100), ({"shape": "disc", "width_mm": "4 in"}, 101.6),
         ({"shape": "wall", "diameter_mm": "70"}, 219.91), ({"shape": "ring", "diameter_mm": "18"}, 56.55),
         ({"shape": "taper", "diameter_mm": "80", "foot_mm": "60"}, 219.91),
         ({"shape": "outline", "drawing": SVG}, 40)],
    )  # fmt: skip
    def test_blanks_of_every_shape_are_added(self, client, shelf, fields, width):
        if "drawing" in fields:
            fields = {**fields, "drawing": upload(SVG, "edge.svg")}
        assert client.post("/shelf/blanks/new/", {**PLAIN, **fields}).status_code == 302
        blank = Blank.objects.get(name="Slate square")
        assert blank.part["width_mm"] == pytest.approx(width, abs=0.01)
        assert client.get(f"/shelf/blanks/{blank.pk}/").status_code == 200
        assert b"Slate square" in client.get("/shelf/").content

    @pytest.mark.parametrize(
        ("fields", "words"),
        [({"name": "Board"}, "Another blank has this name"), ({"name": ""}, "Type a name"),
         ({"width_mm": "wide"}, "cannot be read"), ({"width_mm": "0"}, "at least 0.1 mm"),
         ({"shape": "wall"}, "needs its diameter"), ({"shape": "outline"}, "needs its drawing"),
         ({"shape": "hexagon"}, "valid choice")],
    )  # fmt: skip
    def test_bad_input_gets_a_sentence_and_nothing_is_kept(
        self, client, shelf, fields, words
    ):
        answer = client.post("/shelf/blanks/new/", {**PLAIN, **fields})
        assert answer.status_code == 200
        assert words in answer.content.decode()
        assert Blank.objects.count() == 2

    def test_hostile_drawings_and_photos_are_refused(self, client, shelf):
        evil = SVG.replace(b"<path", b"<script>1</script><path")
        for field, data, words in (
            ("drawing", evil, "script"), ("photo", b"no picture", "photo cannot be read")
        ):  # fmt: skip
            fields = {**PLAIN, "shape": "outline", field: upload(data, "x")}
            if field == "photo":
                fields["drawing"] = upload(SVG, "edge.svg")
            assert words in read(client.post("/shelf/blanks/new/", fields))
        assert Blank.objects.count() == 2

    def test_editing_keeps_jobs_as_they_were(self, client, ticket, shelf):
        pk = shelf["board"].pk
        data = {**PLAIN, "name": "Board", "width_mm": "222", "colour0_name": "Oak",
                "colour0_ground": "#C0A070", "colour0_mark": "#302010", "own_area": "on",
                "area_shape": "oval", "area_width": "50", "area_height": "40"}  # fmt: skip
        picture = io.BytesIO()
        Image.new("RGB", (40, 30), "tan").save(picture, "PNG")
        data["photo"] = upload(picture.getvalue(), "board.png")
        assert client.post(f"/shelf/blanks/{pk}/", data).status_code == 302
        board = Blank.objects.get(pk=pk)
        assert board.part["width_mm"] == 222
        assert board.part["area"]["shape"] == "oval"
        assert board.colours == [{"name": "Oak", "ground": "#c0a070", "mark": "#302010"}]
        assert client.get(f"/shelf/blanks/{pk}/photo.jpg").status_code == 200
        assert spec(ticket).blank.width_mm == 100

    def test_duplicating_and_removing(self, client, ticket, shelf):
        pk = shelf["board"].pk
        for _ in range(2):
            client.post(f"/shelf/blanks/{pk}/duplicate/")
        assert Blank.objects.filter(name__startswith="Board (").count() == 2
        assert b"1 job uses it" in client.get(f"/shelf/blanks/{pk}/").content
        client.post(f"/shelf/blanks/{pk}/remove/")
        ticket.refresh_from_db()
        assert ticket.blank is None
        assert spec(ticket).blank.name == "Board"
        assert client.get(f"/jobs/{ticket.number}/blank/").status_code == 200

    def test_the_drawing_follows_the_form(self, client, shelf):
        answer = client.post(
            "/shelf/blanks/preview/", {**PLAIN, "shape": "oval", "height_mm": "60"}
        )
        face = re.search(r'__face" d="M([^"]*)Z"', answer.content.decode())[1]
        edge = np.array([point.split() for point in face.split("L")], float)
        assert np.abs(edge).max(axis=0).tolist() == [50, 30]
        assert np.allclose(np.hypot(*(edge / [50, 30]).T), 1, atol=1e-4)
        answer = client.post("/shelf/blanks/preview/", {**PLAIN, "shape": "wall"})
        assert b"a measure is missing" in answer.content


class TestOtherMaterials:
    """The same piece on all that is on the shelf, and one press to change to it."""

    def test_each_substrate_is_shown_in_each_of_its_colours(self, client, ticket):
        page = client.get(f"/jobs/{ticket.number}/materials/")
        labels = {one.label for one, _ in page.context["cells"]}
        assert {one.name for one in Substrate.objects.all()} <= {
            label.split(", ")[0] for label in labels
        }
        assert page.context["cells"][0][0].chosen
        one, key = page.context["cells"][-1]
        where = f"/jobs/{ticket.number}/materials/{key}.png"
        assert client.get(where, {"on": one.choice})["Content-Type"] == "image/png"
        assert client.get(where, {"on": "0::"}).status_code == 422
        assert client.get(where.replace(key, "past"), {"on": one.choice}).status_code == 410

    def test_what_is_pressed_is_what_was_shown(self, client, ticket):
        for one in materials(ticket)[1:4]:
            shown = on_material(ticket, one.choice)
            client.post(
                f"/jobs/{ticket.number}/blank/",
                {"changed": "material", "material": one.choice},
                headers={"HX-Request": "true"},
            )
            ticket.refresh_from_db()
            assert spec_of(ticket) == shown
            undo(ticket)
            ticket.refresh_from_db()
