"""Tone operations against published formulas and libraries."""

from dataclasses import replace
from itertools import pairwise

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError
from skimage import data as outside
from skimage import exposure, filters

from engraving.jobspec import GROUPS, TonePart
from engraving.tone import (
    AutoGround,
    apply_tone,
    auto_tone,
    code_counts,
    histogram,
    is_plain,
    look_at,
    tone_table,
)
from engraving.tone.local import denoise, lift_depths, local_contrast
from engraving.tone.sharpen import blur, high_pass, unsharp_mask

rising = (
    st.lists(st.tuples(st.floats(0, 255), st.floats(0, 255)), min_size=2, max_size=8)
    .map(
        lambda pairs: tuple(
            zip(*(sorted(axis) for axis in zip(*pairs, strict=True)), strict=True)
        )
    )
    .filter(lambda points: all(b[0] - a[0] >= 1 for a, b in pairwise(points)))
)
tones = st.builds(
    TonePart,
    input_black=st.floats(0, 120),
    gamma=st.floats(0.2, 5),
    input_white=st.floats(130, 255),
    brightness=st.floats(-100, 100),
    contrast=st.floats(-100, 100),
    exposure=st.floats(-5, 5),
    offset=st.floats(-50, 50),
    shade=st.integers(-12, 12),
    curve=st.just(()) | rising,
)


@pytest.mark.parametrize(
    ("settings", "wanted"),
    [
        # out = 255 (v/255)^γ with exponent 1/gamma here; scikit-image adjust_gamma
        ({"gamma": 2.0}, {32: 90.3327, 64: 127.7498, 128: 180.6654, 192: 221.2691}),
        ({"gamma": 1 / 2.2}, {32: 2.6514, 64: 12.1828, 128: 55.9775, 192: 136.5886}),
        # levels b = 20, w = 235; scikit-image rescale_intensity
        ({"input_black": 20, "input_white": 235}, {64: 52.186, 128: 128.093, 200: 213.4884, 20: 0, 235: 255}),
        ({"input_black": 20, "input_white": 235, "gamma": 1.5}, {64: 88.5557, 128: 161.1377, 200: 226.5146}),
        (
            {"input_black": 20, "input_white": 235, "output_black": 30, "output_white": 220},
            {64: 68.8837, 128: 125.4419, 200: 189.0698, 0: 30, 255: 220},
        ),
        # twice the light of code 64 (0.051269) is that of code 90.34; a tenth more is 107.7
        ({"exposure": 1}, {64: 90.34, 255: 255}),
        ({"offset": 10}, {0: 89.1, 64: 107.7}),
        ({"shade": 2}, {128: 255 * (128 / 255) ** (1 / 1.09**2)}),
        ({"shade": -1}, {128: 255 * (128 / 255) ** 1.09}),
        # through its points, level beyond the ends
        ({"curve": [(10, 20), (128, 100), (240, 250)]}, {0: 20, 10: 20, 128: 100, 240: 250, 255: 250}),
        # output levels hold after everything else
        ({"contrast": 100, "output_black": 20, "output_white": 235}, {0: 20, 255: 235}),
        # conventions of ours
        ({"brightness": 50}, {0: 127.5, 128: 191.5, 255: 255}),
        ({"brightness": -50}, {0: 0, 128: 64, 255: 127.5}),
        ({"contrast": -100}, {0: 127.5, 255: 127.5}),
        ({"contrast": 100}, {0: 0, 127: 0, 128: 255, 255: 255}),
    ],
)  # fmt: skip
def test_point_operations(settings, wanted):
    table = tone_table(TonePart(**settings))
    for code, value in wanted.items():
        assert table[code] == pytest.approx(value, abs=0.51)


@given(tones)
def test_darker_never_becomes_lighter(tone):
    assert (np.diff(tone_table(tone).astype(int)) >= 0).all()


@given(rising, st.integers(0, 255))
def test_a_curve_stays_between_its_points(points, code):
    """Monotone cubic: no overshoot (Fritsch & Carlson 1980)."""
    out = int(tone_table(TonePart(curve=points))[code])
    below = [y for x, y in points if x <= code] or [points[0][1]]
    above = [y for x, y in points if x >= code] or [points[-1][1]]
    assert below[-1] - 0.51 <= out <= above[0] + 0.51


