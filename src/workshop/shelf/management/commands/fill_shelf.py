"""``manage.py fill_shelf``: the substrates and blanks a new workshop begins with."""

from typing import Any

from django.core.management.base import BaseCommand

from workshop.shelf.models import Blank, Machine, Substrate
from workshop.shelf.starting.blanks import put_blanks
from workshop.shelf.starting.materials import put_materials


class Command(BaseCommand):
    """Fill an empty shelf; one that holds anything is left alone."""

    help = "Put the starting substrates and blanks on an empty shelf."

    def handle(self, *_args: Any, **_options: Any) -> None:
        """Fill it."""
        if any(kind.objects.exists() for kind in (Machine, Substrate, Blank)):
            return
        put_materials()
        put_blanks()
