"""The Place station's mounts: chosen, measured, calibrated, wrapped."""

import math

import pytest

from support.gate import signed_gcode
from support.pages import read
from support.ports import until
from workshop.bench.where import link
from workshop.jobs.hands.lines import before
from workshop.jobs.pictures.engine import pipeline
from workshop.jobs.revisions.writer import spec_of
from workshop.jobs.ticket.lifecycle import open_job
from workshop.shelf.blanks.changes import put_blank


@pytest.fixture
def cup(act, shelf):
    """The ticket on a cup's wall, 60 mm across."""
    wall = put_blank(
        "Cup", shelf["slate"], shape="wall", diameter_mm=60, height_mm=80, margin_mm=5
    )
    act("blank", blank=wall.pk)


def test_choosing_it_is_enabling_it(client, act, ticket, cup):
    page = read(client.get(f"/jobs/{ticket.number}/findings/"))
    assert "A round piece lies flat" in page
    page = read(act("place", mount="chuck"))
    assert "188.50 mm round" in page
    page = read(client.get(f"/jobs/{ticket.number}/findings/"))
    assert "lies flat" not in page
    assert "chuck, 60.00 mm" in page
    gcode = signed_gcode(client, ticket)
    assert b"\nG0Y0S0\nM2" in gcode
    act("place", output="degrees")
    gcode = signed_gcode(client, ticket)
    assert b"A" in gcode.split(b"G94")[1]
    act("place", mount="flat")
    assert not spec_of(ticket).mount.rotary


def test_flat_things_are_not_turned(act, ticket):
    answer = act("place", mount="rollers")
    assert "Choose a ring band or a wall" in answer.content.decode()
    assert not spec_of(ticket).mount.rotary


def test_measured_by_a_strip_of_paper(act, ticket, cup):
    act("place", mount="chuck")
    act("place", around="75.555")
    assert spec_of(ticket).blank.diameter_mm == pytest.approx(24.05, abs=1e-3)
    act("place", diameter="57")
    assert spec_of(ticket).blank.width_mm == pytest.approx(math.pi * 57)
    act("place", steps="200*16*2")
    assert spec_of(ticket).mount.steps_per_turn == 6400


def test_calibrated_by_where_it_stopped(act, ticket, cup):
    act("place", mount="chuck")
    around = math.pi * 60
    act("place", past=str(around / 36))  # ten degrees past its mark
    assert spec_of(ticket).mount.steps_per_turn == pytest.approx(6400 * 36 / 37, rel=1e-4)
    answer = act("place", past="150")
    assert "more than half a turn" in answer.content.decode()


def test_a_wrap_closes_and_needs_no_margin(client, act, ticket, cup):
    act("place", mount="chuck")
    act("place", wrap="on", overlap="1")
    spec = spec_of(ticket)
    rows = spec.size.width_mm / spec.size.along_mm
    assert rows == pytest.approx(round(rows), abs=1e-9)
    assert spec.size.width_mm == pytest.approx(math.pi * 60)
    assert spec.artwork.ratio == pytest.approx(
        spec.size.width_mm / spec.size.height_mm, rel=0.02
    )
    page = read(client.get(f"/jobs/{ticket.number}/findings/"))
    assert "reaches beyond the blank" not in page
    lying, bits = pipeline().on_machine(spec)
    assert bits.rows == round(rows) + round(1 / spec.size.along_mm)
    assert lying.size.width_mm == 70


def test_the_next_job_remembers_the_drive(act, ticket, cup, shelf):
    act("place", mount="rollers", steps="3200", roller="25.4")
    again = open_job(ticket.artwork, "Again")
    from workshop.jobs.stations.registry import change_station

    assert not spec_of(again).mount.rotary  # a photograph does not begin on a cup
    # A wall is turned on what this machine had last; what is flat lies flat again.
    wall, board = ticket.blank, shelf["board"]
    for blank, kind in ((wall, "rollers"), (board, "flat"), (wall, "rollers")):
        again.refresh_from_db()
        change_station(again, "blank", {"blank": blank})
        again.refresh_from_db()
        mount = spec_of(again).mount
        assert (mount.steps_per_turn, mount.roller_mm, mount.kind) == (3200, 25.4, kind)


