"""The job sheet: all that is needed at the machine, on one page of paper."""

import io

from reportlab.graphics import renderPDF
from reportlab.graphics.barcode.qr import QrCodeWidget
from reportlab.graphics.shapes import Drawing
from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.lib.utils import simpleSplit
from reportlab.pdfgen.canvas import Canvas

from engraving.dots import METHODS
from engraving.jobspec import JobSpec
from engraving.place import burned_box, frame_of
from workshop.jobs.exports.sheet_parts import (
    INK,
    LINE,
    columns,
    draw_piece,
    head,
    load_fonts,
    text,
)
from workshop.jobs.hands.lines import after
from workshop.jobs.hands.ticks import hand_list
from workshop.jobs.models import Job
from workshop.jobs.pictures.engine import pipeline
from workshop.jobs.revisions.writer import spec_of
from workshop.shelf.machines.timing import correction_of
from workshop.shelf.models import Machine
from workshop.shell.services import (
    in_shown_unit,
    show_at,
    show_length,
    show_lengths,
    show_number,
    show_time,
)

_LEFT, _MIDDLE, _RIGHT = 20 * mm, 108 * mm, A4[0] - 20 * mm
_QR = 26 * mm


def job_sheet(job: Job, address: str) -> bytes:
    """Return a job's sheet as a one-page PDF on A4.

    Parameters
    ----------
    job : Job
    address : str
        Of its ticket; a phone reads it from the sheet.
    """
    load_fonts()
    spec, stream = spec_of(job), io.BytesIO()
    page = Canvas(stream, pagesize=A4, pageCompression=1)
    page.setTitle(f"Job {job.number:04d} {job.name}")
    page.setCreator("Old Ember")
    head(page, job, job.customer or "Job sheet")
    top = A4[1] - 44 * mm
    draw_piece(page, spec, (_LEFT, top - 66 * mm), (82 * mm, 66 * mm))
    _bed(page, spec, (_MIDDLE, top - 66 * mm), (_RIGHT - _MIDDLE, 60 * mm))
    columns(page, _settings(spec, job.machine), top - 80 * mm, 11 * mm)
    _hands(page, job, spec, top - 140 * mm)
    _code(page, address)
    page.showPage()
    page.save()
    return stream.getvalue()


def _settings(spec: JobSpec, on: Machine | None) -> list[tuple[str, str]]:
    planned = pipeline().estimate(spec)
    seconds = correction_of(on).seconds(planned.seconds, planned.rows)
    burn, machine = spec.burn, spec.machine
    method = METHODS.get(spec.dots.method)
    recipe = f"{burn.recipe} v{burn.recipe_version}" if burn.recipe else "by hand"
    ways = "both ways" if burn.both_ways else "one way"
    strength = f"{burn.power:g} %, {show_number(burn.speed_mm_s, 1)} mm/s, {ways}"
    return [
        ("Machine", ", ".join(filter(None, (machine.name, machine.lens)))),
        ("Material", ", ".join(filter(None, (spec.substrate.name, spec.substrate.colour)))),
        ("Recipe", recipe),
        ("Power and speed", strength),
        ("Passes", f"{burn.passes}{', crossed' if burn.cross else ''}"),
        ("Engraving", show_lengths(spec.size.width_mm, spec.size.height_mm, 1)),
        (
            "Resolution",
            f"{show_number(spec.size.dpi, 1)} dpi, {show_length(spec.size.pitch_mm, 3)}",
        ),
        ("Dots", "Its own dots" if spec.keeps_dots else method.label if method else ""),
        ("Time", show_time(seconds)),
        ("Blank", f"{spec.blank.name}, {show_length(spec.blank.thickness_mm, 1)} thick"),
    ]


def _bed(
    page: Canvas, spec: JobSpec, corner: tuple[float, float], room: tuple[float, float]
) -> None:
    """Draw the bed with the piece on it, and how far it lies from the edges."""
    machine, box = spec.machine, burned_box(spec)
    scale = min(room[0] / machine.bed_width_mm, room[1] / machine.bed_height_mm)
    x, y = corner
    page.setStrokeColor(LINE)
    page.rect(x, y, machine.bed_width_mm * scale, machine.bed_height_mm * scale)
    left, front = x + box.left * scale, y + box.front * scale
    wide, deep = box.width * scale, box.height * scale
    page.setStrokeColor(INK)
    page.rect(left, front, wide, max(deep, 0.5))
    page.setDash(1, 2)
    middle, mid = front + deep / 2, left + wide / 2
    page.line(x, middle, left, middle)
    page.line(mid, y, mid, front)
    page.setDash()
    text(page, x + 1.5, middle + 2, show_length(box.left, 1), 8)
    text(page, mid + 2, y + 2, show_length(box.front, 1), 8)
    bed = show_lengths(machine.bed_width_mm, machine.bed_height_mm, 0)
    zero = frame_of(machine).to_bed(0, 0)
    page.circle(x + zero[0] * scale, y + zero[1] * scale, 1.6, fill=1)
    turned = f", turned by {spec.place.turn_deg:g}°" if spec.place.turn_deg else ""
    said = f"Front left at {show_at(box.left, box.front)}{turned}; bed {bed}, dot: its zero"
    text(page, x, y - 5 * mm, said, 8, faint=True)


def _hands(page: Canvas, job: Job, spec: JobSpec, top: float) -> None:
    """Write the list for the hands, a box to tick before each."""
    page.setStrokeColor(LINE)
    page.line(_LEFT, top + 7 * mm, _RIGHT, top + 7 * mm)
    y, wide = top, _RIGHT - _LEFT - 42 * mm - _QR
    page.setStrokeColor(INK)
    rows = [(one.line.what, one.line.text, True) for one in hand_list(job, spec)]
    rows += [("Afterwards", after(job), False)] if after(job) else []
    for what, words, box in rows:
        if box:
            page.rect(_LEFT, y - 0.6 * mm, 3.2 * mm, 3.2 * mm)
        text(page, _LEFT + 6 * mm, y, what, 9)
        for line in simpleSplit(in_shown_unit(words), "Archivo", 9, wide)[:3]:
            text(page, _LEFT + 34 * mm, y, line, 9, faint=True)
            y -= 4.2 * mm
        y -= 1.6 * mm


def _code(page: Canvas, address: str) -> None:
    """Draw the ticket's address as a QR code (ISO/IEC 18004)."""
    drawing = Drawing(_QR, _QR)
    widget = QrCodeWidget(address, barWidth=_QR, barHeight=_QR, barBorder=4)
    drawing.add(widget)
    renderPDF.draw(drawing, page, _RIGHT - _QR, 20 * mm)
    text(page, _RIGHT - _QR + 3 * mm, 17 * mm, "its ticket", 8, faint=True)
