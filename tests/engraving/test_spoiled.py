"""The four ways in which most pieces are spoiled: each is caught, or cannot happen.

That these are the four is common practice, no source.
"""

import pytest

from engraving.check import Facts, Finding, Fine, Severity, check_job
from engraving.jobspec import (
    ArtworkPart,
    BlankPart,
    FixturePart,
    JobSpec,
    MountPart,
    OperationPart,
    SizePart,
)
from engraving.place import anchor_of, burned_box, from_anchor, reach_box
from support.jobs import changed

FULL = JobSpec(
    artwork=ArtworkPart(width_px=1000, height_px=1000),
    blank=BlankPart(name="Tile", width_mm=80, height_mm=80),
    size=SizePart(width_mm=80, height_mm=80),
)
CUP = changed(
    FULL,
    blank=BlankPart(
        name="Cup", shape="wall", diameter_mm=60, width_mm=188.495559, height_mm=80
    ).model_dump(),
    size={"width_mm": 60, "height_mm": 60},
)


def said(spec, rule):
    findings, fine = check_job(Facts(spec))
    return next((one for one in [*findings, *fine] if one.rule == rule), None)


@pytest.mark.parametrize("way", ["offset_x_mm", "offset_y_mm"])
@pytest.mark.parametrize("off", [0.5, -0.5])
def test_half_a_millimetre_off_the_edge(way, off):
    assert isinstance(said(FULL, "inside_the_blank"), Fine)
    finding = said(changed(FULL, size={way: off}), "inside_the_blank")
    assert isinstance(finding, Finding)
    assert finding.figure == "0.5 mm beyond Tile"
    cut = changed(changed(FULL, size={way: off}), **finding.fix.changes)
    assert isinstance(said(cut, "inside_the_blank"), Fine)


@pytest.mark.parametrize("turn", [0.0, 33.0, -90.0])
@pytest.mark.parametrize("anchor", ["front-left", "middle-centre", "back-right"])
def test_no_halves_of_widths_are_added_by_hand(anchor, turn):
    """Wherever it is measured, the same middle comes out."""
    left, front = from_anchor(FULL.size, "middle-centre", 200, 150, turn)
    place = FULL.place.model_copy(update={"x_mm": left, "y_mm": front, "turn_deg": turn})
    again = from_anchor(FULL.size, anchor, *anchor_of(FULL.size, place, anchor), turn)
    assert again == pytest.approx((left, front))
    box = reach_box(FULL.size, place)
    assert ((box.left + box.right) / 2, (box.front + box.back) / 2) == pytest.approx(
        (200, 150)
    )


@pytest.mark.parametrize(
    ("own", "over"),
    [({"x_mm": 90, "y_mm": 0}, ""), ({"x_mm": 78, "y_mm": 0}, "1 pair, 160.0 mm² at most"),
     ({"x_mm": 82, "y_mm": 0}, ""), ({"x_mm": 82, "y_mm": 0, "turn_deg": 45}, "1 pair")],
)  # fmt: skip
def test_blanks_of_a_fixture_lie_over_one_another(own, over):
    pockets = ({}, own)
    spec = FULL.model_copy(
        update={"fixture": FixturePart.model_validate({"columns": 2, "pockets": pockets})}
    )
    said_of_it = said(spec, "blanks_lie_apart")
    assert isinstance(said_of_it, Finding if over else Fine)
    assert said_of_it.figure.startswith(over or "2")


def test_the_rotary_was_not_accounted_for():
    flat = said(CUP, "round_pieces_turn")
    assert (flat.severity, flat.station) == (Severity.CAUTION, "place")
    turned = changed(CUP, mount=MountPart(kind="chuck").model_dump())
    assert isinstance(said(turned, "round_pieces_turn"), Fine)
    # On or off as a whole: the bed's depth is not asked for any more.
    assert burned_box(turned).height == 0
    round_and_round = changed(turned, size={"width_mm": 190})
    assert said(round_and_round, "round_pieces_turn").severity is Severity.STOP


def test_the_seam_shows():
    turned = changed(CUP, mount=MountPart(kind="chuck").model_dump())
    nearly = said(changed(turned, size={"width_mm": 188.0}), "the_seam_is_closed")
    assert nearly.figure == "0.50 mm of 188.5 mm stay open"
    rows = round(188.495559 / 0.1)
    wrap = changed(
        turned, mount={"wrap": True},
        size={"width_mm": 188.495559, "dot_pitch_mm": 188.495559 / rows},
    )  # fmt: skip
    assert isinstance(said(wrap, "the_seam_is_closed"), Fine)


def test_cut_before_it_is_engraved():
    cut = OperationPart(kind="cut").model_dump(mode="json")
    raster = OperationPart(kind="raster").model_dump(mode="json")
    finding = said(changed(FULL, operations=[cut, raster]), "cut_loose_last")
    assert finding.severity is Severity.CAUTION
    fixed = changed(FULL, **finding.fix.changes)
    assert [one.kind for one in fixed.operations] == ["raster", "cut"]
    assert isinstance(said(fixed, "cut_loose_last"), Fine)
