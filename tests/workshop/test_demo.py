"""The demo's pictures, made by rules: each shows something, and without a warning."""

import warnings

import pytest

from workshop.demo import pictures


@pytest.mark.parametrize("phase", [0, 52, 90, 150, 172, 180])
def test_every_phase_of_the_moon_is_a_picture(phase):
    with warnings.catch_warnings():
        warnings.simplefilter("error")
        codes = pictures.moon(240, phase)
    assert (codes.max() == 255) == (phase < 180)
