"""The artwork station."""

from typing import Any

from engraving.jobspec import JobSpec
from workshop.jobs.models import Job
from workshop.jobs.stations.artwork.changes import apply_artwork, show_artwork
from workshop.jobs.stations.artwork.edits import apply_edits, show_edits
from workshop.jobs.stations.artwork.facts import artwork_facts, hand_steps
from workshop.jobs.stations.artwork.form import ArtworkForm
from workshop.jobs.stations.edit import Edit
from workshop.jobs.stations.station import Seen, Station


def _show(spec: JobSpec, job: Job) -> dict[str, Any]:
    return {**show_artwork(spec, job), **show_edits(spec)}


def _apply(edit: Edit) -> None:
    apply_artwork(edit)
    apply_edits(edit)


def _besides(seen: Seen) -> dict[str, Any]:
    spec = seen.spec
    return {"facts": hand_steps(spec) if seen.live else artwork_facts(spec, seen.job)}


STATION = Station(
    "artwork",
    ArtworkForm,
    _show,
    _apply,
    _besides,
    labels={
        "turn": "Turned",
        "mirror": "Mirrored",
        "crop_left": "Crop",
        "crop_top": "Crop",
        "crop_width": "Crop",
        "crop_height": "Crop",
        "corners": "Corners squared",
        "straighten": "Straightened",
        "sheet": "Another page",
        "keep_dots": "Kept dots",
        "drop_add": "Colour dropped",
        "drop_remove": "Colour kept",
        "mask_add": "Background",
        "mask_take": "Background",
        "retouch_add": "Retouched",
        "retouch_take": "Retouching taken off",
        "line_add": "Lettering",
        "line_remove": "Lettering taken off",
    },
    one_each=frozenset(
        {
            "mask_add", "mask_take", "retouch_add", "retouch_take", "line_add",
            "line_remove", "drop_add", "drop_remove", "turn",
        }
    ),
)  # fmt: skip
