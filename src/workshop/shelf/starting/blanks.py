"""Flat blanks every shelf begins with: plain sizes of common things, one a row."""

from typing import Any

from workshop.shelf.blanks.changes import put_blank
from workshop.shelf.models import Substrate

_ROWS: tuple[tuple[str, str, dict[str, Any]], ...] = (
    ("Plywood sheet, 300 × 200 × 3 mm", "Birch plywood",
     {"width_mm": 300, "height_mm": 200, "thickness_mm": 3, "margin_mm": 5}),
    ("Beech board, 200 × 150 × 18 mm", "Beech",
     {"width_mm": 200, "height_mm": 150, "thickness_mm": 18, "margin_mm": 8}),
    ("Slate coaster, 100 × 100 mm", "Slate",
     {"width_mm": 100, "height_mm": 100, "thickness_mm": 5, "margin_mm": 4}),
    ("White tile, 150 × 150 mm", "Coated white tile",
     {"width_mm": 150, "height_mm": 150, "thickness_mm": 6, "margin_mm": 3}),
    ("Acrylic sheet, 180 × 120 × 3 mm", "Cast acrylic",
     {"width_mm": 180, "height_mm": 120, "thickness_mm": 3, "margin_mm": 5}),
    ("Leather piece, 150 × 100 mm", "Veg-tanned leather",
     {"width_mm": 150, "height_mm": 100, "thickness_mm": 2.5, "margin_mm": 6}),
)  # fmt: skip


def put_blanks() -> None:
    """Put them on the shelf, as far as their substrates are there."""
    of = {one.name: one for one in Substrate.objects.all()}
    for name, substrate, values in _ROWS:
        if substrate in of:
            put_blank(name, of[substrate], **values)
