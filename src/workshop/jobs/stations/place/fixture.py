"""Fixtures: pictures for their pockets, and the sheet that locates the blanks."""

import io
from dataclasses import dataclass
from typing import Any

from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from engraving.errors import InputError
from engraving.geometry.polygons import polygons, rings
from engraving.jobspec import (
    MOST_POCKETS,
    ArtworkPart,
    Crop,
    FixturePart,
    JobSpec,
    PlacePart,
)
from engraving.place import (
    Box,
    burned_box,
    burning_order,
    from_picture,
    lying_face,
    piece_at,
    piece_box,
    pocket_offset,
)
from workshop.jobs.models import Artwork, Job
from workshop.jobs.pictures.bed_geometry import blank_on_bed, svg_turn
from workshop.jobs.pictures.intake import add_sheet
from workshop.jobs.pictures.windows import view_key
from workshop.jobs.revisions.writer import change, spec_of, updated
from workshop.jobs.stations.tone.changes import fitted_to_each

_SHEET_RIM_MM = 12.0
_LARGEST_SHEET_MM = 5000.0


def fill_pockets(
    job: Job, artworks: list[Artwork], *, fit: bool = False, rest_off: bool = False
) -> int:
    """Put a picture in each pocket, in burning order; return how many were placed.

    Parameters
    ----------
    fit : bool
        Each gets a tone of its own, fitted to its picture.
    rest_off : bool
        Pockets that get no picture are left out of the burn.

    Raises
    ------
    InputError
        When there is no fixture, or more pictures than pockets.
    """
    spec = spec_of(job)
    fixture = spec.fixture
    if fixture is None:
        raise InputError("Switch the fixture on first.")
    order = burning_order(spec)
    if len(artworks) > len(order):
        raise InputError(
            f"{len(artworks)} pictures do not fit in {len(order)} pockets; add some."
        )
    pockets = [fixture.pocket(i) for i in range(fixture.count)]
    for index, artwork in zip(order, artworks, strict=False):
        own = own_picture(spec, artwork)
        pockets[index] = pockets[index].model_copy(update={"artwork": own, "tone": None})
        add_sheet(job, artwork)
    for index in order[len(artworks) :] if rest_off else ():
        pockets[index] = pockets[index].model_copy(update={"on": False})
    parts = [pocket.model_dump(mode="json") for pocket in pockets]
    whole = fixture.model_dump(mode="json") | {"picture": "own", "pockets": parts}
    filled = updated(spec, {"fixture": whole})
    placed = order[: len(artworks)]
    filled = fitted_to_each(filled, placed) if fit else filled
    change(job, filled, "Pictures in the pockets")
    return len(artworks)


def own_picture(spec: JobSpec, artwork: Artwork) -> ArtworkPart:
    """Return a picture cut about its middle to the ratio of the job's size."""
    wanted = spec.size.width_mm / spec.size.height_mm
    has = artwork.width_px / artwork.height_px
    crop = Crop.to_ratio(has, wanted)
    return spec.artwork.model_copy(
        update={
            "file": artwork.name, "sha256": artwork.sha256, "page": 0, "crop": crop,
            "width_px": artwork.width_px, "height_px": artwork.height_px,
            "corners": None, "turns": 0, "mirror": False, "straighten_deg": 0.0,
        }
    )  # fmt: skip


def pocket_words(spec: JobSpec) -> str:
    """Return what is lettered in the pockets, a line each in burning order."""
    fixture = spec.fixture
    if fixture is None:
        return ""
    return "\n".join(", ".join(fixture.pocket(i).words) for i in burning_order(spec))


@dataclass(frozen=True)
class PocketFacts:
    """A pocket: its number in the order, where it lies in mm, and its picture."""

    index: int
    number: int | None
    on: bool
    x: float
    up: float
    turn: str
    place: PlacePart
    file: str
    key: str
    own: bool
    looked: bool


