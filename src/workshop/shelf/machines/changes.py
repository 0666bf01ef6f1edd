"""Machines on the shelf: set up in one page, calibrated by cards."""

from collections.abc import Iterable, Mapping
from types import MappingProxyType
from typing import Any

from pydantic import ValidationError

from engraving.errors import InputError
from engraving.jobspec import LensPart, MachinePart, explain, sentence
from engraving.jobspec.machine import MOST_LENSES, MOST_SHIFTS
from engraving.recipe import (
    focused,
)
from workshop.shelf.models import Machine

_LENS = ("name", "focal_mm", "spot_mm", "depth_mm", "known")

STARTS: Mapping[str, Mapping[str, Any]] = MappingProxyType(
    {
        "co2": {
            "wavelength_um": 10.6, "rated_power_w": 40, "max_speed_mm_s": 400,
            "acceleration_mm_s2": 3000, "rapid_mm_s": 400, "lowest_power": 10,
            "response_ms": 0.3, "beam_diameter_mm": 6.0, "bed_width_mm": 400,
            "bed_height_mm": 300, "spot_mm": 0.12, "focal": 50.8,
        },
        "diode": {
            "wavelength_um": 0.45, "rated_power_w": 10, "max_speed_mm_s": 200,
            "acceleration_mm_s2": 1500, "rapid_mm_s": 200, "lowest_power": 2,
            "response_ms": 0.05, "beam_diameter_mm": 4.0, "beam_quality": 12,
            "bed_width_mm": 400, "bed_height_mm": 400, "spot_mm": 0.08, "focal": 40,
            "beam": "M4",
        },
        "fibre": {
            "wavelength_um": 1.064, "rated_power_w": 30, "max_speed_mm_s": 3000,
            "acceleration_mm_s2": 200000, "rapid_mm_s": 4000, "lowest_power": 5,
            "response_ms": 0.02, "beam_diameter_mm": 7.0, "beam_quality": 1.5,
            "bed_width_mm": 110, "bed_height_mm": 110, "spot_mm": 0.05, "focal": 163,
        },
        "other": {"rated_power_w": 20, "spot_mm": 0.1, "focal": 50},
        "drag": {
            "rated_power_w": 1, "lowest_power": 0, "max_speed_mm_s": 50,
            "acceleration_mm_s2": 500, "rapid_mm_s": 80, "spot_mm": 0.15, "focal": 1,
            "depth_mm": 0.2, "lift_mm": 2, "z_axis": True,
        },
        "vtool": {
            "rated_power_w": 1, "lowest_power": 0, "max_speed_mm_s": 25,
            "acceleration_mm_s2": 300, "rapid_mm_s": 60, "spot_mm": 0.3, "focal": 1,
            "depth_mm": 0.2, "lift_mm": 3, "z_axis": True,
        },
    }
)  # fmt: skip
"""Sensible values to begin with, by kind (common practice, no source)."""


def put_machine(name: str, note: str = "", link: str = "", **values: Any) -> Machine:
    """Put a machine on the shelf, or change the one of that name."""
    part = MachinePart(name=name, **values).model_dump(mode="json")
    machine, _ = Machine.objects.update_or_create(
        name=name, defaults={"part": part, "note": note, "link": link}
    )
    return machine


def starting_machine(kind: str) -> dict[str, Any]:
    """Return the form's values of a new machine of a kind."""
    start = dict(STARTS.get(kind, STARTS["other"]))
    focal = start.pop("focal")
    part = MachinePart.model_validate(
        {
            "kind": kind if kind in STARTS else "other",
            **start,
            "lenses": [{"name": "Lens 1", "focal_mm": focal, "spot_mm": start["spot_mm"]}],
        }
    )
    return {**_values(part), "name": "", "note": "", "link": "", "baud": 115200}


def begin_machine(kind: str, name: str, link: str, known: Mapping[str, Any]) -> Machine:
    """Put a machine on the shelf of which little is known; the rest is as usual.

    Raises
    ------
    InputError
        When what is known makes no machine; ``field`` names the value at fault.
    """
    values = starting_machine(kind)
    given = {field: value for field, value in known.items() if value is not None}
    return save_machine({**values, **given, "name": name, "link": link})


def machine_values(machine: Machine) -> dict[str, Any]:
    """Return the values of a machine's form."""
    part = MachinePart.model_validate(machine.part)
    named = {"name": machine.name, "note": machine.note, "link": machine.link}
    return {**_values(part), **named, "baud": machine.baud}


def _values(part: MachinePart) -> dict[str, Any]:
    shown = part.model_dump()
    lenses = part.lenses or (LensPart(name="Lens 1", spot_mm=part.spot_mm),)
    for i, lens in enumerate(lenses):
        for name in _LENS:
            shown[f"lens{i}_{name}"] = getattr(lens, name)
    for i, (speed, shift) in enumerate(part.row_shift):
        shown[f"shift{i}_speed"], shown[f"shift{i}_mm"] = speed, shift
    shown["fitted"] = part.lens or "Lens 1"
    return shown


