"""Which scripts a script imports, near or far: a page asks for all of them at once.

Else the browser learns of each by reading the one before it, and asks wave by wave.
"""

import re
from functools import cache
from pathlib import Path

from django.contrib.staticfiles import finders
from django.templatetags.static import static

_IMPORT = re.compile(
    r"^(?:import|export)\s[^;]*?from\s*'([^']+)'|^import\s*'([^']+)'", re.MULTILINE
)


@cache
def reached(name: str) -> tuple[str, ...]:
    """Return a script's name and those of all it imports, itself first.

    Parameters
    ----------
    name : str
        Below the folder of static files, such as ``"jobs/js/ticket.js"``.
    """
    found = {name: None}
    waiting = [name]
    while waiting:
        for one in _imports(waiting.pop()):
            if one not in found:
                found[one] = None
                waiting.append(one)
    return tuple(found)


def addresses(name: str) -> list[str]:
    """Return where these are asked for."""
    return [static(one) for one in reached(name)]


def _imports(name: str) -> list[str]:
    path = finders.find(name)
    text = Path(path).read_text("utf-8") if isinstance(path, str) else ""
    return [_named(name, one or other) for one, other in _IMPORT.findall(text)]


def _named(importer: str, address: str) -> str:
    parts = importer.split("/")[:-1]
    for step in address.split("/"):
        if step == "..":
            parts.pop()
        elif step != ".":
            parts.append(step)
    return "/".join(parts)
