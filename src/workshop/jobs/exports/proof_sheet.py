"""The proof sheet: one page to show a customer and to be signed."""

import io
from collections.abc import Sequence

from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.lib.utils import simpleSplit
from reportlab.pdfgen.canvas import Canvas

from engraving.dots import METHODS
from engraving.jobspec import JobSpec
from workshop.jobs.exports.sheet_parts import (
    INK,
    LINE,
    columns,
    draw_piece,
    head,
    load_fonts,
    text,
)
from workshop.jobs.models import Job
from workshop.jobs.revisions.writer import spec_of
from workshop.shell.services import show_length, show_lengths, show_number

_SUBJECT = (
    "The finished piece is subject to the material: natural grain, colour and hardness "
    "vary, so tones and shades may differ from this proof. Measures are to scale when "
    "printed at 100 %."
)


def proof_sheet(*jobs: Job) -> bytes:
    """Return the proof sheets of jobs as a PDF on A4, a page each."""
    return proof_pages([(job, spec_of(job), "") for job in jobs])


def proof_pages(shown: Sequence[tuple[Job, JobSpec, str]]) -> bytes:
    """Return proof sheets as a PDF on A4, a page each.

    Parameters
    ----------
    shown : sequence of tuple
        A job, how it is shown, and what that is called; may be empty.
    """
    load_fonts()
    stream = io.BytesIO()
    page = Canvas(stream, pagesize=A4, pageCompression=1)
    names = ", ".join(f"{job.number:04d} {job.name}" for job, _, _ in shown)
    page.setTitle(f"Proof {names}"[:200])
    page.setCreator("Old Ember")
    for job, spec, name in shown:
        subtitle = job.customer or "Proof for approval"
        head(page, job, f"{subtitle}: {name}" if name else subtitle)
        foot = _facts(page, spec)
        _picture(page, spec, foot)
        _approval(page)
        page.showPage()
    page.save()
    return stream.getvalue()


def _facts(page: Canvas, spec: JobSpec) -> float:
    """Write the table of facts above the approval; return its upper edge."""
    method = METHODS.get(spec.dots.method)
    side = "" if spec.side.seen_from == "front" else ", seen from the back"
    facts = [
        ("Piece", spec.blank.name + side),
        ("Material", ", ".join(filter(None, (spec.substrate.name, spec.substrate.colour)))),
        ("Engraving", show_lengths(spec.size.width_mm, spec.size.height_mm, 1)),
        ("Blank", show_lengths(spec.blank.width_mm, spec.blank.height_mm, 1)),
        (
            "Resolution",
            f"{show_number(spec.size.dpi, 1)} dpi, {show_length(spec.size.pitch_mm, 3)}",
        ),
        ("Dots", "Its own dots" if spec.keeps_dots else method.label if method else ""),
    ]
    top = 92 * mm
    columns(page, facts, top, 12 * mm)
    return top + 8 * mm


def _picture(page: Canvas, spec: JobSpec, foot: float) -> None:
    """Draw the piece, and say whether it is at true size."""
    width, height = A4
    room = width - 40 * mm, height - 44 * mm - foot - 6 * mm
    scale = draw_piece(page, spec, (20 * mm, foot + 6 * mm), room)
    said = "True size" if scale == 1 else f"{100 * scale:.0f} % of true size"
    text(page, 20 * mm, foot, said, 9, faint=True)


def _approval(page: Canvas) -> None:
    width, _ = A4
    page.setStrokeColor(LINE)
    page.line(20 * mm, 54 * mm, width - 20 * mm, 54 * mm)
    for i, line in enumerate(simpleSplit(_SUBJECT, "Archivo", 9, width - 40 * mm)):
        text(page, 20 * mm, 48 * mm - i * 4.4 * mm, line, 9, faint=True)
    page.setStrokeColor(INK)
    for x, label in ((20, "Approved, name"), (85, "Signature"), (150, "Date")):
        end = (x + 55) * mm if x < 150 else width - 20 * mm
        page.line(x * mm, 24 * mm, end, 24 * mm)
        text(page, x * mm, 19.5 * mm, label, 8, faint=True)
