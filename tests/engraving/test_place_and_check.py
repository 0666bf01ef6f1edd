"""Placement arithmetic and the check rules."""

import numpy as np
import pytest
import shapely
from hypothesis import example, given
from hypothesis import strategies as st

from engraving.check import (
    RULES,
    Facts,
    Finding,
    Fine,
    RecipeKnown,
    Severity,
    Shelf,
    check_job,
    rules_of,
)
from engraving.errors import ChoiceError
from engraving.geometry.polygons import polygons, rings, rounded
from engraving.jobspec import (
    Area,
    ArtworkPart,
    BlankPart,
    JobSpec,
    MachinePart,
    PlacePart,
    SizePart,
)
from engraving.place import (
    ANCHORS,
    anchor_point,
    engravable_area,
    engravable_mask,
    face_area,
    face_mask,
    frame_of,
    from_anchor,
    piece_box,
)
from support.jobs import changed, pipeline_of

PIECE = SizePart(width_mm=75, height_mm=75)
GOOD = JobSpec(
    artwork=ArtworkPart(width_px=800, height_px=800),
    size=PIECE,
    place=PlacePart(x_mm=10, y_mm=30),
)


def test_anchors_of_a_piece():
    """75 × 75 with its corner at 10, 30: centre 47.5, 67.5, far corner 85, 105."""
    box = piece_box(PIECE, GOOD.place)
    assert anchor_point(box, "middle-centre") == (47.5, 67.5)
    assert anchor_point(box, "back-right") == (85, 105)
    with pytest.raises(ChoiceError):
        anchor_point(box, "top")


@given(st.sampled_from(sorted(ANCHORS)), st.floats(-500, 500), st.floats(-500, 500))
def test_any_anchor_leads_back(anchor, x, y):
    left, front = from_anchor(PIECE, anchor, x, y)
    box = piece_box(PIECE, PlacePart(x_mm=left, y_mm=front))
    assert anchor_point(box, anchor) == pytest.approx((x, y), abs=1e-9)


def test_a_frame_counts_from_its_corner():
    """Lower left 10, 30 on a bed 300 deep whose y runs forward from the back: 270."""
    machine = MachinePart(bed_width_mm=400, bed_height_mm=300, origin="back-left")
    assert frame_of(machine).to_machine(10, 30) == (10, 270)


@given(
    st.sampled_from(["front-left", "front-right", "back-left", "back-right"]),
    st.floats(0, 400),
    st.floats(0, 300),
)
def test_frames_lead_back(origin, x, y):
    frame = frame_of(MachinePart(bed_width_mm=400, bed_height_mm=300, origin=origin))
    assert frame.to_bed(*frame.to_machine(x, y)) == pytest.approx((x, y))


def test_dots_on_a_disc():
    size = SizePart(width_mm=40, height_mm=40, pitch_mm=0.1)
    disc = BlankPart(shape="disc", width_mm=40, height_mm=40, margin_mm=2)
    assert engravable_mask(size, disc).sum() * 0.01 == pytest.approx(
        np.pi * 18**2, rel=2e-3
    )


def test_dots_beyond_the_blank_are_dropped():
    spec = changed(
        GOOD,
        artwork={"width_px": 40, "height_px": 40},
        size={"width_mm": 40, "height_mm": 40, "pitch_mm": 1},
        blank={"shape": "disc", "width_mm": 40, "height_mm": 40, "keep_inside": True},
    )
    dots = pipeline_of(np.zeros((40, 40), np.uint8)).dots(spec).unpack()
    assert dots[0, 0] == 0
    assert dots[20, 20] == 1
    assert dots.sum() == pytest.approx(np.pi * 400, rel=0.02)


def found(spec, rule, **facts):
    findings, fine = check_job(Facts(spec, **facts))
    return next((item for item in findings + fine if item.rule == rule), None)


