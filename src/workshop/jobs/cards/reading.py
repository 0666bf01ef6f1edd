"""Read a burned card: a photo in, settings, curves and tables out, onto the shelf."""

import io
from collections.abc import Mapping
from pathlib import Path
from types import MappingProxyType
from typing import Any

import numpy as np
from django.conf import settings
from numpy.typing import NDArray
from PIL import Image

from engraving.cards import (
    KINDS,
    Cell,
    Flat,
    Layout,
    Measured,
    best_cell,
    chosen_settings,
    flatten,
    focus_of,
    lay_out,
    measure,
    row_shifts,
    tone_curve,
)
from engraving.errors import EngravingError, InputError
from engraving.jobspec import MOST_CELLS_ALONG, JobSpec, RecipePart
from engraving.recipe import areal_dose_j_mm2, recipe_of, unlike, watts
from workshop.jobs.cards import lines, wells
from workshop.jobs.models import CardReading, Job
from workshop.jobs.revisions.writer import spec_of
from workshop.shelf.machines.changes import set_mark, set_row_shift, set_spot
from workshop.shelf.models import Recipe
from workshop.shelf.photos import hold_size, keep_image, read_photo
from workshop.shelf.recipes.changes import (
    add_version,
    checked_part,
    create_recipe,
    recipe_part,
)
from workshop.shelf.recipes.evidence import note_evidence
from workshop.shell.numbers import whole

_LONGEST_PX = 6000
_SHOWN_PX = 1400
PICKED = ("power-speed", "power-pitch", "speed-pitch", "dot-methods", "dpi-ladder")
"""Kinds from which one cell is chosen."""
_GONE = "This card's machine or substrate is not on the shelf any more; open a new card."


def keep_photo(data: bytes) -> str:
    """Keep a photo upright and small enough; return its key.

    Raises
    ------
    InputError
        When it is no picture.
    """
    hold_size(len(data))
    return keep_image(read_photo(io.BytesIO(data), _LONGEST_PX), _photo_path, "PNG")


def _photo_path(key: str) -> Path:
    return Path(settings.MEDIA_ROOT) / "cards" / f"{key}.png"


def _codes(key: str) -> NDArray[np.uint8]:
    return np.asarray(Image.open(_photo_path(key)).convert("RGB"))


def read_card(
    job: Job, photo: str, corners: list[tuple[float, float]] | None = None
) -> CardReading:
    """Read a photo of a job's card and keep what it says.

    Parameters
    ----------
    photo : str
        Key of a kept photo.
    corners : list of four points, optional
        The card's corners as shares of the photo's width and height: front
        left, front right, back left, back right. Without, the corner marks
        are looked for.
    """
    spec = spec_of(job)
    reading = CardReading(job=job, photo=photo, corners=corners or [], spec=job.spec_data)
    reading.result = wells.kept_wells(job)
    try:
        codes = _codes(photo)
        high, wide = codes.shape[:2]
        pixels = [(x * wide, y * high) for x, y in corners] if corners else None
        flat = flatten(codes, lay_out(spec), pixels)
        reading.corners = [(x / wide, y / high) for x, y in flat.corners]
        reading.result |= _result(spec, flat) | {
            "residual_mm": flat.residual_mm,
            "px_mm": flat.px_mm,
        }
        _flat_path(photo, job).write_bytes(_flat_png(flat))
    except EngravingError as error:
        reading.fault = error.message[:300]
    reading.save()
    return reading


def _result(spec: JobSpec, flat: Flat) -> dict[str, Any]:
    kind = spec.card.kind if spec.card else ""
    if kind == "row-shift":
        return {"shifts": row_shifts(spec, flat)}
    if kind == "focus":
        found = focus_of(spec, flat)
        return {"focus_mm": found.z_mm, "spot_mm": found.spot_mm,
                "depth_mm": 2 * found.rayleigh_mm, "widths": found.widths}  # fmt: skip
    measured = measure(spec, flat)
    out: dict[str, Any] = {"patches": _patches(measured), "bare": measured.bare}
    if kind == "gray-ramp":
        out["curve"] = tone_curve(measured)
    elif kind in PICKED[:3]:
        best = best_cell(measured).cell
        out["best"] = [best.column, best.row]
    return out


def _patches(measured: Measured) -> list[list[float]]:
    return [
        [one.cell.column, one.cell.row, round(one.lightness, 2), round(one.spread, 2)]
        for one in measured.patches
    ]


def _flat_png(flat: Flat) -> bytes:
    """Return the flattened card as a picture no longer than `_SHOWN_PX`."""
    image = Image.fromarray(flat.look)
    image.thumbnail((_SHOWN_PX, _SHOWN_PX))
    stream = io.BytesIO()
    image.save(stream, "PNG")
    return stream.getvalue()


def _flat_path(photo: str, job: Job) -> Path:
    return Path(settings.MEDIA_ROOT) / "cards" / f"{photo}-{job.number}.png"


def flat_picture(reading: CardReading) -> bytes:
    """Return the flattened picture of a reading; empty where there is none."""
    path = _flat_path(reading.photo, reading.job)
    return path.read_bytes() if path.is_file() else b""


