"""The dots station."""

from typing import Any

from workshop.jobs.stations.dots.changes import apply_dots, show_dots
from workshop.jobs.stations.dots.choices import dot_methods
from workshop.jobs.stations.dots.facts import dots_facts
from workshop.jobs.stations.dots.form import DotsForm
from workshop.jobs.stations.dots.way_facts import way_facts
from workshop.jobs.stations.dots.way_form import way_fields
from workshop.jobs.stations.dots.ways import methods_of
from workshop.jobs.stations.station import Seen, Station


def _besides(seen: Seen) -> dict[str, Any]:
    spec = seen.spec
    fitting = methods_of(spec.marking.way)
    return {
        "methods": [one for one in dot_methods() if one.name in fitting],
        "facts": dots_facts(spec, quick=seen.live or spec.marking.way != "dots"),
        "ways": way_facts(spec, fitting, quick=seen.live),
    }


STATION = Station(
    "dots",
    DotsForm,
    show_dots,
    apply_dots,
    _besides,
    labels={
        "choose": "Chosen from the contact sheet",
        **{name: str(field.label) for name, field in way_fields().items()},
    },
)
