"""Tickets: opening, every station's changes, ties, undo and redo, faults."""

import pytest

from support.jobs import png
from support.pages import read
from workshop.jobs.models import STATIONS, Job
from workshop.jobs.revisions import writer
from workshop.jobs.revisions.writer import spec_of


def spec(ticket):
    ticket.refresh_from_db()
    return spec_of(Job.objects.with_all().get(pk=ticket.pk))


def test_a_new_ticket_fills_the_blank_and_takes_the_recipe(ticket):
    found = spec(ticket)
    assert (found.size.width_mm, found.size.height_mm) == (90, 67.5)  # 4:3 in 90 × 70
    assert found.burn.recipe == "Brown"
    assert found.burn.speed_mm_s == 120
    assert found.place.x_mm == (400 - 90) / 2
    assert found.artwork.sha256 == ticket.artwork.sha256


def test_the_same_file_is_stored_once(ticket, scene):
    from workshop.jobs.pictures.intake import keep_artwork

    assert keep_artwork("other.png", [png(scene, dpi=(254, 254))]).pk == ticket.artwork.pk


@pytest.mark.parametrize("station", STATIONS)
def test_every_station_opens_as_page_and_as_part(client, ticket, station):
    address = f"/jobs/{ticket.number}/{station}/"
    assert b"<!doctype html>" in client.get(address).content
    part = client.get(address, headers={"HX-Request": "true"}).content
    assert b"<!doctype" not in part
    assert part.lstrip().startswith(b'<ol class="stations"')
    for target in (b'id="stub"', b'id="readings"', b'id="panel"', b'id="pictures"'):
        assert target in part


class TestTies:
    def test_height_follows_width_and_inches_work(self, act, ticket):
        act("blank", width="4 in")
        assert spec(ticket).size.width_mm == pytest.approx(101.6)
        assert spec(ticket).size.height_mm == pytest.approx(76.2)
        act("blank", height="57/2")
        assert spec(ticket).size.width_mm == pytest.approx(38)

    def test_pitch_and_dpi(self, act, ticket):
        act("blank", dpi="508")
        assert spec(ticket).size.pitch_mm == pytest.approx(0.05)
        act("blank", pitch="0.127")
        assert spec(ticket).size.dpi == pytest.approx(200)

    def test_a_field_left_alone_does_not_round_what_it_shows(self, act, ticket):
        act("blank", dpi="300")
        exact = spec(ticket).size.pitch_mm
        act("blank", width="50")
        assert spec(ticket).size.pitch_mm == exact

    def test_growing_keeps_the_anchor_in_its_place(self, act, ticket):
        act("place", anchor="middle-centre", x="100", y="100")
        act("blank", width="40")
        place, size = spec(ticket).place, spec(ticket).size
        assert place.x_mm + size.width_mm / 2 == pytest.approx(100)
        assert place.y_mm + size.height_mm / 2 == pytest.approx(100)

    def test_blank_brings_substrate_and_recipe(self, act, ticket, shelf):
        act("blank", blank=shelf["disc"].pk)
        found = spec(ticket)
        assert found.substrate.polarity == "lightens"
        assert found.burn.recipe == "Pale"
        assert found.size.pitch_mm == 0.125

    def test_back_to_the_recipe(self, act, ticket):
        assert "Changed from the recipe" in read(act("burn", speed="77"))
        assert "Changed from the recipe" not in read(act("burn", again="on"))
        assert spec(ticket).burn.speed_mm_s == 120

    def test_machine_brings_its_bed_and_centres(self, act, ticket, shelf):
        act("burn", machine=shelf["small"].pk)
        found = spec(ticket)
        assert found.machine.origin == "back-left"
        assert found.place.x_mm == pytest.approx((200 - 90) / 2)

    def test_any_anchor_moves_the_piece(self, act, ticket):
        act("place", anchor="back-right")
        act("place", x="200", y="100")
        assert spec(ticket).place.x_mm == pytest.approx(110)
        assert spec(ticket).place.y_mm == pytest.approx(32.5)


class TestArtwork:
    def test_turning_swaps_the_sides(self, act, ticket):
        act("artwork", turn="right")
        found = spec(ticket)
        assert found.artwork.turns == 1
        # 60 × 80 in the 90 × 70 mm of the board less its margin
        assert (found.size.width_mm, found.size.height_mm) == (52.5, 70)
        for _ in range(3):
            act("artwork", turn="right")
        assert spec(ticket).artwork.turns == 0

    def test_a_mirrored_picture_turns_as_it_looks(self, act, ticket):
        act("artwork", mirror="on")
        act("artwork", mirror="on", turn="right")
        assert spec(ticket).artwork.turns == 3

    def test_crop_changes_the_ratio(self, act, ticket):
        act("artwork", crop_left="0.25", crop_width="0.5")
        found = spec(ticket)
        assert found.artwork.window_px == (20, 0, 40, 60)
        assert found.size.height_mm == pytest.approx(70)
        assert found.size.width_mm == pytest.approx(70 * 2 / 3)

    def test_the_name_is_the_jobs(self, act, ticket):
        act("artwork", name="  Dome  at dusk ", customer="Highmere")
        assert (ticket.name, ticket.customer) == ("Dome at dusk", "Highmere")


