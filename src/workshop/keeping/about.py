"""What runs, and where its data lie."""

import platform
from importlib.metadata import version
from pathlib import Path

from django.conf import settings

from workshop import __version__

_PACKAGES = ("Django", "numpy", "numba", "opencv-python-headless", "pillow", "huey")


def versions() -> list[tuple[str, str]]:
    """Return the names and versions of the program and what it is built on."""
    own = [("Old Ember", __version__), ("Python", platform.python_version())]
    return [*own, *((name, version(name)) for name in _PACKAGES)]


def places() -> list[tuple[str, Path]]:
    """Return where the data lie, by what they are."""
    return [
        ("All data", Path(settings.VAR)),
        ("Tickets, shelf and log", Path(str(settings.DATABASES["default"]["NAME"]))),
        ("Pictures, photos and burns", Path(settings.MEDIA_ROOT)),
    ]
