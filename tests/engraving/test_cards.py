"""Cards laid out, found in pictures and read; perspective against OpenCV."""

import cv2
import numpy as np
import pytest

from engraving.cards import (
    KINDS,
    Measured,
    Patch,
    best_cell,
    card_job,
    find_corners,
    flatten,
    lay_out,
    likeness,
    measure,
    row_shifts,
    starting_card,
    tone_curve,
)
from engraving.cards.focus import focus_of
from engraving.errors import ArtworkError
from engraving.jobspec import AxisPart, CardPart, JobSpec, MachinePart
from support.cards import card_spec, material

MACHINE = MachinePart(max_speed_mm_s=500, acceleration_mm_s2=5000, z_axis=True)
SIZE = 1600, 1200


@pytest.mark.parametrize(
    ("first", "last", "count", "even", "values"),
    # p1 + (p2 - p1)·i/(n - 1); p1·(p2/p1)^(i/(n - 1)) to three digits
    [(10, 100, 10, "steps", range(10, 101, 10)), (5, 80, 6, "steps", (5, 20, 35, 50, 65, 80)),
     (100, 1000, 4, "steps", (100, 400, 700, 1000)), (100, 1000, 4, "times", (100, 215, 464, 1000)), (7, 9, 1, "steps", (7,))],
)  # fmt: skip
def test_values_of_a_side(first, last, count, even, values):
    axis = AxisPart(first=first, last=last, count=count, even=even)
    assert axis.values == pytest.approx(tuple(values))


def test_a_side_that_cannot_be():
    with pytest.raises(ValueError, match="begin above 0"):
        AxisPart(first=0, last=10, even="times")
    with pytest.raises(ValueError, match="too close"):
        AxisPart(first=10, last=10.001, count=5)


@pytest.mark.parametrize("kind", KINDS)
def test_nothing_on_a_card_overlaps(kind):
    told, _ = material("soft wood")
    spec = card_spec(told, starting_card(kind, MACHINE))
    layout = lay_out(spec)
    boxes = [(c.x_mm, c.y_mm, c.width_mm, c.height_mm) for c in layout.cells]
    boxes += [(x, y, 7.2, 7.2) for x, y in layout.marks]
    for i, (x, y, wide, high) in enumerate(boxes):
        assert x >= -1e-9
        assert y >= -1e-9
        assert x + wide <= layout.width_mm + 1e-9
        assert y + high <= layout.height_mm + 1e-9
        for u, v, across, up in boxes[:i]:
            assert (
                x >= u + across - 1e-9
                or u >= x + wide - 1e-9
                or y >= v + up - 1e-9
                or v >= y + high - 1e-9
            )


def test_ten_cells_of_eight_and_gaps_of_two():
    """Width c·s + (c - 1)·g: 98 mm."""
    card = CardPart(columns=AxisPart(count=10), cell_mm=8, gap_mm=2)
    cells = lay_out(card_job(JobSpec(card=card))).cells
    assert cells[9].x_mm + cells[9].width_mm - cells[0].x_mm == pytest.approx(98)


def test_equal_energy_in_cells_of_equal_ratio():
    """40 W: 20 % at 100 mm/s and 60 % at 300 mm/s are both 0.08 J/mm."""
    card = CardPart(
        columns=AxisPart(first=20, last=60, count=2),
        rows=AxisPart(first=100, last=300, count=2),
    )
    spec = card_job(JobSpec(card=card))
    drawn = likeness(spec).power
    pitch = spec.size.pitch_mm
    shown = [
        int(
            drawn[
                spec.size.rows - 1 - round(cell.middle[1] / pitch),
                round(cell.middle[0] / pitch),
            ]
        )
        for cell in lay_out(spec).cells
    ]
    assert shown[0] == shown[3] == 333  # a third of the strongest, 60 % at 100 mm/s
    assert shown[1] == 1000


def _picture(spec, dark=True):
    """The card as a gray picture of 10 pixels a mm, on a rim of bare ground."""
    drawn = np.sqrt(likeness(spec).power / 1000)
    card = cv2.resize(drawn.astype(np.float32), None, fx=1, fy=1)
    light = 0.7 * (1 - 0.9 * card) if dark else 0.1 + 0.8 * card
    rim = 60
    bare = 0.7 if dark else 0.1
    return np.pad(light, rim, constant_values=bare), rim


