"""Two requests on one job at the same time: nothing is lost, nothing is overwritten unseen."""

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from engraving.errors import InputError
from support.jobs import changed
from workshop.jobs.models import Job
from workshop.jobs.revisions import writer
from workshop.jobs.revisions.writer import change, redo, spec_of, undo
from workshop.jobs.stations import registry

HX = {"HX-Request": "true"}


def twice(ticket):
    """The job as two requests have loaded it."""
    writer.met()
    return [Job.objects.with_all().get(pk=ticket.pk) for _ in range(2)]


def now(ticket):
    return spec_of(Job.objects.with_all().get(pk=ticket.pk))


def test_both_changes_stand_as_revisions_of_their_own(ticket):
    first, second = twice(ticket)
    registry.change_station(first, "burn", {"power": 24.0})
    registry.change_station(second, "burn", {"passes": 3})
    assert (now(ticket).burn.power, now(ticket).burn.passes) == (24, 3)
    assert [one.label for one in ticket.revisions.all()] == ["Opened", "Power", "Passes"]
    undo(Job.objects.get(pk=ticket.pk))
    assert (now(ticket).burn.power, now(ticket).burn.passes) == (24, 1)


def test_who_comes_second_to_a_field_is_told_what_it_had(ticket):
    first, second = twice(ticket)
    registry.change_station(first, "burn", {"power": 24.0})
    assert writer.met() == ""
    registry.change_station(second, "burn", {"power": 40.0})
    assert "It had power 24 % there; Undo goes back to it." in writer.met()
    assert now(ticket).burn.power == 40
    undo(Job.objects.get(pk=ticket.pk))
    assert now(ticket).burn.power == 24


def test_what_follows_from_a_field_follows_of_the_job_as_it_is(ticket):
    """The first crops to a square; the second's width then brings a square's height."""
    first, second = twice(ticket)
    registry.change_station(first, "artwork", {"crop_width": 0.75})
    registry.change_station(second, "blank", {"width": 40.0})
    spec = now(ticket)
    assert spec.size.width_mm == 40
    assert spec.size.height_mm == pytest.approx(40 / spec.artwork.ratio)


def test_changes_that_do_not_go_together_are_refused_in_words(ticket):
    """Dots are kept by the one; the other makes the piece no whole multiple of them."""
    first, second = twice(ticket)
    kept = changed(
        spec_of(first), artwork={"keep_dots": True},
        size={"width_mm": 8.0, "height_mm": 6.0, "pitch_mm": 0.1},
    )  # fmt: skip
    change(first, kept, "Kept dots")
    with pytest.raises(InputError, match="do not go together"):
        change(second, changed(spec_of(second), size={"pitch_mm": 0.11}), "Rows")
    assert now(ticket) == kept


def test_a_part_that_was_taken_away_comes_back_with_what_was_changed_in_it(ticket):
    fixed = changed(spec_of(ticket), fixture={"columns": 2, "gap_x_mm": 3})
    change(ticket, fixed, "Fixture")
    first, second = twice(ticket)
    change(first, changed(spec_of(first), fixture=None), "No fixture")
    change(second, changed(spec_of(second), fixture={"gap_x_mm": 4}), "Gap")
    assert now(ticket).fixture == changed(fixed, fixture={"gap_x_mm": 4}).fixture
    assert "changed on another page" in writer.met()


def test_numbers_of_revisions_only_grow(ticket):
    seen = []
    for power in (50, 99):
        change(ticket, changed(spec_of(ticket), burn={"power": power}), "Power")
        seen.append(ticket.head.number)
        undo(ticket)
    assert seen[1] > seen[0]
    assert redo(ticket) == "Power"
    assert now(ticket).burn.power == 99


def test_undo_takes_back_what_is_newest_now(ticket):
    first, second = twice(ticket)
    change(first, changed(spec_of(first), burn={"power": 24}), "Power")
    assert undo(second) == "Power"
    assert now(ticket) == spec_of(second)


def test_a_signature_is_not_given_to_what_nobody_looked_at(client, ticket):
    change(ticket, changed(spec_of(ticket), burn={"power": 80}), "Power")
    page = client.get(f"/jobs/{ticket.number}/findings/", headers=HX)
    shown = {one.rule: one.rests_on for _, one, *_ in page.context["findings"]}
    change(ticket, changed(spec_of(ticket), burn={"power": 90}), "Power")
    answer = client.post(
        f"/jobs/{ticket.number}/sign/dose_as_the_recipe/",
        {"name": "mk", "rests_on": shown["dose_as_the_recipe"]}, headers=HX,
    )  # fmt: skip
    assert answer.status_code == 422
    assert "The job was changed since" in answer.content.decode()
    assert not ticket.signatures.exists()


VALUES = {
    ("burn", "power"): st.integers(1, 100), ("burn", "passes"): st.integers(1, 9),
    ("burn", "speed_mm_s"): st.integers(10, 400), ("tone", "gamma"): st.integers(1, 3),
    ("tone", "brightness"): st.integers(-50, 50), ("place", "x_mm"): st.integers(0, 90),
    ("dots", "method"): st.sampled_from(["jarvis", "bayer", "threshold"]),
}  # fmt: skip
PATHS = st.dictionaries(st.sampled_from(sorted(VALUES)), st.integers(0, 10**6), max_size=4)


@settings(max_examples=25, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(data=st.data(), mine=PATHS, theirs=PATHS)
def test_any_two_changes_are_laid_together(ticket, data, mine, theirs):
    """Of each field the last writer's value stands; nobody else's is lost."""
    wanted = {}
    loaded = twice(ticket)
    start = now(ticket)
    for job, paths in zip(loaded, (theirs, mine), strict=True):
        spec = spec_of(job)
        for part, name in paths:
            value = data.draw(VALUES[part, name])
            if getattr(getattr(start, part), name) != value:
                wanted[part, name] = value
            spec = changed(spec, **{part: {name: value}})
        change(job, spec, "Changed")
    after = now(ticket)
    for (part, name), value in wanted.items():
        assert getattr(getattr(after, part), name) == value
    assert after == changed(
        start,
        **{
            part: {name: wanted[part, name] for one, name in wanted if one == part}
            for part, _ in wanted
        },
    )