@pytest.mark.parametrize("group", GROUPS)
def test_each_group_can_be_passed_over(group, scene):
    """Passed over it counts as untouched; nothing else changes."""
    values = {
        "input_black": 30, "gamma": 1.4, "input_white": 220, "output_black": 10, "output_white": 240,
        "exposure": 0.5, "offset": 3, "brightness": 12, "contrast": 20, "shade": 2,
        "curve": ((0.0, 10.0), (255.0, 240.0)), "shadows": 30, "highlights": -30, "local_amount": 50,
        "denoise": 30, "blur_dots": 2, "sharpen_amount": 80, "detail_opacity": 40,
    }  # fmt: skip
    without = {k: v for k, v in values.items() if k not in GROUPS[group]}
    assert set(values) == {name for names in GROUPS.values() for name in names}
    found = apply_tone(scene, TonePart(**values, off=(group,)))
    assert np.array_equal(found, apply_tone(scene, TonePart(**without)))
    assert not np.array_equal(found, apply_tone(scene, TonePart(**values)))
    assert apply_tone(scene, TonePart(**values, on=False)) is scene


@pytest.mark.parametrize(
    "values",
    [{"input_black": 200, "input_white": 200}, {"curve": [(5, 5)]}, {"curve": [(9, 1), (9, 200)]},
     {"off": ["gloss"]}, {"gamma": 0}, {"local_mm": 0}, {"exposure": 9}],
)  # fmt: skip
def test_senseless_settings_are_refused(values):
    with pytest.raises(ValidationError):
        TonePart(**values)


def test_nothing_to_do_gives_the_very_same_picture(scene):
    assert apply_tone(scene, TonePart()) is scene
    assert apply_tone(scene, TonePart(on=False, gamma=3.0)) is scene
    assert not is_plain(TonePart(sharpen_amount=1))


def test_unsharp_mask_on_an_edge():
    """Step 64 to 192, σ 2, amount 1; scikit-image, columns 12 to 27."""
    edge = np.where(np.arange(40) < 20, 64, 192).astype(np.uint8)
    sharp = unsharp_mask(np.tile(edge, (9, 1)), 2.0, 1.0, 0)[4, 12:28]
    wanted = [63.99, 63.94, 63.65, 62.53, 59.07, 50.79, 35.30, 12.77,
              243.23, 220.70, 205.21, 196.93, 193.47, 192.35, 192.06, 192.01]  # fmt: skip
    assert np.abs(sharp - np.array(wanted)).max() <= 1.1


def test_small_differences_are_left_alone():
    edge = np.where(np.arange(40) < 20, 100, 102).astype(np.uint8)
    plane = np.tile(edge, (9, 1))
    assert np.array_equal(unsharp_mask(plane, 2.0, 1.5, 3), plane)


@pytest.mark.parametrize("cell", [(1.0, 1.0), (0.5, 1.0)])
def test_blur_against_scikit_image_and_even_in_mm(cell):
    plane = outside.camera()[100:300, 100:300]
    wanted = filters.gaussian(plane.astype(float), (3, 3 / cell[0]), mode="nearest")
    assert np.abs(blur(plane, 3.0, cell) - wanted).max() < 2


def test_local_contrast_against_scikit_image():
    """Two implementations of CLAHE differ in their tiles' details; they correlate."""
    plane = outside.camera()
    found = local_contrast(plane, 1.0, 2.0, 64, (1.0, 1.0))
    wanted = exposure.equalize_adapthist(plane, kernel_size=64, clip_limit=0.01)
    assert np.corrcoef(found.ravel(), wanted.ravel())[0, 1] > 0.98
    half = local_contrast(plane, 0.5, 2.0, 64, (1.0, 1.0)).astype(float)
    assert np.abs(half - (found.astype(float) + plane) / 2).max() <= 1


def test_one_tone_has_no_local_contrast():
    """The library turns a flat 90 into 93."""
    flat = np.full((80, 80), 90, np.uint8)
    assert np.array_equal(local_contrast(flat, 1.0, 2.0, 10, (1.0, 1.0)), flat)


