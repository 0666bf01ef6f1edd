"""A blank's outline from a drawing, and drawings that mean harm."""

import numpy as np
import pytest

from engraving.errors import ArtworkError
from engraving.place import read_outline


def svg(body, attributes='width="40mm" height="20mm" viewBox="0 0 40 20"'):
    head = (
        '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'
    )
    return f"{head} {attributes}>{body}</svg>".encode()


def area(ring):
    x, y = np.array(ring).T
    return abs(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1))) / 2


@pytest.mark.parametrize(
    ("body", "wanted"),
    [
        ('<rect x="0" y="0" width="40" height="20"/>', 800),
        ('<ellipse cx="20" cy="10" rx="20" ry="10"/>', np.pi * 200),
        ('<path d="M0 0 H40 V20 H0 Z"/>', 800),
        ('<path d="M0,20 Q20,-20 40,20 Z"/>', 2 / 3 * 40 * 20),
        (
            '<g transform="translate(3 1) scale(.5)"><polygon points="0,0 40,0 0,20"/></g>',
            100,
        ),
    ],
)  # SVG 2, basic shapes and path data; a parabola's segment is 2/3 of its box
def test_shapes_come_in_mm(body, wanted):
    rings, width, _ = read_outline(svg(body))
    assert area(rings[0]) == pytest.approx(wanted, rel=2e-3)
    xs = [x for x, _ in rings[0]]
    assert max(xs) == pytest.approx(-min(xs)) == pytest.approx(width / 2)


def test_without_units_numbers_are_css_pixels():
    _, width, height = read_outline(svg('<rect width="96" height="48"/>', ""))
    assert (width, height) == pytest.approx((25.4, 12.7))


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "no SVG"), (b"<svg", "no SVG"), (b"<html><body/></html>", "no SVG"),
        (svg(""), "no closed shape"), (svg('<path d="M0 0L9 9"/>'), "no closed shape"),
        (svg("<script>alert(1)</script>"), "script"),
        (svg('<rect width="9" height="9" onclick="alert(1)"/>'), "script"),
        (svg('<image href="http://somewhere/x.png"/>'), "image"),
        (svg('<a xlink:href="file:///etc/passwd"><rect width="9" height="9"/></a>'), "reference"),
        (svg('<use href="#a"/>'), "use"),
        (svg('<style>@import "x.css";</style><rect width="9" height="9"/>'), "outside"),
        (svg('<rect width="9" height="9" fill="url(http://x/y)"/>'), "outside"),
        (b'<!DOCTYPE svg [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;&a;">]>' + svg("<text>&b;</text>"), "entities"),
        (b'<!DOCTYPE svg SYSTEM "file:///etc/passwd">' + svg('<rect width="9" height="9"/>'), "entities"),
        (svg('<path d="M0 0 H1e30 V1e30 Z"/>'), "mm|finite"),
        (svg('<path d="M0 0 Lxyz"/>'), "."),
        (b"x" * (9 << 20), "larger"),
    ],
)  # fmt: skip
def test_drawings_that_cannot_be_used_get_a_sentence(data, words):
    with pytest.raises(ArtworkError, match=words) as caught:
        read_outline(data)
    assert caught.value.message.endswith(".")
