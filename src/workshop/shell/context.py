"""What every page shows of its operator's choices."""

from django.http import HttpRequest

from workshop.shell.services import length_unit


def units(request: HttpRequest) -> dict[str, str]:
    """Return the unit lengths are shown in."""
    return {"length_unit": length_unit()}
