"""What somebody who signed in may do: look, prepare jobs, or burn them too.

Roles are groups of Django's users. Who has none may look; a superuser may do all. Where
nobody signs in (on loopback) everybody may do all. Stop is for everybody.
"""

from collections.abc import Callable

from django.conf import settings
from django.contrib.auth.models import AbstractBaseUser, AnonymousUser
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render

ROLES = ("looks", "prepares", "burns")
_FOR_ALL = {"login", "logout", "stop", "machine_stop", "proof_page"}
_AT_MACHINES = "/bench/"
_SAFE = {"GET", "HEAD", "OPTIONS"}


def role_of(user: AbstractBaseUser | AnonymousUser) -> str:
    """Return what a user may do at most."""
    if getattr(user, "is_superuser", False):
        return "burns"
    groups = getattr(user, "groups", None)
    names = set(groups.values_list("name", flat=True)) if groups is not None else set()
    return next((role for role in reversed(ROLES) if role in names), "looks")


def may(user: AbstractBaseUser | AnonymousUser, wanted: str) -> bool:
    """Return whether a user may do what a role may; where nobody signs in, all may."""
    return not settings.REQUIRE_LOGIN or ROLES.index(role_of(user)) >= ROLES.index(wanted)


def needed(request: HttpRequest) -> str:
    """Return which role a request needs."""
    if request.method in _SAFE:
        return "looks"
    return "burns" if request.path.startswith(_AT_MACHINES) else "prepares"


class Roles:
    """Refuse what somebody's role does not reach."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Pass the request on."""
        return self._get_response(request)

    def process_view(self, request: HttpRequest, *_: object) -> HttpResponse | None:
        """Refuse before a view begins."""
        match = request.resolver_match
        wanted = needed(request)
        if (match and match.url_name in _FOR_ALL) or may(request.user, wanted):
            return None
        words = f"Your sign-in may not do this; it needs somebody who {wanted}."
        if request.path.startswith(_AT_MACHINES) and "/do/" in request.path:
            return JsonResponse({"fault": words}, status=403)
        if request.headers.get("HX-Request"):
            return HttpResponse(words, status=403, content_type="text/plain; charset=utf-8")
        context = {"title": "That is not allowed", "sentence": words}
        return render(request, "shell/fault.html", context, status=403)
