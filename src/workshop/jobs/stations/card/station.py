"""The station that describes a swatch card, in the place of the artwork."""

from typing import Any

from workshop.jobs.stations.card.changes import apply_card, show_card
from workshop.jobs.stations.card.facts import card_facts
from workshop.jobs.stations.card.form import CardForm
from workshop.jobs.stations.station import Seen, Station


def _besides(seen: Seen) -> dict[str, Any]:
    return {"facts": card_facts(seen.spec)}


STATION = Station(
    "card",
    CardForm,
    show_card,
    apply_card,
    _besides,
    labels={
        "columns_first": "Columns",
        "columns_last": "Columns",
        "columns_count": "Columns",
        "rows_first": "Rows",
        "rows_last": "Rows",
        "rows_count": "Rows",
    },
)
TONE = Station("tone", besides=_besides, page="card/tone.html")
"""A card knows no tone."""
