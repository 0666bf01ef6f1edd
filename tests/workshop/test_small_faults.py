"""Small things an operator met: each is said once, in the right unit, at the right place."""

import re

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from engraving.artwork.dotted import LIKELY, dotted_odds
from engraving.check import Finding, Severity, check_job
from engraving.dots import METHODS, make_dots
from engraving.errors import InputError
from engraving.jobspec import DotsPart
from engraving.place import burned_box, engravable_mask
from engraving.recipe import run_ups_mm
from support.gate import signed_gcode
from support.jobs import changed, png
from support.pages import read
from workshop.jobs.exports import opening
from workshop.jobs.models import Job
from workshop.jobs.pictures.intake import keep_artwork
from workshop.jobs.pictures.windows import view_keys
from workshop.jobs.revisions.writer import spec_of
from workshop.jobs.stations.burn.facts import burn_facts
from workshop.jobs.stations.place.facts import bed_facts
from workshop.jobs.ticket.findings import full_check, quick_findings
from workshop.jobs.ticket.lifecycle import open_job
from workshop.jobs.ticket.readings import full_readings
from workshop.jobs.ticket.summary import station_lines
from workshop.shelf.recipes.changes import put_recipe
from workshop.shell.services import in_shown_unit, inches_shown

HX = {"HX-Request": "true"}


def line(ticket, slug):
    spec = spec_of(ticket)
    found = station_lines(ticket, spec, quick_findings(ticket, spec))
    return next(one.result for one in found if one.slug == slug)


def rules(ticket):
    return {one.rule: one for one in full_check(ticket)[0]}


@pytest.fixture
def inches():
    token = inches_shown.set(True)
    yield
    inches_shown.reset(token)


@pytest.mark.parametrize(("rows", "room"), [("x", (1.5, 0)), ("y", (0, 1.5))])
def test_run_ups_are_drawn_where_the_rows_run(act, ticket, rows, room):
    act("burn", speed="94.868", rows=rows)
    spec = spec_of(ticket)
    assert run_ups_mm(spec) == pytest.approx(room, abs=1e-3)
    box, facts = burned_box(spec), bed_facts(spec, ticket)
    assert facts.runs.left == pytest.approx(box.left - room[0], abs=0.002)
    assert facts.runs.front == pytest.approx(box.front - room[1], abs=0.002)
    drawn = np.array(re.findall(r"([\d.]+) ([\d.]+)", facts.run_ups), float)
    wide, high = np.ptp(drawn, axis=0)
    assert (wide, high) == pytest.approx(
        (box.width + 2 * room[0], box.height + 2 * room[1]), abs=0.002
    )


class TestToneLine:
    """The ticket's row says everything that changes the tones."""

    @pytest.mark.parametrize(
        ("name", "value", "words"),
        [("shade", "-2", "2 shades darker"), ("curve", "[[0,0],[99,120],[255,255]]", "curve"),
         ("exposure", "0.5", "exposure"), ("output_black", "9", "levels"),
         ("shadows", "20", "shadows"), ("denoise", "10", "denoised")],
    )  # fmt: skip
    def test_it_is_never_as_it_is_when_it_is_not(self, act, ticket, name, value, words):
        assert line(ticket, "tone") == "As it is"
        act("tone", **{name: value})
        assert words in line(ticket, "tone")

    def test_what_is_passed_over_is_not_said(self, act, ticket):
        act("tone", exposure="1")
        act("tone", use_exposure=False)
        assert line(ticket, "tone") == "As it is"


class TestInches:
    @pytest.mark.parametrize(
        ("core", "shown"),
        [("25.4 mm over the edge of Bench", "1.000 in over the edge of Bench"),
         ("0.100, 0.127 mm", "0.00394, 0.00500 in"), ("50.8 × 25.4 mm", "2.000 × 1.000 in"),
         ("5.08 of 254.0 mm", "0.2000 of 10.000 in"), ("300 mm/s wanted", "300 mm/s wanted"),
         ("2 J/mm² at 12 mm²", "2 J/mm² at 12 mm²"), ("Set 2.54 mm", "Set 0.1000 in")],
    )  # fmt: skip
    def test_figures_of_the_core_are_told_in_inches(self, inches, core, shown):
        assert in_shown_unit(core) == shown

    def test_check_place_and_steps(self, client, act, ticket):
        client.cookies["units"] = "in"
        act("burn", speed="400")
        page = read(client.get(f"/jobs/{ticket.number}/findings/", headers=HX))
        assert " mm<" not in page
        assert " mm rows" not in page
        page = read(client.get(f"/jobs/{ticket.number}/place/", headers=HX))
        assert " in</span>" in page.split('id="res-place"')[1][:80]