def photo_picture(reading: CardReading) -> bytes:
    """Return the photo of a reading as JPEG."""
    image = Image.open(_photo_path(reading.photo)).convert("RGB")
    image.thumbnail((_SHOWN_PX, _SHOWN_PX))
    stream = io.BytesIO()
    image.save(stream, "JPEG", quality=88)
    return stream.getvalue()


def reading_page(
    job: Job,
    reading: CardReading | None,
    chosen: str = "",
    typed: Mapping[str, str] = MappingProxyType({}),
) -> dict[str, Any]:
    """Return what the reading page shows of a card and of its newest reading.

    What was typed and refused stands in its fields as it was typed.
    """
    spec = JobSpec.model_validate(reading.spec) if reading else spec_of(job)
    layout, result = lay_out(spec), reading.result if reading else {}
    kind = spec.card.kind if spec.card else ""
    picked = _picked(layout, result, chosen)
    found = {(p[0], p[1]): p for p in result.get("patches", [])}
    return {
        "wells": wells.wells_page(layout, result, typed) if kind == "depth" else None,
        "lines": lines.lines_page(spec, layout, result, typed) if kind == "lines" else None,
        "job": job,
        "spec": spec,
        "kind": kind,
        "card": KINDS[kind],
        "picks": kind in PICKED,
        "chosen": chosen,
        "layout": layout,
        "view": _view(spec, squared="px_mm" in result),
        "reading": reading if reading and reading.photo else None,
        "result": result if "px_mm" in result else {},
        "cells": [_shown(spec, layout, cell, found, picked) for cell in layout.cells],
        "picked": _settings(spec, layout.cell(*picked)) if picked else None,
        "chart": _chart(result),
        "recipe": job.recipe,
        "machine": job.machine,
        "name": f"{spec.substrate.name}, card of {spec.card.day if spec.card else ''}",
    }


def _view(spec: JobSpec, *, squared: bool) -> str:
    """Return the viewBox of the card's picture: bare, or on its scrap."""
    wide, high = spec.size.width_mm, spec.size.height_mm
    if squared:
        return f"0 0 {wide:.3f} {high:.3f}"
    rim = (spec.blank.width_mm - wide) / 2
    return f"{-rim:.3f} {-rim:.3f} {wide + 2 * rim:.3f} {high + 2 * rim:.3f}"


def _picked(layout: Layout, result: dict[str, Any], chosen: str) -> tuple[int, int] | None:
    """Return column and row of the cell that was clicked, or else of the best."""
    column, row = (whole(part) for part in chosen.partition("-")[::2])
    if column is None or row is None:
        column = row = MOST_CELLS_ALONG
    if column < layout.columns and row < layout.rows:
        return column, row
    best = result.get("best")
    return (best[0], best[1]) if best else None


def _shown(
    spec: JobSpec,
    layout: Layout,
    cell: Cell,
    found: dict[tuple[float, float], list[float]],
    picked: tuple[int, int] | None,
) -> dict[str, Any]:
    patch = found.get((cell.column, cell.row))
    return {
        "cell": cell,
        "key": f"{cell.column}-{cell.row}",
        "top": layout.height_mm - cell.y_mm - cell.height_mm,
        "lightness": patch[2] if patch else None,
        "spread": patch[3] if patch else None,
        "picked": picked == (cell.column, cell.row),
        "words": _words(spec, cell),
    }


_WORDS = {
    "gray-ramp": lambda cell: f"{100 * cell.share:g} % burned",
    "dot-methods": lambda cell: f"{cell.method}, {100 * cell.share:g} %",
    "row-shift": lambda cell: f"{cell.speed_mm_s:g} mm/s, moved {cell.shift_mm:g} mm",
    "focus": lambda cell: f"{cell.power:g} %, {cell.z_mm:g} mm up",
    "lines": lambda cell: f"{cell.depth_mm:g} mm deep, {cell.speed_mm_s:g} mm/s",
    "depth": lambda cell: f"{cell.power:.3g} %, {cell.passes} passes",
}
"""What a cell is called, where it is not by power, speed and pitch."""


def _words(spec: JobSpec, cell: Cell) -> str:
    own = _WORDS.get(spec.card.kind if spec.card else "")
    if own is not None:
        return own(cell)
    return f"{cell.power:.3g} %, {cell.speed_mm_s:.4g} mm/s, {cell.pitch_mm:.3g} mm"


def _settings(spec: JobSpec, cell: Cell) -> dict[str, Any]:
    power_w = watts(cell.power, spec.machine.rated_power_w)
    return {
        "cell": cell,
        "words": _words(spec, cell),
        "dose": areal_dose_j_mm2(power_w, cell.speed_mm_s, cell.pitch_mm, spec.burn.passes),
        "watts": power_w,
    }


def _chart(result: dict[str, Any]) -> str:
    """Return the tone curve as points of an SVG of 100 × 100, L* upward."""
    return " ".join(
        f"{share:.2f},{100 - light:.2f}" for share, light in result.get("curve", [])
    )


