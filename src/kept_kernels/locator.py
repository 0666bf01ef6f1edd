"""Where numba keeps a compiled kernel: by what its source says, not by where it lies."""

import hashlib
import re
from collections.abc import Callable
from functools import cache
from pathlib import Path
from typing import Any

from numba.core.caching import UserWideCacheLocator
from platformdirs import user_cache_path

_IMPORT = re.compile(
    r"^\s*(?:from\s+([\w.]+)\s+import\s+(\([^)]*\)|[^\n#]+)|import\s+([\w.]+))",
    re.MULTILINE,
)


class OncePerMachine(UserWideCacheLocator):
    """A folder of the user's cache, named after the source and all that it imports.

    Two checkouts that say the same share what is compiled; where they differ, neither
    overwrites the other's. Numba itself asks whether processor and version still fit.
    What a kernel takes from other modules is compiled into it, so their text counts
    too: numba's own places look at the kernel's file alone.
    """

    def __init__(self, py_func: Callable[..., Any], py_file: str) -> None:
        super().__init__(py_func, py_file)  # type: ignore[no-untyped-call]
        source = Path(py_file)
        folder = f"{source.stem}-{text_digest(source)}"
        self._cache_path = str(user_cache_path("old-ember", False) / "kernels" / folder)


@cache
def text_digest(source: Path) -> str:
    """Return a short digest of a module's text and of all it imports of the same tree."""
    together = hashlib.sha256()
    for path in sorted(_reached(source.resolve())):
        together.update(path.read_bytes())
    return together.hexdigest()[:20]


def _reached(source: Path) -> set[Path]:
    """Return a module and those it imports, near or far, from beside its own package."""
    root = source.parent
    while (root / "__init__.py").exists():
        root = root.parent
    reached: set[Path] = set()
    waiting = {source}
    while waiting:
        path = waiting.pop()
        reached.add(path)
        waiting |= set(_imported(path, root)) - reached
    return reached


@cache
def _imported(path: Path, root: Path) -> tuple[Path, ...]:
    named: set[str] = set()
    for module, names, plain in _IMPORT.findall(path.read_text("utf-8")):
        named.add(module or plain)
        named |= {f"{module}.{name}" for name in re.findall(r"\w+", names)}
    places = (root.joinpath(*name.split(".")) for name in named if name)
    files = (
        one for place in places for one in (place.with_suffix(".py"), place / "__init__.py")
    )
    return tuple(one for one in files if one.is_file())