BAD = {
    "on_the_bed": (changed(GOOD, place={"x_mm": 350}), Severity.STOP),
    "run_up_on_the_bed": (changed(GOOD, place={"x_mm": 1}), Severity.STOP),
    "inside_the_blank": (changed(GOOD, blank={"width_mm": 60}), Severity.CAUTION),
    "pitch_against_spot": (changed(GOOD, size={"pitch_mm": 0.08}), Severity.CAUTION),
    "source_is_large_enough": (changed(GOOD, artwork={"width_px": 400}), Severity.CAUTION),
    "speed_in_range": (changed(GOOD, burn={"speed_mm_s": 700}), Severity.STOP),
    "power_in_range": (
        changed(GOOD, burn={"power": 5}, machine={"lowest_power": 10}),
        Severity.STOP,
    ),
    "dose_as_the_recipe": (
        changed(GOOD, burn={"recipe_dose": 1.0, "speed_mm_s": 100, "power": 40}),
        Severity.CAUTION,
    ),
    "faster_is_slower": (changed(GOOD, burn={"speed_mm_s": 400}), Severity.NOTE),
}


SILENT = {
    "safe_under_a_beam", "mercury_in_old_mirrors", "hardly_burned", "machine_can_mark_so",
    "pockets_hold_something", "blanks_lie_apart", "round_pieces_turn",
    "the_seam_is_closed", "clear_of_handles", "strips_show", "something_is_included",
    "outlines_are_there", "cut_loose_last", "inside_before_outside",
    "zero_is_where_the_head_stands", "dots_are_sharp", "letters_fit_their_arc",
    "plate_has_a_border", "lightest_tone_marks", "rows_on_motor_steps", "prepared",
    "underlay_leaves_no_stain", "shelf_and_machine_agree", "turns_were_measured",
    "edges_are_covered", "within_the_time", "fits_the_store",
    "link_keeps_up", "enough_moves_are_planned", "waits_with_the_beam_off", "letters_are_carved_by_a_tool",
    *(one.__name__ for theme in ("outlines", "depth", "carving", "scratching") for one in rules_of(theme)),
}  # fmt: skip


def test_a_good_job_is_fine():
    good = changed(
        GOOD,
        burn={"recipe": "Brown", "recipe_dose": 1.6},
        machine={"response_ms": 0.4, "row_shift": [(200, 0.02)]},
    )
    recipe = RecipeKnown(
        good.burn.speed_mm_s, (10, 60), tested=True,
        spot_mm=good.machine.spot_mm, rated_power_w=good.machine.rated_power_w,
    )  # fmt: skip
    facts = Facts(
        good, burned_dots=1000, short_runs=0, dotted=False, smeared=False, melting=0.01,
        strokes=(("Highmere", 0.8, 40.0),), off_blank=0.0, lost=(0.01, 0.0),
        shelf=Shelf(recipe),
    )  # fmt: skip
    findings, fine = check_job(facts)
    assert findings == []
    # The others have something to say only of a fault, a cut, a rotary, a plate or powers.
    assert {one.rule for one in fine} == {rule.__name__ for rule in RULES} - SILENT


@pytest.mark.parametrize("rule", BAD)
def test_each_fault_is_found(rule):
    spec, severity = BAD[rule]
    finding = found(spec, rule)
    assert isinstance(finding, Finding)
    assert finding.severity is severity
    assert finding.sentence.endswith(".")
    assert any(character.isdigit() for character in finding.figure)


@pytest.mark.parametrize("rule", [rule for rule in BAD if rule != "faster_is_slower"])
def test_each_fix_answers_its_finding(rule):
    spec, _ = BAD[rule]
    fixed = changed(spec, **found(spec, rule).fix.changes)
    assert isinstance(found(fixed, rule), Fine)


@pytest.mark.parametrize(
    ("rule", "parts", "severity"),
    [("safe_under_a_beam", {"substrate": {"hazard": "chlorine"}}, Severity.STOP),
     ("mercury_in_old_mirrors", {"substrate": {"hazard": "old-mirror"}}, Severity.CAUTION),
     ("settings_are_tested", {"burn": {"recipe": ""}}, Severity.CAUTION),
     ("machine_can_mark_so", {"machine": {"kind": "drag"}}, Severity.STOP)],
)  # fmt: skip
def test_what_no_button_can_put_right(rule, parts, severity):
    """Chlorine plastics and old mirrors: common practice, no source."""
    finding = found(changed(GOOD, **parts), rule)
    assert (finding.severity, finding.fix) == (severity, None)


