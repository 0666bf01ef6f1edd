"""Choices the core offers, as forms need them; read-only."""

from dataclasses import dataclass

from engraving.artwork.mix import MIXES
from engraving.cards import KINDS
from engraving.dots import FAMILIES, METHODS
from engraving.lettering import FONTS
from engraving.place import ANCHORS
from engraving.spec import GROUPS
from workshop.jobs.models import Font


@dataclass(frozen=True)
class MethodChoice:
    """A dot method as a form shows it."""

    name: str
    label: str
    family: str
    reason: str
    settings: tuple[str, ...]


def dot_methods() -> list[MethodChoice]:
    """Return every dot method in the registry's order."""
    return [
        MethodChoice(m.name, m.label, m.family, m.reason, m.settings)
        for m in METHODS.values()
    ]


def family_choices() -> list[tuple[str, str]]:
    """Return (name, label) of the kinds of dot methods."""
    return list(FAMILIES.items())


def method_settings(name: str) -> tuple[str, ...]:
    """Return which values of the dots a method reads; none of an unknown one."""
    return METHODS[name].settings if name in METHODS else ()


def zero_choices() -> list[tuple[str, str]]:
    """Return where a job's zero may be."""
    return [("bed", "The bed"), ("head", "The head"), ("point", "A point")]


def outline_kind_choices() -> list[tuple[str, str]]:
    """Return what may be done along an outline."""
    return [("cut", "Cut"), ("score", "Scored"), ("hatch", "Hatched")]


def adding_choices() -> list[tuple[str, str, str]]:
    """Return kind, shape and label of what can be added to the operations."""
    return [
        ("cut", "rectangle", "Cut"),
        ("score", "rectangle", "Score"),
        ("hatch", "traced", "Hatch"),
        ("score", "traced", "Trace"),
    ]


def outline_choices() -> list[tuple[str, str]]:
    """Return what an outline may go along."""
    return [
        ("rectangle", "the picture's rectangle"),
        ("rounded", "the same, corners round"),
        ("blank", "the blank's edge"),
        ("picture", "what the mask keeps"),
        ("traced", "traced tones"),
        ("drawn", "a drawing"),
    ]


def mount_choices() -> list[tuple[str, str]]:
    """Return how a piece may be held."""
    return [("flat", "Flat"), ("chuck", "Chuck"), ("rollers", "Rollers")]


def top_choices() -> list[tuple[str, str]]:
    """Return to which side a turned piece's top may lie."""
    return [("left", "to the left"), ("right", "to the right")]


def rotary_choices() -> list[tuple[str, str]]:
    """Return how a rotary may be told to turn."""
    return [("scaled", "Y, scaled"), ("degrees", "A, in degrees")]


def order_choices() -> list[tuple[str, str]]:
    """Return the orders in which pockets may be burned."""
    return [
        ("snake", "to and fro"),
        ("rows", "row by row"),
        ("columns", "by columns"),
        ("near", "the shortest way"),
    ]


def pocket_picture_choices() -> list[tuple[str, str]]:
    """Return what may lie in a fixture's pockets."""
    return [("same", "The same"), ("own", "Each its own"), ("across", "One across all")]


def gap_choices() -> list[tuple[str, str]]:
    """Return what becomes of a picture across the gaps between blanks."""
    return [("hidden", "stays hidden"), ("skipped", "is skipped")]


def card_choices() -> list[tuple[str, str]]:
    """Return every kind of swatch card."""
    return [(name, kind.label) for name, kind in KINDS.items()]


def card_kinds() -> list[tuple[str, str, str]]:
    """Return name, label and purpose of every kind of swatch card."""
    return [(name, kind.label, kind.finds) for name, kind in KINDS.items()]


def card_axes(name: str) -> tuple[str, str]:
    """Return what runs along a card's columns and rows."""
    return KINDS[name].columns, KINDS[name].rows


def reproduction_choices() -> list[tuple[str, str]]:
    """Return how wanted tones may become shares of dots."""
    return [
        ("plain", "As it is"),
        ("linear", "By light"),
        ("spot", "By spot"),
        ("measured", "Measured"),
    ]


def backing_choices() -> list[tuple[str, str]]:
    """Return what may lie behind clear material."""
    return [
        ("none", "Nothing in particular"),
        ("white", "White"),
        ("black", "Black"),
        ("mirror", "A mirror"),
        ("light", "Light"),
    ]


def run_choices() -> list[tuple[str, str]]:
    """Return what may become of runs too short for the beam."""
    return [("keep", "Keep"), ("lengthen", "Lengthen"), ("drop", "Drop")]


def dot_method_choices() -> list[tuple[str, str]]:
    """Return (name, label) of every dot method."""
    return [(choice.name, choice.label) for choice in dot_methods()]


def anchor_choices() -> list[tuple[str, str]]:
    """Return (name, words) of the nine anchors, back row first."""
    return [(name, name.replace("-", ", ")) for name in ANCHORS]


def scan_choices() -> list[tuple[str, str]]:
    """Return the scan orders of error diffusion."""
    return [("serpentine", "Serpentine"), ("one-way", "One way")]


def tone_groups() -> list[str]:
    """Return the names of what the Tone station can pass over."""
    return list(GROUPS)


def blend_choices() -> list[tuple[str, str]]:
    """Return how fine detail may be blended with the picture."""
    return [("overlay", "Overlay"), ("hard-light", "Hard light")]


def ground_choices() -> list[tuple[str, str]]:
    """Return what transparent parts may become."""
    return [
        ("unburned", "leave unburned"),
        ("white", "white"),
        ("black", "black"),
        ("gray", "a gray"),
    ]


def mix_choices() -> list[tuple[str, str]]:
    """Return the named starting points of the gray mix."""
    return [(name, name.capitalize()) for name in MIXES]


def frame_choices() -> list[tuple[str, str]]:
    """Return the shapes of a frame."""
    names = ("none", "rectangle", "rounded", "oval", "circle")
    return [(name, name.capitalize()) for name in names]


def look_choices() -> list[tuple[str, str]]:
    """Return how a drawn line may look."""
    return [("dark", "Dark"), ("light", "Light")]


def font_choices() -> list[tuple[str, str]]:
    """Return the shipped fonts, then the uploaded ones."""
    shipped = [(font.name, f"{font.label}, {font.kind}") for font in FONTS.values()]
    return shipped + [(font.sha256, font.name) for font in Font.objects.all()]


def fit_choices() -> list[tuple[str, str]]:
    """Return how a picture's size may follow its blank."""
    return [
        ("inside", "Fit inside"),
        ("cover", "Cover"),
        ("stretch", "Stretch"),
        ("exact", "Exact"),
    ]


def follow_choices() -> list[tuple[str, str]]:
    """Return whether something follows by itself."""
    return [("auto", "follows"), ("yes", "yes"), ("no", "no")]


def polarity_choices() -> list[tuple[str, str]]:
    """Return what the beam may be said to do."""
    return [
        ("auto", "as the substrate has it"),
        ("darkens", "darkens it"),
        ("lightens", "lightens it"),
    ]
