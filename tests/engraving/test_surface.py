"""The finished piece as a surface: how deep it comes out, where it is soft, cuts through it."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from engraving.jobspec import JobSpec, SubstratePart
from engraving.pipeline.stages.ways.registry import WAYS
from engraving.proof import Place, Window, crossed, softness
from support.jobs import changed, pipeline_of

GRID = Window(0, 0, 200, 200, 200, 200)


def cap():
    """A cap of radius 20 mm, 5 high, over 20 × 20 mm, as codes, and its heights in mm."""
    y, x = np.mgrid[:200, :200]
    r = np.hypot(x - 99.5, y - 99.5) * 0.1
    high = np.maximum(np.sqrt(np.maximum(400 - r * r, 0)) - 15, 0)
    return np.rint(high / 5 * 255).astype(np.uint8), high


def relief(**substrate):
    spec = JobSpec(size={"width_mm": 20, "height_mm": 20, "pitch_mm": 0.1})
    return changed(
        spec,
        artwork={"width_px": 200, "height_px": 200, "holds": "depth"},
        marking={"way": "relief", "relief": {"depth_mm": 5, "per_pass_mm": 0.1}},
        substrate=substrate,
    )


def test_a_surface_is_within_half_a_pass_of_a_sphere_cap():
    codes, high = cap()
    found = pipeline_of(codes).surface(relief(), GRID)
    inner = (slice(30, 170), slice(30, 170))
    assert np.abs(5 - found - high)[inner].max() < 0.05 + 5 / 255


def test_only_ways_with_depth_have_a_surface():
    codes, _ = cap()
    pipeline = pipeline_of(codes)
    for name, way in WAYS.items():
        spec = changed(relief(), marking={"way": name}, machine={"kind": way.machines[0]})
        assert (pipeline.surface(spec, GRID) is not None) == (way.surface is not None)


@given(st.floats(1, 60), st.sampled_from(["none", "wood", "slate"]))
def test_uneven_material_differs_by_so_much_and_evens_out(share, texture):
    place = Place(-40, -40, 80, 80, 400, 400)
    part = SubstratePart(uneven=share, texture=texture)
    found = softness(part, place)
    assert found.min() >= 1 - share / 100 - 1e-5
    assert found.max() <= 1 + share / 100 + 1e-5
    assert found.mean() == pytest.approx(1, abs=0.35 * share / 100)
    assert softness(SubstratePart(texture=texture), place) is None


def test_it_stays_put_on_the_material_however_it_is_looked_at():
    part = SubstratePart(uneven=20, texture="wood")
    whole = softness(part, Place(0, 0, 60, 60, 240, 240))
    corner = softness(part, Place(30, 15, 15, 15, 60, 60))
    assert np.abs(whole[60:120, 120:180] - corner).max() < 1e-4


def test_the_proof_and_the_surface_know_of_the_soft_and_the_hard():
    codes, _ = cap()
    pipeline = pipeline_of(codes)
    even, uneven = (pipeline.surface(relief(uneven=one), GRID) for one in (0, 30))
    share = uneven[even > 0.5] / even[even > 0.5]
    assert share.min() >= 0.7 - 1e-4
    assert share.max() <= 1.3 + 1e-4
    assert share.std() > 0.02
    keys = {pipeline.proof.key(relief(uneven=one)) for one in (0, 30)}
    assert len(keys) == 2


@given(st.floats(0, 1), st.floats(0, 1), st.floats(0, 1), st.floats(0, 1))
def test_a_cut_through_a_plane_is_straight(x0, y0, x1, y1):
    """Bilinear sampling is exact on a plane."""
    rows, cols = 40, 60
    y, x = (np.mgrid[:rows, :cols] + 0.5) * 0.2
    plane = (0.3 * x + 0.7 * y).astype(np.float32)
    ends = [(1 + 10 * x0, 1 + 6 * y0), (1 + 10 * x1, 1 + 6 * y1)]
    found = crossed(plane, (0.2, 0.2), (0.0, 0.0), tuple(ends), 50)
    wanted = np.linspace(*(0.3 * a + 0.7 * b for a, b in ends), 50)
    # The sampler reckons in 32nds of a pixel.
    assert np.abs(found - wanted).max() < 0.2 / 32 + 1e-4


def test_grooves_are_as_deep_as_the_tool_says():
    """A line 1.2 mm wide by a 90° tool is 0.6 mm deep along its middle."""
    codes = np.zeros((60, 200), np.uint8)
    spec = changed(
        JobSpec(size={"width_mm": 20, "height_mm": 6, "pitch_mm": 0.1}),
        artwork={"width_px": 200, "height_px": 60},
        machine={"kind": "vtool"},
        blank={"thickness_mm": 3},
        dots={"method": "line", "ruling_cm": 5, "angle_deg": 0, "most_mark_mm": 1.2},
        marking={"way": "carved", "carving": {"deepest_mm": 1.4}},
    )
    found = pipeline_of(codes).surface(spec, Window(0, 0, 200, 60, 800, 240))
    assert found.max() == pytest.approx(0.6, abs=0.05)