def test_rows_along_y_need_their_room_and_speed_there():
    along = changed(GOOD, burn={"rows": "y"}, machine={"max_speed_y_mm_s": 50})
    assert found(along, "speed_in_range").severity is Severity.STOP
    near = changed(GOOD, burn={"rows": "y"}, place={"y_mm": 0.5})
    assert found(near, "run_up_on_the_bed").severity is Severity.STOP
    assert isinstance(found(changed(GOOD, place={"y_mm": 0.5}), "run_up_on_the_bed"), Fine)


def test_dark_pictures_on_what_is_burned_dark():
    """62 % is common practice, no source; slate, which is burned light, may be mostly burned."""
    most = GOOD.size.cols * GOOD.size.rows
    finding = found(GOOD, "mostly_burned", burned_dots=int(0.7 * most))
    assert finding.severity is Severity.CAUTION
    assert finding.figure == "70.0 % of the dots"
    assert changed(GOOD, **finding.fix.changes).tone.shade == 2
    assert isinstance(found(GOOD, "mostly_burned", burned_dots=int(0.6 * most)), Fine)
    slate = changed(GOOD, substrate={"polarity": "lightens"})
    assert found(slate, "mostly_burned", burned_dots=int(0.9 * most)) is None


def test_short_runs_are_told_and_lengthened():
    """1 ms at 100 mm/s smears 0.1 mm."""
    spec = changed(GOOD, machine={"response_ms": 1}, burn={"speed_mm_s": 100})
    finding = found(spec, "short_runs", short_runs=12)
    assert finding.figure == "12 runs shorter than 0.100 mm"
    after = changed(spec, **finding.fix.changes)
    assert isinstance(found(after, "short_runs", short_runs=12), Fine)


def test_continuous_power_that_marks_nothing_is_told():
    """Of 40 % in 64 steps the lightest asks for 0.6 %, where 8 % is the least that marks."""
    power = changed(
        GOOD, dots={"method": "power"}, machine={"lowest_power": 8}, burn={"power": 40}
    )
    finding = found(power, "lightest_tone_marks")
    assert finding.severity is Severity.CAUTION
    assert finding.figure == "0.6 % asked, 8 % is the least"
    assert isinstance(
        found(changed(power, **finding.fix.changes), "lightest_tone_marks"), Fine
    )
    assert found(changed(power, burn={"power": 6}), "lightest_tone_marks").fix is None
    assert found(GOOD, "lightest_tone_marks") is None


def test_an_empty_job_and_one_of_two_levels():
    assert found(GOOD, "something_to_burn", burned_dots=0).severity is Severity.STOP
    finding = found(GOOD, "dots_are_kept", dotted=True)
    assert finding.severity is Severity.CAUTION
    kept = changed(GOOD, **finding.fix.changes)
    assert isinstance(found(kept, "dots_are_kept", dotted=True), Fine)


PICTURE_FAULTS = {
    "dots_are_sharp": {"smeared": True},
    "subject_stands_out": {"melting": 0.4},
    "letters_are_wide_enough": {"strokes": (("Highmere", 0.05, 40.0),)},
}


@pytest.mark.parametrize("rule", PICTURE_FAULTS)
def test_each_fault_of_the_picture_is_found(rule):
    finding = found(GOOD, rule, **PICTURE_FAULTS[rule])
    assert finding.severity is Severity.CAUTION
    assert finding.sentence.endswith(".")


def test_lettering_longer_than_its_circle():
    spec = changed(GOOD, lettering={"lines": [{"text": "round and round", "arc_mm": -5}]})
    # 2π·5 = 31.4 mm
    assert found(spec, "letters_fit_their_arc", strokes=(("round", 0.5, 32.0),))
    assert not found(spec, "letters_fit_their_arc", strokes=(("round", 0.5, 31.0),))


