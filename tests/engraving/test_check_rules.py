"""Rules against recipe, units, edges, machine and material; and what a finding rests on."""

from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from engraving.check import (
    Facts,
    Finding,
    Fine,
    RecipeKnown,
    Severity,
    Shelf,
    check_job,
    listing,
)
from engraving.jobspec import JobSpec
from engraving.motion import Estimate
from support.jobs import changed

GOOD = changed(
    JobSpec(),
    artwork={"width_px": 2000, "height_px": 2000},
    burn={"speed_mm_s": 200, "power": 40, "recipe": "Brown"},
    place={"x_mm": 100, "y_mm": 100},
)
RECIPE = RecipeKnown(200, (30, 50), tested=True, lens="2 in", spot_mm=0.1, rated_power_w=40)
COVER = {"fit": "cover", "width_mm": 100, "height_mm": 100}


def found(rule, spec=GOOD, recipe=RECIPE, **facts):
    shelf = facts.pop("shelf", {})
    findings, fine = check_job(Facts(spec, shelf=Shelf(recipe, **shelf), **facts))
    return next((item for item in findings + fine if item.rule == rule), None)


FOUND = {
    # rule: job, recipe, facts; and the figure that shows it
    "recipe_was_tried": ({}, {"tested": False}, {}, "Brown"),
    "beam_is_the_recipes": (
        {"machine": {"spot_mm": 0.12, "rated_power_w": 60}}, {}, {},
        "spot 0.120 mm, was 0.100 mm, 60 W, were 40 W",
    ),
    "power_was_tried": ({"burn": {"power": 70}}, {}, {}, "70 % set, tried at 30 to 50 %"),
    "speed_in_its_unit": (
        {"burn": {"speed_mm_s": 5080 / 25.4 / 60}}, {}, {},
        "3.33333 mm/s set, 200 mm/s in the recipe",
    ),
    "size_in_its_unit": (
        {"size": {"width_mm": 80 / 25.4, "height_mm": 100 / 25.4}}, {}, {},
        "3.14961 × 3.93701 mm on 100 × 100 mm",
    ),
    "edges_are_covered": (
        {"size": {**COVER, "width_mm": 99.4}}, {}, {},
        "left 0.30 mm short, right 0.30 mm short, back 0.00 mm over, front 0.00 mm over; "
        "0.5 mm beyond the edge are safe",
    ),
    "beam_keeps_up": ({"machine": {"response_ms": 1.2}}, {}, {}, "2.40 dots of 0.100 mm"),
    "tones_are_kept": ({}, {}, {"lost": (0.31, 0.02)}, "31.0 % of it black, 2.0 % white"),
    "within_the_time": (
        {"machine": {"longest_min": 60}}, {}, {"timed": Estimate(seconds=4800)},
        "80 min, 60 min are the limit",
    ),
    "fits_the_store": ({"machine": {"file_mb": 2}}, {}, {"gcode_bytes": 5_300_000}, "5.3 MB, 2 MB a file"),
    "shelf_and_machine_agree": (
        {}, {}, {"shelf": {"unlike": ("Bed, width: 300 mm it says, 400 mm here",)}},
        "Bed, width: 300 mm it says, 400 mm here",
    ),
    "return_rows_were_measured": ({}, {}, {}, "both ways at 200 mm/s"),
    "turns_were_measured": (
        {"blank": {"shape": "wall", "diameter_mm": 60}, "mount": {"kind": "chuck"}}, {}, {},
        "6400 a turn",
    ),
    "prepared": (
        {}, {"coating": "one coat of white"}, {"shelf": {"cleaning": "alcohol"}},
        "coating: one coat of white; cleaning afterwards: alcohol",
    ),
    "underlay_leaves_no_stain": (
        {"substrate": {"clear": True}}, {}, {"shelf": {"underlay": "a wooden board"}},
        "under it: a wooden board",
    ),
}  # fmt: skip
NOTES = {"fits_the_store", "return_rows_were_measured", "prepared"}


@pytest.mark.parametrize("rule", FOUND)
def test_each_is_found_and_its_button_mends_it(rule):
    job, recipe, facts, figure = FOUND[rule]
    spec = changed(GOOD, **job)
    finding = found(rule, spec, replace(RECIPE, **recipe), **facts)
    assert (finding.figure, finding.sentence[-1] in ".?") == (figure, True)
    assert finding.severity is (Severity.NOTE if rule in NOTES else Severity.CAUTION)
    if finding.fix:
        mended = changed(spec, **finding.fix.changes)
        again = found(rule, mended, replace(RECIPE, **recipe), **facts)
        assert isinstance(again, Fine)


FINE = {
    "recipe_was_tried": {}, "beam_is_the_recipes": {}, "power_was_tried": {},
    "speed_in_its_unit": {}, "size_in_its_unit": {}, "tones_are_kept": {"lost": (0, 0)},
    "beam_keeps_up": {"spec": changed(GOOD, machine={"response_ms": 0.4})},
    "edges_are_covered": {"spec": changed(GOOD, size={**COVER, "width_mm": 101, "height_mm": 101})},
    "within_the_time": {
        "spec": changed(GOOD, machine={"longest_min": 90}), "timed": Estimate(seconds=4800),
    },
    "fits_the_store": {
        "spec": changed(GOOD, machine={"file_mb": 2}), "gcode_bytes": 900_000,
    },
}  # fmt: skip


