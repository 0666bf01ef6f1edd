"""The contact sheet on the table."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET

from workshop.jobs.pictures import contact_sheet
from workshop.jobs.revisions import writer
from workshop.jobs.revisions.standing import as_it_stands
from workshop.jobs.views.answers import job_numbered, refused
from workshop.jobs.views.files import kept, past
from workshop.shell.services import Error


@require_GET
@never_cache
@as_it_stands
def show(request: HttpRequest, number: int) -> HttpResponse:
    """Show every dot method, or one at several settings, on the same crop."""
    job = job_numbered(number)
    spec = writer.spec_of(job)
    wanted = request.GET.dict()
    what = "settings" if wanted.get("what") == "settings" else "methods"
    if spec.keeps_dots:
        return refused("The artwork's own dots are burned; there is nothing to choose.")
    try:
        crop = contact_sheet.SheetCrop.read(spec, wanted)
        cells = contact_sheet.sheet(spec, crop, what)
    except Error as error:
        return refused(error.message)
    context = {
        "job": job,
        "spec": spec,
        "cells": cells,
        "what": what,
        "crop": crop,
        "window": crop.window(spec),
        "key": contact_sheet.sheet_key(spec),
    }
    return render(request, "jobs/_partials/contact.html", context)


@require_GET
@as_it_stands
def cell(request: HttpRequest, number: int, key: str) -> HttpResponse:
    """Return the picture of one cell."""
    spec = writer.spec_of(job_numbered(number))
    if contact_sheet.sheet_key(spec) != key:
        return past()
    try:
        crop = contact_sheet.SheetCrop.read(spec, request.GET.dict())
        return kept(contact_sheet.cell_picture(spec, crop, request.GET.get("dots", "")))
    except Error as error:
        return refused(error.message)
