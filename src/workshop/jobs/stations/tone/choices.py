"""Choices of the tone station."""

from engraving.jobspec import GROUPS


def tone_groups() -> list[str]:
    """Return the names of what the Tone station can pass over."""
    return list(GROUPS)


def blend_choices() -> list[tuple[str, str]]:
    """Return how fine detail may be blended with the picture."""
    return [("overlay", "Overlay"), ("hard-light", "Hard light")]
