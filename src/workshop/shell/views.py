"""Pages for when something is wrong."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render


def _page(request: HttpRequest, status: int, title: str, sentence: str) -> HttpResponse:
    context = {"title": title, "sentence": sentence}
    return render(request, "shell/fault.html", context, status=status)


def bad_request(request: HttpRequest, exception: Exception) -> HttpResponse:
    """The request itself is wrong."""
    return _page(request, 400, "That request is not understood", "Go back and try again.")


def forbidden(request: HttpRequest, exception: Exception) -> HttpResponse:
    """Not allowed."""
    return _page(request, 403, "That is not allowed", "Open the page anew and try again.")


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    """There is no such page."""
    return _page(request, 404, "There is nothing here", "The ticket may have been removed.")


def locked_out(request: HttpRequest, *_: object, **__: object) -> HttpResponse:
    """Too many wrong passwords."""
    return _page(request, 429, "Too many tries", "Wait five minutes, then sign in again.")


def broken(request: HttpRequest) -> HttpResponse:
    """The program has a fault."""
    return _page(
        request,
        500,
        "The program has a fault",
        "Nothing you made is lost: every change is kept. Go back to the rack.",
    )
