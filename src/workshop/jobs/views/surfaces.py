"""The finished piece as a surface: to turn, and cut through."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from workshop.jobs.pictures import surfaces, windows
from workshop.jobs.revisions import writer
from workshop.jobs.revisions.standing import as_it_stands
from workshop.jobs.views.answers import job_numbered, refused
from workshop.jobs.views.files import kept, past
from workshop.shell.numbers import finite
from workshop.shell.services import Error


@require_GET
@as_it_stands
def mesh(request: HttpRequest, number: int, key: str) -> HttpResponse:
    """Return the surface of the piece as float32, and in a header what it measures."""
    spec = writer.shown_spec(job_numbered(number))
    if windows.view_key(spec, "proof") != key:
        return past()
    try:
        found = surfaces.mesh(spec)
    except Error as error:
        return refused(error.message)
    answer = kept(windows.Picture(found.data, "application/octet-stream"))
    answer["X-Surface"] = found.told
    return answer


@require_GET
@as_it_stands
def section(request: HttpRequest, number: int, key: str) -> HttpResponse:
    """Show a cut through the piece along a line."""
    spec = writer.shown_spec(job_numbered(number))
    if windows.view_key(spec, "proof") != key:
        return past()
    try:
        x0, y0, x1, y1 = (finite(request.GET[name]) for name in ("x0", "y0", "x1", "y1"))
        found = surfaces.section(spec, (x0, y0), (x1, y1))
    except (KeyError, ValueError):
        return refused("Draw a line first.")
    except Error as error:
        return refused(error.message)
    return render(request, "jobs/_partials/section.html", {"section": found, "spec": spec})
