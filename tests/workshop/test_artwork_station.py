"""The Artwork station: pages, ground, squaring, mix, mask, retouching, lettering, dots."""

import io
import json

import numpy as np
import pytest
from PIL import Image

from engraving.lettering import FONTS
from support.jobs import png
from support.pages import read
from workshop.jobs.models import Artwork, Font, Job
from workshop.jobs.pictures.engine import pipeline
from workshop.jobs.pictures.intake import keep_artwork
from workshop.jobs.pictures.store import artwork_path
from workshop.jobs.pictures.windows import mix_key
from workshop.jobs.revisions.writer import spec_of
from workshop.jobs.ticket.lifecycle import open_job

LASSO = {"kind": "lasso", "points": [[0, 0], [0.5, 0], [0.5, 1], [0, 1]]}


def spec(ticket):
    ticket.refresh_from_db()
    return spec_of(Job.objects.with_all().get(pk=ticket.pk))


def see_through():
    pixels = np.zeros((40, 60, 4), np.uint8)
    pixels[10:30, 15:45] = (20, 40, 60, 255)
    return png(pixels)


@pytest.fixture
def clear(shelf):
    return open_job(keep_artwork("logo.png", [see_through()]))


def test_the_file_is_kept_untouched(act, ticket):
    before = artwork_path(ticket.artwork.sha256).read_bytes()
    act("artwork", mask_add=json.dumps(LASSO))
    act("artwork", straighten="5")
    act("artwork", border_on="on")
    assert artwork_path(ticket.artwork.sha256).read_bytes() == before


class TestGround:
    def test_a_transparent_ground_says_what_becomes_of_it(self, client, clear):
        page = read(client.get(f"/jobs/{clear.number}/artwork/"))
        assert "leave unburned" in page
        assert "Nothing is burned there" in page
        data = {"ground": "black"}
        client.post(f"/jobs/{clear.number}/artwork/", {**_posted(clear), **data})
        page = read(client.get(f"/jobs/{clear.number}/artwork/"))
        assert "Burned solid" in page

    def test_an_opaque_picture_is_not_asked(self, client, ticket):
        page = read(client.get(f"/jobs/{ticket.number}/artwork/"))
        assert "Transparent ground" not in page


def _posted(job):
    from workshop.jobs.stations import registry

    form = registry.form_of(job, "artwork")(initial=registry.station_values(job, "artwork"))
    values = {bound.name: bound.value() for bound in form}
    return {
        name: value
        for name, value in values.items()
        if value is not None and value is not False
    }


class TestShape:
    def test_straightening_refits(self, act, ticket):
        act("artwork", straighten="4.5")
        found = spec(ticket)
        assert found.artwork.straighten_deg == 4.5
        assert found.size.width_mm / found.size.height_mm == pytest.approx(
            found.artwork.ratio
        )

    def test_corners_are_set_and_taken_off(self, act, ticket):
        act("artwork", corners="[[0.1,0.1],[0.9,0.05],[0.95,0.9],[0.05,0.95]]")
        assert spec(ticket).artwork.corners[1] == (0.9, 0.05)
        act("artwork", corners="none")
        assert spec(ticket).artwork.corners is None

    @pytest.mark.parametrize(
        "corners", ["[[0,0],[1,1],[1,0],[0,1]]", "nonsense", "[[0,0]]"]
    )
    def test_senseless_corners_get_a_sentence(self, act, ticket, corners):
        answer = act("artwork", corners=corners)
        assert b"fault" in answer.content
        assert spec(ticket).artwork.corners is None