def _aslant(spec, dark=True):
    """A photo by OpenCV, and where the card's corners lie in it."""
    picture, rim = _picture(spec, dark)
    high, wide = picture.shape
    ends = np.array([[0, 0], [wide, 0], [wide, high], [0, high]], np.float32)
    seen = np.array([[90, 60], [1530, 130], [1460, 1150], [130, 1080]], np.float32)
    matrix = cv2.getPerspectiveTransform(ends, seen)
    photo = cv2.warpPerspective(picture, matrix, SIZE, borderMode=cv2.BORDER_REPLICATE)
    across, up = np.meshgrid(np.linspace(-1, 1, SIZE[0]), np.linspace(-1, 1, SIZE[1]))
    lit = np.clip(photo * (0.9 + 0.12 * across - 0.08 * up - 0.05 * across**2), 0, 1)
    coded = np.where(lit <= 0.0031308, 12.92 * lit, 1.055 * lit ** (1 / 2.4) - 0.055)
    codes = np.repeat(np.rint(255 * coded).astype(np.uint8)[..., None], 3, axis=2)
    pitch = spec.size.pitch_mm
    corners = np.array(
        [
            [0, spec.size.height_mm],
            [spec.size.width_mm, spec.size.height_mm],
            [0, 0],
            [spec.size.width_mm, 0],
        ]
    )
    corners = corners / pitch + rim
    return codes, cv2.perspectiveTransform(corners[None].astype(np.float64), matrix)[0]


@pytest.mark.parametrize("dark", [True, False])
def test_corners_are_where_opencv_put_them(dark):
    told, _ = material("soft wood" if dark else "slate")
    spec = card_spec(told, starting_card("gray-ramp", MACHINE))
    codes, corners = _aslant(spec, dark)
    found = find_corners(codes, lay_out(spec))
    assert np.abs(np.array(found) - corners).max() < 1.5  # pixels, of 14 a mm
    for flat in (
        flatten(codes, lay_out(spec)),
        flatten(codes, lay_out(spec), [tuple(c) for c in corners]),
    ):
        patches = measure(spec, flat).patches
        solid = [one.lightness for one in patches if one.cell.share == 1]
        assert max(solid) - min(solid) < 3  # the same in whichever corner it lies
        curve = tone_curve(measure(spec, flat))
        light = [value for _, value in curve]
        assert light == sorted(light, reverse=dark)


def test_a_card_too_small_or_not_there():
    told, _ = material("soft wood")
    spec = card_spec(told, starting_card("power-speed", MACHINE))
    layout = lay_out(spec)
    plain = np.full((400, 500, 3), 150, np.uint8)
    with pytest.raises(ArtworkError, match="0 of the four corner marks"):
        flatten(plain, layout)
    with pytest.raises(ArtworkError, match="pixels a mm"):
        flatten(plain, layout, [(10, 90), (90, 90), (10, 10), (90, 10)])
    with pytest.raises(ArtworkError, match="four-sided"):
        flatten(plain, layout, [(10, 390), (490, 390), (490, 10), (10, 10)])
    nothing = flatten(plain, layout, [(10, 390), (490, 390), (10, 10), (490, 10)])
    with pytest.raises(ArtworkError, match="No cell"):
        best_cell(measure(spec, nothing))
    for kind, read, words in (
        ("row-shift", row_shifts, "No bars"),
        ("focus", focus_of, "Too few lines"),
    ):
        other = card_spec(told, starting_card(kind, MACHINE))
        flat = flatten(plain, lay_out(other), [(10, 390), (490, 390), (10, 10), (490, 10)])
        with pytest.raises(ArtworkError, match=words):
            read(other, flat)


def _measured(kind, light):
    told, _ = material("soft wood")
    spec = card_spec(told, starting_card(kind, MACHINE))
    cells = lay_out(spec).cells
    return Measured(tuple(Patch(cell, light(cell), 0.5) for cell in cells), 80.0)


def test_noise_is_levelled_and_repeats_are_averaged():
    noisy = _measured(
        "gray-ramp", lambda c: 80 - 50 * c.share + (8 if c.column == 4 else 0) + c.row
    )
    curve = tone_curve(noisy)
    light = [value for _, value in curve]
    assert len(curve) == 11
    assert light == sorted(light, reverse=True)
    assert light[0] == pytest.approx(80.5)
    assert light[3] == light[4]  # pooled
    with pytest.raises(ArtworkError, match="hardly differ"):
        tone_curve(_measured("gray-ramp", lambda c: 80.0))


def test_of_equal_marks_the_least_dose_and_then_the_fastest_is_best():
    full = _measured(
        "power-speed", lambda c: 30.0 if c.power / c.speed_mm_s > 0.3 else 70.0
    )
    best = best_cell(full).cell
    others = [p.cell for p in full.patches if p.lightness == 30.0]
    least = min(c.power / c.speed_mm_s for c in others)
    assert best.power / best.speed_mm_s == pytest.approx(least)
