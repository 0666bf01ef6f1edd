"""Rules on what is done to the piece, and what lies under it."""

import re

from engraving.check.facts import Facts
from engraving.check.findings import Finding, Severity, rule

_STAINS = {
    "wood", "wooden", "plywood", "ply", "mdf", "card", "cardboard", "paper", "cork", "felt",
    "board", "newspaper",
}  # fmt: skip
"""What chars or smokes under a beam that goes through the piece (common practice)."""


@rule(of_rows=True)
def prepared(facts: Facts) -> Finding | None:
    """What the material wants done besides being burned is said."""
    if facts.shelf is None:
        return None
    recipe = facts.shelf.recipe
    coating = (recipe and recipe.coating) or facts.shelf.coating
    cleaning = (recipe and recipe.cleaning) or facts.shelf.cleaning
    asked = (("coating", coating), ("cleaning afterwards", cleaning))
    wanted = [f"{name}: {text.rstrip('.')}" for name, text in asked if text]
    if not wanted:
        return None
    return Finding(
        "prepared",
        Severity.NOTE,
        "blank",
        "This material wants work by hand besides the burn; the list at the machine says "
        "so.",
        "; ".join(wanted)[:200],
    )


@rule(of_rows=True, of="beam")
def underlay_leaves_no_stain(facts: Facts) -> Finding | None:
    """Under what the beam goes through lies nothing that chars.

    Something shiny that neither burns nor marks is right (common practice, no source).
    """
    spec = facts.spec
    through = spec.substrate.clear or spec.substrate.backing == "mirror"
    if facts.shelf is None or not through or spec.machine.touches:
        return None
    under = facts.shelf.underlay
    if under and not _STAINS & set(re.findall(r"[a-z]+", under.lower())):
        return None
    sentence = (
        "The beam goes through, and what lies under it chars and stains the back. Lay it "
        "on something shiny that neither burns nor marks."
        if under
        else "The beam goes through: lay it on something shiny that neither burns nor "
        "marks, and note that with the material."
    )
    return Finding(
        "underlay_leaves_no_stain",
        Severity.CAUTION if under else Severity.NOTE,
        "blank",
        sentence,
        f"under it: {under}"[:200] if under else f"{spec.substrate.name}: nothing noted",
    )
