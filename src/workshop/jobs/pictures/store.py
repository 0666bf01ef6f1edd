"""The store: every picture and font once, by its content, untouched."""

import hashlib
import tempfile
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path

from django.conf import settings

from engraving.artwork.source import no_font
from engraving.errors import ArtworkError
from engraving.jobspec.job_file import LARGEST_FILE
from engraving.lettering import open_face
from workshop.jobs.models import Font
from workshop.tasting import taste

_HEX = frozenset("0123456789abcdef")


def artwork_path(sha256: str) -> Path:
    """Return where a picture of this content lies."""
    return Path(settings.MEDIA_ROOT) / "artwork" / sha256[:2] / sha256


def proof_path(token: str, at: int) -> Path:
    """Return where a picture lies that was sent out with a proof."""
    return Path(settings.MEDIA_ROOT) / "proofs" / f"{token}-{at}.jpg"


def font_path(sha256: str) -> Path:
    """Return where a font of this content lies."""
    return Path(settings.MEDIA_ROOT) / "fonts" / sha256


def read_font(name: str) -> bytes:
    """Return an uploaded font by its SHA-256.

    Raises
    ------
    ArtworkError
        When there is none.
    """
    path = font_path(name)
    if len(name) != 64 or not _HEX.issuperset(name) or not path.is_file():
        return no_font(name)
    return path.read_bytes()


def keep_font(name: str, data: bytes) -> Font:
    """Store an uploaded font and return its record.

    Raises
    ------
    ArtworkError
        When it is no font; nothing is kept then.
    """
    taste("font", data)
    open_face(data)
    digest = hashlib.sha256(data).hexdigest()
    path = font_path(digest)
    path.parent.mkdir(parents=True, exist_ok=True)
    with tempfile.NamedTemporaryFile(dir=path.parent, delete=False) as target:
        target.write(data)
    Path(target.name).replace(path)
    label = name.rsplit(".", 1)[0].replace("_", " ").replace("-", " ").strip()[:60]
    font, _ = Font.objects.get_or_create(sha256=digest, defaults={"name": label or "Font"})
    return font


@contextmanager
def incoming(chunks: Iterable[bytes]) -> Iterator[tuple[Path, str]]:
    """Receive an upload into a file of its own; yields its path and SHA-256.

    The file is gone afterwards, unless it was moved.

    Raises
    ------
    ArtworkError
        When it is empty or too large.
    """
    folder = Path(settings.MEDIA_ROOT) / "incoming"
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.NamedTemporaryFile(dir=folder, delete=False) as target:
        path = Path(target.name)
        try:
            digest = _receive(chunks, target)
            target.flush()
            yield path, digest
        finally:
            path.unlink(missing_ok=True)


def settle(path: Path, digest: str) -> int:
    """Move a received picture to its place; return its size in bytes."""
    target = artwork_path(digest)
    target.parent.mkdir(parents=True, exist_ok=True)
    path.replace(target)
    return target.stat().st_size


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
