"""Where a burn's files lie: its G-code, its rows, its journal, its map."""

from pathlib import Path

from django.conf import settings

from workshop.bench.models import Run


def folder_of(run: Run) -> Path:
    """Return a burn's folder, made where it is missing."""
    folder = Path(settings.MEDIA_ROOT) / "runs" / str(run.pk)
    folder.mkdir(parents=True, exist_ok=True)
    return folder


def program_path(run: Run) -> Path:
    """Return where its G-code lies; rows, journal and transcript lie beside it."""
    return folder_of(run) / "job.gcode"


def map_path(run: Run) -> Path:
    """Return where its burn map lies."""
    return folder_of(run) / "map.png"