def test_overruled_sides_stay_flagged_and_plates_want_a_border():
    spec = changed(GOOD, side={"printing_plate": True, "mirror": "no"})
    finding = found(spec, "mirrored_as_it_is_seen")
    assert finding.figure.startswith("mirrored would be right: a plate prints the other")
    spec = changed(spec, **finding.fix.changes)
    assert isinstance(found(spec, "mirrored_as_it_is_seen"), Fine)
    for side in ({"invert": "yes"}, {"polarity": "lightens"}):
        finding = found(changed(GOOD, side=side), "inverted_as_it_burns")
        back = changed(GOOD, **finding.fix.changes)
        assert isinstance(found(back, "inverted_as_it_burns"), Fine)
    border = found(spec, "plate_has_a_border")
    # about 2.5 mm: common practice, no source
    assert border.fix.changes["border"]["width_mm"] == 2.5
    assert isinstance(
        found(changed(spec, **border.fix.changes), "plate_has_a_border"), Fine
    )


@pytest.mark.parametrize(
    ("side", "polarity", "mirrored", "burns_dark"),
    [
        ({}, "darkens", False, True), ({}, "lightens", False, False),
        ({"seen_from": "back"}, "lightens", True, False),
        ({"printing_plate": True}, "darkens", True, False),
        ({"printing_plate": True, "seen_from": "back"}, "darkens", False, False),
        ({"seen_from": "back", "mirror": "no"}, "darkens", False, True),
        ({"printing_plate": True, "invert": "no"}, "darkens", True, True),
        ({"polarity": "lightens"}, "darkens", False, False),
    ],
)  # fmt: skip
def test_what_follows_from_the_side(side, polarity, mirrored, burns_dark):
    spec = changed(GOOD, side=side, substrate={"polarity": polarity})
    assert (spec.mirrored, spec.burns_dark) == (mirrored, burns_dark)


SQUARE = {"width_mm": 20, "height_mm": 20, "pitch_mm": 0.1}


@pytest.mark.parametrize(
    ("blank", "area"),
    [
        ({"shape": "rectangle", "margin_mm": 2}, 16 * 16),
        ({"shape": "oval", "height_mm": 10}, np.pi * 10 * 5),
        ({"shape": "rounded", "corner_mm": 4}, 400 - (4 - np.pi) * 16),
        ({"shape": "rounded", "corner_mm": 4, "margin_mm": 2}, 16 * 16 - (4 - np.pi) * 4),
        ({"shape": "disc", "margin_mm": 1}, np.pi * 81),
        ({"shape": "outline", "outline": [[[-10, -10], [10, -10], [0, 10]]]}, 200),
        ({"shape": "outline", "outline": [[[-9, -9], [9, -9], [9, 9], [-9, 9]],
                                          [[-3, -3], [3, -3], [3, 3], [-3, 3]]]}, 288),
        ({"area": {"shape": "oval", "width_mm": 8, "height_mm": 4, "x_mm": 3}}, np.pi * 8),
    ],
)  # fmt: skip
@pytest.mark.parametrize("along", [None, 0.04, 0.25])
def test_engravable_area_of_each_shape(blank, area, along):
    part = changed(GOOD, blank={"width_mm": 20, "height_mm": 20, **blank}).blank
    size = changed(GOOD, size={**SQUARE, "dot_pitch_mm": along}).size
    found_mm2 = engravable_mask(size, part).sum() * 0.1 * size.along_mm
    # an outline also holds the dots that its edge touches
    near = 0.04 if along == 0.25 and part.outline else 0.02
    assert found_mm2 == pytest.approx(area, rel=near)


def test_a_picture_off_the_middle_keeps_its_place_on_the_blank():
    size = changed(GOOD, size={**SQUARE, "offset_x_mm": 5, "offset_y_mm": -2}).size
    part = changed(GOOD, blank={"width_mm": 20, "height_mm": 20}).blank
    mask = engravable_mask(size, part)
    # 5 mm beyond the right edge, 2 mm beyond the near edge
    assert mask[:180, :150].all()
    assert not mask[180:].any()
    assert not mask[:, 150:].any()


