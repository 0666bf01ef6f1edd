"""Tone operations against published formulas and libraries."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from engraving.spec import TonePart
from engraving.tone import apply_tone, code_counts, histogram, is_plain, tone_table
from engraving.tone.sharpen import unsharp_mask

tones = st.builds(
    TonePart,
    input_black=st.floats(0, 120),
    gamma=st.floats(0.2, 5),
    input_white=st.floats(130, 255),
    brightness=st.floats(-100, 100),
    contrast=st.floats(-100, 100),
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