class TestGray:
    def test_a_named_mix_fills_its_weights(self, act, ticket, client):
        act("artwork", mix="skin")
        assert spec(ticket).artwork.mix.red == 62
        act("artwork", green="80")
        found = spec(ticket).artwork.mix
        assert (found.red, found.green) == (62, 80)

    def test_weights_that_cancel_out_get_a_sentence(self, act, ticket):
        answer = act("artwork", red="-100", green="50", blue="0")
        assert "at least 1" in answer.content.decode()

    def test_a_picked_colour_is_dropped_and_comes_back(self, client, act, ticket):
        client.post(f"/jobs/{ticket.number}/pick/", {"x": "0.5", "y": "0.5"})
        dropped = spec(ticket).artwork.dropped
        assert len(dropped) == 1
        act("artwork", drop0="35")
        assert spec(ticket).artwork.dropped[0].tolerance == 35
        act("artwork", drop_remove="0")
        assert spec(ticket).artwork.dropped == ()
        assert client.post(f"/jobs/{ticket.number}/pick/", {"x": "?"}).status_code == 422

    def test_every_mix_has_its_small_picture(self, client, ticket):
        key = mix_key(spec(ticket))
        for name in ("luminance", "skin", "foliage and sky"):
            answer = client.get(f"/jobs/{ticket.number}/mix/{name}/{key}.jpg")
            assert Image.open(io.BytesIO(answer.content)).size[0] <= 200
        assert client.get(f"/jobs/{ticket.number}/mix/purple/{key}.jpg").status_code == 422


class TestMask:
    def test_each_step_can_be_taken_back_by_itself(self, client, act, ticket):
        for _ in range(3):
            act("artwork", mask_add=json.dumps(LASSO))
        assert len(spec(ticket).mask.edits) == 3
        client.post(f"/jobs/{ticket.number}/undo/")
        assert len(spec(ticket).mask.edits) == 2
        act("artwork", mask_take="last")
        assert len(spec(ticket).mask.edits) == 1
        act("artwork", mask_take="all")
        assert spec(ticket).mask.edits == ()

    def test_a_hint_goes_to_the_cut_out(self, act, ticket):
        hint = {"kind": "hint", "keep": True, "points": [[0.5, 0.5]], "size": 0.1}
        assert (
            b"Cut out the subject first"
            in act("artwork", mask_add=json.dumps(hint)).content
        )
        cut = {
            "kind": "cutout",
            "outline": [[0.1, 0.1], [0.9, 0.1], [0.9, 0.9], [0.1, 0.9]],
        }
        act("artwork", mask_add=json.dumps(cut))
        act("artwork", mask_add=json.dumps(LASSO))
        act("artwork", mask_add=json.dumps(hint))
        edits = spec(ticket).mask.edits
        assert [edit.kind for edit in edits] == ["cutout", "lasso"]
        assert len(edits[0].hints) == 1

    @pytest.mark.parametrize(
        "stroke", ["{", "[]", '{"kind": "blast"}', '{"kind": "brush", "points": []}',
                   '{"kind": "lasso", "points": [[0,0],[1,1],[1e9,0]]}'],
    )  # fmt: skip
    def test_strokes_that_are_none_get_a_sentence(self, act, ticket, stroke):
        assert b"fault" in act("artwork", mask_add=stroke).content
        assert spec(ticket).mask.edits == ()

    def test_edge_and_frame_are_kept(self, act, ticket):
        act("artwork", mask_add=json.dumps(LASSO))
        act("artwork", feather="0.5", grow="-0.2", frame="oval")
        act("artwork", vignette="4", frame_inset="2")
        found = spec(ticket).mask
        assert (found.feather_mm, found.grow_mm, found.frame) == (0.5, -0.2, "oval")
        assert (found.vignette_mm, found.frame_inset_mm) == (4, 2)

    def test_the_veil_covers_what_is_not_burned(self, client, act, ticket):
        act("artwork", mask_add=json.dumps(LASSO))
        job = Job.objects.with_all().get(pk=ticket.pk)
        key = pipeline().mask.key(spec_of(job))
        size = spec(ticket).size
        window = {
            "left": 0,
            "top": 0,
            "cols": size.cols,
            "rows": size.rows,
            "w": 200,
            "h": 150,
        }
        answer = client.get(f"/jobs/{ticket.number}/picture/veil/{key}/", window)
        veil = np.asarray(Image.open(io.BytesIO(answer.content)))
        assert veil[:, :95, 3].min() > 40
        assert veil[:, 115:, 3].max() == 0


