"""The shelf, for reading."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from workshop.shelf import services


def shelf(request: HttpRequest) -> HttpResponse:
    """Show machines, substrates, blanks and recipes."""
    return render(request, "shelf/shelf.html", services.shelf())
