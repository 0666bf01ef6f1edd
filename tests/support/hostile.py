"""Files that mean no good: sound ones with bytes changed, cut, doubled, swapped.

Each comes from a seed, so that what failed can be made again.
"""

import io
import json
import random
import struct
import zipfile
from unittest.mock import patch

import ezdxf
import numpy as np
import tifffile
from PIL import Image

from engraving.jobspec import JobSpec, RecipePart
from engraving.jobspec.edits import TextLine
from engraving.lettering import FONTS, line_box_mm, open_face
from support.profiles import gray_profile

_LARGE = "large"
"""Pictures with that before their kind are read as large ones are: in bands."""
SVG = (
    b'<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="30mm" viewBox="0 0 40 30">'
    b'<defs><path id="a" d="M1 1h5v5z"/></defs><g transform="translate(2 3) rotate(7)">'
    b'<rect x="1" y="2" width="9" height="4" rx="1"/><circle cx="9" cy="9" r="3"/>'
    b'<path d="M0 0C1 2 3 4 5 6S7 8 9 1Q2 3 4 5A3 2 10 1 0 8 8z" fill-rule="evenodd"/>'
    b'<polyline points="1,2 3,4 5,1"/></g></svg>'
)
GCODE = (
    b"; a remark\nG21\nG90\nG94\nM3 S0\nG0X1Y2S0\nG1X3.5S400F6000\nX5S0\nG2X7Y2I1J0\nG91\n"
    b"G1X-1\nG20\nG90\nG1X0.1Y0.2\nM5\nM2\n"
)
SAID = (
    b"ok\nerror:9\nALARM:1\n<Run|MPos:1.0,2.0,0.0|Bf:15,128|FS:500,1000|Ov:100,100,100>\n"
    b"[MSG:Reset to continue]\n[OPT:V,15,128]\n$110=1000.000\nStand-in 1.1 ['$' for help]\n"
)


def _dxf():
    ezdxf.options.write_fixed_meta_data_for_testing = True  # the same bytes each time
    drawing = ezdxf.new("R2000")
    drawing.blocks.new("B").add_circle((1, 1), 2)
    space = drawing.modelspace()
    space.add_line((0, 0), (10, 5))
    space.add_arc((5, 5), 2, 10, 200)
    space.add_spline([(0, 0), (3, 4), (8, 1), (9, 9)])
    space.add_lwpolyline([(0, 0, 0.5), (4, 0), (4, 4)], format="xyb", close=True)
    space.add_blockref("B", (3, 3), dxfattribs={"rotation": 7, "xscale": 2})
    stream = io.StringIO()
    drawing.write(stream)
    return stream.getvalue().encode()


def _picture(kind, mode="L", **options):
    pixels = (np.indices((24, 32)).sum(axis=0) * 7 % 256).astype(np.uint8)
    stream = io.BytesIO()
    Image.fromarray(pixels).convert(mode).save(stream, kind, **options)
    return stream.getvalue()


def _depth(dtype):
    """Write a depth picture of 16 bits or of decimal numbers, one of them none."""
    near = np.indices((24, 32)).sum(axis=0) * 997.0
    if dtype is np.float32:
        near[3, 4] = np.nan
    stream = io.BytesIO()
    tifffile.imwrite(stream, near.astype(dtype))
    return stream.getvalue()


def _job_zip():
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as out:
        # Of a fixed day, so that the bytes are the same each time.
        out.writestr(zipfile.ZipInfo("job.json"), JobSpec().model_dump_json())
        out.writestr(zipfile.ZipInfo("artwork.png"), _picture("PNG"))
    return stream.getvalue()


def _table(kind):
    from workshop.shelf.recipes.table import csv_table, json_table

    row = {"name": "Beech, brown", "substrate": "Beech", "machine": "North bench",
           **RecipePart().model_dump(mode="json", exclude={"tone"}), "favourite": True,
           "note": "=1+1"}  # fmt: skip
    return (csv_table if kind == "csv" else json_table)([row, {**row, "name": "Two"}])


def _set_in(data):
    """Set a line in a font, as lettering does."""
    face = open_face(data)
    for arc in (0, 20):
        line = TextLine(text="Hamburg 1899", cap_mm=5, arc_mm=arc)
        face.lacks(line.text)
        line_box_mm(face, line)


def _rows_of(data):
    from workshop.shelf.recipes.table import plain, read_rows

    return [plain(row) for row in read_rows(data)]


