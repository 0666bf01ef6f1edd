"""Rules on which way round it comes out: sides, mirrors, negatives, plates."""

from engraving.check.facts import Facts
from engraving.check.findings import Finding, Fine, Fix, Severity, rule
from engraving.jobspec import JobSpec

PLATE_BORDER_MM = 2.5
"""Carries the inking roller (common practice, no source)."""

_WORKED = {"front": "from the face", "back": "from behind"}


@rule()
def worked_from_its_side(facts: Facts) -> Finding | Fine | None:
    """The piece is worked from the side that its substrate is worked from."""
    spec = facts.spec
    side, wanted = spec.side.seen_from, spec.substrate.worked_from
    how = "mirrored" if spec.mirrored else "not mirrored"
    if side == wanted:
        label = f"Worked {_WORKED[side]}"
        return Fine("worked_from_its_side", label, how)
    return Finding(
        "worked_from_its_side",
        Severity.CAUTION,
        "blank",
        f"{spec.substrate.name} is worked {_WORKED[wanted]}, this job {_WORKED[side]}: "
        "make sure that is meant, or it comes out the wrong way round.",
        f"worked {_WORKED[side]}, {how}",
        Fix(f"Work it {_WORKED[wanted]}", {"side": {"seen_from": wanted}}),
    )


def _reason(spec: JobSpec) -> str:
    """Return why a picture is mirrored here, or why it is not."""
    if spec.side.printing_plate and spec.side.seen_from == "back":
        return "a plate worked from behind is not"
    if spec.side.printing_plate:
        return "a plate prints the other way round"
    if spec.side.seen_from == "back":
        return "it is looked at from the other side"
    return "it is looked at from the side it is burned on"


@rule(of_rows=True)
def mirrored_as_it_is_seen(facts: Facts) -> Finding | Fine | None:
    """It is mirrored for the back and for plates, and for nothing else."""
    spec = facts.spec
    side = spec.side
    follows = (side.seen_from == "back") != side.printing_plate
    says = {True: "mirrored", False: "not mirrored"}
    if spec.mirrored == follows:
        return Fine("mirrored_as_it_is_seen", "Which way round", says[follows])
    return Finding(
        "mirrored_as_it_is_seen",
        Severity.CAUTION,
        "blank",
        f"The picture is {says[spec.mirrored]} by hand, and will read the wrong way round.",
        f"{says[follows]} would be right: {_reason(spec)}",
        Fix("Let it follow", {"side": {"mirror": "auto"}}),
    )


@rule(of_rows=True, of="tones")
def inverted_as_it_burns(facts: Facts) -> Finding | Fine | None:
    """Light and dark come out as in the picture, whatever the beam does."""
    spec = facts.spec
    side, beam = spec.side, spec.substrate.polarity
    overruled = [
        f"{name} {value}"
        for name, value in (("inverted:", side.invert), ("the beam", side.polarity))
        if value != "auto"
    ]
    if not overruled:
        return Fine("inverted_as_it_burns", "Light and dark", f"the beam {beam} it")
    return Finding(
        "inverted_as_it_burns",
        Severity.CAUTION,
        "blank",
        "Light and dark were turned by hand: if that is not meant, it burns a negative.",
        f"{', '.join(overruled)}; by itself {spec.substrate.name} is one the beam {beam}",
        Fix("Let them follow", {"side": {"invert": "auto", "polarity": "auto"}}),
    )


@rule(of_rows=True)
def plate_has_a_border(facts: Facts) -> Finding | Fine | None:
    """A printing plate has a solid border for the roller."""
    spec = facts.spec
    if not spec.side.printing_plate:
        return None
    if spec.border.on and spec.border.look == "dark":
        return Fine("plate_has_a_border", "Plate border", f"{spec.border.width_mm:g} mm")
    border = {"on": True, "width_mm": PLATE_BORDER_MM, "look": "dark"}
    return Finding(
        "plate_has_a_border",
        Severity.NOTE,
        "artwork",
        "A printing plate without a solid border lets the roller dip into its ground.",
        f"{PLATE_BORDER_MM:g} mm carries most rollers",
        Fix(f"Add {PLATE_BORDER_MM:g} mm", {"border": border}),
    )