@dataclass(frozen=True)
class FixtureFacts:
    """The pockets of a fixture as the bed shows them."""

    pockets: list[PocketFacts]
    rows: list[list[PocketFacts]]
    shown: PocketFacts
    on: int
    box: Box
    words: str


def fixture_facts(spec: JobSpec) -> FixtureFacts | None:
    """Return what the station and the bed show of a fixture; None without one."""
    fixture = spec.fixture
    if fixture is None:
        return None
    order = burning_order(spec)
    number = {index: at + 1 for at, index in enumerate(order)}
    box = burned_box(spec)
    pockets = [
        _pocket(spec, fixture, index, number.get(index)) for index in range(fixture.count)
    ]
    rows = [
        pockets[row * fixture.columns : (row + 1) * fixture.columns]
        for row in reversed(range(fixture.rows))
    ]
    shown = min(fixture.shown, fixture.count - 1)
    return FixtureFacts(
        pockets=pockets,
        rows=rows,
        shown=pockets[shown],
        on=len(order),
        box=box,
        words=pocket_words(spec),
    )


def _pocket(
    spec: JobSpec, fixture: FixturePart, index: int, number: int | None
) -> PocketFacts:
    x, y = pocket_offset(spec, index)
    piece = piece_at(spec, index, (number or 1) - 1)
    pocket = fixture.pocket(index)
    return PocketFacts(
        index=index,
        number=number,
        on=pocket.on,
        x=x,
        up=-y,
        turn=svg_turn(spec, pocket.turn_deg),
        place=piece.place,
        file=piece.artwork.file,
        key=view_key(piece, "proof") if fixture.picture != "same" else "",
        own=pocket.x_mm is not None or bool(pocket.turn_deg),
        looked=index == min(fixture.shown, fixture.count - 1),
    )


def changed_fixture(
    spec: JobSpec, fixture: FixturePart, changes: dict[str, Any]
) -> dict[str, Any]:
    """Return a fixture's values with a form's changes in them."""
    data = fixture.model_dump(mode="json")
    for name in ("columns", "rows", "order", "picture", "gap", "pause", "digits"):
        if name in changes:
            data[name] = changes[name]
    for name in ("gap_x", "gap_y"):
        if name in changes:
            data[f"{name}_mm"] = changes[name]
    if "first_number" in changes:
        data["first_number"] = changes["first_number"]
    count = data["columns"] * data["rows"]
    data["pockets"] = [
        fixture.pocket(i).model_dump(mode="json") for i in range(min(count, MOST_POCKETS))
    ]
    shown = changes.get("shown")
    data["shown"] = min(fixture.shown if shown is None else shown, count - 1)
    toggled = changes.get("pocket_toggle")
    if toggled is not None and toggled < count:
        data["pockets"][toggled]["on"] ^= True
    _lay_pocket(spec, fixture, data, changes)
    if "words" in changes:
        _put_words(spec, data, changes["words"])
    return data


def _lay_pocket(
    spec: JobSpec, fixture: FixturePart, data: dict[str, Any], changes: dict[str, Any]
) -> None:
    """Give the pocket that is looked at a place and a turn of its own, or none.

    The first pocket lies where the piece does; it has none.
    """
    own = {"pocket_x": "x_mm", "pocket_y": "y_mm", "pocket_turn": "turn_deg"}
    index = min(fixture.shown, len(data["pockets"]) - 1)
    if index == 0 or "shown" in changes:
        return
    pocket = data["pockets"][index]
    if changes.get("pocket_grid"):
        pocket.update(x_mm=None, y_mm=None, turn_deg=0.0)
    given = {own[name]: changes[name] or 0.0 for name in own if name in changes}
    if given.keys() & {"x_mm", "y_mm"}:
        x, y = pocket_offset(updated(spec, {"fixture": data}), index)
        pocket.update(x_mm=x, y_mm=y)
    pocket.update(given)


