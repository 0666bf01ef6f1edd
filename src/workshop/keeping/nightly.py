"""A backup every night, seven kept; where the program slept, at its next waking."""

from datetime import timedelta
from pathlib import Path

from django.conf import settings
from django.utils import timezone

from workshop.keeping.backup import write_backup
from workshop.keeping.models import Keeping

KEPT = 7
_FROM_HOUR = 3


def folder() -> Path:
    """Return where they lie."""
    return Path(settings.VAR) / "backups"


def kept() -> list[Path]:
    """Return the nightly backups, the newest first."""
    return sorted(folder().glob("night-*.zip"), reverse=True)


def due() -> bool:
    """Whether last night's is wanted and not made yet."""
    return Keeping.now().nightly and not _last_night().exists()


def _last_night() -> Path:
    night = (timezone.localtime() - timedelta(hours=_FROM_HOUR)).date()
    return folder() / f"night-{night}.zip"


def make() -> Path:
    """Make last night's backup; the oldest beyond seven go."""
    folder().mkdir(parents=True, exist_ok=True)
    path = _last_night()
    half = path.with_suffix(".half")
    with half.open("w+b") as target:
        write_backup(target)
    half.replace(path)
    for old in kept()[KEPT:]:
        old.unlink(missing_ok=True)
    return path
