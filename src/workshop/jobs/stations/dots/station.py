"""The dots station."""

from typing import Any

from workshop.jobs.stations.dots.changes import apply_dots, show_dots
from workshop.jobs.stations.dots.choices import dot_methods
from workshop.jobs.stations.dots.facts import dots_facts
from workshop.jobs.stations.dots.form import DotsForm
from workshop.jobs.stations.station import Seen, Station


def _besides(seen: Seen) -> dict[str, Any]:
    return {"methods": dot_methods(), "facts": dots_facts(seen.spec, quick=seen.live)}


STATION = Station(
    "dots",
    DotsForm,
    show_dots,
    apply_dots,
    _besides,
    labels={"choose": "Chosen from the contact sheet"},
)
