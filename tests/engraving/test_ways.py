"""The ways of marking: each held to the same contract, and what Check says of them."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from skimage import data

from engraving.artwork.depth_look import depth_odds
from engraving.cards import KINDS
from engraving.geometry.swept import swept
from engraving.jobspec import WAY_MACHINES, JobSpec, SizePart
from engraving.pipeline.stages.ways.registry import WAYS
from engraving.proof import Window
from support.jobs import changed, pipeline_of

SIDE = 80


def dome():
    y, x = np.mgrid[:SIDE, :SIDE]
    r = np.hypot(x - 39.5, y - 39.5) / 40
    return (255 * np.sqrt(np.maximum(1 - r**2, 0))).astype(np.uint8)


def grain(seed=1):
    return np.random.default_rng(seed).integers(0, 256, (SIDE, SIDE)).astype(np.uint8)


METHODS = {"dots": "jarvis", "relief": "jarvis", "carved": "wavy", "drag": "line"}


def job(way, **parts):
    kind = WAY_MACHINES[way][0]
    plain = JobSpec(size=SizePart(width_mm=20, height_mm=20, pitch_mm=0.25))
    spec = changed(
        plain,
        artwork={"width_px": SIDE, "height_px": SIDE, "holds": "depth" if way == "relief" else "tones"},
        machine={"kind": kind, "z_axis": True, "spot_mm": 0.25},
        dots={"method": METHODS[way], "ruling_cm": 5, "wavelength_mm": 8, "swing_mm": 0.5},
        marking={"way": way}, burn={"recipe": "Ours", "speed_mm_s": 100},
    )  # fmt: skip
    return changed(spec, **parts) if parts else spec


@pytest.mark.parametrize("way", WAYS)
class TestEveryWay:
    def test_it_moves_marks_and_is_timed(self, way):
        spec, pipeline = job(way), pipeline_of(dome())
        bands = list(pipeline.bands(spec))
        assert sum(int(m.power.any()) for m in bands) > 0
        assert pipeline.estimate(spec).burn_s > 0
        assert {m.z is not None for m in bands} == {WAYS[way].touches}
        assert 0 < pipeline.dots(spec).share < 1

    def test_its_moves_stay_within_the_picture(self, way):
        spec = job(way)
        left, front, right, back = pipeline_of(dome()).estimate(spec).burn_bounds_mm
        assert left >= 10 - 0.2
        assert front >= 10 - 0.2
        assert right <= 30.2
        assert back <= 30.2

    @given(
        st.integers(-30, 60), st.integers(-30, 60), st.integers(1, 120), st.integers(1, 160)
    )
    @settings(max_examples=10)
    def test_any_window_of_its_views_has_its_size(self, way, left, top, cols, px):
        spec, pipeline = job(way), pipeline_of(dome())
        window = Window(left, top, cols, cols, min(px, 8 * cols), min(px, 8 * cols))
        for seen in (pipeline.proof(spec, window), pipeline.plan(spec, window)):
            assert seen.dtype == np.uint8
            assert seen.shape[2] == 3
            assert max(seen.shape[:2]) <= 8 * cols
        bits = pipeline.plan_bits(spec, window)
        assert (bits is not None) == (way == "dots" and not window.shrinks)
        if bits is not None:
            assert np.array_equal(bits.colours[bits.codes], pipeline.plan(spec, window))
        assert pipeline.wanted(spec).shape == (80, 80)

    def test_only_its_machines_do_it(self, way):
        pipeline = pipeline_of(dome())
        for kind in ("co2", "vtool", "drag"):
            spec = job(way, machine={"kind": kind})
            stops = {one.rule for one in pipeline.check(spec)[0] if one.severity == "stop"}
            assert ("machine_can_mark_so" in stops) == (kind not in WAYS[way].machines)

    def test_its_own_settings_change_its_key_and_no_others(self, way):
        pipeline, spec = pipeline_of(dome()), job(way)
        for other, part in (
            ("relief", {"depth_mm": 1}),
            ("carving", {"least_mm": 1}),
            ("drag", {"least_mm": 1}),
        ):
            settings_ = {**spec.marking.model_dump(mode="json")}
            settings_[other] = {**settings_[other], **part}
            touched = changed(spec, marking=settings_)
            own = {"relief": "relief", "carving": "carved", "drag": "drag"}[other] == way
            assert (pipeline.proof.key(touched) != pipeline.proof.key(spec)) == own
            assert (pipeline.dots.key(touched) != pipeline.dots.key(spec)) == own


def rules_of(spec, picture):
    found, _ = pipeline_of(picture).check(spec)
    return {one.rule: one for one in found}


def test_a_photograph_is_not_carved_and_a_depth_picture_not_burned():
    carved = rules_of(job("relief", artwork={"holds": "tones"}), grain())["depth_is_depth"]
    assert carved.severity == "caution"
    assert "photograph" in carved.sentence
    burned = rules_of(job("dots", artwork={"holds": "depth"}), dome())["depth_is_depth"]
    assert burned.severity == "caution"
    assert "depth picture" in burned.sentence
    assert "depth_is_depth" not in rules_of(job("relief"), dome())
    assert "depth_is_depth" not in rules_of(job("dots"), grain())


BAD = [
    ("relief", {"blank": {"thickness_mm": 2}}, "relief_leaves_a_floor", "stop"),
    ("relief", {"blank": {"thickness_mm": 3}}, "relief_leaves_a_floor", "caution"),
    ("relief", {"machine": {"z_axis": False, "lens": "a", "lenses": [{"name": "a", "depth_mm": 3, "spot_mm": 0.25}]}},
     "relief_stays_in_focus", "caution"),
    ("relief", {"marking": {"way": "relief", "relief": {"depth_mm": 2, "per_pass_mm": 0.1}}}, "relief_stays_cool", "caution"),
    ("carved", {"blank": {"thickness_mm": 1.5}}, "board_is_left", "stop"),
    ("carved", {"dots": {"ruling_cm": 40}}, "tool_fits_the_detail", "caution"),
    ("carved", {"marking": {"way": "carved", "carving": {"tool": {"tip_mm": 2.5}}}}, "tool_fits_the_detail", "stop"),
    ("carved", {"marking": {"way": "carved", "carving": {"uneven_mm": 0.1}}}, "bed_is_even", "caution"),
    ("drag", {"size": {"pitch_mm": 0.5}}, "rows_lie_a_mark_apart", "caution"),
]  # fmt: skip


@pytest.mark.parametrize(("way", "parts", "rule", "severity"), BAD)
def test_what_goes_wrong_is_found_and_its_fix_answers_it(way, parts, rule, severity):
    spec = job(way, **parts)
    finding = rules_of(spec, dome())[rule]
    assert finding.severity == severity
    assert any(one.isdigit() for one in finding.figure)
    if finding.fix is not None:
        assert rule not in rules_of(changed(spec, **finding.fix.changes), dome())


def test_too_little_light_is_told():
    spec = job("drag", substrate={"polarity": "lightens"})
    assert "enough_is_light" in rules_of(spec, (dome() // 24).astype(np.uint8))
    assert "enough_is_light" not in rules_of(spec, dome())


def test_letters_need_a_tool_that_goes_into_them():
    letters = {"lines": [{"text": "Ada", "cap_mm": 4}]}
    inside = {"kind": "inside", "shape": "lettering", "offset_mm": 0}
    spec = job("carved", lettering=letters, operations=[{"kind": "raster"}, inside])
    assert "tool_goes_into_the_letters" not in rules_of(spec, dome())
    blunt = changed(
        spec, operations=[{"kind": "raster"}, {**inside, "tool": {"tip_mm": 3.0}}]
    )
    assert rules_of(blunt, dome())["tool_goes_into_the_letters"].severity == "stop"
    beam = changed(spec, machine={"kind": "co2"}, marking={"way": "dots"})
    assert rules_of(beam, dome())["letters_are_carved_by_a_tool"].severity == "stop"


def test_lettering_of_its_own_operation_is_left_out_of_the_picture():
    letters = {"lines": [{"text": "Ada", "cap_mm": 8, "look": "dark"}]}
    white = np.full((SIDE, SIDE), 255, np.uint8)
    drawn = pipeline_of(white).dots(job("dots", lettering=letters)).count
    inside = {"kind": "inside", "shape": "lettering", "offset_mm": 0}
    apart = job("dots", lettering=letters, operations=[{"kind": "raster"}, inside])
    assert drawn > 0
    assert pipeline_of(white).dots(apart).count == 0


def test_photographs_and_depths_are_told_apart():
    for name in ("camera", "coins", "page", "text", "brick", "grass", "gravel"):
        assert depth_odds(getattr(data, name)()) < 0.3, name
    y, x = np.mgrid[:400, :400]
    bowl = np.sqrt(np.maximum(1 - (np.hypot(x - 200, y - 200) / 190) ** 2, 0))
    assert depth_odds((255 * bowl).astype(np.uint8)) > 0.8
    assert depth_odds((65535 * bowl).astype(np.uint16)) > 0.9
    assert depth_odds(np.full((50, 50), 7, np.uint8)) == 0.5


lines = st.lists(st.tuples(st.floats(2, 18), st.floats(2, 18)), min_size=1, max_size=6)


@given(lines, st.floats(0.4, 3))
@settings(max_examples=40)
def test_what_a_round_tool_covers_is_the_buffer_of_its_way(points, wide):
    """Against GEOS (shapely), within a pixel at its edge."""
    way = np.array(points)
    seen = swept([way], [np.full(len(way), wide)], (20, 20), (400, 400)) > 0
    line = shapely.LineString(way) if len(way) > 1 else shapely.Point(way[0])
    y, x = np.mgrid[:400, :400]
    places = (x.ravel() + 0.5) / 20, (y.ravel() + 0.5) / 20
    surely = shapely.contains_xy(line.buffer(wide / 2 - 0.08), *places).reshape(seen.shape)
    perhaps = shapely.contains_xy(line.buffer(wide / 2 + 0.08), *places).reshape(seen.shape)
    assert seen[surely].all()
    assert not seen[~perhaps].any()


@pytest.mark.parametrize("way", WAYS)
def test_its_card_suits_a_machine_that_can_do_it(way):
    assert KINDS[WAYS[way].card].touches == WAYS[way].touches