def test_a_taper_says_its_tilt(act, ticket, shelf):
    cone = put_blank(
        "Beaker", None, shape="taper", diameter_mm=89, foot_mm=70, height_mm=150
    )
    act("blank", blank=cone.pk, fit="exact", width="80")
    page = read(act("place", mount="chuck"))
    assert "tilt it by 3.62°" in page
    assert "150.3 mm long" in page
    answer = act("place", diameter="80")
    assert "two diameters" in answer.content.decode()


def test_a_ring_by_its_size(act, ticket, shelf):
    """ISO 8653: 54 is 54 mm round the inside; 1.5 mm of wall make it 20.188734 mm across."""
    ring = put_blank("Ring", shelf["slate"], shape="ring", diameter_mm=18, height_mm=6, thickness_mm=1.5)  # fmt: skip
    act("blank", blank=ring.pk)
    act("place", mount="chuck")
    page = read(act("place", ring_size="54"))
    assert spec_of(ticket).blank.diameter_mm == pytest.approx(20.188734, abs=1e-5)
    assert spec_of(ticket).blank.width_mm == pytest.approx(63.424778, abs=1e-5)
    assert 'value="54"' in page


def test_degrees_will_do_for_overlap_and_stop(act, ticket, cup):
    act("place", mount="chuck")
    act("place", wrap="on")
    act("place", overlap_deg="2", jaw="soft jaws, from inside")
    assert spec_of(ticket).mount.overlap_mm == pytest.approx(math.pi * 60 / 180)
    act("place", past_deg="-3.6")
    assert spec_of(ticket).mount.steps_per_turn == pytest.approx(6400 / 0.99, rel=1e-6)
    [line] = [one for one in before(ticket, spec_of(ticket)) if one.slug == "rotary"]
    said = f"soft jaws, from inside, {6400 / 0.99:g} steps a turn"
    assert line.text == f"chuck plugged in and switched on, {said}"


def test_rows_round_the_wall_need_no_room_on_the_bed(act, ticket, cup):
    act("place", mount="chuck")
    act("burn", rows="y", speed="300")
    findings, _ = pipeline().check(spec_of(ticket))
    assert "run_up_on_the_bed" not in {one.rule for one in findings}


def test_calibrated_by_a_line(act, ticket, cup):
    act("place", mount="rollers")
    act("place", line_told="50", line_came="49")
    assert spec_of(ticket).mount.steps_per_turn == pytest.approx(6400 * 50 / 49, rel=1e-6)
    assert "not near the length" in read(act("place", line_came="5"))


def test_repeated_all_round_it_closes_to_the_dot(act, ticket, cup):
    act("place", mount="chuck")
    act("place", wrap="on")
    act("place", wrap="on", repeat="7")
    spec = spec_of(ticket)
    assert spec.size.cols % 7 == 0
    assert spec.size.cols * spec.size.along_mm == pytest.approx(math.pi * 60)
    grid = pipeline().grid(spec)
    part = spec.size.cols // 7
    assert all(
        (grid[:, i * part : (i + 1) * part] == grid[:, :part]).all() for i in range(7)
    )
    assert pipeline().dots(spec).cols == spec.size.cols
    act("place", wrap="")
    assert spec_of(ticket).size.repeat == 1


def test_the_design_is_turned_and_moved_round(act, ticket, cup):
    act("place", mount="chuck")
    before = spec_of(ticket)
    act("place", design_turn="left")
    after = spec_of(ticket)
    assert after.artwork.turns == (before.artwork.turns + 3) % 4
    assert after.size.width_mm / after.size.height_mm == pytest.approx(before.size.height_mm / before.size.width_mm)  # fmt: skip
    act("place", from_seam="30")
    assert spec_of(ticket).size.offset_x_mm == pytest.approx(30 - math.pi * 30)