class TestRetouch:
    def test_strokes_are_kept_apart_and_taken_off(self, act, ticket):
        before = pipeline().toned(spec(ticket)).mean()
        stroke = {
            "lighten": True,
            "strength": 60,
            "points": [[0.2, 0.5], [0.8, 0.5]],
            "size": 0.5,
        }
        act("artwork", retouch_add=json.dumps(stroke))
        assert pipeline().toned(spec(ticket)).mean() > before + 5
        act("artwork", retouch_on="")
        assert pipeline().toned(spec(ticket)).mean() == before
        act("artwork", retouch_take="all")
        assert spec(ticket).retouch.strokes == ()


class TestLettering:
    def test_a_line_is_added_set_moved_and_removed(self, act, ticket, client):
        act("artwork", line_add="1")
        act(
            "artwork",
            line0_text="Highmere",
            line0_cap="4 mm",
            line0_y="1/4 in",
            line0_arc="30",
        )
        line = spec(ticket).lettering.lines[0]
        assert (line.text, line.cap_mm, line.y_mm, line.arc_mm) == ("Highmere", 4, 6.35, 30)
        page = read(client.get(f"/jobs/{ticket.number}/artwork/"))
        assert "Thinnest stroke" in page
        act("artwork", line_add="1")
        act("artwork", line_remove="0")
        assert [line.text for line in spec(ticket).lettering.lines] == ["Text"]

    def test_an_empty_line_gets_a_sentence(self, act, ticket):
        act("artwork", line_add="1")
        assert b"required" in act("artwork", line0_text="").content

    def test_thin_strokes_and_missing_letters_are_said(self, act, ticket, client):
        act("artwork", line_add="1")
        act("artwork", line0_text="日本", line0_cap="0.3")
        page = read(client.get(f"/jobs/{ticket.number}/artwork/"))
        assert "thinner than the spot" in page
        assert "The font lacks 日本" in page

    def test_a_font_of_ones_own_travels_with_the_job(self, client, act, ticket):
        data = FONTS["besley"].read()
        upload = io.BytesIO(data)
        upload.name = "Signage_Bold.ttf"
        client.post(f"/jobs/{ticket.number}/fonts/", {"font": upload})
        font = Font.objects.get()
        assert font.name == "Signage Bold"
        act("artwork", line_add="1")
        act("artwork", line0_font=font.sha256)
        archive = b"".join(
            client.get(f"/jobs/{ticket.number}/files/job/").streaming_content
        )
        Font.objects.all().delete()
        stream = io.BytesIO(archive)
        stream.name = "job.zip"
        client.post("/jobs/new/", {"files": stream})
        assert Font.objects.get().sha256 == font.sha256
        assert (
            spec(Job.objects.order_by("-number").first()).lettering.lines[0].font
            == font.sha256
        )

    @pytest.mark.parametrize("data", [b"", b"GIF89a", b"\x00\x01\x00\x00rubbish"])
    def test_a_font_that_is_none_is_refused(self, client, ticket, data):
        upload = io.BytesIO(data)
        upload.name = "x.ttf"
        answer = client.post(f"/jobs/{ticket.number}/fonts/", {"font": upload})
        assert answer.status_code == 422
        assert Font.objects.count() == 0


