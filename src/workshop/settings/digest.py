"""What the program's own files say, as a part of their addresses."""

import hashlib
from pathlib import Path


def static_digest(program: Path) -> str:
    """Return a short digest of all files that pages ask for.

    Parameters
    ----------
    program : Path
        The program's folder, whose apps have a folder ``static`` each.
    """
    together = hashlib.sha256()
    pictures = program / "handbook" / "pages" / "img"
    for folder in [*sorted(program.glob("*/static")), pictures]:
        for path in sorted(one for one in folder.rglob("*") if one.is_file()):
            together.update(str(path.relative_to(program)).encode())
            together.update(path.read_bytes())
    return together.hexdigest()[:12]
