"""The artwork store: every file once, by its content, untouched."""

import hashlib
import tempfile
from collections.abc import Iterable
from pathlib import Path

from django.conf import settings

from engraving.artwork import read_artwork
from engraving.artwork.reading import LARGEST_FILE
from engraving.errors import ArtworkError
from workshop.jobs.models import Artwork


def artwork_path(sha256: str) -> Path:
    """Return where a file of this content lies."""
    return Path(settings.MEDIA_ROOT) / "artwork" / sha256[:2] / sha256


def keep_artwork(name: str, chunks: Iterable[bytes]) -> Artwork:
    """Store an uploaded picture and return its record.

    Raises
    ------
    EngravingError
        When it cannot be read; nothing is kept then.
    """
    folder = Path(settings.MEDIA_ROOT) / "incoming"
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.NamedTemporaryFile(dir=folder, delete=False) as incoming:
        path = Path(incoming.name)
        try:
            digest = _receive(chunks, incoming)
            incoming.flush()
            return _record(name, path, digest)
        finally:
            path.unlink(missing_ok=True)


def _receive(
    chunks: Iterable[bytes], target: "tempfile._TemporaryFileWrapper[bytes]"
) -> str:
    digest, size = hashlib.sha256(), 0
    for chunk in chunks:
        size += len(chunk)
        if size > LARGEST_FILE:
            raise ArtworkError(
                f"The file is larger than {LARGEST_FILE // 2**20} MB; "
                "save a smaller picture."
            )
        digest.update(chunk)
        target.write(chunk)
    if not size:
        raise ArtworkError("The file is empty.")
    return digest.hexdigest()


def _record(name: str, path: Path, digest: str) -> Artwork:
    known = Artwork.objects.filter(sha256=digest).first()
    if known:
        return known
    picture = read_artwork(path)
    target = artwork_path(digest)
    target.parent.mkdir(parents=True, exist_ok=True)
    path.replace(target)
    across, down = picture.dpi or (None, None)
    return Artwork.objects.create(
        sha256=digest,
        name=name[:200],
        size_bytes=target.stat().st_size,
        width_px=picture.width_px,
        height_px=picture.height_px,
        format=picture.format,
        mode=picture.mode,
        dpi_x=across,
        dpi_y=down,
        two_level=picture.two_level,
        notes=list(picture.notes),
    )
