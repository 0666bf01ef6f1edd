"""``manage.py load_demo``: the gift workshop of Highmere Observatory."""

from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from workshop.jobs.models import Job


class Command(BaseCommand):
    """Load the demo once; a workshop that has jobs is left alone."""

    help = "Load the demo workshop unless there are jobs already."

    def add_arguments(self, parser: CommandParser) -> None:
        """Add the options."""
        parser.add_argument("--force", action="store_true", help="load even so")

    def handle(self, *_args: Any, **options: Any) -> None:
        """Load it."""
        if Job.objects.exists() and not options["force"]:
            self.stdout.write("The workshop is kept as it is.")
            return
        from workshop.demo import scenario  # noqa: PLC0415 (seconds, and mostly not needed)

        scenario.load()
        self.stdout.write("Demo loaded.")
