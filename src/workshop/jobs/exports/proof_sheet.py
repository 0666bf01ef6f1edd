"""The proof sheet: one page to show a customer and to be signed."""

import io
from importlib.resources import files

from PIL import Image
from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader, simpleSplit
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

from engraving.dots import METHODS
from workshop.jobs.models import Job
from workshop.jobs.pictures.pieces import piece_picture
from workshop.jobs.revisions.writer import spec_of
from workshop.shell.services import show_length, show_lengths, show_number

_INK, _FAINT, _LINE = HexColor("#29231e"), HexColor("#6f6354"), HexColor("#d6c9b0")
_LONGEST_PX = 2400
_SUBJECT = (
    "The finished piece is subject to the material: natural grain, colour and hardness "
    "vary, so tones and shades may differ from this proof. Measures are to scale when "
    "printed at 100 %."
)


def proof_sheet(job: Job) -> bytes:
    """Return the proof sheet of a job as a one-page PDF on A4."""
    _fonts()
    stream = io.BytesIO()
    page = Canvas(stream, pagesize=A4, pageCompression=1)
    page.setTitle(f"Proof {job.number:04d} {job.name}")
    page.setCreator("Old Ember")
    _head(page, job)
    foot = _facts(page, job)
    _picture(page, job, foot)
    _approval(page)
    page.showPage()
    page.save()
    return stream.getvalue()


def _fonts() -> None:
    folder = files("engraving.lettering") / "fonts"
    for name, file in (("Besley", "besley-600.ttf"), ("Archivo", "archivo-600.ttf")):
        if name not in pdfmetrics.getRegisteredFontNames():
            data = io.BytesIO((folder / file).read_bytes())
            pdfmetrics.registerFont(TTFont(name, data))


def _text(
    page: Canvas, x: float, y: float, text: str, size: float, *, faint: bool = False
) -> None:
    page.setFillColor(_FAINT if faint else _INK)
    page.setFont("Archivo", size)
    page.drawString(x, y, text)


def _head(page: Canvas, job: Job) -> None:
    width, height = A4
    page.setFillColor(_INK)
    page.setFont("Besley", 22)
    name = simpleSplit(job.name, "Besley", 22, width - 80 * mm)[:1]
    page.drawString(20 * mm, height - 26 * mm, name[0] if name else "")
    page.setFont("Besley", 14)
    page.drawRightString(width - 20 * mm, height - 26 * mm, f"Job {job.number:04d}")
    _text(
        page,
        20 * mm,
        height - 33 * mm,
        job.customer or "Proof for approval",
        10,
        faint=True,
    )
    page.setStrokeColor(_LINE)
    page.line(20 * mm, height - 38 * mm, width - 20 * mm, height - 38 * mm)


def _facts(page: Canvas, job: Job) -> float:
    """Write the table of facts above the approval; return its upper edge."""
    spec = spec_of(job)
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
    for i, (label, value) in enumerate(facts):
        x = 20 * mm + (i % 2) * 88 * mm
        y = top - (i // 2) * 12 * mm
        _text(page, x, y, label, 8, faint=True)
        _text(page, x, y - 4.6 * mm, value[:52], 11)
    return top + 8 * mm


def _picture(page: Canvas, job: Job, foot: float) -> None:
    """Draw the piece, at true size where it fits, and say which."""
    spec = spec_of(job)
    width, height = A4
    room = width - 40 * mm, height - 44 * mm - foot - 6 * mm
    size = spec.blank.width_mm * mm, spec.blank.height_mm * mm
    scale = min(room[0] / size[0], room[1] / size[1], 1.0)
    shown = size[0] * scale, size[1] * scale
    picture = Image.open(io.BytesIO(piece_picture(spec, _LONGEST_PX).data)).convert("RGBA")
    flat = Image.new("RGB", picture.size, (255, 255, 255))
    flat.paste(picture, mask=picture.getchannel("A"))
    x, y = (width - shown[0]) / 2, foot + 6 * mm + (room[1] - shown[1]) / 2
    page.drawImage(ImageReader(flat), x, y, *shown)
    said = "True size" if scale == 1 else f"{100 * scale:.0f} % of true size"
    _text(page, 20 * mm, foot, said, 9, faint=True)


def _approval(page: Canvas) -> None:
    width, _ = A4
    page.setStrokeColor(_LINE)
    page.line(20 * mm, 54 * mm, width - 20 * mm, 54 * mm)
    for i, line in enumerate(simpleSplit(_SUBJECT, "Archivo", 9, width - 40 * mm)):
        _text(page, 20 * mm, 48 * mm - i * 4.4 * mm, line, 9, faint=True)
    page.setStrokeColor(_INK)
    for x, label in ((20, "Approved, name"), (85, "Signature"), (150, "Date")):
        end = (x + 55) * mm if x < 150 else width - 20 * mm
        page.line(x * mm, 24 * mm, end, 24 * mm)
        _text(page, x * mm, 19.5 * mm, label, 8, faint=True)
