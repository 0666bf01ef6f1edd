"""``manage.py backup FILE``: everything in one zip."""

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from workshop.keeping.backup import write_backup


class Command(BaseCommand):
    """Write a backup of everything."""

    help = "Write everything into one zip; nobody has to stop working."

    def add_arguments(self, parser: CommandParser) -> None:
        """Add the file."""
        parser.add_argument("file", type=Path)

    def handle(self, *_args: Any, **options: Any) -> None:
        """Write it."""
        path: Path = options["file"]
        half = path.with_suffix(".half")
        with half.open("w+b") as target:
            contents = write_backup(target)
        half.replace(path)
        self.stdout.write(f"{path}: {len(contents['files'])} files.")
