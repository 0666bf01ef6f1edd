"""Blanks on the shelf."""

from pathlib import Path
from typing import Any, BinaryIO

from django.conf import settings
from pydantic import ValidationError

from engraving.errors import EngravingError, InputError
from engraving.jobspec import BlankPart, explain
from engraving.place import engravable_box, read_outline
from workshop.shelf.models import Blank, Substrate
from workshop.shelf.photos import keep_image, read_photo

_PHOTO_PX = 900
_AREA = {
    "shape": "area_shape",
    "width_mm": "area_width",
    "height_mm": "area_height",
    "x_mm": "area_x",
    "y_mm": "area_y",
}
_MEASURES = (
    "shape", "width_mm", "height_mm", "thickness_mm", "corner_mm", "diameter_mm",
    "foot_mm", "margin_mm", "keep_inside",
)  # fmt: skip


def put_blank(
    name: str,
    substrate: Substrate | None,
    note: str = "",
    colours: list[dict[str, str]] | None = None,
    **values: Any,
) -> Blank:
    """Put a blank on the shelf, or change the one of that name."""
    part = BlankPart(name=name, **values).model_dump(mode="json")
    defaults = {
        "part": part,
        "note": note,
        "substrate": substrate,
        "colours": colours or [],
    }
    blank, _ = Blank.objects.update_or_create(name=name, defaults=defaults)
    return blank


def made_of(blank: Blank, substrate: Substrate) -> Blank:
    """Return the blank of another substrate and the same measures, made where needed."""
    name = f"{blank.name[:60]}, {substrate.name.lower()[:35]}"
    found = Blank.objects.filter(name=name).first()
    if found is not None and found.substrate_id == substrate.pk:
        return found
    name = name if found is None else f"{name[:88]} ({blank.pk})"
    measures = {one: value for one, value in blank.part.items() if one != "name"}
    return put_blank(name, substrate, blank.note, **measures)


def blank_values(blank: Blank | None) -> dict[str, Any]:
    """Return the values of a blank's form."""
    part = BlankPart.model_validate(blank.part) if blank else BlankPart()
    shown: dict[str, Any] = {name: getattr(part, name) for name in _MEASURES}
    x, y, width, height = engravable_box(part)
    shown.update(
        {
            "name": blank.name if blank else "",
            "substrate": blank.substrate_id if blank else None,
            "note": blank.note if blank else "",
            "own_area": part.area is not None,
            "area_shape": part.area.shape if part.area else "rectangle",
            "area_width": width,
            "area_height": height,
            "area_x": x,
            "area_y": y,
        }
    )
    for i, colour in enumerate(blank.colours if blank else []):
        for name in ("name", "ground", "mark"):
            shown[f"colour{i}_{name}"] = colour.get(name, "")
    return shown


def blank_part(data: dict[str, Any], blank: Blank | None) -> BlankPart:
    """Return the part that a blank's form describes.

    Raises
    ------
    InputError
        When it makes no blank; ``field`` names the value at fault.
    """
    before = blank.part if blank else {}
    part = {name: data[name] for name in _MEASURES if data.get(name) is not None}
    part["name"] = data["name"]
    part["outline"] = before.get("outline", [])
    if data.get("own_area"):
        part["area"] = {
            name: data[field]
            for name, field in _AREA.items()
            if data.get(field) is not None
        }
    drawing: BinaryIO | None = data.get("drawing")
    if drawing is not None:
        try:
            rings, part["width_mm"], part["height_mm"] = read_outline(drawing.read())
        except EngravingError as error:
            raise InputError(error.message, field="drawing") from None
        part["outline"] = rings
    if part["shape"] != "outline":
        part["outline"] = []
    try:
        return BlankPart.model_validate(part)
    except ValidationError as error:
        steps = error.errors()[0]["loc"]
        named = {"outline": "drawing"}
        field = str(steps[-1]) if steps else _needed(part["shape"])
        raise InputError(explain(error), field=named.get(field, field)) from None


def _needed(shape: str) -> str:
    return "drawing" if shape == "outline" else "diameter_mm"


def save_blank(data: dict[str, Any], blank: Blank | None = None) -> Blank:
    """Put a new blank on the shelf, or change one; jobs keep what they used.

    Raises
    ------
    InputError
        When it makes no blank, or its photo cannot be read.
    """
    part = blank_part(data, blank)
    item = blank or Blank()
    item.name, item.note = part.name, data.get("note", "")
    item.substrate = data.get("substrate")
    item.part = part.model_dump(mode="json")
    item.colours = _colours(data)
    if data.get("photo"):
        item.photo = keep_image(read_photo(data["photo"], _PHOTO_PX), photo_path)
    item.save()
    return item


def _colours(data: dict[str, Any]) -> list[dict[str, str]]:
    found = []
    for i in range(8):
        name = " ".join(str(data.get(f"colour{i}_name") or "").split())
        ground = data.get(f"colour{i}_ground")
        if name and ground:
            mark = data.get(f"colour{i}_mark") or ""
            found.append({"name": name, "ground": ground.lower(), "mark": mark.lower()})
    return found


def photo_path(digest: str) -> Path:
    """Return where a blank's photo lies."""
    return Path(settings.MEDIA_ROOT) / "photos" / f"{digest}.jpg"


def duplicate_blank(blank: Blank) -> Blank:
    """Put a copy of a blank on the shelf, under a name of its own."""
    for i in range(2, 1000):
        name = f"{blank.name[:90]} ({i})"
        if not Blank.objects.filter(name=name).exists():
            break
    return Blank.objects.create(
        name=name,
        part={**blank.part, "name": name},
        note=blank.note,
        substrate=blank.substrate,
        colours=blank.colours,
        photo=blank.photo,
    )


def remove_blank(blank: Blank) -> None:
    """Take a blank off the shelf; jobs that use it keep its measures."""
    blank.delete()
