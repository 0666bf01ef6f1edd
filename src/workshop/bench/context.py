"""What every page shows of the bench."""

from typing import Any

from django.http import HttpRequest
from django.utils.functional import SimpleLazyObject

from workshop.bench.models import Run


def lamp(request: HttpRequest) -> dict[str, Any]:
    """Return the burn under way, if any; asked for only where it is shown."""
    return {"lamp_run": SimpleLazyObject(_burning)}


def _burning() -> Run | None:
    return Run.objects.active().select_related("job").last()
