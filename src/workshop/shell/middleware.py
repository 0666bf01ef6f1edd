"""What each request carries for its operator."""

import errno
from collections.abc import Callable

from django.db import OperationalError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from workshop.shell.services import Error, inches_shown, operator

COOKIE = "units"
_NOT_LOST = "Nothing you made is lost; go back to the rack."
_FULL = {errno.ENOSPC, errno.EDQUOT}


class Operator:
    """Show lengths in the unit the operator has chosen, and know who changes what."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Set the unit and the name for this request only."""
        # A page says what its numbers are in: the choice may be newer than the page.
        unit = request.headers.get("X-Units") or request.COOKIES.get(COOKIE)
        token = inches_shown.set(unit == "in")
        # Asked for only where something is changed: it costs a look into the base.
        name = operator.set(lambda: str(request.user.get_username()))
        try:
            return self._get_response(request)
        finally:
            operator.reset(name)
            inches_shown.reset(token)


class Trouble:
    """Say in words what is no fault of ours: a busy base, a full disk, a lost file."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Pass the request on."""
        return self._get_response(request)

    def process_exception(
        self, request: HttpRequest, exception: Exception
    ) -> HttpResponse | None:
        """Answer instead of the view; None leaves it a fault."""
        found = _trouble(exception)
        if found is None:
            return None
        status, title, sentence = found
        if request.headers.get("HX-Request") or "/do/" in request.path:
            return HttpResponse(
                sentence, status=status, content_type="text/plain; charset=utf-8"
            )
        context = {"title": title, "sentence": sentence}
        return render(request, "shell/fault.html", context, status=status)


def _trouble(exception: Exception) -> tuple[int, str, str] | None:
    """Return status, title and sentence for what is no fault; None for a fault."""
    text = str(exception).lower()
    full = isinstance(exception, OSError) and exception.errno in _FULL
    if full or (isinstance(exception, OperationalError) and "disk is full" in text):
        return 507, "The disk is full", "Nothing was changed. Make room, then try again."
    if isinstance(exception, OperationalError) and "locked" in text:
        return (
            503,
            "The program is busy",
            "Somebody else is writing. Nothing was changed; try again in a moment.",
        )
    if isinstance(exception, Error):
        return 422, "This cannot be shown", f"{exception} {_NOT_LOST}"
    return None
