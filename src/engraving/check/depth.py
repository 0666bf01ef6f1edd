"""Rules of reliefs: what the picture is, how deep it goes, focus and heat."""

from engraving.check.facts import Facts
from engraving.check.findings import Finding, Fine, Fix, Severity, rule
from engraving.jobspec import BOARD_LEFT_MM

_LIKELY, _UNLIKELY = 0.8, 0.3
_MUCH = 0.6
_HAIR_MM = 0.005
_MANY = 15
_EVERY = 5


@rule(of_rows=True)
def depth_is_depth(facts: Facts) -> Finding | Fine | None:
    """A relief is carved from a depth picture, and a photograph is burned as tones."""
    spec, odds = facts.spec, facts.depth_odds
    if odds is None or spec.card:
        return None
    relief, told = spec.marking.way == "relief", spec.artwork.holds == "depth"
    sure = f"a depth picture by {100 * odds:.0f} %"
    if relief and (not told or odds < _UNLIKELY):
        fix = Fix("Take it as depth", {"artwork": {"holds": "depth"}})
        return Finding(
            "depth_is_depth",
            Severity.CAUTION,
            "artwork",
            "This looks like a photograph: carved as depth, its shadows become pits and "
            "its lights hills. A relief takes a depth picture, white near and black far."
            if odds < _LIKELY
            else "The picture is taken for tones; carved as depth, white lies nearest.",
            sure,
            None if told else fix,
        )
    if not relief and (told or odds >= _LIKELY):
        return Finding(
            "depth_is_depth",
            Severity.CAUTION if told else Severity.NOTE,
            "artwork",
            "This looks like a depth picture: burned as tones, what is far comes out dark, "
            "whatever it looks like. Carve it as a relief, or say that it holds tones.",
            sure,
            Fix("Take it as tones", {"artwork": {"holds": "tones"}}) if told else None,
        )
    return Fine("depth_is_depth", "Picture", sure) if relief else None


@rule(of_rows=True)
def relief_leaves_a_floor(facts: Facts) -> Finding | Fine | None:
    """The deepest place leaves enough of the blank under it."""
    spec, found = facts.spec, facts.relief
    if spec.marking.way != "relief" or found is None:
        return None
    board, deep = spec.blank.thickness_mm, found.deepest_mm
    figure = f"{deep:.2f} of {board:g} mm"
    if not board or deep <= _MUCH * board + _HAIR_MM:
        return Fine("relief_leaves_a_floor", "Deepest", figure)
    most = round(board - BOARD_LEFT_MM, 2)
    through = deep > most
    return Finding(
        "relief_leaves_a_floor",
        Severity.STOP if through else Severity.CAUTION,
        "dots",
        "The relief goes through the blank." if through
        else "The relief takes more than half of the blank: it may warp or break there.",
        figure,
        Fix(
            f"Carve {_MUCH * board:.1f} mm deep",
            {"marking": {"relief": spec.marking.relief.model_copy(
                update={"depth_mm": round(_MUCH * board, 2)}).model_dump(mode="json")}},
        ),
    )  # fmt: skip


@rule(of_rows=True)
def relief_stays_in_focus(facts: Facts) -> Finding | Fine | None:
    """The lens is in focus from the surface to the ground, or its focus is moved."""
    spec, found = facts.spec, facts.relief
    if spec.marking.way != "relief" or found is None:
        return None
    machine, relief = spec.machine, spec.marking.relief
    lens = next((one for one in machine.lenses if one.name == machine.lens), None)
    sharp = lens.depth_mm if lens is not None else 0.0
    if not sharp:
        return None
    over = found.deepest_mm
    if relief.focus == "follow" and machine.z_axis:
        over = relief.focus_every * relief.per_pass_mm
    elif relief.focus == "middle":
        over = found.deepest_mm / 2
    # Half of the depth of focus lies below the surface it is set to.
    figure = f"{over:.2f} mm beside it, in focus {sharp / 2:.2f} mm each way"
    if over <= sharp / 2:
        return Fine("relief_stays_in_focus", "Focus", figure)
    middle = {**relief.model_dump(mode="json"), "focus": "middle"}
    helps = relief.focus == "surface" and found.deepest_mm / 2 <= sharp / 2
    return Finding(
        "relief_stays_in_focus",
        Severity.CAUTION,
        "dots",
        "The ground lies outside the lens's depth of focus: passes take less down there "
        "than they should, and walls lean.",
        figure,
        Fix("Focus on the middle of the depth", {"marking": {"relief": middle}})
        if helps
        else None,
    )


@rule(of_rows=True)
def relief_stays_cool(facts: Facts) -> Finding | Fine | None:
    """Between many passes the soot is blown off.

    More than fifteen without cleaning or air char (common practice, no source).
    """
    spec, found = facts.spec, facts.relief
    if spec.marking.way != "relief" or found is None:
        return None
    relief = spec.marking.relief
    if found.passes <= _MANY or relief.clean_every or spec.burn.air:
        return Fine("relief_stays_cool", "Passes", f"{found.passes}")
    cleaned = {**relief.model_dump(mode="json"), "clean_every": _EVERY}
    return Finding(
        "relief_stays_cool",
        Severity.CAUTION,
        "dots",
        "So many passes without air and without cleaning ones heat and soot the ground: "
        "later ones take less, and edges char.",
        f"{found.passes} passes",
        Fix(f"Clean every {_EVERY} passes", {"marking": {"relief": cleaned}}),
    )
