"""Results by the key of all they depend on, kept while there is room."""

import hashlib
import json
import threading
from collections import OrderedDict
from collections.abc import Callable, Iterable
from dataclasses import fields, is_dataclass
from typing import Any, TypeVar, cast

import numpy as np
from shapely import get_num_coordinates
from shapely.geometry.base import BaseGeometry

T = TypeVar("T")

_LEAST = 100
"""Bytes that even a small result takes."""


def stage_key(*parts: Any) -> str:
    """Return a short key of plain data; equal data give equal keys."""
    text = json.dumps(parts, sort_keys=True, default=str)
    return hashlib.sha256(text.encode()).hexdigest()[:24]


class StageCache:
    """Results by key, least recently used thrown away, computed once at a time.

    Parameters
    ----------
    most_bytes : int
        How much the kept arrays may hold together.
    """

    def __init__(self, most_bytes: int) -> None:
        self._most = most_bytes
        self._kept: OrderedDict[str, tuple[Any, int]] = OrderedDict()
        self._lock = threading.Lock()
        self._busy: dict[str, threading.Lock] = {}

    def get(self, key: str, make: Callable[[], T]) -> T:
        """Return the result of `key`, made by `make` where it is not kept.

        Two threads that ask for the same key wait for one computation.
        """
        with self._lock:
            found = self._find(key)
            if found is not None:
                return cast("T", found[0])
            busy = self._busy.setdefault(key, threading.Lock())
        with busy:
            with self._lock:
                found = self._find(key)
                if found is not None:
                    return cast("T", found[0])
            try:
                result = make()
            except BaseException:
                with self._lock:
                    self._busy.pop(key, None)
                raise
            with self._lock:
                self._keep(key, result)
                self._busy.pop(key, None)
        return result

    @property
    def busy(self) -> bool:
        """Whether something is being made."""
        return bool(self._busy)

    def _find(self, key: str) -> tuple[Any, int] | None:
        found = self._kept.get(key)
        if found is not None:
            self._kept.move_to_end(key)
        return found

    def _keep(self, key: str, result: object) -> None:
        self._kept[key] = (result, _size(result))
        while self._taken() > self._most and len(self._kept) > 1:
            self._kept.popitem(last=False)

    def _taken(self) -> int:
        """Return how many bytes are kept; what stands under two keys is there once."""
        return sum({id(result): size for result, size in self._kept.values()}.values())


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