def sound():
    """Sound files by kind."""
    from pillow_heif import register_heif_opener

    register_heif_opener()
    large = {
        "png": _picture("PNG", "LA"), "png palette": _picture("PNG", "P"),
        "png profile": _picture("PNG", icc_profile=gray_profile(1.8)),
        "jpeg": _picture("JPEG"), "jpeg cmyk": _picture("JPEG", "CMYK"),
        "tiff": _picture("TIFF", "1", compression="group4"),
        "tiff palette": _picture("TIFF", "P"), "bmp": _picture("BMP", "1"),
        "gif": _picture("GIF"), "webp": _picture("WEBP", "RGBA", lossless=True),
        "heic": _picture("HEIF", "RGB"),
    }  # fmt: skip
    return {
        **{f"{_LARGE} {kind}": data for kind, data in large.items()},
        "png": _picture("PNG"), "png colour": _picture("PNG", "RGB"),
        "png profile": _picture("PNG", icc_profile=b"\0" * 200),
        "jpeg": _picture("JPEG"), "jpeg cmyk": _picture("JPEG", "CMYK"),
        "tiff": _picture("TIFF"), "tiff lzw": _picture("TIFF", compression="tiff_lzw"),
        "bmp": _picture("BMP"), "gif": _picture("GIF"), "webp": _picture("WEBP"),
        "depth 16": _depth(np.uint16), "depth decimal": _depth(np.float32),
        "heic": _picture("HEIF", "RGB"), "svg": SVG, "dxf": _dxf(), "gcode": GCODE,
        "job": JobSpec().model_dump_json().encode(), "zip": _job_zip(), "said": SAID,
        "font": FONTS["archivo"].read(), "csv": _table("csv"), "json": _table("json"),
    }  # fmt: skip


def spoiled(data, seed):
    """A file with some of its bytes, words or numbers changed."""
    chance = random.Random(seed)  # noqa: S311 (no secret)
    out = bytearray(data)
    for _ in range(chance.choice((1, 1, 2, 4, 9))):
        act = chance.choice((_flip, _flip, _cut, _double, _number, _swap, _drop, _word))
        out = act(out, chance)
    return bytes(out)


def _at(out, chance):
    # Heads of files say most.
    return min(int(len(out) * chance.random() ** 2), max(len(out) - 1, 0))


def _flip(out, chance):
    if out:
        out[_at(out, chance)] ^= 1 << chance.randrange(8)
    return out


def _cut(out, chance):
    return out[: _at(out, chance)]


def _double(out, chance):
    at, size = _at(out, chance), chance.choice((1, 4, 40))
    return out[: at + size] + out[at:]


def _drop(out, chance):
    at = _at(out, chance)
    return out[:at] + out[at + chance.choice((1, 2, 8)) :]


def _number(out, chance):
    at = _at(out, chance)
    value = chance.choice((0, 1, 0x7FFFFFFF, 0xFFFFFFFF, 0x80000000, 65535))
    out[at : at + 4] = struct.pack(chance.choice("<>") + "I", value)
    return out


def _swap(out, chance):
    a, b = sorted((_at(out, chance), _at(out, chance)))
    return out[:a] + out[b : b + 6] + out[a + 6 : b] + out[a : a + 6] + out[b + 6 :]


_WORDS = (
    b"nan",
    b"1e999",
    b"-1e308",
    b"99999999999999999999",
    b"null",
    b"[]",
    b"\xff\xfe",
    b"<",
    b'"',
)


def _word(out, chance):
    at = _at(out, chance)
    return out[:at] + chance.choice(_WORDS) + out[at + 1 :]


def read(kind, data, folder):
    """Read a file as the program does; a refusal in words is fine."""
    from engraving.artwork import banded, read_artwork
    from engraving.artwork.depth import read_depth
    from engraving.drawing import read_dxf_paths, read_svg_paths
    from engraving.errors import EngravingError
    from engraving.gcode import read_job, read_moves
    from engraving.jobspec.job_file import read_job_file, read_job_zip
    from workshop.controller import protocol

    path = folder / "hostile"
    readers = {
        "svg": lambda: read_svg_paths(data),
        "dxf": lambda: read_dxf_paths(data),
        "gcode": lambda: (sum(len(one) for one in read_moves(data)), read_job(data)),
        "zip": lambda: read_job_zip(io.BytesIO(data)),
        "job": lambda: (path.write_bytes(data), read_job_file(path)),
        "font": lambda: _set_in(data),
        "depth 16": lambda: read_depth(data),
        "depth decimal": lambda: read_depth(data),
        "csv": lambda: _rows_of(data),
        "json": lambda: _rows_of(data),
        "said": lambda: [protocol.parse(line) for line in data.split(b"\n")],
    }
    try:
        with patch.object(banded, "LARGE_PX", 0 if kind.startswith(_LARGE) else 10**9):
            readers.get(kind, lambda: read_artwork(data))()
    except EngravingError:
        return "refused"
    return "read"


__all__ = ["json", "read", "sound", "spoiled"]
