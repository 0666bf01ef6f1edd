"""What a finding rests on: the parts of a job and the facts that its rule looked at.

A rule is given a job that notes which of its parts are read. So a signature under a
caution stays good while something else changes, and is void when what it was given for
does.
"""

import hashlib
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import fields
from typing import Any

from engraving.check.facts import Facts
from engraving.jobspec import JobSpec

_PARTS = frozenset(JobSpec.model_fields)
_FACTS = frozenset(one.name for one in fields(Facts)) - {"spec"}
_read: ContextVar[set[str] | None] = ContextVar("_read", default=None)


def _note(name: str) -> None:
    if (read := _read.get()) is not None:
        read.add(name)


class _WatchedSpec(JobSpec):
    """A job that notes which of its parts are read, by its own properties too."""

    def __getattribute__(self, name: str) -> Any:
        if name in _PARTS:
            _note(name)
        elif name in ("model_copy", "model_dump", "model_dump_json"):
            # What comes of these is read elsewhere: all parts count.
            for part in _PARTS:
                _note(part)
        return super().__getattribute__(name)


class _WatchedFacts(Facts):
    """Facts that note which of them are read."""

    def __getattribute__(self, name: str) -> Any:
        if name in _FACTS:
            _note("facts." + name)
        return super().__getattribute__(name)


def watched(facts: Facts) -> Facts:
    """Return facts that note what is read of them inside `reading`."""
    given = {one.name: getattr(facts, one.name) for one in fields(Facts)}
    given["spec"] = _WatchedSpec.model_construct(**dict(facts.spec))
    return _WatchedFacts(**given)


@contextmanager
def reading() -> Iterator[set[str]]:
    """Give the names of what is read meanwhile."""
    read: set[str] = set()
    token = _read.set(read)
    try:
        yield read
    finally:
        _read.reset(token)


def rests_on(facts: Facts, read: set[str], *said: str) -> str:
    """Return what tells this finding from the same one on other grounds, 24 hex digits.

    Parameters
    ----------
    facts : Facts
        Those that were looked at.
    read : set of str
        Which of them, as `reading` gave them.
    *said : str
        What the finding says.
    """
    grounds = hashlib.sha256(repr(said).encode())
    for name in sorted(read):
        fact = name.removeprefix("facts.")
        where = facts.spec if fact == name else facts
        grounds.update(f"\n{name}={getattr(where, fact)!r}".encode())
    return grounds.hexdigest()[:24]
