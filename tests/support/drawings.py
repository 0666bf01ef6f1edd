"""Pictures of two levels: made of dots in every way, and drawn as line art."""

import io

import cv2
import numpy as np
from PIL import Image, ImageDraw, ImageFont

from engraving.dots import METHODS, make_dots
from engraving.jobspec import DotsPart
from engraving.lettering import FONTS

DOTTED = [name for name in METHODS if name not in ("power", "threshold")]


def tones(chance, rows, cols):
    """A soft picture of some range of tones."""
    grain = cv2.GaussianBlur(
        chance.normal(size=(rows, cols)), (0, 0), chance.uniform(8, 60)
    )
    low = chance.uniform(10, 110)
    high = low + chance.uniform(60, 250 - low)
    span = np.ptp(grain) or 1
    return (low + (grain - grain.min()) / span * (high - low)).astype(np.uint8)


def dots(chance):
    """A picture made of dots: any method and ruling, with a margin or none, perhaps twice as large."""
    rows, cols = chance.integers(120, 420, 2)
    levels = tones(chance, rows, cols)
    method = DOTTED[chance.integers(len(DOTTED))]
    part = DotsPart(
        method=method, scan=["serpentine", "one-way"][chance.integers(2)],
        matrix=int(chance.choice([2, 4, 8, 16])), ruling_cm=float(100 / chance.uniform(4, 14)),
        angle_deg=float(chance.uniform(-90, 90)), noise=float(chance.choice([0, 0, 15])),
    )  # fmt: skip
    made = 1 - make_dots(levels, part, (0.1, 0.1)).unpack()
    if chance.random() < 0.3:
        edge = int(chance.integers(8, 80))
        made = np.pad(made, edge, constant_values=1)
    if chance.random() < 0.2:
        made = made.repeat(2, 0).repeat(2, 1)
    return made * np.uint8(255)


def _words(chance, draw, size):
    data = list(FONTS.values())[chance.integers(len(FONTS))]
    high = int(chance.integers(9, 70))
    font = ImageFont.truetype(io.BytesIO(data.read()), high)
    letters = "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789 .,"
    for top in range(4, size[1] - high, int(high * 1.3)):
        line = "".join(
            chance.choice(list(letters)) for _ in range(max(3, size[0] // high * 2))
        )
        draw.text((5, top), line[: int(chance.integers(3, 60))], fill=0, font=font)


def _shapes(chance, draw, size):
    for _ in range(int(chance.integers(1, 14))):
        x, y = chance.uniform(0, size)
        r = chance.uniform(4, 120)
        kind = chance.integers(4)
        wide = int(chance.integers(1, 12))
        if kind == 0:
            draw.ellipse((x - r, y - r, x + r, y + r), fill=0)
        elif kind == 1:
            draw.polygon([(x, y - r), (x - r, y + r), (x + r, y + r * 0.7)], fill=0)
        elif kind == 2:
            draw.rectangle((x - r, y - r * 0.6, x + r, y + r * 0.6), outline=0, width=wide)
        else:
            draw.line(
                [tuple(p) for p in chance.uniform(0, size, (4, 2))], fill=0, width=wide
            )
    for _ in range(int(chance.choice([0, 0, 3, 25]))):  # a few specks
        x, y = chance.integers(0, size)
        draw.point((int(x), int(y)), fill=0)


def _blots(chance, rows, cols):
    grain = cv2.GaussianBlur(
        chance.normal(size=(rows, cols)), (0, 0), chance.uniform(4, 25)
    )
    return np.where(grain > chance.normal() * grain.std() * 0.6, 255, 0).astype(np.uint8)


def _modules(chance, rows, cols):
    side = int(chance.integers(6, 18))
    cells = (
        chance.integers(0, 2, (rows // side + 1, cols // side + 1)).astype(np.uint8) * 255
    )
    found = cells.repeat(side, 0).repeat(side, 1)[:rows, :cols]
    return np.pad(found, 4 * side, constant_values=255)


def line_art(chance):
    """A drawing of two levels: lettering, shapes and specks, blots, squares of a code."""
    rows, cols = (int(v) for v in chance.integers(120, 520, 2))
    kind = chance.integers(5)
    if kind == 3:
        return _blots(chance, rows, cols)
    if kind == 4:
        return _modules(chance, rows, cols)
    image = Image.new("L", (cols, rows), 255)
    draw = ImageDraw.Draw(image)
    draw.fontmode = "1"
    if kind in (0, 2):
        _words(chance, draw, (cols, rows))
    if kind in (1, 2):
        _shapes(chance, draw, (cols, rows))
    found = np.where(np.asarray(image) < 128, 0, 255).astype(np.uint8)
    if found.min() == 255:
        found[rows // 3 : rows // 2, cols // 3 : cols // 2] = 0
    return 255 - found if chance.random() < 0.2 else found
