"""Results by the key of all they depend on, kept while there is room."""

import hashlib
import json
import threading
from collections.abc import Callable, Iterable
from dataclasses import dataclass, fields, is_dataclass
from typing import Any, TypeVar, cast

import numpy as np
from cachetools import LRUCache
from shapely import get_num_coordinates
from shapely.geometry.base import BaseGeometry

from engraving.pipeline.overtaken import stop_if_overtaken

T = TypeVar("T")

_LEAST = 100
"""Bytes that even a small result takes."""


def stage_key(*parts: Any) -> str:
    """Return a short key of plain data; equal data give equal keys."""
    text = json.dumps(parts, sort_keys=True, default=str)
    return hashlib.sha256(text.encode()).hexdigest()[:24]


@dataclass(frozen=True)
class CacheUse:
    """How full a cache is, in bytes and in results, and how it serves.

    `there` of all `asked` needed no computing, waiting for another's counted in.
    """

    held_bytes: int
    most_bytes: int
    results: int
    asked: int
    there: int

    @property
    def share(self) -> float:
        """What was there of what was asked for, 0..1; 0 before anything was."""
        return self.there / self.asked if self.asked else 0.0


class StageCache:
    """Results by key, least recently used thrown away, computed once at a time.

    Parameters
    ----------
    most_bytes : int
        How much the kept arrays may hold together.
    """

    def __init__(self, most_bytes: int) -> None:
        # What alone is larger than all the room takes all of it, until the next result.
        self._kept: LRUCache[str, Any] = LRUCache(
            most_bytes, getsizeof=lambda result: min(_size(result), most_bytes)
        )
        self._lock = threading.Lock()
        self._busy: dict[str, threading.Lock] = {}
        self._asked = self._there = 0

    def get(self, key: str, make: Callable[[], T]) -> T:
        """Return the result of `key`, made by `make` where it is not kept.

        Two threads that ask for the same key wait for one computation.

        Raises
        ------
        Overtaken
            When it is not kept, and nobody waits for it any more.
        """
        with self._lock:
            self._asked += 1
            if key in self._kept:
                self._there += 1
                return cast("T", self._kept[key])
            busy = self._busy.setdefault(key, threading.Lock())
        with busy:
            with self._lock:
                if key in self._kept:
                    self._there += 1
                    return cast("T", self._kept[key])
            try:
                stop_if_overtaken()
                result = make()
                with self._lock:
                    self._kept[key] = result
            finally:
                with self._lock:
                    self._busy.pop(key, None)
        return result

    @property
    def use(self) -> "CacheUse":
        """How full it is, and how often what was asked for was there."""
        with self._lock:
            kept = self._kept
            return CacheUse(
                int(kept.currsize), int(kept.maxsize), len(kept), self._asked, self._there
            )

    @property
    def busy(self) -> bool:
        """Whether something is being made."""
        return bool(self._busy)


def _size(result: object) -> int:
    """Return about how many bytes a result takes, whatever it is made of."""
    if isinstance(result, np.ndarray):
        return int(result.nbytes)
    if isinstance(result, str | bytes):
        return _LEAST + len(result)
    if isinstance(result, BaseGeometry):
        return _LEAST + 16 * int(get_num_coordinates(result))
    return _LEAST + sum(_size(one) for one in _held_in(result))


def _held_in(result: object) -> Iterable[object]:
    if isinstance(result, dict):
        return result.values()
    if isinstance(result, tuple | list):
        return result
    if is_dataclass(result) and not isinstance(result, type):
        return [getattr(result, one.name) for one in fields(result)]
    return ()
