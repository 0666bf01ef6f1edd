"""Spots, pulses, doses carried over, variants of a dose, the return-row shift.

Optics: Gaussian beams in the terms of ISO 11146, from memory; numbers computed
from the formulas apart from this program.
"""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from engraving.errors import InputError
from engraving.jobspec import (
    BurnPart,
    JobSpec,
    LensPart,
    MachinePart,
    RecipePart,
    SizePart,
    SubstratePart,
)
from engraving.recipe import (
    Candidate,
    areal_dose_j_mm2,
    carry_over,
    focused,
    job_dose_j_mm2,
    mark_width_mm,
    pulses,
    quickest_row_speed_mm_s,
    row_shift_mm,
    starting_recipe,
    variants,
)


@pytest.mark.parametrize(
    ("wave", "focal", "beam", "quality", "spot_um", "depth"),
    [(10.6, 38.1, 6, 1, 85.702, 1.0884), (10.6, 50.8, 7, 1, 97.945, 1.4216),
     (10.6, 63.5, 6, 1, 142.836, 3.0234), (10.6, 50.8, 6, 1.3, 148.550, 2.5154),
     (1.064, 163, 7, 1, 31.546, 1.4691), (1.064, 210, 6, 1.3, 61.640, 4.3148),
     (0.45, 40, 4, 10, 57.296, 1.1459)],
)  # fmt: skip
def test_spot_and_depth(wave, focal, beam, quality, spot_um, depth):
    found = focused(wave, focal, beam, quality)
    assert found.spot_mm * 1000 == pytest.approx(spot_um, rel=1e-5)
    assert found.depth_mm == pytest.approx(depth, rel=1e-4)


def test_out_of_focus():
    lens = focused(10.6, 50.8, 6)
    for off, um in ((0.5, 128.627), (1, 164.339), (2, 262.407), (3, 372.300)):
        assert lens.spot_at(off) * 1000 == pytest.approx(um, rel=1e-5)
    assert lens.spot_at(lens.rayleigh_mm) == pytest.approx(lens.spot_mm * math.sqrt(2))


@pytest.mark.parametrize(
    ("khz", "speed", "spot", "apart", "per_mm", "overlap"),
    [(25, 50, 0.05, 0.002, 500, 0.96), (20, 1000, 0.05, 0.05, 20, 0), (20, 500, 0.05, 0.025, 40, 0.5),
     (50, 1000, 0.03, 0.02, 50, 1 / 3), (30, 2000, 0.05, 1 / 15, 15, -1 / 3)],
)  # fmt: skip
def test_pulses(khz, speed, spot, apart, per_mm, overlap):
    found = pulses(khz, speed, spot, 20)
    assert (found.apart_mm, found.per_mm) == pytest.approx((apart, per_mm))
    assert found.overlap == pytest.approx(overlap, abs=1e-9)
    assert pulses(20, 100, 0.05, 20).pulse_mj == 1


def test_marks_grow_with_the_logarithm():
    """Liu 1982, Opt. Lett. 7:196-198."""
    for over, width in ((2, 0.588705), (math.e, 0.707107), (4, 0.832555), (10, 1.072983)):
        assert mark_width_mm(1, over) == pytest.approx(width, rel=1e-5)
    assert mark_width_mm(1, 1) == mark_width_mm(1, 0.5) == 0


@pytest.mark.parametrize(
    ("watt", "speed", "pitch", "dose"),
    [(40, 100, 0.1, 4), (40, 300, 0.1, 1.333333), (40, 300, 0.08, 1.666667), (9, 400, 0.1, 0.225),
     (60, 500, 25.4 / 300, 1.417323), (10, 1000 / 60, 0.1, 6)],
)  # fmt: skip
def test_areal_dose(watt, speed, pitch, dose):
    assert areal_dose_j_mm2(watt, speed, pitch) == pytest.approx(dose, rel=1e-6)


def test_dose_along_and_across():
    size = SizePart(width_mm=10, height_mm=10, pitch_mm=0.1, dot_pitch_mm=0.2)
    spec = JobSpec(size=size, burn=BurnPart(speed_mm_s=100, power=50))
    doses = [
        job_dose_j_mm2(spec.model_copy(update={"burn": spec.burn.model_copy(update=way)}))
        for way in ({}, {"rows": "y"}, {"cross": True})
    ]
    assert doses == pytest.approx([2, 1, 3])


def test_the_shift_between_and_beyond_what_was_measured():
    table = ((100.0, 0.02), (300.0, 0.08))
    found = [row_shift_mm(table, v) for v in (50, 100, 200, 300, 600)]
    assert found == pytest.approx([0.01, 0.02, 0.05, 0.08, 0.16])
    assert row_shift_mm((), 100) == 0


machines = st.builds(
    MachinePart,
    kind=st.sampled_from(["co2", "diode", "fibre"]),
    rated_power_w=st.floats(2, 150),
    spot_mm=st.floats(0.02, 0.4),
    max_speed_mm_s=st.floats(50, 5000),
    lowest_power=st.floats(0, 20),
)
recipes = st.builds(
    RecipePart,
    speed_mm_s=st.floats(5, 2000),
    power=st.floats(5, 100),
    passes=st.integers(1, 3),
    pitch_mm=st.floats(0.03, 0.5),
)


