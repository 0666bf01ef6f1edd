"""What each request carries for its operator."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

from workshop.shell.services import inches_shown

COOKIE = "units"


class OperatorUnits:
    """Show lengths in the unit the operator has chosen."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Set the unit for this request only."""
        # A page says what its numbers are in: the choice may be newer than the page.
        unit = request.headers.get("X-Units") or request.COOKIES.get(COOKIE)
        token = inches_shown.set(unit == "in")
        try:
            return self._get_response(request)
        finally:
            inches_shown.reset(token)
