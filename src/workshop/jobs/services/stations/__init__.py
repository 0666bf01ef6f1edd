"""What each station shows of a job, and what its changes do.

One pair of functions a station: ``show_…`` returns the form's values,
``apply_…`` returns the changed job. Everything tied follows here: height
follows width, pitch follows dpi, x and y follow the anchor.
"""

from collections.abc import Callable
from typing import Any

from engraving.spec import JobSpec
from workshop.jobs.models import Job
from workshop.jobs.services.pictures import begin
from workshop.jobs.services.revisions import StaleError, change, spec_of, tell
from workshop.jobs.services.stations.artwork import apply_artwork, show_artwork
from workshop.jobs.services.stations.blank import apply_blank, show_blank
from workshop.jobs.services.stations.card import apply_card, relaid, show_card
from workshop.jobs.services.stations.dots import apply_dots, show_dots
from workshop.jobs.services.stations.edit import Edit
from workshop.jobs.services.stations.edits import apply_edits, show_edits
from workshop.jobs.services.stations.later import (
    apply_burn,
    apply_place,
    show_burn,
    show_place,
)
from workshop.jobs.services.stations.tone import apply_tone, show_tone
from workshop.jobs.services.tickets import rename

_TRIES = 4
"""So often a change is made anew of a job that changes meanwhile; then it is laid over."""


def station_values(job: Job, station: str) -> dict[str, Any]:
    """Return the values of a station's form."""
    spec = spec_of(job)
    return _SHOW[_described(spec, station)](spec, job)


def _described(spec: JobSpec, station: str) -> str:
    """Return what a station describes; for a swatch card the artwork is the card."""
    return "card" if spec.card is not None and station == "artwork" else station


def change_station(
    job: Job, station: str, changes: dict[str, Any], *, apart: bool = False
) -> bool:
    """Apply the changed fields of a station; return whether anything changed.

    Parameters
    ----------
    apart : bool
        It is no stroke with what came before, which another page did.

    Raises
    ------
    EngravingError
        When the result is no valid job; ``field`` names the value at fault.
    """
    if station == "artwork" and {"name", "customer"} & set(changes):
        rename(job, changes.get("name", ""), changes.get("customer", job.customer))
    seen, (label, touched) = spec_of(job), _words(station, changes)
    for tries in range(_TRIES):
        theirs, edit = spec_of(job), _edited(job, station, changes)
        stroke = "" if apart or tries else touched
        try:
            done = change(
                job, edit.spec, label, stroke, edit.relations,
                only_as_seen=tries < _TRIES - 1,
            )  # fmt: skip
        except StaleError:
            # Made anew of the job as it is now: what follows from a field follows again.
            job.refresh_from_db()
            continue
        if tries and done:
            tell(seen, theirs, edit.spec)
        break
    if station in ("artwork", "tone", "dots"):
        begin(job.number, edit.spec)
    return done


def _edited(job: Job, station: str, changes: dict[str, Any]) -> Edit:
    edit = Edit(spec_of(job), dict(changes), job)
    _APPLY[_described(edit.spec, station)](edit)
    if edit.spec.card is not None:
        edit.spec, artwork = relaid(edit.spec)
        edit.relations["artwork"] = artwork.pk
    return edit


def _words(station: str, changes: dict[str, Any]) -> tuple[str, str]:
    """Return what a change is called, and what it touched."""
    said = [name for name in sorted(changes) if name not in _SAY_HOW]
    touched = f"{station}:{','.join(said)}"
    if _ONE_EACH & set(changes):
        touched = ""
    words = dict.fromkeys(_LABELS.get(name, _plain(name)) for name in said)
    return ", ".join(words) or station, touched


def _plain(name: str) -> str:
    """Return a field's name as words."""
    bare = name.removesuffix("_mm").removesuffix("_deg").removesuffix("_dots")
    return bare.replace("_", " ").strip().capitalize()


def _show_all_artwork(spec: JobSpec, job: Job) -> dict[str, Any]:
    return {**show_artwork(spec, job), **show_edits(spec)}


def _apply_all_artwork(edit: Edit) -> None:
    apply_artwork(edit)
    apply_edits(edit)


_SHOW: dict[str, Callable[[JobSpec, Job], dict[str, Any]]] = {
    "artwork": _show_all_artwork,
    "card": show_card,
    "blank": show_blank,
    "tone": show_tone,
    "dots": show_dots,
    "burn": show_burn,
    "place": show_place,
}
_APPLY: dict[str, Callable[[Edit], None]] = {
    "artwork": _apply_all_artwork,
    "card": apply_card,
    "blank": apply_blank,
    "tone": apply_tone,
    "dots": apply_dots,
    "burn": apply_burn,
    "place": apply_place,
}
_ONE_EACH = {
    "mask_add", "mask_take", "retouch_add", "retouch_take", "line_add", "line_remove",
    "drop_add", "drop_remove", "turn",
}  # fmt: skip
"""Each of these is undone by itself, however quickly they follow one another."""
_SAY_HOW = {"ties"}
"""Fields that say how others are meant."""
_LABELS = {
    "seen_from": "Side",
    "side_mirror": "Side",
    "side_invert": "Side",
    "side_polarity": "What the beam does",
    "dpi": "Resolution",
    "pitch": "Row distance",
    "lines": "Lines a mm",
    "dot_pitch": "Distance of dots",
    "offset_x": "Moved on the blank",
    "offset_y": "Moved on the blank",
    "input_black": "Black point",
    "gamma": "Middle tones",
    "output_black": "Darkest tone",
    "output_white": "Lightest tone",
    "start": "Begun from the nearest recipe",
    "variant": "Other speed, same dose",
    "direction": "Rows one way or both",
    "zone_add": "Kept clear",
    "zone_drop": "Not kept clear",
    "pocket_toggle": "Pocket on or off",
    "shown": "Another pocket",
    "design_turn": "Design turned",
    "point_keep": "Point kept",
    "point_drop": "Point removed",
    "columns_first": "Columns",
    "columns_last": "Columns",
    "columns_count": "Columns",
    "rows_first": "Rows",
    "rows_last": "Rows",
    "rows_count": "Rows",
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
    "input_white": "White point",
    "shade": "A shade",
    "auto": "Auto tone",
    "reset": "Tone reset",
    "choose": "Chosen from the contact sheet",
    "curve": "Curve",
    "x": "Moved",
    "y": "Moved",
    "nudge_x": "Moved on the blank",
    "nudge_y": "Moved on the blank",
    "again": "Back to the recipe",
    "fit": "Fitted to the blank",
    "centre": "Centred",
}