@pytest.mark.parametrize("rule", FINE)
def test_each_can_be_fine(rule):
    assert isinstance(found(rule, **FINE[rule]), Fine)


def test_a_dose_that_differs_is_told_once():
    """By speed made up for, the power is the only thing untried; else the dose says it."""
    stronger = changed(GOOD, burn={"power": 70, "recipe_dose": 0.8})
    assert found("dose_as_the_recipe", stronger).severity is Severity.CAUTION
    assert found("power_was_tried", stronger) is None
    even = changed(stronger, burn={"speed_mm_s": 350})
    assert isinstance(found("dose_as_the_recipe", even), Fine)
    assert isinstance(found("power_was_tried", even), Finding)


@pytest.mark.parametrize("under", ["", "Cardboard", "plywood, 6 mm", "MDF"])
def test_what_lies_under_glass(under):
    clear = changed(GOOD, substrate={"clear": True})
    finding = found("underlay_leaves_no_stain", clear, shelf={"underlay": under})
    assert finding.severity is (Severity.CAUTION if under else Severity.NOTE)
    for shiny in ("polished steel", "a sheet of aluminium"):
        assert found("underlay_leaves_no_stain", clear, shelf={"underlay": shiny}) is None
    assert found("underlay_leaves_no_stain", shelf={"underlay": under}) is None


@pytest.mark.parametrize("side", ["left", "right", "back", "front"])
def test_the_edge_that_is_not_covered_is_named(side):
    """A bleed of 1 mm, the picture pushed 0.7 mm to one side, leaves 0.3 on the other."""
    off = {"left": (0.7, 0), "right": (-0.7, 0), "back": (0, -0.7), "front": (0, 0.7)}[side]
    size = {"fit": "cover", "width_mm": 102, "height_mm": 102, "bleed_mm": 1}
    size |= {"offset_x_mm": off[0], "offset_y_mm": off[1]}
    finding = found("edges_are_covered", changed(GOOD, size=size))
    assert finding.figure.startswith(f"{side} 0.30 mm over; ")
    assert finding.fix is None


def test_the_page_of_rules_is_made_from_them():
    page = Path(__file__).parents[2] / "docs/findings.md"
    assert page.read_text() == listing(), "make findings writes it anew"


# What a finding rests on

MUTATIONS = {
    "burn": [{"power": 35}, {"speed_mm_s": 150}, {"recipe": ""}, {"both_ways": False}],
    "size": [{"pitch_mm": 0.08}, {"width_mm": 60}, {"fit": "cover"}],
    "blank": [{"width_mm": 50}, {"name": "Other"}, {"keep_inside": True}],
    "machine": [{"spot_mm": 0.2}, {"longest_min": 10}, {"lowest_power": 50}],
    "substrate": [{"clear": True}, {"hazard": "old-mirror"}, {"polarity": "lightens"}],
    "side": [{"mirror": "yes"}, {"seen_from": "back"}, {"printing_plate": True}],
    "place": [{"x_mm": 390}, {"turn_deg": 7}],
    "tone": [{"gamma": 1.2}],
    "dots": [{"method": "power"}],
}
CHANGES = [(part, one) for part, many in MUTATIONS.items() for one in many]


def grounds(spec, **facts):
    known = {"burned_dots": 1000, "lost": (0.2, 0.0), "timed": Estimate(seconds=4000)}
    findings, _ = check_job(Facts(spec, shelf=Shelf(RECIPE), **{**known, **facts}))
    return {one.rule: (one.sentence, one.figure, one.rests_on) for one in findings}


@settings(max_examples=60)
@given(
    st.lists(st.sampled_from(CHANGES), min_size=1, max_size=3),
    st.lists(st.sampled_from(CHANGES), min_size=1, max_size=2),
)
def test_whatever_changes_a_finding_changes_its_grounds(first, then):
    def after(spec, changes):
        for part, one in changes:
            spec = changed(spec, **{part: one})
        return spec

    before = after(GOOD, first)
    was, now = grounds(before), grounds(after(before, then))
    for rule in was.keys() & now.keys():
        if was[rule][:2] != now[rule][:2]:
            assert was[rule][2] != now[rule][2]
    assert grounds(before) == was


def test_grounds_are_what_the_rule_looks_at():
    fine_rows = changed(GOOD, size={"pitch_mm": 0.08})
    ground = grounds(fine_rows)["pitch_against_spot"]
    for part in (
        {"tone": {"gamma": 1.3}},
        {"place": {"x_mm": 80}},
        {"burn": {"air": True}},
    ):
        assert grounds(changed(fine_rows, **part))["pitch_against_spot"] == ground
    wider = changed(fine_rows, size={"width_mm": 81})
    assert grounds(wider)["pitch_against_spot"][:2] == ground[:2]
    assert grounds(wider)["pitch_against_spot"] != ground
    lost = grounds(GOOD)["tones_are_kept"]
    assert grounds(GOOD, lost=(0.2001, 0.0))["tones_are_kept"] != lost
