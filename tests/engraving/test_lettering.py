"""Lettering in mm: shipped fonts, sizes, arcs, thinnest strokes, dots."""

import numpy as np
import pytest

from engraving.artwork.overlay import border_dots
from engraving.errors import ArtworkError
from engraving.jobspec import BorderPart, MaskPart, SizePart, TextLine
from engraving.lettering import (
    FONTS,
    fill_outlines,
    line_length_mm,
    line_outlines,
    open_face,
    thinnest_stroke_mm,
)
from support.jobs import changed

SIZE = SizePart(width_mm=80, height_mm=40, pitch_mm=0.1)


@pytest.fixture(params=FONTS)
def face(request):
    return open_face(FONTS[request.param].read())


def box(glyphs):
    points = np.vstack([contour for glyph in glyphs for contour in glyph])
    return points.min(axis=0), points.max(axis=0)


def test_every_font_sets_capitals_at_the_height_asked_for(face):
    (_, low), (_, high) = box(line_outlines(face, TextLine(text="H", cap_mm=7)))
    assert high == pytest.approx(7, abs=0.01)
    assert -1 < low < 0.1  # a script's H reaches below the line


@pytest.mark.parametrize("name", FONTS)
def test_every_font_ships_with_its_open_licence(name):
    assert "SIL Open Font License, Version 1.1" in FONTS[name].licence


def test_every_font_has_european_letters(face):
    assert face.lacks("Ärger, Łódź, naïve, Ñandú & Çelik 0123456789") == ""


def test_letters_are_set_in_the_middle_and_turned_clockwise(face):
    line = TextLine(text="OOO", cap_mm=5, x_mm=3, y_mm=-2)
    (left, low), (right, _) = box(line_outlines(face, line))
    assert (left + right) / 2 == pytest.approx(3, abs=0.2)
    assert -2.8 < low < -1.9
    down = line.model_copy(update={"angle_deg": 90})
    (_, bottom), (_, top) = box(line_outlines(face, down))
    assert top - bottom == pytest.approx(right - left, abs=1e-6)


def test_an_arc_keeps_the_length_of_the_baseline(face):
    flat = TextLine(text="IIIIIIII", cap_mm=4)
    length = line_length_mm(face, flat)
    around = flat.model_copy(update={"arc_mm": length / np.pi})  # half a circle
    (left, low), (right, high) = box(line_outlines(face, around))
    radius = length / np.pi
    assert right - left == pytest.approx(2 * (radius + 4), rel=0.06)
    assert high == pytest.approx(4, abs=0.3)
    assert low == pytest.approx(-radius, abs=1.2)
    smile = flat.model_copy(update={"arc_mm": -length / np.pi})
    (_, low), (_, high) = box(line_outlines(face, smile))
    assert high == pytest.approx(radius, abs=1.2)


def test_spacing_is_added_between_letters(face):
    tight = TextLine(text="ABCD", cap_mm=5)
    loose = tight.model_copy(update={"spacing_mm": 2.0})
    gain = line_length_mm(face, loose) - line_length_mm(face, tight)
    assert gain == pytest.approx(6, abs=0.5)


def test_dots_cover_the_area_of_the_outline():
    """Against the shoelace formula: an I of one contour, a ring of two."""
    face = open_face(FONTS["archivo"].read())
    for text in ("I", "O"):
        glyphs = line_outlines(face, TextLine(text=text, cap_mm=20, y_mm=-10))
        wanted = 0.0
        for contour in glyphs[0]:
            x, y = contour.T
            wanted += (np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1))) / 2
        found = fill_outlines(glyphs, SIZE).sum() * 0.01
        assert found == pytest.approx(abs(wanted), rel=0.01)


def test_the_thinnest_stroke_grows_with_the_letters():
    face = open_face(FONTS["archivo"].read())
    small = thinnest_stroke_mm(face, TextLine(text="lI", cap_mm=5))
    assert thinnest_stroke_mm(face, TextLine(text="lI", cap_mm=10)) == pytest.approx(
        2 * small
    )
    # An I is a bar: its stroke is its width.
    (left, _), (right, _) = box(line_outlines(face, TextLine(text="I", cap_mm=10)))
    bar = thinnest_stroke_mm(face, TextLine(text="I", cap_mm=10))
    assert bar == pytest.approx(right - left, rel=0.12)
    assert thinnest_stroke_mm(face, TextLine(text=" ", cap_mm=10)) == 10


def test_lettering_is_never_made_of_dots(job):
    """Dark letters burn solid on wood and stay bare on slate; light ones the other way."""
    spec, pipeline = job
    line = {"text": "I", "cap_mm": 4, "y_mm": -2}
    for look, polarity, burned in (
        ("dark", "darkens", 1), ("light", "darkens", 0), ("dark", "lightens", 0), ("light", "lightens", 1)
    ):  # fmt: skip
        lettered = changed(
            spec,
            lettering={"lines": [{**line, "look": look}]},
            substrate={"polarity": polarity},
        )
        inked = pipeline.overlay(lettered) > 0
        assert inked.sum() > 100
        assert (pipeline.dots(lettered).unpack()[inked] == burned).all()


def test_a_border_is_as_wide_as_told():
    border = BorderPart(on=True, width_mm=2.5, inset_mm=1)
    found = border_dots(SIZE, border, MaskPart())
    assert found.sum() * 0.01 == pytest.approx(78 * 38 - 73 * 33, rel=0.005)
    ring = border_dots(SIZE, border, MaskPart(frame="circle"))
    assert ring.sum() * 0.01 == pytest.approx(np.pi * (19**2 - 16.5**2), rel=0.01)


@pytest.mark.parametrize(
    "data",
    [b"", b"no font at all", b"\x00\x01\x00\x00" + b"\x00" * 400, b"OTTO" + b"\xff" * 99],
)
def test_a_font_file_that_is_none_gets_a_sentence(data):
    with pytest.raises(ArtworkError, match="not a font"):
        open_face(data)


def test_a_font_that_is_not_at_hand_is_named(job):
    spec, pipeline = job
    with pytest.raises(ArtworkError, match="not at hand"):
        pipeline.dots(changed(spec, lettering={"lines": [{"text": "a", "font": "f" * 64}]}))
