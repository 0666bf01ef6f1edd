"""``manage.py restore FILE``: a backup into the empty folder of the program's data."""

from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError, CommandParser

from engraving.errors import InputError
from workshop.keeping.backup import restore


class Command(BaseCommand):
    """Put a backup in place, and bring its tables up to this version."""

    help = "Put a backup into an empty folder (OLD_EMBER_VAR), checked before."

    def add_arguments(self, parser: CommandParser) -> None:
        """Add the file."""
        parser.add_argument("file", type=Path)

    def handle(self, *_args: Any, **options: Any) -> None:
        """Restore it."""
        try:
            with options["file"].open("rb") as source:
                contents = restore(source, Path(settings.VAR), Path(settings.MEDIA_ROOT))
        except (InputError, OSError) as error:
            raise CommandError(str(error)) from None
        call_command("migrate", verbosity=0)
        said = f"{len(contents['files'])} files of {contents['made'][:16]} are in place."
        self.stdout.write(said)