class TestPages:
    def test_pages_of_a_file_are_chosen_and_undone(self, client, shelf):
        frames = [Image.new("L", (40, 30), 90), Image.new("L", (20, 60), 10)]
        stream = io.BytesIO()
        frames[0].save(stream, "TIFF", save_all=True, append_images=frames[1:])
        job = open_job(keep_artwork("scan.tif", [stream.getvalue()]))
        page = read(client.get(f"/jobs/{job.number}/artwork/"))
        assert "scan.tif, page 2" in page
        data = {**_posted(job), "sheet": f"{job.artwork_id}-1"}
        client.post(f"/jobs/{job.number}/artwork/", data)
        assert (spec(job).artwork.page, spec(job).artwork.width_px) == (1, 20)
        assert client.get(f"/sheets/{job.artwork_id}/1.jpg").status_code == 200
        client.post(f"/jobs/{job.number}/undo/")
        assert (spec(job).artwork.page, spec(job).artwork.width_px) == (0, 40)

    def test_several_files_make_tickets_or_sheets(self, client, shelf, scene):
        def files():
            found = []
            for i in range(3):
                stream = io.BytesIO(png(np.roll(scene, i + 1, axis=0)))
                stream.name = f"{i}.png"
                found.append(stream)
            return found

        client.post("/jobs/new/", {"files": files()})
        assert Job.objects.count() == 3
        client.post("/jobs/new/", {"files": files(), "together": "1"})
        assert Job.objects.count() == 4
        job = Job.objects.order_by("-number").first()
        other = Artwork.objects.get(name="2.png")
        client.post(
            f"/jobs/{job.number}/artwork/", {**_posted(job), "sheet": f"{other.pk}-0"}
        )
        assert spec(job).artwork.sha256 == other.sha256
        job.refresh_from_db()
        assert job.artwork_id == other.pk

    def test_a_page_of_another_ticket_is_refused(self, act, ticket, scene):
        other = keep_artwork("other.png", [png(scene[::-1])])
        assert b"no such page" in act("artwork", sheet=f"{other.pk}-0").content


class TestOwnDots:
    @pytest.fixture
    def dotted(self, shelf):
        pixels = np.random.default_rng(2).integers(0, 2, (40, 60), dtype=np.uint8) * 255
        return open_job(keep_artwork("dots.png", [png(pixels)]))

    def post(self, client, job, station, **fields):
        from workshop.jobs.stations import registry

        job = Job.objects.with_all().get(pk=job.pk)
        form = registry.form_of(job, station)(initial=registry.station_values(job, station))
        values = {bound.name: bound.value() for bound in form}
        data = {
            n: v
            for n, v in {**values, **fields}.items()
            if v is not None and v is not False
        }
        return client.post(
            f"/jobs/{job.number}/{station}/", data, headers={"HX-Request": "true"}
        )

    def test_kept_dots_rule_size_pitch_and_stations(self, client, dotted):
        page = read(client.get(f"/jobs/{dotted.number}/artwork/"))
        assert "made of dots already" in page
        self.post(client, dotted, "artwork", keep_dots="on")
        assert spec(dotted).size.width_mm == pytest.approx(6.0)
        for station in ("tone", "dots"):
            page = read(client.get(f"/jobs/{dotted.number}/{station}/"))
            assert "passed over" in page
        answer = self.post(client, dotted, "blank", width="7")
        assert "6.00, 12.00, 18.00, 24.00 mm work" in answer.content.decode()
        self.post(client, dotted, "blank", width="12")
        assert spec(dotted).size.height_mm == pytest.approx(8.0)
        self.post(client, dotted, "blank", width="15", ties="pitch")
        assert spec(dotted).size.pitch_mm == pytest.approx(0.125)
        self.post(client, dotted, "blank", dpi="254")
        assert spec(dotted).size.width_mm == pytest.approx(12.0)
        answer = self.post(client, dotted, "artwork", straighten="2")
        assert "break its grid" in answer.content.decode()
        self.post(client, dotted, "artwork", turn="right")
        assert (spec(dotted).size.cols, spec(dotted).size.rows) == (80, 120)
        self.post(client, dotted, "artwork", crop_width="0.5")
        assert spec(dotted).size.cols == 40
        assert pipeline().dots(spec(dotted)).count > 0
