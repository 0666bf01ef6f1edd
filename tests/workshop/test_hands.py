"""What would spoil a piece or harm somebody without a word."""

import pytest

from engraving.jobspec import JobSpec
from engraving.recipe import spot_on_surface_mm
from support.gate import signed
from support.pages import read
from workshop.jobs.hands.lines import after, before
from workshop.jobs.models import Job
from workshop.jobs.pictures.intake import keep_artwork
from workshop.jobs.revisions.writer import spec_of
from workshop.jobs.ticket.findings import full_check, quick_findings
from workshop.jobs.ticket.lifecycle import copy, open_job
from workshop.jobs.ticket.summary import station_lines
from workshop.shelf.machines.changes import put_machine
from workshop.shelf.models import Substrate
from workshop.shelf.recipes.changes import put_recipe
from workshop.shelf.substrates.changes import put_substrate

HX = {"HX-Request": "true"}


def told(ticket, what):
    lines = {one.what: one.text for one in before(ticket, spec_of(ticket))}
    return {**lines, "Cleaning": after(ticket)}.get(what, "")


def rules(ticket):
    return {one.rule: one for one in full_check(ticket)[0]}


class TestEyes:
    """Goggles follow the machine, whatever lies under its beam."""

    @pytest.mark.parametrize(
        ("kind", "wavelength", "words"),
        [("co2", 10.6, "10.6 µm (10600 nm)"), ("fibre", 1.064, "1.064 µm (1064 nm)"),
         ("diode", 0.45, "0.45 µm (450 nm)")],
    )  # fmt: skip
    def test_the_machine_says_which_goggles(self, act, ticket, kind, wavelength, words):
        machine = put_machine("Other", kind=kind, wavelength_um=wavelength)
        act("burn", machine=str(machine.pk))
        assert f"Goggles for {words}" in told(ticket, "Eyes")

    def test_a_point_that_scratches_wants_glasses(self, act, ticket):
        machine = put_machine("Scratcher", kind="drag")
        act("burn", machine=str(machine.pk))
        assert "glasses" in told(ticket, "Eyes")
        assert "µm" not in told(ticket, "Eyes")

    def test_the_material_adds_what_it_reflects_but_no_wavelength(self, client, shelf):
        slate = shelf["slate"]
        page = f"/shelf/substrates/{slate.pk}/"
        sent = {**client.get(page).context["form"].initial, "eyes": "Goggles for 10.6 µm."}
        sent = {name: value for name, value in sent.items() if value is not False}
        assert "follow the machine" in read(client.post(page, sent))
        client.post(page, {**sent, "eyes": "It reflects."})
        assert Substrate.objects.get(pk=slate.pk).care["eyes"] == "It reflects."


def test_the_set_up_list_says_the_spot_out_of_focus(act, ticket):
    assert "the spot is" not in told(ticket, "Focus")
    act("burn", focus="6")
    wide = spot_on_surface_mm(spec_of(ticket))
    assert wide > 2 * spec_of(ticket).machine.spot_mm
    assert f"the spot is {wide:.2f} mm there" in told(ticket, "Focus")


def test_new_tickets_have_their_dots_from_the_first_row_on(act, ticket):
    assert spec_of(ticket).dots.run_in
    assert not JobSpec().dots.run_in  # the command line's, and old files'
    act("dots", run_in=False)
    assert not spec_of(ticket).dots.run_in


class TestNoRecipe:
    """Settings of another material or machine are not passed off as this one's."""

    def test_it_is_said_offered_and_a_caution_until_tested(self, act, ticket, shelf):
        assert "settings_are_tested" not in rules(ticket)
        steel = put_substrate("Steel", ground="#a9abac", mark="#1d1c1d")
        page = read(act("blank", substrate=str(steel.pk)))
        assert spec_of(ticket).burn.recipe == ""
        assert "No recipe: not tested" in page
        page = read(act("burn", passes="1"))
        assert "No recipe says how steel burns on Bench" in page
        assert "Begin with" in page
        act("burn", start="on")
        burn = spec_of(ticket).burn
        assert burn.begun_with == "Brown on Bench"
        finding = rules(ticket)["settings_are_tested"]
        assert finding.severity.value == "caution"
        assert "begun from Brown on Bench" in finding.figure
        mine = put_recipe(shelf["bench"], steel, "Steel", speed_mm_s=9.0, power=80.0)
        act("burn", recipe=str(mine.pk))
        assert spec_of(ticket).burn.begun_with == ""
        assert "settings_are_tested" not in rules(ticket)

    def test_the_same_material_on_another_machine_comes_first(self, act, ticket, shelf):
        page = read(act("burn", machine=str(shelf["small"].pk)))
        assert "by equal dose from “Brown on Bench”" in page
        before = spec_of(ticket)
        act("burn", start="on")
        after = spec_of(ticket)
        # 120 mm/s at 33 % of 40 W on rows of 0.1 mm; the other machine has the same beam.
        assert (after.burn.power, after.burn.speed_mm_s) == (33, 120)
        assert before.burn.begun_with == ""

    def test_a_measured_curve_of_another_material_is_dropped(self, act, ticket):
        act("dots", mode="measured", patches="0 78, 50 40, 100 24")
        steel = put_substrate("Steel")
        act("blank", substrate=str(steel.pk))
        assert spec_of(ticket).reproduction.mode == "spot"