@pytest.mark.parametrize(
    ("blank", "width"),
    [({"shape": "wall", "diameter_mm": 70}, np.pi * 70),
     ({"shape": "ring", "diameter_mm": 18}, np.pi * 18),
     ({"shape": "taper", "diameter_mm": 80, "foot_mm": 60}, np.pi * 70)],
)  # fmt: skip
def test_a_wall_is_as_wide_as_it_is_round(blank, width):
    assert changed(GOOD, blank=blank).blank.width_mm == pytest.approx(width)


def test_worst_comes_first():
    spec = changed(BAD["pitch_against_spot"][0], place={"x_mm": 350})
    findings, _ = check_job(Facts(spec))
    weights = [list(Severity).index(finding.severity) for finding in findings]
    assert weights == sorted(weights)


def test_a_run_up_too_long_for_the_bed_slows_down():
    spec = changed(GOOD, size={"width_mm": 390, "height_mm": 390}, place={"x_mm": 5, "y_mm": 5},
                   burn={"speed_mm_s": 300})  # fmt: skip
    fix = found(spec, "run_up_on_the_bed").fix
    assert fix.label == "Set 173 mm/s"  # v = √(2·3000·5) = 173.2
    assert isinstance(found(changed(spec, **fix.changes), "run_up_on_the_bed"), Fine)


SHAPES = ("rectangle", "rounded", "disc", "oval", "outline")


@given(
    st.floats(0.5, 500), st.floats(0.5, 500), st.floats(0, 1), st.floats(-300, 300)
)  # fmt: skip
@example(8.0, 8.0, 1.0, 0.0)
@example(8.0, 8.0, 1 - 1e-7, 0.0)
def test_round_corners_take_off_what_four_quarters_leave_of_a_square(
    wide, high, share, left
):
    """A = w·h - (4 - π)·r², for every radius up to half the shorter side."""
    corner = share * min(wide, high) / 2
    area = rounded(shapely.box(left, 0, left + wide, high), corner)
    assert area.is_valid
    assert area.area == pytest.approx(wide * high - (4 - np.pi) * corner**2, rel=1e-3)
    assert area.bounds == pytest.approx((left, 0, left + wide, high), abs=1e-9)


@given(
    st.sampled_from(SHAPES), st.floats(8, 60), st.floats(8, 60), st.floats(0, 5),
    st.floats(0, 3), st.sampled_from([None, "rectangle", "oval"]),
)  # fmt: skip
@example("rounded", 8.0, 8.0, 4.0, 0.0, None)
def test_what_is_drawn_of_a_blank_is_what_may_burn(shape, wide, high, corner, margin, own):
    """The edge as geometry and the dots of the mask enclose the same area."""
    ring = [
        (-wide / 2, -high / 2),
        (wide / 2, -high / 2),
        (wide / 4, high / 2),
        (-wide / 3, high / 2),
    ]
    area = (
        Area(shape=own, width_mm=wide * 0.7, height_mm=high * 0.8, x_mm=1, y_mm=-1)
        if own
        else None
    )
    blank = BlankPart(
        shape=shape, width_mm=wide, height_mm=wide if shape == "disc" else high, corner_mm=corner,
        margin_mm=margin, area=area, outline=(ring,) if shape == "outline" else (),
    )  # fmt: skip
    size = SizePart(width_mm=wide + 4, height_mm=blank.height_mm + 4, pitch_mm=0.1)
    for mask, drawn in (
        (face_mask(size, blank), polygons(face_area(blank))),
        (engravable_mask(size, blank), engravable_area(blank)),
    ):
        rings_of = rings(drawn.geoms)
        long = sum(float(np.hypot(*np.diff(one, axis=0).T).sum()) for one in rings_of)
        assert mask.sum() * 0.01 == pytest.approx(drawn.area, abs=0.05 * long + 0.1)