def machine_part(data: Mapping[str, Any]) -> MachinePart:
    """Return the part that a machine's form describes.

    Raises
    ------
    InputError
        When it makes no machine; ``field`` names the value at fault.
    """
    part = {
        name: data[name]
        for name in MachinePart.model_fields
        if name not in ("lenses", "row_shift", "lens", "spot_mm")
        and data.get(name) is not None
    }
    part["lenses"] = [_lens(data, i) for i in range(MOST_LENSES) if _has_lens(data, i)]
    part["lens"] = data.get("fitted") or ""
    rows = [
        (data.get(f"shift{i}_speed"), data.get(f"shift{i}_mm")) for i in range(MOST_SHIFTS)
    ]
    part["row_shift"] = sorted(
        (speed, shift or 0.0) for speed, shift in rows if speed is not None
    )
    if not part["lenses"]:
        raise InputError("A machine needs one lens or tip at least.", field="lens0_name")
    try:
        return MachinePart.model_validate(part)
    except ValidationError as error:
        where = error.errors()[0]["loc"]
        field = str(where[0]) if where else "lens0_name"
        message = (
            sentence(error)
            if error.errors()[0]["type"] == "value_error"
            else explain(error)
        )
        raise InputError(message, field=field) from None


def _has_lens(data: Mapping[str, Any], i: int) -> bool:
    return bool(str(data.get(f"lens{i}_name") or "").strip())


def _lens(data: Mapping[str, Any], i: int) -> dict[str, Any]:
    values = {name: data.get(f"lens{i}_{name}") for name in _LENS}
    if not values["spot_mm"]:
        values["spot_mm"], values["known"] = _computed(data, values["focal_mm"]), "computed"
    return {name: value for name, value in values.items() if value is not None}


def _computed(data: Mapping[str, Any], focal_mm: float | None) -> float:
    """Return the spot that wavelength and optics give, or say what is missing."""
    beam = data.get("beam_diameter_mm")
    if not beam or not focal_mm or data.get("kind") in ("drag", "vtool"):
        raise InputError(
            "Type the spot, or the focal length and the beam's diameter to compute it.",
            field="lens0_spot_mm",
        )
    wave = data.get("wavelength_um") or 10.6
    return round(focused(wave, focal_mm, beam, data.get("beam_quality") or 1.0).spot_mm, 4)


def save_machine(data: Mapping[str, Any], machine: Machine | None = None) -> Machine:
    """Put a new machine on the shelf, or change one; jobs keep what they used.

    Raises
    ------
    InputError
        When it makes no machine.
    """
    part = machine_part(data)
    item = machine or Machine()
    if machine is not None:
        # Set elsewhere, and not to be lost by a form that does not show them.
        points = MachinePart.model_validate(machine.part).points
        part = part.model_copy(update={"points": points})
    item.name, item.note = part.name, data.get("note", "")
    item.link, item.baud = data.get("link", ""), data.get("baud") or 115200
    # Over a network no rate is set; the stand-in takes all that comes.
    serial = bool(item.link) and "://" not in item.link
    part = part.model_copy(update={"link_baud": item.baud if serial else 0})
    item.part = part.model_dump(mode="json")
    item.save()
    return item


def duplicate_machine(machine: Machine) -> Machine:
    """Put a copy of a machine on the shelf, under a name of its own."""
    taken = set(Machine.objects.values_list("name", flat=True))
    name = next(
        name for i in range(2, 1000) if (name := f"{machine.name[:90]} ({i})") not in taken
    )
    part = {**machine.part, "name": name}
    return Machine.objects.create(
        name=name, part=part, note=machine.note, link=machine.link, baud=machine.baud
    )


def remove_machine(machine: Machine) -> None:
    """Take a machine and its recipes off the shelf; jobs keep what they used."""
    machine.delete()


def set_row_shift(machine: Machine, table: tuple[tuple[float, float], ...]) -> None:
    """Keep what a shift card says."""
    machine.part = _checked({**machine.part, "row_shift": table})
    machine.save(update_fields=["part"])


def set_spot(machine: Machine, lens: str, spot_mm: float, depth_mm: float) -> None:
    """Keep the spot that a focus card says a lens makes."""
    part = MachinePart.model_validate(machine.part)
    found = {
        "spot_mm": round(spot_mm, 4),
        "depth_mm": round(depth_mm, 3),
        "known": "measured",
    }
    plain = [one.model_dump() for one in part.lenses] or [{"name": lens or "Lens 1"}]
    fitted = lens or part.lens or plain[0]["name"]
    lenses = [{**one, **found} if one["name"] == fitted else one for one in plain]
    known = {name: value for name, value in machine.part.items() if name != "spot_mm"}
    machine.part = _checked({**known, "lenses": lenses, "lens": fitted})
    machine.save(update_fields=["part"])


def set_mark(machine: Machine, wide_mm: float) -> None:
    """Keep how wide a point marks, as its lines were measured."""
    part = MachinePart.model_validate(machine.part)
    set_spot(machine, part.lens, wide_mm, next((one.depth_mm for one in part.lenses), 0.0))


def keep_points(machine: Machine, points: Iterable[tuple[str, float, float]]) -> None:
    """Keep the named places of a machine's bed: from left and from front, in mm."""
    machine.part = _checked({**machine.part, "points": list(points)})
    machine.save(update_fields=["part"])


def _checked(part: dict[str, Any]) -> dict[str, Any]:
    try:
        return MachinePart.model_validate(part).model_dump(mode="json")
    except ValidationError as error:
        raise InputError(sentence(error)) from None