class TestKeptDots:
    """Dots are burned one for one, at the file's resolution, on any blank."""

    @pytest.fixture
    def dotted(self, shelf):
        noise = np.random.default_rng(3).integers(0, 2, (200, 300)).astype(np.uint8) * 255
        return open_job(keep_artwork("dots.png", [png(noise, dpi=(127, 127))]), "Dots")

    @pytest.fixture
    def keep(self, client, dotted):
        def post(station, **fields):
            data = {**fields, "changed": list(fields)}
            answer = client.post(f"/jobs/{dotted.number}/{station}/", data, headers=HX)
            dotted.refresh_from_db()
            return answer

        post("artwork", keep_dots="on")
        return post

    def test_they_take_the_files_resolution(self, keep, dotted):
        size = spec_of(dotted).size
        assert (size.width_mm, size.height_mm) == pytest.approx((60, 40), rel=1e-5)
        assert size.dpi == pytest.approx(127, rel=1e-5)

    def test_any_blank_substrate_and_machine_can_be_chosen(self, keep, dotted, shelf):
        before = spec_of(dotted).size
        for station, field, item in (
            ("blank", "substrate", "slate"), ("blank", "blank", "disc"),
            ("burn", "machine", "small"), ("burn", "machine", "bench"),
        ):  # fmt: skip
            assert "X-Faults" not in keep(station, **{field: str(shelf[item].pk)})
        size = spec_of(dotted).size
        assert (size.cols, size.rows) == (before.cols, before.rows)

    def test_rows_as_far_apart_as_the_spot_can_be_set(self, client, keep, dotted):
        keep("blank", pitch="0.06")
        found = rules(dotted)["pitch_against_spot"]
        client.post(f"/jobs/{dotted.number}/findings/pitch_against_spot/fix/", headers=HX)
        dotted.refresh_from_db()
        assert "large" in found.fix.label
        size = spec_of(dotted).size
        assert size.pitch_mm == pytest.approx(0.1)
        assert size.cols % 300 == 0

    def test_short_runs_are_left_alone(self, keep, dotted):
        from workshop.jobs.pictures.engine import pipeline

        spec = changed(spec_of(dotted), machine={"response_ms": 3.0}, dots={"runs": "keep"})
        kept = pipeline().dots(spec).unpack()
        for runs in ("lengthen", "drop"):
            other = changed(spec, dots={"runs": runs})
            assert np.array_equal(pipeline().dots(other).unpack(), kept)
            found, _ = check_job(pipeline().facts(other))
            [note] = [one for one in found if one.rule == "short_runs"]
            assert note.fix is None

    @pytest.mark.parametrize("method", METHODS)
    def test_what_any_method_makes_is_told_from_line_art(self, method):
        y, x = np.mgrid[0:256, 0:256]
        levels = (40 + 170 * (x + y) / 510).astype(np.uint8)
        bits = make_dots(levels, DotsPart(method=method), (0.1, 0.1))
        if bits.power is None and method != "threshold":
            assert dotted_odds(((1 - bits.unpack()) * 255).astype(np.uint8)) >= LIKELY

    @pytest.mark.parametrize("shape", ["disc", "bars", "frame", "letters"])
    def test_drawn_shapes_are_no_dots(self, shape):
        y, x = np.mgrid[0:400, 0:600]
        dark = {
            "disc": np.hypot(x - 300, y - 200) < 150,
            "bars": (x // 60) % 2 == 0,
            "frame": (np.minimum(x, 599 - x) < 20) | (np.minimum(y, 399 - y) < 20),
            "letters": ((x % 40) < 9) & ((y % 60) < 44),
        }[shape]
        assert dotted_odds(np.where(dark, 0, 255).astype(np.uint8)) < LIKELY


class TestBleed:
    def test_a_bleed_burns(self, act, ticket):
        act("blank", fit="cover", bleed="3")
        spec = spec_of(ticket)
        mask = engravable_mask(spec.size, spec.blank)
        wide = mask.any(axis=0).sum() * spec.size.along_mm
        high = mask.any(axis=1).sum() * spec.size.pitch_mm
        assert min(wide - 106, high - 86, key=abs) == pytest.approx(0, abs=0.2)
        assert wide == pytest.approx(min(106, spec.size.width_mm), abs=0.2)
        assert high == pytest.approx(min(86, spec.size.height_mm), abs=0.2)

    def test_without_one_the_edge_cuts(self, act, ticket):
        act("blank", fit="cover")
        spec = spec_of(ticket)
        mask = engravable_mask(spec.size, spec.blank)
        assert mask.any(axis=0).sum() * spec.size.along_mm <= 100


class TestAcrossTiles:
    """One picture across two blanks is cropped, not stretched; another is laid anew."""

    @pytest.fixture
    def tiles(self, act, ticket):
        act("place", fixture="on", columns="2", rows="1")
        act("place", picture="across")
        return ticket

    def test_it_is_not_called_stretched(self, client, tiles):
        page = read(client.get(f"/jobs/{tiles.number}/blank/", headers=HX))
        assert "Stretched" not in page
        assert "keeps_its_ratio" not in rules(tiles)

    def test_another_picture_is_cut_anew(self, client, act, tiles):
        y, x = np.mgrid[0:90, 0:200]
        other = keep_artwork("other.png", [png(((x + y) % 250).astype(np.uint8))])
        tiles.sheets.add(other)
        act("artwork", sheet=f"{other.pk}-0")
        assert "keeps_its_ratio" not in rules(tiles)

    def test_taken_apart_each_has_the_whole_picture_unstretched(self, act, tiles):
        act("place", picture="same")
        spec = spec_of(tiles)
        assert spec.artwork.crop.width == 1
        assert spec.size.fit == "inside"
        assert "keeps_its_ratio" not in rules(tiles)

    def test_what_is_stretched_is_found(self, act, ticket):
        act("blank", lock=False)
        act("blank", width="40")
        assert "narrower" in rules(ticket)["keeps_its_ratio"].figure


def test_the_bare_bed_leaves_the_picture_where_it_lies(act, ticket):
    before = spec_of(ticket)
    act("blank", blank="")
    after = spec_of(ticket)
    assert after.blank.name == "Bare bed"
    assert (after.size.width_mm, after.place) == (before.size.width_mm, before.place)
    middle = after.place.x_mm + after.size.width_mm / 2 - after.size.offset_x_mm
    assert middle == pytest.approx(after.machine.bed_width_mm / 2)


def test_an_excluded_picture_is_not_spoken_of(client, act, ticket):
    client.post(f"/jobs/{ticket.number}/operations/add/",
                {"kind": "score", "shape": "rectangle"}, headers=HX)  # fmt: skip
    act("burn", speed="9999", air="on")
    client.post(f"/jobs/{ticket.number}/operations/on/", {"at": "0"}, headers=HX)
    ticket.refresh_from_db()
    assert not spec_of(ticket).raster
    assert not {"speed_in_range", "settings_are_tested", "pitch_against_spot"} & set(
        rules(ticket)
    )
    sheet = read(client.get(f"/jobs/{ticket.number}/sheet/"))
    gcode = signed_gcode(client, ticket)
    assert ("on, by M8" in sheet) == (b"\nM8\n" in gcode)


def test_a_score_begins_as_strong_as_the_picture(client, act, ticket):
    act("burn", speed="123", power="17")
    client.post(f"/jobs/{ticket.number}/operations/add/",
                {"kind": "score", "shape": "rectangle"}, headers=HX)  # fmt: skip
    ticket.refresh_from_db()
    score = spec_of(ticket).operations[-1]
    assert (score.speed_mm_s, score.power) == (123, 17)


def test_same_dose_is_offered_within_the_quickest(act, ticket):
    act("burn", speed="50")
    spec = spec_of(ticket)
    even = burn_facts(spec, ticket).even
    assert even.set == "speed=120.0"
    slow = changed(spec, machine={"max_speed_mm_s": 60})
    even = burn_facts(slow, ticket).even
    assert even.set.startswith("power=")
    assert burn_facts(slow, ticket).quickest == 60


def test_what_is_offered_at_the_same_dose_has_the_same_dose(act, ticket, shelf):
    """By speed, or by power where the head cannot go faster; pressed as a page presses it."""
    dose = full_readings(spec_of(ticket)).dose
    act("burn", speed="50")
    for machine in (None, {"max_speed_mm_s": 60}):
        slow = changed(spec_of(ticket), machine=machine or {})
        name, _, value = burn_facts(slow, ticket).even.set.partition("=")
        assert name == ("power" if machine else "speed")
        held = changed(slow, burn={{"speed": "speed_mm_s"}.get(name, name): float(value)})
        assert full_readings(held).dose == pytest.approx(dose, rel=0.01)


def test_a_length_can_be_typed_with_its_unit_on_a_phone(client, ticket):
    """A number pad has no letters: lengths take them, shares of full power need none."""
    page = read(client.get(f"/jobs/{ticket.number}/burn/", headers=HX))
    found = re.findall(r'inputmode="(\w+)"[^>]*? name="(\w+)"', page)
    pads = {name: pad for pad, name in found}
    assert (pads["speed"], pads["power"]) == ("text", "decimal")


def test_findings_come_into_a_page_that_still_shows_them(client, ticket):
    """Late findings are brought along in a template: a page that went on passes them over."""
    page = read(client.get(f"/jobs/{ticket.number}/findings/", headers=HX))
    brought = page.partition('<template data-for="tally">')[2].partition("</template>")[0]
    assert brought.count('id="tally"') == page.count('id="tally"') == 1


def test_changed_rows_are_said(act, ticket, shelf):
    act("blank", dpi="127")
    page = read(act("blank", substrate=str(shelf["slate"].pk)))
    assert "Rows lie 0.125 mm apart now, as the recipe has them; they lay 0.200 mm" in page


def test_one_bad_file_among_several_refuses_only_itself(client, shelf, scene):
    from django.core.files.uploadedfile import SimpleUploadedFile

    good = SimpleUploadedFile("good.png", png(scene))
    bad = SimpleUploadedFile("bad.png", b"no picture")
    answer = client.post("/jobs/new/", {"files": [bad, good]}, headers=HX)
    assert answer.status_code == 204
    assert Job.objects.count() == 1
    page = read(client.get(answer["HX-Redirect"]))
    assert "Left out. bad.png:" in page
    answer = client.post(
        "/jobs/new/", {"files": [SimpleUploadedFile("bad.png", b"no")]}, headers=HX
    )
    assert answer.status_code == 422


def test_begin_with_another_kind_keeps_what_was_typed(client, db):
    from workshop.shelf.machines.changes import starting_machine
    from workshop.shelf.machines.form import MachineForm

    shown = MachineForm(initial=starting_machine("co2"))
    sent = {one.name: one.value() for one in shown if one.value() not in (None, False)}
    sent |= {"name": "Mine", "bed_width_mm": "777", "begun": "co2", "begin": "diode"}
    page = read(client.post("/shelf/machines/new/", sent))
    assert 'value="Mine"' in page
    assert 'value="777"' in page
    diode = MachineForm(initial=starting_machine("diode"))
    assert f'value="{diode["wavelength_um"].value()}"' in page


def test_a_dark_logo_on_what_is_lightened_is_told(client, act, ticket, shelf):
    pixels = np.zeros((60, 80, 4), np.uint8)
    pixels[20:40, 20:60] = (10, 10, 10, 255)
    logo = open_job(keep_artwork("logo.png", [png(pixels)]), "Logo")
    client.post(f"/jobs/{logo.number}/blank/",
                {"changed": "substrate", "substrate": shelf["slate"].pk}, headers=HX)  # fmt: skip
    logo.refresh_from_db()
    finding = rules(logo)["hardly_burned"]
    assert finding.fix.changes == {"side": {"invert": "yes"}}
    keys = view_keys(spec_of(logo))["dots"]
    client.post(f"/jobs/{logo.number}/findings/hardly_burned/fix/", headers=HX)
    logo.refresh_from_db()
    assert view_keys(spec_of(logo))["dots"] != keys
    assert "hardly_burned" not in rules(logo)


class TestPictures:
    """A picture is given under the key of what it shows, and under no other."""

    def addresses(self, client, ticket):
        for station in ("artwork", "tone", "place", "run"):
            page = client.get(
                f"/jobs/{ticket.number}/{station}/", headers=HX
            ).content.decode()
            page += client.get(f"/jobs/{ticket.number}/sheet/").content.decode()
            found = re.findall(r'"(/jobs/\d+/(?:piece|thumb|mix|wall|path)/[^"?]+)"', page)
            yield from (one if "." in one else f"{one}.png" for one in found)
        keys = view_keys(spec_of(ticket))
        window = "left=0&top=0&cols=20&rows=20&w=20&h=20"
        for view, key in keys.items():
            yield f"/jobs/{ticket.number}/picture/{view}/{key}/?{window}"
        yield f"/jobs/{ticket.number}/thumb/{keys['proof']}.jpg"

    def test_a_key_that_is_past_is_gone_for_good(self, client, act, ticket):
        found = sorted(set(self.addresses(client, ticket)))
        assert len(found) > 8
        for address in found:
            assert client.get(address).status_code == 200, address
        act("tone", gamma="2")
        act("artwork", turn="right")
        act("blank", width="31", substrate=str(ticket.substrate_id))
        for address in found:
            view = address.split("/")[4] if "picture" in address else ""
            if view != "veil":
                answer = client.get(address)
                assert (answer.status_code, answer["Cache-Control"]) == (410, "no-store"), (
                    address
                )

    def test_texture_stays_on_the_blank_when_the_picture_moves(self, act, ticket):
        spec = changed(spec_of(ticket), substrate={"texture": "wood"})
        moved = changed(spec, size={"offset_x_mm": spec.size.offset_x_mm + 1})
        was, now = view_keys(spec), view_keys(moved)
        assert (was["face"] != now["face"], was["proof"] != now["proof"]) == (True, True)
        assert was["dots"] == now["dots"]


def test_a_tone_group_that_was_switched_on_stays_on(act, ticket):
    """A slider of a group that is passed over switches it on; the next one leaves it on."""
    act("tone", use_depths=False, use_detail=False)
    assert {"depths", "detail"} <= set(spec_of(ticket).tone.off)
    act("tone", shadows="20")
    assert "depths" not in spec_of(ticket).tone.off
    act("tone", gamma="1.5")
    assert "depths" not in spec_of(ticket).tone.off
    assert "detail" in spec_of(ticket).tone.off


def test_a_recipe_of_another_pitch_is_taken_where_dots_are_kept(act, ticket, shelf):
    """The dots stay where they are; only speed and power are the recipe's."""
    act("artwork", keep_dots="on")
    before = spec_of(ticket)
    assert before.keeps_dots
    act("burn", recipe=shelf["brown"].pk)
    act("burn", machine=shelf["small"].pk)
    after = spec_of(ticket)
    assert (after.size, after.keeps_dots) == (before.size, True)


def test_findings_are_lettered_beyond_z(client, ticket, monkeypatch):
    many = [
        Finding(f"rule{i}", Severity.NOTE, "burn", f"Note {i}.", "0") for i in range(60)
    ]
    monkeypatch.setattr("workshop.jobs.views.ticket.full_check", lambda *_: (many, []))
    page = read(client.get(f"/jobs/{ticket.number}/findings/"))
    assert page.count("Note ") == 60
    assert 'id="finding-AA"' in page
    assert 'id="finding-BH"' in page


def test_a_machine_keeps_all_of_its_return_rows(client, shelf):
    table = [(10.0 * (i + 1), round(0.001 * i, 3)) for i in range(20)]
    machine = shelf["bench"]
    machine.part = {**machine.part, "row_shift": table}
    machine.save()
    page = client.get(f"/shelf/machines/{machine.pk}/")
    form = page.context["form"]
    data = {
        name: form[name].value()
        for name in form.fields
        if form[name].value() not in (None, False)
    }
    data["note"] = "looked at"
    assert client.post(f"/shelf/machines/{machine.pk}/", data).status_code == 302
    machine.refresh_from_db()
    assert machine.note == "looked at"
    assert machine.part["row_shift"] == [list(one) for one in table]


def test_a_recipe_without_power_is_carried_over_in_words(client, shelf):
    nothing = put_recipe(shelf["bench"], shelf["wood"], "Nothing", power=0.0)
    where = f"/shelf/recipes/{nothing.pk}/to/{shelf['small'].pk}/"
    page = client.get(where, follow=True)
    assert "burns nothing" in read(page)
    assert client.post(where, follow=True).status_code == 200


def test_a_job_file_opens_whole_or_not_at_all(client, ticket, monkeypatch):
    """Where the last step fails, no half-made ticket stays behind."""
    given = b"".join(client.get(f"/jobs/{ticket.number}/files/job/").streaming_content)
    monkeypatch.setattr(opening, "_with_pictures_at_hand", lambda spec: spec)
    monkeypatch.setattr(opening, "change", _refuse)
    answer = client.post("/jobs/new/", {"files": [SimpleUploadedFile("job.zip", given)]})
    assert answer.status_code == 422
    assert Job.objects.count() == 1


def _refuse(*_args):
    raise InputError("Not now.")


def test_kept_dots_fill_their_pockets_or_are_refused(act, ticket):
    """One picture across pockets would be cut between its dots."""
    act("artwork", keep_dots="on")
    act("place", fixture="on")
    page = read(act("place", picture="across"))
    assert "cannot be cut across the pockets" in page
    assert spec_of(ticket).fixture.picture == "same"
    wide = spec_of(ticket).size
    with pytest.raises(ValueError, match=r"equal parts|whole multiple"):
        changed(spec_of(ticket), size={"repeat": 7, "width_mm": wide.width_mm})