class TestUndo:
    def test_every_change_can_be_taken_back_and_made_again(self, client, act, ticket):
        before = spec(ticket)
        act("tone", gamma="2")
        act("dots", method="stucki")
        after = spec(ticket)
        for _ in range(2):
            client.post(f"/jobs/{ticket.number}/undo/")
        assert spec(ticket) == before
        assert b"nothing to undo" in client.post(f"/jobs/{ticket.number}/undo/").content
        for _ in range(2):
            client.post(f"/jobs/{ticket.number}/redo/")
        assert spec(ticket) == after

    def test_a_drag_is_one_step(self, client, act, ticket):
        for value in range(1, 9):
            act("tone", live=True, brightness=str(value))
        assert spec(ticket).tone.brightness == 8
        client.post(f"/jobs/{ticket.number}/undo/")
        assert spec(ticket).tone.brightness == 0

    def test_machine_and_recipe_come_back_too(self, client, act, ticket, shelf):
        act("burn", machine=shelf["small"].pk)
        client.post(f"/jobs/{ticket.number}/undo/")
        ticket.refresh_from_db()
        assert (ticket.machine, ticket.recipe) == (shelf["bench"], shelf["brown"])


FAULTS = [
    ("blank", "width", "0"), ("blank", "width", "-5"), ("blank", "width", "4 km"), ("blank", "width", "wide"),
    ("blank", "width", ""), ("blank", "dpi", "1e9"), ("blank", "dpi", "99999999"), ("blank", "pitch", "nan"),
    ("blank", "height", "4000000"), ("tone", "gamma", "0"), ("tone", "input_white", "-1"),
    ("tone", "input_black", "250.5 apples"), ("tone", "contrast", "101"), ("dots", "method", "magic"),
    ("dots", "level", "1/0"), ("burn", "speed", "0"), ("burn", "power", "140"), ("burn", "passes", "0"),
    ("burn", "passes", "many"), ("place", "x", "far"), ("place", "y", "99999"), ("place", "anchor", "top"),
    ("artwork", "crop_width", "2"), ("artwork", "name", ""), ("burn", "machine", "9999"),
]  # fmt: skip


@pytest.mark.parametrize(("station", "field", "value"), FAULTS)
def test_bad_input_says_so_and_changes_nothing(act, ticket, station, field, value):
    before = spec(ticket)
    answer = act(station, **{field: value})
    assert answer.status_code == 200
    assert spec(ticket) == before
    html = read(answer)
    shown_fields = {"crop_width", "method", "anchor", "machine"}
    if field not in shown_fields:
        assert 'class="fault"' in html
        assert f'value="{value}"' in html or value == ""


def test_too_many_dots_get_a_sentence_at_the_field(act, ticket):
    act("blank", width="300")
    html = read(act("blank", pitch="0.005"))
    assert "more than this program holds" in html


def test_white_must_lie_above_black(act, ticket):
    html = read(act("tone", input_black="200", input_white="100"))
    assert "must lie above the black point, 200" in html


def test_copy_keeps_the_settings_and_remove_takes_off(client, act, ticket):
    act("tone", gamma="1.7")
    client.post(f"/jobs/{ticket.number}/copy/")
    twin = Job.objects.order_by("-number").first()
    assert twin.number == ticket.number + 1
    assert spec(twin).tone.gamma == 1.7
    client.post(f"/jobs/{ticket.number}/remove/")
    assert list(Job.objects.all()) == [twin]


def test_a_reload_brings_back_the_station(client, act, ticket):
    client.get(f"/jobs/{ticket.number}/burn/", headers={"HX-Request": "true"})
    assert b'data-station="burn"' in client.get(f"/jobs/{ticket.number}/").content
    assert writer.can_undo_redo(ticket) == (False, False)


class TestNotesAndSearch:
    def test_a_ticket_says_when_it_is_due_and_what_to_mind(self, client, act, ticket):
        act("artwork", due="2026-12-24", note="Mind the handle")
        assert (str(ticket.due), ticket.note) == ("2026-12-24", "Mind the handle")
        page = read(client.get(f"/jobs/{ticket.number}/"))
        assert "due Thu 24 Dec" in page
        assert "Mind the handle" in page
        assert "due Thu 24 Dec" in read(client.get("/"))
        answer = act("artwork", due="soon")
        assert "Type a day, such as" in read(answer)
        assert str(ticket.due) == "2026-12-24"
        act("artwork", due="")
        assert ticket.due is None

    @pytest.mark.parametrize(
        ("words", "found"),
        [
            ("scene", True), ("wood bench", True), ("handle", True), ("board", True), ("brown", True),
            ("0401", True), ("401 wood", True), ("slate", False), ("scene slate", False), ("", True),
        ],
    )  # fmt: skip
    def test_every_word_is_looked_for_everywhere(self, client, act, ticket, words, found):
        act("artwork", note="Mind the handle")
        page = read(client.get("/", {"find": words}))
        assert (f"/jobs/{ticket.number}/" in page) is found

    def test_what_was_removed_is_put_back_where_one_is(self, client, ticket):
        page = read(client.post(f"/jobs/{ticket.number}/remove/", follow=True))
        assert "Put it back" in page
        page = read(
            client.post("/bin/", {"number": ticket.number, "then": "rack"}, follow=True)
        )
        assert "hangs on the rack again" in page
        assert f"/jobs/{ticket.number}/" in page
