"""Reads the pages of the handbook, and finds in them.

A page is a Markdown file; each of its headings of the first two levels, with an
anchor in braces, begins an entry, which is what a "?" opens.
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from django.templatetags.static import static
from markdown_it import MarkdownIt

PAGES = Path(__file__).parent / "pages"
ORDER = (
    "artwork", "blank", "tone", "dots", "burn", "outlines", "place", "check", "run",
    "cards", "words",
)  # fmt: skip
"""The pages, as a job goes through them; the words last."""

_HEADING = re.compile(r"^(#{1,2}) (.+) \{#([a-z-]+)\}$", re.MULTILINE)
_ROW = re.compile(
    r"^\| (.+?) \| (.+?) \| \[(.+?)\]\(([a-z]+)\.md#([a-z-]+)\) \|$", re.MULTILINE
)
_MARKS = re.compile(r"[*`#|]|!?\[([^\]]*)\]\([^)]*\)")


@dataclass(frozen=True, slots=True)
class Entry:
    """One thing the handbook explains."""

    page: str
    anchor: str
    title: str
    text: str
    """Markdown, without the heading."""

    @property
    def html(self) -> str:
        """The entry as HTML, its links and pictures by their addresses here."""
        return _html(self.text)

    @property
    def summary(self) -> str:
        """Its first sentence, without marks."""
        lines = [one for one in self.text.split("\n\n") if one and not one.startswith("!")]
        plain = _MARKS.sub(r"\1", lines[0].replace("\n", " ")) if lines else ""
        return re.split(r"(?<=\.) ", plain)[0]


@dataclass(frozen=True, slots=True)
class Word:
    """What operators commonly say, and what it is called here."""

    said: str
    here: str
    page: str
    anchor: str


@cache
def entries(page: str) -> tuple[Entry, ...]:
    """Return what a page of `ORDER` explains, in its order."""
    text = (PAGES / f"{page}.md").read_text(encoding="utf-8")
    found = list(_HEADING.finditer(text))
    ends = [one.start() for one in found[1:]] + [len(text)]
    return tuple(
        Entry(page, one[3], one[2], text[one.end() : end].strip())
        for one, end in zip(found, ends, strict=True)
    )


def all_entries() -> Iterator[Entry]:
    """Yield what the handbook explains, page after page."""
    for page in ORDER:
        yield from entries(page)


def entry(page: str, anchor: str) -> Entry | None:
    """Return an entry of a page by its anchor; None where there is none."""
    known = entries(page) if page in ORDER else ()
    return next((one for one in known if one.anchor == anchor), None)


@cache
def words() -> tuple[Word, ...]:
    """Return the words operators commonly say, with what they are called here."""
    [table] = entries("words")
    return tuple(Word(one[1], one[2], one[4], one[5]) for one in _ROW.finditer(table.text))


def find(text: str) -> tuple[list[Word], list[Entry]]:
    """Return the words and the entries in which every word of a text occurs.

    Entries that have it in their title come first.
    """
    asked = text.lower().split()
    if not asked:
        return [], []

    def holds(where: str) -> bool:
        return all(word in where.lower() for word in asked)

    said = [one for one in words() if holds(f"{one.said} {one.here}")]
    told = [
        one
        for one in all_entries()
        if one.page != "words" and holds(f"{one.title} {one.text}")
    ]
    return said, sorted(told, key=lambda one: not holds(one.title))


@cache
def _html(text: str) -> str:
    text = re.sub(r"\]\(([a-z]+)\.md#([a-z-]+)\)", r"](/handbook/\1/#\2)", text)
    text = re.sub(
        r"\]\(img/([a-z-]+\.webp)\)", lambda one: f"]({static('handbook/' + one[1])})", text
    )
    return MarkdownIt("commonmark").enable("table").render(text)
