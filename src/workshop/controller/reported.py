"""What a machine's newest report says, in mm, mm/s and percent."""

from collections.abc import Mapping
from typing import Any

from workshop.controller.link import Link

_INCHES, _FULL_POWER, _USUAL_FULL = 13, 30, 1000
_MM_PER_INCH = 25.4


def unit_mm(settings: Mapping[int, float]) -> float:
    """Return mm of the unit that a machine with these settings reports in."""
    return _MM_PER_INCH if settings.get(_INCHES) else 1.0


def reported(
    link: Link | None, settings: Mapping[int, float], trims: tuple[int, int, int]
) -> dict[str, Any]:
    """Return state, place, speed and power as a page shows them.

    Parameters
    ----------
    link : Link or None
        The open port.
    settings : mapping
        The machine's, by their numbers.
    trims : tuple of int
        The last that were told: feed, rapid, power in percent.
    """
    status = link.status if link is not None else None
    if status is None or link is None:
        return {"state": ""}
    unit = unit_mm(settings)
    place = link.place.machine
    return {
        "state": status.state,
        "reports": link.reports,
        "part": status.part,
        "place": [value * unit for value in place] if place else None,
        "feed_mm_s": (status.feed or 0) * unit / 60,
        "power": (status.power or 0) / (settings.get(_FULL_POWER) or _USUAL_FULL) * 100,
        "trims": status.trims or trims,
        "pins": status.pins,
    }
