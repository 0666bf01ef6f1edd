"""The tone station."""

from typing import Any

from engraving.jobspec.tone import MOST_POINTS
from workshop.jobs.stations.station import Seen, Station
from workshop.jobs.stations.tone.changes import apply_tone, show_tone
from workshop.jobs.stations.tone.facts import tone_facts
from workshop.jobs.stations.tone.form import ToneForm


def _besides(seen: Seen) -> dict[str, Any]:
    facts = tone_facts(seen.spec, quick=seen.live)
    return {"facts": facts, "most_points": MOST_POINTS}


STATION = Station(
    "tone",
    ToneForm,
    show_tone,
    apply_tone,
    _besides,
    labels={
        "input_black": "Black point",
        "input_white": "White point",
        "gamma": "Middle tones",
        "output_black": "Darkest tone",
        "output_white": "Lightest tone",
        "shade": "A shade",
        "auto": "Auto tone",
        "each": "A tone for each pocket",
        "own": "A pocket's own tone",
        "reset": "Tone reset",
        "curve": "Curve",
    },
)
