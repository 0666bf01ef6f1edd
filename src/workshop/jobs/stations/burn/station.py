"""The burn station."""

from typing import Any

from workshop.jobs.stations.burn.changes import apply_burn, show_burn
from workshop.jobs.stations.burn.facts import burn_facts
from workshop.jobs.stations.burn.form import BurnForm
from workshop.jobs.stations.station import Seen, Station


def _besides(seen: Seen) -> dict[str, Any]:
    return {"facts": burn_facts(seen.spec, seen.job)}


STATION = Station(
    "burn",
    BurnForm,
    show_burn,
    apply_burn,
    _besides,
    labels={
        "start": "Begun from the nearest recipe",
        "variant": "Other speed, same dose",
        "direction": "Rows one way or both",
        "again": "Back to the recipe",
    },
)