def save_as_recipe(job: Job, reading: CardReading | None, name: str, chosen: str) -> Recipe:
    """Put what a card says on the shelf: a recipe from a cell, or a curve on one.

    A gray ramp's curve goes to the recipe the card was burned with, as a new
    version; without one a recipe is made of what the card was burned with.

    Raises
    ------
    InputError
        When there is no cell to take, or no machine and substrate to keep it for.
    """
    spec = JobSpec.model_validate(reading.spec) if reading else spec_of(job)
    if job.machine is None or job.substrate is None:
        raise InputError(_GONE)
    result = reading.result if reading else {}
    day = spec.card.day if spec.card else ""
    note = f"Swatch card {job.number:04d}, {day}"
    if "curve" in result:
        return _with_curve(job, spec, result["curve"], note, name)
    if "lines" in result:
        part = lines.part_of(spec, _burned_with(spec, note), lay_out(spec), result)
        checked = checked_part(part.model_dump())
        return _rests_on(
            create_recipe(job.machine, job.substrate, name or note, checked, "", note), job
        )
    if "wells" in result:
        part = wells.part_of(_burned_with(spec, note), lay_out(spec), result, chosen)
        checked = checked_part(part.model_dump())
        return _rests_on(
            create_recipe(job.machine, job.substrate, name or note, checked, "", note), job
        )
    picked = _picked(lay_out(spec), result, chosen)
    if picked is None:
        raise InputError("Choose a cell first.")
    cell = chosen_settings(spec, *picked)
    part = _burned_with(spec, note).model_copy(
        update={"power": cell.power, "speed_mm_s": round(cell.speed_mm_s, 2),
                "pitch_mm": round(cell.pitch_mm, 4)}
    )  # fmt: skip
    if cell.method:
        part = part.model_copy(update={"method": cell.method})
    checked = checked_part(part.model_dump())
    return _rests_on(
        create_recipe(job.machine, job.substrate, name or note, checked, "", note), job
    )


def _rests_on(recipe: Recipe, job: Job) -> Recipe:
    """Let a recipe rest on the card it was read from."""
    part = recipe_part(recipe)
    note_evidence(
        recipe,
        f"card {job.number}",
        kind="card",
        said=f"{job.name}, job {job.number:04d}",
        power=part.power,
        speed_mm_s=part.speed_mm_s,
    )
    return recipe


def _burned_with(spec: JobSpec, note: str) -> RecipePart:
    """Return the recipe that a card was burned with."""
    return recipe_of(spec, origin="card", origin_note=note, confidence="tried", patches=())


def _with_curve(job: Job, spec: JobSpec, curve: Any, note: str, name: str) -> Recipe:
    patches = tuple((share, light) for share, light in curve)
    recipe = job.recipe
    if recipe and not unlike(spec, recipe_part(recipe)):
        tried = {"patches": patches, "confidence": "tried"}
        part = recipe_part(recipe).model_copy(update=tried)
        add_version(recipe, checked_part(part.model_dump()), f"Tone curve of {note}")
        return _rests_on(recipe, job)
    if job.machine is None or job.substrate is None:
        raise InputError(_GONE)
    part = _burned_with(spec, note).model_copy(update={"patches": patches})
    checked = checked_part(part.model_dump())
    return _rests_on(
        create_recipe(job.machine, job.substrate, name or note, checked, "", note), job
    )


def save_on_machine(job: Job, reading: CardReading, chosen: list[str]) -> str:
    """Keep on the machine what a shift or focus card says; return what was kept.

    Parameters
    ----------
    chosen : list of str
        Cells picked by eye on a shift card, one a speed; empty takes what the
        photo says.

    Raises
    ------
    InputError
        When the machine is gone, or there is nothing to keep.
    """
    if job.machine is None:
        raise InputError(
            "This card's machine is not on the shelf any more; open a new card."
        )
    result = reading.result
    if "lines" in result:
        mark = lines.mark_mm(result)
        set_mark(job.machine, mark)
        return f"{job.machine}: mark {mark:.3f} mm wide, measured"
    if "spot_mm" in result:
        lens = JobSpec.model_validate(reading.spec).machine.lens
        set_spot(job.machine, lens, result["spot_mm"], result["depth_mm"])
        return f"{job.machine}: spot {result['spot_mm']:.3f} mm, measured"
    table = tuple((speed, shift) for speed, shift in result.get("shifts", []))
    if chosen:
        table = _by_eye(JobSpec.model_validate(reading.spec), chosen)
    if not table:
        raise InputError("Choose the straightest cell of each speed first.")
    set_row_shift(job.machine, table)
    return f"{job.machine}: return rows at {len(table)} speeds"


def _by_eye(spec: JobSpec, chosen: list[str]) -> tuple[tuple[float, float], ...]:
    layout = lay_out(spec)
    cells = [layout.cell(*at) for key in chosen if (at := _picked(layout, {}, key))]
    return tuple(sorted({cell.speed_mm_s: cell.shift_mm for cell in cells}.items()))
