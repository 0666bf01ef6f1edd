"""Whether the machine can mark as the job says."""

from engraving.check.facts import Facts
from engraving.check.findings import Finding, Severity, rule
from engraving.jobspec import WAY_MACHINES

_SAID = {
    "dots": "burns rows of dots, for which it takes a beam",
    "relief": "carves a relief, for which it takes a beam",
    "carved": "carves lines, for which it takes a V-tool in a spindle",
    "drag": "scratches, for which it takes a drag point",
}


@rule(of_rows=True)
def machine_can_mark_so(facts: Facts) -> Finding | None:
    """The machine has what the picture is marked by: a beam, a V-tool, a point."""
    spec = facts.spec
    if spec.card is not None or spec.machine.kind in WAY_MACHINES[spec.marking.way]:
        return None
    return Finding(
        "machine_can_mark_so",
        Severity.STOP,
        "burn",
        f"This job {_SAID[spec.marking.way]}; the machine has none.",
        spec.machine.name,
    )


@rule()
def letters_are_carved_by_a_tool(facts: Facts) -> Finding | None:
    """What is carved inside an outline is carved by a V-tool."""
    spec = facts.spec
    carved = any(one.on and one.kind == "inside" for one in spec.outlines)
    if not carved or spec.machine.kind == "vtool":
        return None
    return Finding(
        "letters_are_carved_by_a_tool",
        Severity.STOP,
        "outlines",
        "An operation carves inside outlines, for which it takes a V-tool in a spindle.",
        spec.machine.name,
    )
