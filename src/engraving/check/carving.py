"""Rules of carving with a V-tool: the board under it, its detail, an uneven bed."""

from engraving.cards import KINDS, lay_out
from engraving.carving import VTool
from engraving.check.facts import Facts
from engraving.check.findings import Finding, Fine, Fix, Severity, rule
from engraving.dots.screens import cell_width_mm
from engraving.jobspec import BOARD_LEFT_MM, JobSpec

_FEW = 8


def _carves(spec: JobSpec) -> bool:
    return spec.marking.way == "carved" and spec.raster and spec.card is None


@rule()
def board_is_left(facts: Facts) -> Finding | Fine | None:
    """No tool goes deeper than the board less a fifth of a millimetre."""
    spec = facts.spec
    deep = [one.deepest_mm for one in spec.outlines if one.on and one.kind == "inside"]
    deep += [spec.marking.carving.deepest_mm] if _carves(spec) else []
    if spec.card is not None and spec.machine.kind == "vtool":
        deep += [one.depth_mm for one in lay_out(spec).cells]
    board = spec.blank.thickness_mm
    if not deep or not board:
        return None
    most = round(board - BOARD_LEFT_MM, 3)
    figure = f"{max(deep):g} of {board:g} mm"
    if max(deep) <= most + 1e-9:
        return Fine("board_is_left", "Deepest cut", figure)
    fix = None
    if _carves(spec) and spec.marking.carving.deepest_mm > most > 0:
        carving = spec.marking.carving.model_copy(update={"deepest_mm": most})
        changes = {"marking": {"carving": carving.model_dump(mode="json")}}
        fix = Fix(f"Carve {most:g} mm deep at most", changes)
    return Finding(
        "board_is_left",
        Severity.STOP,
        "dots" if _carves(spec) else "outlines",
        "The tool would go through the board, or so nearly that what is left breaks out.",
        figure,
        fix,
    )


@rule()
def card_suits_the_machine(facts: Facts) -> Finding | Fine | None:
    """A card of lines is cut by a tool, every other one burned by a beam."""
    spec = facts.spec
    if spec.card is None:
        return None
    kind = KINDS[spec.card.kind]
    if kind.touches == spec.machine.touches:
        return Fine("card_suits_the_machine", "Card", kind.label)
    return Finding(
        "card_suits_the_machine",
        Severity.STOP,
        "artwork",
        "This card is cut by a tool; the machine has a beam."
        if kind.touches
        else "This card is burned by a beam; the machine has a tool that touches.",
        kind.label,
    )


@rule(of_rows=True)
def tool_fits_the_detail(facts: Facts) -> Finding | Fine | None:
    """The tool can cut lines of enough different widths for the picture's tones."""
    spec = facts.spec
    if not _carves(spec):
        return None
    carving, cell = spec.marking.carving, cell_width_mm(spec.dots)
    tool = VTool.of(carving.tool, carving.deepest_mm)
    least = max(carving.least_mm, spec.dots.least_mark_mm, tool.tip_mm)
    most = min(cell, tool.widest_mm, spec.dots.most_mark_mm or cell)
    tones = tool.tones(least, most, carving.z_step_mm)
    figure = f"{max(tones, 1)} tones, {least:.2f} to {most:.2f} mm"
    if tones >= _FEW:
        return Fine("tool_fits_the_detail", "Lines", figure)
    return Finding(
        "tool_fits_the_detail",
        Severity.STOP if tones < 2 else Severity.CAUTION,
        "dots",
        "The tool is too wide for so fine a screen: its narrowest line is nearly the "
        "widest there is room for. Take a coarser cell, or a finer tool.",
        figure,
    )


@rule()
def tool_goes_into_the_letters(facts: Facts) -> Finding | Fine | None:
    """No outline is narrower than the flat tip that is to carve it."""
    found = facts.inside
    if not found:
        return None
    at, widest, tip = min(found, key=lambda one: one[1] - one[2])
    figure = f"{widest:.2f} mm at the widest, {tip:.2f} mm tip"
    if widest > tip:
        return Fine("tool_goes_into_the_letters", "Widest place", f"{widest:.2f} mm")
    return Finding(
        "tool_goes_into_the_letters",
        Severity.STOP,
        "outlines",
        f"Nothing of operation {at + 1} is as wide as the tool's tip: it is not carved.",
        figure,
    )


@rule()
def bed_is_even(facts: Facts) -> Finding | Fine | None:
    """An uneven bed changes no line's width by more than the operator bears.

    By twice the difference of heights times tan(θ/2) (plain geometry).
    """
    spec = facts.spec
    carving = spec.marking.carving
    if not _carves(spec) or not carving.uneven_mm or carving.level is not None:
        return None
    tool = VTool.of(carving.tool, carving.deepest_mm)
    least = max(carving.least_mm, tool.tip_mm, 1e-6)
    most = min(cell_width_mm(spec.dots), tool.widest_mm)
    thin, thick = (100 * tool.unevenness(carving.uneven_mm, one) for one in (least, most))
    figure = f"{thin:.0f} % of the thinnest line, {thick:.0f} % of the thickest"
    if thin <= carving.most_uneven:
        return Fine("bed_is_even", "Uneven bed", figure)
    return Finding(
        "bed_is_even",
        Severity.CAUTION,
        "dots",
        f"The bed is uneven by {carving.uneven_mm:g} mm: thin lines come out too wide or "
        "not at all. Level the board, or plane the bed under it.",
        figure,
    )