@settings(max_examples=200, deadline=None)
@given(recipes, machines, machines)
def test_a_recipe_carried_over_keeps_its_dose_or_says_why_not(recipe, source, target):
    carried = carry_over(recipe, source, target)
    after = carried.recipe
    assert after.speed_mm_s <= target.max_speed_mm_s
    assert target.lowest_power - 0.06 <= after.power <= 100
    assert (after.origin, after.confidence) == ("carried", "untested")
    assert (after.spot_mm, after.rated_power_w) == (target.spot_mm, target.rated_power_w)
    if abs(carried.dose_ratio - 1) > 0.01:
        assert any("dose comes out" in sentence for sentence in carried.unmatched)


def test_the_arithmetic_of_one_carried_recipe():
    source = MachinePart(rated_power_w=40, spot_mm=0.1)
    target = MachinePart(rated_power_w=80, spot_mm=0.1, max_speed_mm_s=1000)
    recipe = RecipePart(power=40, speed_mm_s=300, pitch_mm=0.1)
    carried = carry_over(recipe, source, target)
    # Twice the watts at the same per cent and pitch: twice as fast.
    assert (carried.recipe.power, carried.recipe.speed_mm_s) == (40, 600)
    assert carried.before.dose == pytest.approx(16 / 30)
    assert carried.dose_ratio == pytest.approx(1)
    assert carried.unmatched == ()
    slow = carry_over(recipe, source, target.model_copy(update={"max_speed_mm_s": 300}))
    assert (slow.recipe.power, slow.recipe.speed_mm_s) == (20, 300)


def test_what_cannot_be_matched_is_said():
    source = MachinePart(rated_power_w=60, spot_mm=0.1)
    target = MachinePart(rated_power_w=5, spot_mm=0.2, kind="diode", wavelength_um=0.45)
    carried = carry_over(RecipePart(power=50, pitch_mm=0.1), source, target)
    words = " ".join(carried.unmatched)
    for part in ("Another kind of beam", "Rows lie 0.200"):
        assert part in words
    # As many rows a spot, as much energy along each for its width: nothing to say.
    assert "as dense" not in words
    # Rows closer than 0.7 spots are laid wider, and burn more along each.
    close = carry_over(RecipePart(pitch_mm=0.05), source, target)
    assert close.recipe.pitch_mm == pytest.approx(0.14)
    assert "1.40 times as dense" in " ".join(close.unmatched)


def test_a_start_comes_from_the_most_alike():
    machine = MachinePart()
    woods = [
        Candidate(
            RecipePart(power=power), machine, SubstratePart(name=name, texture="wood")
        )
        for name, power in (("a", 20), ("b", 30), ("c", 60))
    ]
    slate = SubstratePart(name="slate", polarity="lightens", ground="#333333")
    known = [*woods, Candidate(RecipePart(power=90), machine, slate)]
    found, nearest = starting_recipe(SubstratePart(texture="wood"), machine, known)
    assert {one.substrate.name for one in nearest} == {"a", "b", "c"}
    doses = [one.recipe.power / one.recipe.speed_mm_s for one in woods]
    assert found.power / found.speed_mm_s == pytest.approx(sorted(doses)[1], rel=0.01)
    assert found.origin == "start"
    assert (
        starting_recipe(slate.model_copy(update={"polarity": "darkens"}), machine, [])
        is None
    )


@settings(max_examples=60, deadline=None)
@given(st.floats(5, 300), st.floats(20, 400), st.floats(10, 90))
def test_variants_have_the_dose_and_the_quickest_is_quickest(width, speed, power):
    spec = JobSpec(
        size=SizePart(width_mm=width, height_mm=20),
        burn=BurnPart(speed_mm_s=round(speed, 1), power=round(power, 1)),
    )
    rows = variants(spec)
    dose = job_dose_j_mm2(spec)
    assert sum(one.why == "now" for one in rows) == 1
    for one in rows:
        found = 40 * one.power / 100 * one.passes / (one.speed_mm_s * one.pitch_mm)
        assert found == pytest.approx(dose, rel=0.06)
        assert one.speed_mm_s <= spec.machine.max_speed_mm_s
    best = quickest_row_speed_mm_s(width, spec.machine.acceleration_mm_s2)
    same = [one for one in rows if one.pitch_mm == spec.size.pitch_mm and one.passes == 1]
    for one in same:
        assert one.slower_than_slower == (one.speed_mm_s > best + 0.06)
    fast = [one for one in same if one.slower_than_slower]
    # Beyond the quickest speed, the faster of two takes longer.
    for slower, faster in zip(
        *(sorted(fast, key=lambda v: v.speed_mm_s)[i:] for i in (0, 1)), strict=False
    ):
        assert faster.seconds > slower.seconds


def test_the_fitted_lens_decides_the_spot():
    lenses = (LensPart(name="2 in", spot_mm=0.1), LensPart(name="4 in", spot_mm=0.2))
    assert MachinePart(lenses=lenses, lens="4 in").spot_mm == 0.2
    assert MachinePart(lenses=lenses).lens == "2 in"
    with pytest.raises(ValueError, match="same name"):
        MachinePart(lenses=(lenses[0], lenses[0]))
    with pytest.raises(ValueError, match="rising speed"):
        MachinePart(row_shift=((200, 0.1), (100, 0.1)))
    with pytest.raises(ValueError, match="plain ASCII"):
        MachinePart(header="G4 P1 ; ünïcode")


def test_what_burns_nothing_cannot_be_carried_over():
    with pytest.raises(InputError, match="burns nothing"):
        carry_over(RecipePart(power=0.0), MachinePart(), MachinePart())
