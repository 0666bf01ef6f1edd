"""Rules about the picture itself: dots, transparency, lettering."""

import math

from engraving.check.findings import Facts, Finding, Fine, Fix, Severity

_MELTING = 0.25


def dots_are_kept(facts: Facts) -> Finding | Fine | None:
    """Artwork that is made of dots already is burned dot for dot."""
    spec = facts.spec
    if spec.card:
        return None
    if facts.two_level is None:
        return None
    if spec.keeps_dots:
        return Fine("dots_are_kept", "Its own dots", "kept one for one")
    if not facts.two_level:
        return Fine("dots_are_kept", "Tones in the artwork", "yes")
    _, _, across, down = spec.artwork.window_px
    along, pitch = spec.size.cell_mm
    upright = spec.artwork.is_upright
    fits = max(across * along, down * pitch) <= 3000 and across * down <= 400_000_000
    size = {"width_mm": across * along, "height_mm": down * pitch, "fit": "exact"}
    fix = Fix(
        f"Keep its dots, {across * along:.1f} × {down * pitch:.1f} mm",
        {"artwork": {"keep_dots": True}, "size": size},
    )
    return Finding(
        "dots_are_kept",
        Severity.CAUTION,
        "artwork",
        "The artwork consists of dots already; resizing them and making dots of dots "
        "spoils both.",
        "two levels found",
        fix if upright and fits else None,
    )


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
