"""The shelf's first page."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from workshop.shelf import overview


def shelf(request: HttpRequest) -> HttpResponse:
    """Show all that is on the shelf."""
    return render(request, "shelf/shelf.html", overview.shelf())
