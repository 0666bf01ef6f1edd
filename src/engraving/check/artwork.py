"""Rules about the picture itself: dots, transparency, lettering."""

import math
from typing import Any

from engraving.check.facts import Facts
from engraving.check.findings import Finding, Fine, Fix, Severity, rule
from engraving.jobspec import (
    COARSEST_PITCH_MM,
    FINEST_PITCH_MM,
    LARGEST_MM,
    MOST_DOTS,
    JobSpec,
)

_MELTING = 0.25


def kept_dots(
    spec: JobSpec, file_cell_mm: tuple[float, float] | None
) -> dict[str, dict[str, Any]]:
    """Return the changes that burn the artwork's own dots one for one.

    They lie as far apart as the file says, where it says so and rows can be
    burned like that; else as the job's rows do.
    """
    cell = spec.size.cell_mm
    if file_cell_mm and all(
        FINEST_PITCH_MM <= side <= COARSEST_PITCH_MM for side in file_cell_mm
    ):
        cell = file_cell_mm
    along, pitch = cell
    _, _, across, down = spec.artwork.window_px
    size = {
        "width_mm": across * along,
        "height_mm": down * pitch,
        "pitch_mm": pitch,
        "dot_pitch_mm": None if math.isclose(along, pitch, rel_tol=1e-6) else along,
        "fit": "exact",
    }
    return {"artwork": {"keep_dots": True}, "size": size}


@rule(of_rows=True, of="tones")
def dots_are_kept(facts: Facts) -> Finding | Fine | None:
    """Artwork that is made of dots already is burned dot for dot."""
    spec = facts.spec
    if spec.card:
        return None
    if facts.dotted is None:
        return None
    if spec.keeps_dots:
        return Fine("dots_are_kept", "Its own dots", "kept one for one")
    if not facts.dotted:
        return Fine("dots_are_kept", "Tones in the artwork", "yes")
    changes = kept_dots(spec, facts.file_cell_mm)
    size = changes["size"]
    upright = spec.artwork.is_upright
    _, _, across, down = spec.artwork.window_px
    longest = max(size["width_mm"], size["height_mm"])
    fits = longest <= LARGEST_MM and across * down <= MOST_DOTS
    fix = Fix(
        f"Keep its dots, {size['width_mm']:.1f} × {size['height_mm']:.1f} mm", changes
    )
    return Finding(
        "dots_are_kept",
        Severity.CAUTION,
        "artwork",
        "The artwork consists of dots already; resizing them and making dots of dots "
        "spoils both.",
        f"{across} × {down} dots found",
        fix if upright and fits else None,
    )


@rule(of_rows=True, of="tones")
def dots_are_sharp(facts: Facts) -> Finding | Fine | None:
    """Dots were not blurred by lossy compression."""
    if not facts.smeared:
        return None
    return Finding(
        "dots_are_sharp",
        Severity.CAUTION,
        "artwork",
        "This looks like dots that JPEG has smeared: they can be neither kept nor "
        "turned back into tones. Ask for the photograph, or for the dots as PNG.",
        f"{facts.spec.artwork.file or 'the file'} is compressed with loss",
    )


@rule(of_rows=True, of="tones")
def subject_stands_out(facts: Facts) -> Finding | Fine | None:
    """The subject's edge differs from the ground it is put on."""
    if facts.melting is None:
        return None
    share = f"{100 * facts.melting:.0f} % of its edge"
    if facts.melting < _MELTING:
        return Fine("subject_stands_out", "Alike with its ground", share)
    light = "light" if facts.spec.burns_dark else "dark"
    return Finding(
        "subject_stands_out",
        Severity.CAUTION,
        "artwork",
        f"The subject is as {light} as the ground it is put on, so its edge will be lost. "
        "Give it another ground, a border, or other tones.",
        share,
    )


@rule(of_rows=True)
def letters_are_wide_enough(facts: Facts) -> Finding | Fine | None:
    """The thinnest stroke of the lettering is no thinner than the spot."""
    if not facts.strokes:
        return None
    spot = facts.spec.machine.spot_mm
    text, stroke, _ = min(facts.strokes, key=lambda item: item[1])
    if stroke >= spot:
        return Fine("letters_are_wide_enough", "Thinnest stroke", f"{stroke:.2f} mm")
    return Finding(
        "letters_are_wide_enough",
        Severity.CAUTION,
        "artwork",
        "The lettering has strokes thinner than the spot; they will burn too fat or "
        "break up. Make it larger, or choose a bolder font.",
        f"“{text[:24]}”: {stroke:.2f} mm strokes, {spot:.2f} mm spot",
    )


@rule(of_rows=True)
def letters_fit_their_arc(facts: Facts) -> Finding | Fine | None:
    """No line of lettering overlaps itself on its circle."""
    if not facts.strokes:
        return None
    lines = facts.spec.lettering.lines
    for line, (text, _, length) in zip(lines, facts.strokes, strict=False):
        around = 2 * math.pi * abs(line.arc_mm)
        if line.arc_mm and length > around:
            return Finding(
                "letters_fit_their_arc",
                Severity.CAUTION,
                "artwork",
                "A line of lettering is longer than the circle it runs along, "
                "so its ends overlap.",
                f"“{text[:24]}”: {length:.1f} of {around:.1f} mm",
            )
    return None