@pytest.mark.parametrize("amount", [-1.0, -0.4, 0.4, 1.0])
def test_shadows_and_highlights_move_only_their_own(amount):
    dark, light = (np.full((64, 64), code, np.uint8) for code in (40, 215))
    for plane, own in ((dark, (amount, 0)), (light, (0, amount))):
        other = own[::-1]
        moved = lift_depths(plane, *own).mean() - plane.mean()
        assert np.sign(moved) == np.sign(amount)
        assert abs(moved) > 8
        assert np.abs(lift_depths(plane, *other) - plane.astype(float)).max() <= 1


@pytest.mark.parametrize("kind", [np.uint8, np.uint16])
def test_denoise_takes_grain_and_leaves_edges(kind):
    step = np.where(np.arange(200) < 100, 70.0, 180.0)[None, :].repeat(100, 0)
    grain = step + np.random.default_rng(5).normal(0, 8, step.shape)
    scale = np.iinfo(kind).max / 255
    found = denoise((grain * scale).astype(kind), 0.6) / scale
    assert found[:, 10:90].std() < 0.5 * grain[:, 10:90].std()
    assert found[:, 101].mean() - found[:, 98].mean() > 100


@pytest.mark.parametrize(
    ("way", "code", "detail"),
    # a dot `detail` codes lighter than its blurred surroundings, by the formulas
    [("overlay", 64, 40), ("overlay", 200, 40), ("hard-light", 64, 40), ("hard-light", 64, -40)],
)  # fmt: skip
def test_detail_blends_as_its_formula(way, code, detail):
    plane = np.full((101, 101), code - detail, np.uint8)
    plane[50, 50] = code
    layer = (128 + code - int(blur(plane, 3.0, (1, 1))[50, 50])) / 256
    tone = code / 255
    decides = tone if way == "overlay" else layer
    blend = 2 * tone * layer if decides < 0.5 else 1 - 2 * (1 - tone) * (1 - layer)
    assert high_pass(plane, 3.0, 1.0, way)[50, 50] == pytest.approx(255 * blend, abs=0.51)
    assert high_pass(plane, 3.0, 0.5, way)[50, 50] == pytest.approx(
        (255 * blend + code) / 2, abs=0.6
    )
    # where there is no detail nothing changes
    assert np.abs(high_pass(plane, 3.0, 1.0, way)[5, 5].astype(int) - (code - detail)) <= 1


def test_sharpening_does_not_leave_the_output_levels(scene):
    tone = TonePart(output_black=25, output_white=225, sharpen_amount=400)
    found = apply_tone(scene, tone)
    assert (found.min(), found.max()) == (25, 225)


def test_histogram_counts_the_ends():
    found = histogram(np.array([[0, 0, 255, 100]], np.uint8))
    assert (found.black, found.white) == (0.5, 0.25)
    assert sum(found.bars) == pytest.approx(1)
    assert found.mean == pytest.approx(88.75)


def test_black_must_lie_below_white():
    with pytest.raises(ValidationError, match="white point"):
        TonePart(input_black=200, input_white=100)


def test_a_histogram_counts_what_the_mask_keeps():
    codes = np.tile(np.arange(256, dtype=np.uint8), (4, 1))
    mask = np.where(codes < 100, 255, 0).astype(np.uint8)
    counts = code_counts(codes, mask)
    assert counts[:100].tolist() == [4.0] * 100
    assert counts[100:].sum() == 0
    assert code_counts(codes.astype(np.uint16) * 257).tolist() == [4.0] * 256