def shown_pocket(spec: JobSpec) -> dict[str, Any]:
    """Return what the fields of the pocket that is looked at show."""
    if spec.fixture is None:
        return {"pocket_x": 0.0, "pocket_y": 0.0, "pocket_turn": 0.0, "pocket_grid": ""}
    index = min(spec.fixture.shown, spec.fixture.count - 1)
    x, y = pocket_offset(spec, index)
    turn = spec.fixture.pocket(index).turn_deg
    return {"pocket_x": x, "pocket_y": y, "pocket_turn": turn, "pocket_grid": ""}


def _put_words(spec: JobSpec, data: dict[str, Any], text: str) -> None:
    """Give each pocket that is on a line of words, in burning order."""
    order = burning_order(updated(spec, {"fixture": data}))
    lines = [line for line in text.splitlines() if line.strip()]
    if len(lines) > len(order):
        raise InputError(
            f"{len(lines)} lines do not fit in {len(order)} pockets.", field="words"
        )
    apart = "\t" if "\t" in text else ";" if ";" in text else ","
    for at, index in enumerate(order):
        words = lines[at].split(apart) if at < len(lines) else []
        data["pockets"][index]["words"] = [word.strip()[:200] for word in words][:9]


def template_sheet(spec: JobSpec) -> bytes:
    """Return a PDF at true size with each blank's outline, to locate blanks by.

    Raises
    ------
    InputError
        When it would be larger than a sheet can be.
    """
    pieces = _on_blanks(spec)
    around = [blank_on_bed(piece) for piece in pieces]
    left, front = min(box.left for box in around), min(box.front for box in around)
    wide = max(box.right for box in around) - left + 2 * _SHEET_RIM_MM
    high = max(box.back for box in around) - front + 2 * _SHEET_RIM_MM
    if max(wide, high) > _LARGEST_SHEET_MM:
        raise InputError("These blanks lie too far apart for one sheet.")
    stream = io.BytesIO()
    page = Canvas(stream, pagesize=(wide * mm, high * mm))
    page.setTitle(f"Template, {spec.name}")
    page.translate((_SHEET_RIM_MM - left) * mm, (_SHEET_RIM_MM - front) * mm)
    page.setLineWidth(0.3)
    for at, piece in enumerate(pieces, start=1):
        page.saveState()
        x, y = piece_box(piece.size, piece.place).middle
        page.translate(x * mm, y * mm)
        page.rotate(piece.place.turn_deg)
        page.translate(*(side * mm for side in from_picture(piece)))
        _outline(page, piece)
        page.setFont("Helvetica", 9)
        page.drawCentredString(0, 0, str(at))
        page.restoreState()
    _scale_bar(page, left, front)
    page.showPage()
    page.save()
    return stream.getvalue()


def _on_blanks(spec: JobSpec) -> list[JobSpec]:
    """Return the pieces that are burned; the first where all pockets are off."""
    order = burning_order(spec)
    return [piece_at(spec, index) for index in order or [0]]


def _outline(page: Canvas, spec: JobSpec) -> None:
    """Draw a blank's outline about its middle."""
    for ring in rings(polygons(lying_face(spec)).geoms):
        path = page.beginPath()
        path.moveTo(*ring[0] * mm)
        for point in ring[1:] * mm:
            path.lineTo(*point)
        path.close()
        page.drawPath(path)
    page.line(-6 * mm, -4 * mm, 6 * mm, -4 * mm)


def _scale_bar(page: Canvas, left: float, front: float) -> None:
    """Draw 50 mm to hold a ruler to: printers like to shrink."""
    y = (front - _SHEET_RIM_MM + 4) * mm
    page.line(left * mm, y, (left + 50) * mm, y)
    for at in range(0, 51, 10):
        page.line((left + at) * mm, y, (left + at) * mm, y + 2 * mm)
    page.setFont("Helvetica", 7)
    page.drawString((left + 52) * mm, y, "50 mm: print at 100 %, then measure")


def pocket_piece(spec: JobSpec, index: int) -> JobSpec:
    """Return the job that one pocket burns."""
    return piece_at(spec, index)
