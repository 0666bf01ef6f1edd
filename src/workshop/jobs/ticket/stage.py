"""What the table shows a job on."""

import json
from functools import lru_cache
from typing import Any

from engraving.artwork.placing import grid_to_shares
from engraving.geometry.polygons import area_path
from engraving.jobspec import BlankPart, JobSpec, TextLine
from engraving.jobspec.edits import MOST_STROKE_POINTS
from engraving.lettering import line_box_mm
from engraving.pipeline import stage_key
from engraving.pipeline.stages.ways.registry import WAYS, words_of
from engraving.place import face_area
from engraving.proof import shown_colours
from workshop.jobs.pictures.engine import pipeline, stage_cache
from workshop.shell.services import length_unit


@lru_cache(maxsize=32)
def _edge(blank: BlankPart) -> str:
    """Return the blank's edge as path data; kept, for every answer and take has it."""
    return area_path(face_area(blank))


def stage_facts(spec: JobSpec) -> dict[str, Any]:
    """Return what the table's script needs to draw the piece to scale."""
    size, blank, part = spec.size, spec.blank, spec.artwork
    to_file = grid_to_shares(part, size.cols, size.rows)
    return {
        "cols": size.cols,
        "rows": size.rows,
        "along": size.along_mm,
        "pitch": size.pitch_mm,
        "blank-width": blank.width_mm,
        "blank-height": blank.height_mm,
        "blank-edge": _edge(blank),
        "offset-x": size.offset_x_mm,
        "offset-y": size.offset_y_mm,
        "ground": shown_colours(spec.substrate)[0],
        "textured": "" if spec.substrate.texture == "none" else "1",
        "spot": spec.machine.spot_mm,
        "to-file": " ".join(f"{value:.12g}" for value in to_file.ravel()),
        "file-width": part.width_px,
        "file-height": part.height_px,
        "words": _seen_words(spec),
        "view-names": "|".join(_view_names(spec)),
        "corners": json.dumps(part.corners) if part.corners else "",
        "deep": "" if spec.card or not WAYS[spec.marking.way].surface else "1",
        "lines": json.dumps(_line_boxes(spec)),
        "unit": length_unit(),
        "most-points": MOST_STROKE_POINTS,
    }


def _line_boxes(spec: JobSpec) -> list[dict[str, Any]]:
    """Return where each line of lettering stands, mm from the picture's middle.

    ``box`` is left, low, right and high of its letters, y away from the
    operator.
    """
    return [
        {
            "text": line.text,
            "x": line.x_mm,
            "y": line.y_mm,
            "box": _box(line),
        }
        for line in spec.lettering.lines
    ]


def _box(line: TextLine) -> tuple[float, float, float, float]:
    """Return the box of a line's letters; kept, for every answer asks for it."""
    key = stage_key("line box", line.model_dump())
    return stage_cache().get(key, lambda: line_box_mm(pipeline().face(line.font), line))


def _view_names(spec: JobSpec) -> tuple[str, str, str, str]:
    """Return what the four views are called for the way the picture is marked."""
    words = words_of(spec)
    return "Source", words.toned, words.plan, "Proof"


def _seen_words(spec: JobSpec) -> str:
    """Say what the table shows where that is not what the machine burns."""
    if not spec.mirrored:
        return ""
    if spec.side.printing_plate:
        return "Shown as it will print; burned mirrored"
    return "Shown from the face; burned mirrored"
