"""What printed sheets have in common: fonts, colours, head, the piece, columns of facts."""

import io
from importlib.resources import files

from PIL import Image
from reportlab import rl_config
from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader, simpleSplit
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

from engraving.jobspec import JobSpec
from workshop.jobs.models import Job
from workshop.jobs.pictures.pieces import piece_picture

INK, FAINT, LINE = HexColor("#29231e"), HexColor("#6f6354"), HexColor("#d6c9b0")
_LONGEST_PX = 2400

# Pictures as bytes. Written as text, for the mail of old, a page takes four times as long.
rl_config.useA85 = 0


def load_fonts() -> None:
    """Load the program's own fonts."""
    folder = files("engraving.lettering") / "fonts"
    for name, file in (("Besley", "besley-600.ttf"), ("Archivo", "archivo-600.ttf")):
        if name not in pdfmetrics.getRegisteredFontNames():
            data = io.BytesIO((folder / file).read_bytes())
            pdfmetrics.registerFont(TTFont(name, data))


def text(
    page: Canvas, x: float, y: float, words: str, size: float, *, faint: bool = False
) -> None:
    """Write a line of text, x and y in points."""
    page.setFillColor(FAINT if faint else INK)
    page.setFont("Archivo", size)
    page.drawString(x, y, words)


def head(page: Canvas, job: Job, under: str) -> None:
    """Write name, number, and who it is for or what it is."""
    width, height = A4
    page.setFillColor(INK)
    page.setFont("Besley", 22)
    name = simpleSplit(job.name, "Besley", 22, width - 80 * mm)[:1]
    page.drawString(20 * mm, height - 26 * mm, name[0] if name else "")
    page.setFont("Besley", 14)
    page.drawRightString(width - 20 * mm, height - 26 * mm, f"Job {job.number:04d}")
    text(
        page,
        20 * mm,
        height - 33 * mm,
        under,
        10,
        faint=True,
    )
    page.setStrokeColor(LINE)
    page.line(20 * mm, height - 38 * mm, width - 20 * mm, height - 38 * mm)


def draw_piece(
    page: Canvas, spec: JobSpec, corner: tuple[float, float], room: tuple[float, float]
) -> float:
    """Draw the piece in the middle of a room, at true size where it fits.

    Parameters
    ----------
    page : Canvas
    spec : JobSpec
    corner, room : tuple of float
        Lower left corner, width and height, in points.

    Returns
    -------
    float
        How large it is drawn, 1 for true size.
    """
    size = spec.blank.width_mm * mm, spec.blank.height_mm * mm
    scale = min(room[0] / size[0], room[1] / size[1], 1.0)
    shown = size[0] * scale, size[1] * scale
    picture = Image.open(io.BytesIO(piece_picture(spec, _LONGEST_PX).data)).convert("RGBA")
    flat = Image.new("RGB", picture.size, (255, 255, 255))
    flat.paste(picture, mask=picture.getchannel("A"))
    x, y = corner[0] + (room[0] - shown[0]) / 2, corner[1] + (room[1] - shown[1]) / 2
    page.drawImage(ImageReader(flat), x, y, *shown)
    return scale


def columns(page: Canvas, facts: list[tuple[str, str]], top: float, apart: float) -> None:
    """Write facts in two columns, each its label over its value."""
    for i, (label, value) in enumerate(facts):
        x = 20 * mm + (i % 2) * 88 * mm
        y = top - (i // 2) * apart
        text(page, x, y, label, 8, faint=True)
        text(page, x, y - 4.6 * mm, value[:52], 11)
