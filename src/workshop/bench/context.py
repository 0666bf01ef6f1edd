"""What every page shows of the bench."""

from typing import Any

from django.http import HttpRequest
from django.utils.functional import SimpleLazyObject

from workshop.bench.models import Run


def lamp(request: HttpRequest) -> dict[str, Any]:
    """Return the burns under way; asked for only where they are shown."""
    return {"lamp_runs": SimpleLazyObject(_burning)}


def _burning() -> list[Run]:
    return list(Run.objects.active().select_related("job"))
