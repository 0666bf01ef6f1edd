"""What no beam should meet: rules of safety."""

from engraving.check.facts import Facts
from engraving.check.findings import Finding, Severity, rule


@rule()
def safe_under_a_beam(facts: Facts) -> Finding | None:
    """No beam burns what gives off chlorine.

    Chlorine plastics give off hydrogen chloride (common practice, no source).
    """
    spec = facts.spec
    hazard = spec.substrate.hazard
    if hazard == "chlorine" and not spec.machine.touches:
        return Finding(
            "safe_under_a_beam",
            Severity.STOP,
            "blank",
            "It holds chlorine, which comes off as acid gas under a beam: it is refused.",
            spec.substrate.name,
        )
    return None


@rule()
def mercury_in_old_mirrors(facts: Facts) -> Finding | None:
    """Whoever burns a mirror knows its backing.

    Tin amalgam backs very old mirrors (common practice, no source).
    """
    if facts.spec.substrate.hazard != "old-mirror":
        return None
    return Finding(
        "mercury_in_old_mirrors",
        Severity.CAUTION,
        "blank",
        "The backing of a very old mirror may hold mercury; burn only what you know.",
        facts.spec.substrate.name,
    )