class TestSides:
    """A substrate knows from which side it is worked."""

    def test_a_mirror_is_worked_from_behind_and_so_are_the_next_tickets(
        self, act, ticket, scene
    ):
        from support.jobs import png

        mirror = put_substrate("Mirror", polarity="lightens", worked_from="back")
        act("blank", substrate=str(mirror.pk))
        assert spec_of(ticket).mirrored
        assert "worked_from_its_side" not in rules(ticket)
        following = open_job(keep_artwork("b.png", [png(scene)]), "Next")
        assert spec_of(following).mirrored
        act("blank", seen_from="front")
        assert not spec_of(ticket).mirrored
        finding = rules(ticket)["worked_from_its_side"]
        assert "worked from behind, this job from the face" in finding.sentence
        assert finding.fix.label == "Work it from behind"

    def test_what_was_overruled_was_of_the_former_substrate(self, act, ticket, shelf):
        act("blank", side_mirror="yes", side_polarity="lightens", printing_plate="on")
        act("blank", substrate=str(shelf["slate"].pk))
        side = spec_of(ticket).side
        assert (side.mirror, side.polarity, side.printing_plate) == ("auto", "auto", True)


class TestCheckedState:
    """A check, and a signature, speak of one state."""

    @staticmethod
    def line(job):
        job = Job.objects.get(pk=job.pk)
        spec = spec_of(job)
        lines = station_lines(job, spec, quick_findings(job, spec))
        return next((one.state, one.result) for one in lines if one.slug == "check")

    def look(self, client, ticket):
        client.get(f"/jobs/{ticket.number}/findings/", headers=HX)
        return self.line(ticket)

    def test_the_tick_goes_when_power_does(self, client, act, ticket):
        assert self.line(ticket) == ("open", "Not checked yet")
        assert self.look(client, ticket) == ("done", "Checked")
        act("burn", power="95")
        assert self.line(ticket) == ("open", "Changed since the check")
        client.post(f"/jobs/{ticket.number}/undo/", headers=HX)
        assert self.line(ticket) == ("done", "Checked")
        assert self.line(copy(Job.objects.get(pk=ticket.pk)))[0] == "open"

    def test_a_signature_does_not_pass_to_another_state_of_the_same_number(
        self, client, act, ticket
    ):
        act("burn", power="50")
        signed(client, ticket)
        assert not client.get(f"/jobs/{ticket.number}/findings/").context["unsigned"]
        client.post(f"/jobs/{ticket.number}/undo/", headers=HX)
        act("burn", power="99")
        assert client.get(f"/jobs/{ticket.number}/findings/").context["unsigned"]


def test_a_removed_tickets_number_is_not_given_again(client, ticket, scene):
    from support.jobs import png

    client.post(f"/jobs/{ticket.number}/remove/")
    following = open_job(keep_artwork("b.png", [png(scene)]), "Next")
    assert following.number == ticket.number + 1


class TestStalePages:
    """Two pages on one job: both changes stand, and the second page is told."""

    def test_a_second_tab_overwrites_nothing(self, client, ticket):
        where = f"/jobs/{ticket.number}/burn/"
        state = client.get(where, headers=HX).context["state"]
        old = {**HX, "X-Base": state}
        client.post(
            where, {"changed": "power", "power": "24", "was:power": "33"}, headers=old
        )
        page = client.post(
            where, {"changed": "passes", "passes": "2", "was:passes": "1"}, headers=old
        ).content.decode()
        ticket.refresh_from_db()
        burn = spec_of(ticket).burn
        assert (burn.power, burn.passes) == (24, 2)
        assert "changed on another page meanwhile; both changes stand" in page
        page = client.post(
            where, {"changed": "power", "power": "40", "was:power": "33"}, headers=old
        ).content.decode()
        assert "Power was 24 there" in page

    def test_it_says_whose_change_came_in(self, client, ticket, django_user_model):
        where = f"/jobs/{ticket.number}/burn/"
        state = client.get(where, headers=HX).context["state"]
        look = {**HX, "X-Base": state, "X-Look": "others"}
        assert client.get(where, headers=look).status_code == 204
        client.force_login(django_user_model.objects.create_user("mk"))
        client.post(where, {"changed": "power", "power": "24"}, headers=HX)
        client.logout()
        page = client.get(where, headers=look).content.decode()
        assert "changed on another page meanwhile: power 24 % (mk)." in page

    def test_a_page_in_millimetres_is_read_in_millimetres(self, client, ticket):
        client.cookies["units"] = "in"
        where = f"/jobs/{ticket.number}/blank/"
        client.post(
            where, {"changed": "width", "width": "30"}, headers={**HX, "X-Units": "mm"}
        )
        ticket.refresh_from_db()
        assert spec_of(ticket).size.width_mm == pytest.approx(30)

    def test_of_several_fields_the_good_ones_are_taken(self, act, ticket):
        page = read(act("burn", power="140", passes="3"))
        assert spec_of(ticket).burn.passes == 3
        assert spec_of(ticket).burn.power == 33
        assert 'value="140"' in page
