"""Choices of the tone station."""

from engraving.jobspec import GROUPS, TonePart
from workshop.shell.choices import Choices, labelled


def tone_groups() -> list[str]:
    """Return the names of what the Tone station can pass over."""
    return list(GROUPS)


def blend_choices() -> Choices:
    """Return how fine detail may be blended with the picture."""
    return labelled(
        TonePart, "detail_blend", {"overlay": "Overlay", "hard-light": "Hard light"}
    )