def test_nothing_is_burned_where_a_handle_is(client, act, ticket, cup):
    act("place", mount="chuck")
    half = math.pi * 30
    page = act("place", zone_add="1", zone_name="Handle", zone_from=str(half - 5), zone_width="10").content.decode()  # fmt: skip
    assert "bed__zone" in page
    found = read(client.get(f"/jobs/{ticket.number}/findings/"))
    assert "kept clear" in found
    assert "10.0 mm over “Handle”" in found
    act("place", from_seam="5")
    left = spec_of(ticket).size.width_mm
    act("place", zone_drop="0", zone_from="0", zone_width="20")
    act("place", zone_add="1", zone_from=str(2 * half - 10), zone_width="10")
    found = read(client.get(f"/jobs/{ticket.number}/findings/"))
    assert "over “Handle”" in found, left  # it reaches beyond the seam
    act("place", zone_drop="0")
    assert "“Handle”" not in read(client.get(f"/jobs/{ticket.number}/findings/"))


def test_strips_burn_the_same_dots_one_after_another(client, act, ticket, cup):
    act("place", mount="chuck")
    whole = pipeline().estimate(spec_of(ticket))
    page = read(act("place", strip="15"))
    spec = spec_of(ticket)
    strips = math.ceil(spec.size.height_mm / 15)
    assert f"<span>{strips}</span>" in page
    cut = pipeline().estimate(spec)
    assert cut.burn_mm == pytest.approx(whole.burn_mm, rel=1e-6)
    assert cut.rows > whole.rows
    spans = [float(moves.x[moves.power > 0].max() - moves.x[moves.power > 0].min()) * moves.unit_mm for moves in pipeline().bands(spec)]  # fmt: skip
    assert max(spans) <= 15
    assert "a line may be seen" in read(client.get(f"/jobs/{ticket.number}/findings/"))


def test_a_bare_line_at_the_seam_is_found(client, act, ticket, cup):
    act("place", mount="chuck")
    act("blank", fit="exact", lock="", width=str(math.pi * 60 - 1), height="50")
    found = read(client.get(f"/jobs/{ticket.number}/findings/"))
    assert "bare line will show at the seam" in found


def test_the_wall_is_rolled_up_to_look_at(client, act, ticket, cup):
    import io

    import numpy as np
    from PIL import Image

    page = read(act("place", mount="chuck"))
    address = page.split('id="rolled" data-base="')[1].split('"')[0]
    front, back = (
        np.asarray(Image.open(io.BytesIO(client.get(f"{address}?turn={turn}").content)))
        for turn in (0, 180)
    )
    assert front.shape[0] == 320
    assert front.shape[2] == 4
    assert front.shape[1] / front.shape[0] == pytest.approx(60 / 80, abs=0.02)
    assert np.abs(front[..., :3].astype(int) - back[..., :3]).max() > 60  # the seam is bare
    assert client.get(f"{address}?turn=north").status_code == 200
    act("place", mount="flat")
    assert "rolled" not in read(act("place", mount="flat"))


class TestBorderWalk:
    """The border of a round piece is walked before anything was burned."""

    def test_the_stand_in_is_fitted_with_the_rotary(
        self, client, act, ticket, cup, standin
    ):
        act("place", mount="chuck")
        act("place", output="degrees")
        answer = client.post(
            f"/bench/jobs/{ticket.number}/walk/", {"box": "0", "power": "0"}
        )
        assert (answer.status_code, answer.content) == (200, b"The border is being walked.")
        address = f"socket://127.0.0.1:{standin.port}"
        until(lambda: not link("state", address=address)["busy"])
        answer = client.post(f"/bench/jobs/{ticket.number}/walk/", {"box": "1/2 in"})
        assert answer.status_code == 200
        answer = client.post(f"/bench/jobs/{ticket.number}/walk/", {"box": "high"})
        assert "Type the box's height" in answer.content.decode()
        act("place", mount="flat")

    def test_a_machine_without_its_axis_says_what_is_missing(
        self, client, act, ticket, cup, standin, shelf
    ):
        act("place", mount="chuck")
        act("place", output="degrees")
        # Reached under another name it is a machine that nobody fits a rotary to.
        shelf["bench"].link = f"socket://localhost:{standin.port}"
        shelf["bench"].save()
        answer = client.post(
            f"/bench/jobs/{ticket.number}/walk/", {"box": "0", "power": "0"}
        )
        assert answer.status_code == 422
        assert answer.content.decode().startswith(
            "The machine has no rotary axis set up. The machine refused line"
        )
