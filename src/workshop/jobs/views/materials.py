"""The sheet of materials on the table."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET

from workshop.jobs.pictures import pieces
from workshop.jobs.revisions import writer
from workshop.jobs.revisions.standing import as_it_stands
from workshop.jobs.stations.blank.materials import materials, on_material
from workshop.jobs.views.answers import job_numbered, refused
from workshop.jobs.views.files import kept, past
from workshop.shell.services import Error

_LONGEST_PX = 300


@require_GET
@never_cache
def show(request: HttpRequest, number: int) -> HttpResponse:
    """Show the same piece on every material of the shelf."""
    job = job_numbered(number)
    cells = [
        (one, pieces.piece_key(one.spec) if one.spec else "") for one in materials(job)
    ]
    context = {"job": job, "spec": writer.spec_of(job), "cells": cells}
    return render(request, "jobs/_partials/materials.html", context)


@require_GET
@as_it_stands
def picture(request: HttpRequest, number: int, key: str) -> HttpResponse:
    """Return the piece on one of them."""
    try:
        spec = on_material(job_numbered(number), request.GET.get("on", ""))
        if pieces.piece_key(spec) != key:
            return past()
        return kept(pieces.piece_picture(spec, _LONGEST_PX))
    except Error as error:
        return refused(error.message)
