"""Units and typed-in numbers. 1 in = 25.4 mm exactly (1959)."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from engraving.errors import InputError
from engraving.units import (
    dots_across,
    dpi_to_pitch,
    parse_dpi,
    parse_length,
    parse_percent,
    parse_speed,
    pitch_to_dpi,
    pixels_per_metre,
    size_at_dpi,
)


@pytest.mark.parametrize(
    ("pitch", "dpi"),
    [
        (0.05, 508),
        (0.08, 317.5),
        (0.085, 298.8235294),
        (0.1, 254),
        (0.127, 200),
        (0.2, 127),
    ],
)
def test_pitch_and_dpi(pitch, dpi):
    assert pitch_to_dpi(pitch) == pytest.approx(dpi)
    assert dpi_to_pitch(dpi) == pytest.approx(pitch)


@pytest.mark.parametrize(
    ("size", "dpi", "dots"),
    [
        (100, 254, 1000),
        (100, 300, 1181),
        (75, 300, 886),
        (50.8, 300, 600),
        (210, 600, 4961),
        (89, 317.5, 1113),
    ],
)
def test_dots_across_rounds_halves_up(size, dpi, dots):
    assert dots_across(size, dpi_to_pitch(dpi)) == dots


@pytest.mark.parametrize(
    ("dpi", "density"),
    # ISO/IEC 15948 pHYs, floor(dpi / 0.0254 + 0.5)
    [
        (72, 2835),
        (96, 3780),
        (254, 10000),
        (300, 11811),
        (317.5, 12500),
        (318, 12520),
        (600, 23622),
    ],
)
def test_png_density(dpi, density):
    assert pixels_per_metre(dpi_to_pitch(dpi)) == density


@pytest.mark.parametrize(
    ("text", "mm"),
    [
        ("109*2", 218), ("4 1/2 in", 114.3), ('11 7/8"', 301.625), ("16cm", 160), ('1/4"', 6.35),
        ("2.5in+10mm", 73.5), ("(3+4)*2.5", 17.5), ("100/3", 100 / 3), ("72-2*1.5", 69),
        ("25.4/0.08", 317.5), ("1' 6\"", 457.2), ("2ft", 609.6), ("-4 1/2 in", -114.3),
        ("0.5 m", 500), ("12pt", 12 * 25.4 / 72), ("5 thou", 0.127), ("3 1/8 in * 2", 158.75),
        ("1e3", 1000), ("2.5e-1 in", 6.35), ("½", 0.5), ("3⅜", 3.375), ("3⅜ in", 85.725),
        ("½″", 12.7), ("10/½", 20), ("2*3½", 7), ("7 inches", 177.8), ("7 in.", 177.8),
        ("5″", 127), ("5”", 127), ("5''", 127), ("1′ 6″", 457.2), ("5'", 1524), ("5’", 1524),
        ("3 feet", 914.4), ("40 μm", 0.04), ("40 µm", 0.04), ("5 mils", 0.127), ("5 MM", 5),
        ("2 millimeters", 2), ("−3", -3), ("3 × 4", 12), ("12 ÷ 4", 3), ("3\u00a0mm", 3),
        ("5.", 5), ("1,5 mm", 1.5), ("0,125", 0.125), ("1,25 in", 31.75), ("4 1⁄2 in", 114.3),
        ("1,5", 1.5), ("57/2", 28.5), (" 80mm ", 80), (".5", 0.5),
    ],
)  # fmt: skip
def test_lengths_as_typed(text, mm):
    assert parse_length(text) == pytest.approx(mm, abs=1e-9)


@pytest.mark.parametrize(
    "text",
    ["", " ", "1/0", "2 in in", "9**9**9", "5 kg", "nan", "inf", "sin(2)", "1,000", "12,500 mm", "1e", "1e400", "e3", "1/½/0", "(2", "2)", "4 km",
     "__import__('os')", "2 mm * 3 mm", "5 + 2 mm", "1/0 in", "9" * 90, "--", "1,000,0"],
)  # fmt: skip
def test_what_is_no_length_is_refused_with_a_sentence(text):
    with pytest.raises(InputError) as caught:
        parse_length(text, field="width")
    assert caught.value.message.endswith(".")
    assert caught.value.field == "width"


def test_speeds_percents_and_dpi():
    assert parse_speed("6000 mm/min") == pytest.approx(100)
    assert parse_speed("100 in/min") == pytest.approx(42.3333333)
    assert parse_speed("100") == 100
    assert parse_percent("12.5 %") == 12.5
    assert parse_dpi("600/2") == 300


@given(st.text(max_size=30))
def test_any_text_gives_a_number_or_a_sentence(text):
    try:
        number = parse_length(text)
    except InputError as error:
        told = error.message
    else:
        told = math.isfinite(number)
    assert told


@given(st.floats(0.001, 1000), st.floats(0.005, 5))
def test_grid_is_never_more_than_half_a_dot_off(size, pitch):
    dots = dots_across(size, pitch)
    assert dots >= 1
    assert abs(dots * pitch - size) <= pitch / 2 * (1 + 1e-6) or dots == 1


@pytest.mark.parametrize("bad", [0, -1, float("nan"), float("inf")])
def test_senseless_resolutions(bad):
    with pytest.raises(InputError):
        dpi_to_pitch(bad)


@pytest.mark.parametrize(
    ("pixels", "dpi", "size"), [(70, 700, 2.54), (300, 300, 25.4), (1181, 300, 99.991333)]
)
def test_the_size_pixels_have_at_a_resolution(pixels, dpi, size):
    assert size_at_dpi(pixels, dpi) == pytest.approx(size, abs=1e-6)