class TestAutoTone:
    WOOD = AutoGround(
        24, 78, burns_dark=True, spot_dots=1.2, cell_mm=(0.1, 0.1), source_per_dot=2.0
    )

    def auto(self, codes, ground=WOOD):
        return auto_tone(look_at(codes), ground).values

    def test_levels_follow_the_picture_not_a_fixed_curve(self):
        """Squeezed into a part of the range, the same picture comes out alike."""
        camera = outside.camera()
        results = []
        for low, high in ((0, 255), (20, 120), (90, 230)):
            codes = np.rint(low + camera * ((high - low) / 255)).astype(np.uint8)
            values = self.auto(codes)
            assert low <= values["input_black"] <= low + 8
            assert high - 12 <= values["input_white"] <= high
            results.append(apply_tone(codes, TonePart(**values)).astype(float))
        for other in results[1:]:
            assert np.corrcoef(results[0].ravel(), other.ravel())[0, 1] > 0.97
            assert abs(np.median(results[0]) - np.median(other)) < 12

    def test_dark_is_lightened_and_more_where_there_is_little_room(self):
        dark = (255 * (outside.camera() / 255.0) ** 2.5).astype(np.uint8)
        narrow = replace(self.WOOD, darkest=40, lightest=60)
        assert 1 < self.auto(dark)["gamma"] < self.auto(dark, narrow)["gamma"]
        assert self.auto(255 - dark)["gamma"] < 1

    def test_flat_pictures_get_local_contrast_and_lively_ones_little(self):
        camera = outside.camera()
        smooth = cv2.GaussianBlur(camera, (0, 0), 40)
        assert self.auto(smooth)["local_amount"] > self.auto(camera)["local_amount"]
        assert self.auto(np.full((50, 60), 99, np.uint8))["input_white"] == 255

    def test_sharpening_follows_spot_source_and_grain(self):
        camera = outside.camera()
        plain = self.auto(camera)
        assert (
            self.auto(camera, replace(self.WOOD, spot_dots=2.5))["sharpen_dots"]
            > plain["sharpen_dots"]
        )
        assert (
            self.auto(camera, replace(self.WOOD, source_per_dot=0.5))["sharpen_dots"]
            > plain["sharpen_dots"]
        )
        noise = np.random.default_rng(8).normal(0, 14, camera.shape)
        grainy = self.auto((camera + noise).clip(0, 255).astype(np.uint8))
        assert grainy["sharpen_amount"] < plain["sharpen_amount"]
        assert grainy["denoise"] > 0 == plain["denoise"]
        soft = self.auto(cv2.GaussianBlur(camera, (0, 0), 2))
        assert soft["sharpen_amount"] > plain["sharpen_amount"]

    def test_it_says_what_it_did_in_one_line(self):
        dark = (outside.camera() * 0.3).astype(np.uint8)
        said = auto_tone(look_at(dark), self.WOOD).said
        assert said.startswith("The picture is dark, short of range")
        assert "for 54 steps of lightness." in said
        assert "\n" not in said


def _auto(codes):
    ground = AutoGround(
        20, 85, burns_dark=True, spot_dots=1.2, cell_mm=(0.1, 0.1), source_per_dot=2
    )
    return auto_tone(look_at(codes), ground)


def _ramp(low, high, shape=(120, 160)):
    return np.rint(np.linspace(low, high, shape[1]) * np.ones((shape[0], 1))).astype(
        np.uint8
    )


NEAR = {"input_black": 8, "input_white": 8, "gamma": 0.12, "local_amount": 8, "sharpen_amount": 8,
        "sharpen_threshold": 1, "denoise": 8, "sharpen_dots": 0.2}  # fmt: skip


def _close(one, other):
    return all(abs(one[name] - other[name]) <= most for name, most in NEAR.items())


@pytest.mark.parametrize("high", range(101, 255, 3))
def test_auto_tone_has_no_cliff_along_ramps(high):
    """A ramp one code longer gets nearly the same settings, whatever its length."""
    assert _close(_auto(_ramp(100, high)).values, _auto(_ramp(100, high + 1)).values)


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10**6), st.floats(0, 80), st.integers(20, 235), st.integers(-1, 1),
       st.floats(0, 0.002))  # fmt: skip
def test_neighbouring_pictures_get_neighbouring_settings(
    seed, spread, middle, step, specks
):
    chance = np.random.default_rng(seed)
    soft = cv2.GaussianBlur(chance.normal(size=(120, 160)), (0, 0), 6)
    picture = (middle + spread * soft / soft.std()).clip(1, 254)
    one = np.rint(picture).astype(np.uint8)
    moved = one.astype(int) + step + (chance.random(one.shape) < specks)
    other = moved.clip(0, 255).astype(np.uint8)
    assert _close(_auto(one).values, _auto(other).values)


def test_a_full_smooth_ramp_is_not_flat():
    found = _auto(_ramp(0, 255))
    assert found.values["local_amount"] < 10
    assert "flat" not in found.said
    assert (found.values["input_black"], found.values["input_white"]) == pytest.approx(
        (0, 255), abs=2
    )
