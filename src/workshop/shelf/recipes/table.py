"""Tables of recipes as text: CSV and JSON, written and read; no recipe is touched here.

CSV is RFC 4180 in UTF-8, a row a recipe, the columns in `COLUMNS`; a tool stands in it as
JSON. Text that a spreadsheet would take for a formula is written with an apostrophe before
it, and that apostrophe is taken off again on the way in.
"""

import csv
import io
import json
from collections.abc import Iterable, Mapping
from typing import Any

from engraving.errors import InputError
from engraving.jobspec import RecipePart
from workshop.shell.numbers import finite

SETTINGS = tuple(name for name in RecipePart.model_fields if name != "tone")
COLUMNS = ("name", "substrate", "machine", *SETTINGS, "favourite", "note")
"""Columns of the table; the first three and speed, power and pitch are needed."""
_NEEDED = ("name", "substrate", "machine")
_KINDS = {name: field.annotation for name, field in RecipePart.model_fields.items()}
_BOOLEANS = {"favourite", *(name for name, kind in _KINDS.items() if kind is bool)}
_NUMBERS = {name for name, kind in _KINDS.items() if kind in (int, float)}
_FORMULA = ("=", "+", "-", "@", "\t", "\r")
_YES = {"yes", "true", "1", "y", "x", "on"}
_NO = {"no", "false", "0", "n", "", "off"}
MOST_BYTES = 64_000_000
MOST_ROWS = 200_000


def json_table(rows: Iterable[Mapping[str, Any]]) -> bytes:
    """Return rows as JSON."""
    whole = {"format": "old-ember-recipes", "version": 1, "recipes": list(rows)}
    return json.dumps(whole, indent=1, ensure_ascii=False).encode()


def csv_table(rows: Iterable[Mapping[str, Any]]) -> bytes:
    """Return rows as CSV with a byte order mark, so that spreadsheets read UTF-8."""
    stream = io.StringIO(newline="")
    writer = csv.DictWriter(stream, COLUMNS)
    writer.writeheader()
    for row in rows:
        writer.writerow({name: written(value) for name, value in row.items()})
    return b"\xef\xbb\xbf" + stream.getvalue().encode()


def written(value: Any) -> str:
    """Return a value as a cell has it."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if value is None:
        return ""
    if isinstance(value, dict):
        return json.dumps(value, ensure_ascii=False)
    if isinstance(value, list):
        return "; ".join(f"{share:g} {light:g}" for share, light in value)
    if isinstance(value, float):
        return f"{value:.10g}"
    text = str(value)
    return f"'{text}" if text.startswith(_FORMULA) else text


def read_rows(data: bytes) -> list[dict[str, Any]]:
    """Return the rows of a CSV or JSON file.

    Raises
    ------
    InputError
        When it is neither, or too large.
    """
    if len(data) > MOST_BYTES:
        raise InputError(f"The file is larger than {MOST_BYTES // 1_000_000} MB.")
    text = _decoded(data)
    rows = _from_json(text) if text.lstrip()[:1] in ("{", "[") else _from_csv(text)
    if len(rows) > MOST_ROWS:
        raise InputError(f"The file has more than {MOST_ROWS} rows.")
    return rows


def _decoded(data: bytes) -> str:
    """Return text in UTF-8, UTF-16 with its mark, or else what old spreadsheets write."""
    marked = data[:2] in (b"\xff\xfe", b"\xfe\xff")
    coding = "utf-16" if marked else "utf-8-sig"
    for name in (coding, "cp1252"):
        try:
            text = data.decode(name)
        except UnicodeDecodeError:
            continue
        if "\x00" in text:
            break
        return text
    raise InputError("The file is no text; save the table as CSV in UTF-8.")


def _from_json(text: str) -> list[dict[str, Any]]:
    try:
        whole = json.loads(text)
    except ValueError as error:
        raise InputError(f"The JSON cannot be read: {error}.") from None
    except RecursionError:
        raise InputError("The JSON lies too deep in itself to be read.") from None
    rows = whole.get("recipes") if isinstance(whole, dict) else whole
    if not isinstance(rows, list) or not all(isinstance(row, dict) for row in rows):
        raise InputError("The JSON holds no list of recipes.")
    return rows


def _from_csv(text: str) -> list[dict[str, Any]]:
    first = text.split("\n", 1)[0]
    apart = max(",;\t", key=first.count)
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=apart, strict=True)
    try:
        table = [row for row in reader if any(cell.strip() for cell in row)]
    except csv.Error as error:
        raise InputError(f"Line {reader.line_num} is no CSV: {error}.") from None
    if not table:
        raise InputError("The file is empty.")
    names = [cell.strip().lower().replace(" ", "_") for cell in table[0]]
    missing = [name for name in _NEEDED if name not in names]
    if missing:
        raise InputError(
            f"The first row must name the columns; {', '.join(missing)} "
            f"{'is' if len(missing) == 1 else 'are'} missing."
        )
    return [dict(zip(names, row, strict=False)) for row in table[1:]]


def plain(row: Mapping[str, Any]) -> dict[str, Any]:
    """Return a row's values as they are meant; raises InputError with a sentence."""
    out: dict[str, Any] = {}
    for name, value in row.items():
        if name not in COLUMNS:
            continue
        text = value.strip() if isinstance(value, str) else value
        if isinstance(text, str) and text.startswith("'") and text[1:].startswith(_FORMULA):
            text = text[1:]
        if text == "" and name not in (*_NEEDED, "note"):
            continue
        out[name] = _value(name, text)
    return out


def _value(name: str, text: Any) -> Any:
    if name in _BOOLEANS and isinstance(text, str):
        if text.lower() not in _YES | _NO:
            raise InputError(f"{name}: “{text[:40]}” is neither yes nor no.")
        return text.lower() in _YES
    if name in _NUMBERS and isinstance(text, str):
        return _number(name, text)
    if name == "patches" and isinstance(text, str):
        pairs = [pair.split() for pair in text.split(";") if pair.strip()]
        if any(len(pair) != 2 for pair in pairs):
            raise InputError("patches: write share and lightness in pairs, apart by ;")
        return [[_number(name, one) for one in pair] for pair in pairs]
    if name == "tool" and isinstance(text, str):
        return _tool(text)
    return text


def _tool(text: str) -> Any:
    try:
        return json.loads(text)
    except (ValueError, RecursionError):
        raise InputError('tool: write it as {"angle_deg": 60, "tip_mm": 0.1}.') from None


def _number(name: str, text: str) -> float:
    try:
        return finite(
            text.replace(",", ".") if text.count(",") == 1 and "." not in text else text
        )
    except ValueError:
        raise InputError(f"{name}: “{text[:40]}” is no number.") from None
