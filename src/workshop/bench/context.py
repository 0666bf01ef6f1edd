"""What every page shows of the bench."""

from typing import Any

from django.http import HttpRequest

from workshop.bench.models import Run


def lamp(request: HttpRequest) -> dict[str, Any]:
    """Return the burn under way, if any."""
    return {"lamp_run": Run.objects.active().select_related("job").last()}
