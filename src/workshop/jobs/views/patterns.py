"""The same again, and patterns: pictures in, tickets out."""

from collections.abc import Callable
from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from workshop.jobs.models import Artwork, Job, Pattern
from workshop.jobs.patterns import again as the_same
from workshop.jobs.patterns import patterns
from workshop.jobs.pictures import intake, windows
from workshop.jobs.revisions.writer import spec_of
from workshop.jobs.views.answers import answer, job_numbered, refused
from workshop.shell.services import Error


@require_POST
def again(request: HttpRequest, number: int) -> HttpResponse:
    """Open a ticket like this one for each picture."""
    job, fit = job_numbered(number), _fits(request)
    return _opened(request, lambda artwork: the_same.like(job, artwork, fit_tone=fit))


@require_POST
def drop_on(request: HttpRequest, pk: int) -> HttpResponse:
    """Open a ticket by a pattern for each picture."""
    pattern, fit = get_object_or_404(Pattern, pk=pk), _fits(request)
    return _opened(request, lambda one: patterns.open_by(pattern, one, fit_tone=fit))


def _fits(request: HttpRequest) -> bool:
    return request.POST.get("tone") != "keep"


def _opened(request: HttpRequest, make: Callable[[Artwork], Job]) -> HttpResponse:
    """Make a ticket of each picture; the rest is said, and nothing is lost by it."""
    opened: list[Job] = []
    bad: list[str] = []
    for upload in request.FILES.getlist("files"):
        try:
            artwork = intake.keep_artwork(upload.name or "picture", upload.chunks())
            opened.append(make(artwork))
        except Error as error:
            bad.append(f"{upload.name}: {error.message}")
    if not opened:
        return refused(" ".join(bad) or "Choose a picture first.")
    windows.begin_first(spec_of(opened[0]))
    for sentence in bad:
        messages.warning(request, f"Left out. {sentence}")
    if len(opened) > 1:
        numbers = f"{opened[0].number:04d} to {opened[-1].number:04d}"
        messages.success(request, f"{len(opened)} tickets, {numbers}.")
    one = reverse("job", args=[opened[0].number])
    response = HttpResponse(status=204)
    response["HX-Redirect"] = one if len(opened) == 1 else reverse("rack")
    return response


@require_POST
def keep(request: HttpRequest, number: int) -> HttpResponse:
    """Keep a ticket's settings as a pattern."""
    job, words = job_numbered(number), request.POST
    try:
        kept = patterns.keep(job, words.get("name", ""), words.getlist("parts"))
    except Error as error:
        return refused(error.message)
    said = f"Kept as the pattern “{kept.name}”"
    said += f", version {kept.version}." if kept.version > 1 else "; it lies on the rack."
    return answer(request, job_numbered(number), said=said)


@require_POST
def take(request: HttpRequest, number: int) -> HttpResponse:
    """Lay a changed pattern over a ticket that was made by it."""
    try:
        patterns.take_newest(job_numbered(number))
    except Error as error:
        return refused(error.message)
    return answer(request, job_numbered(number))


def pattern(request: HttpRequest, pk: int) -> HttpResponse:
    """Show a pattern; rename it, or throw it away."""
    found = get_object_or_404(Pattern, pk=pk)
    context: dict[str, Any] = {"pattern": found, "fault": ""}
    if request.method == "POST" and request.POST.get("do") == "remove":
        found.delete()
        messages.success(request, f"The pattern “{found.name}” is gone; its tickets stay.")
        return redirect("rack")
    if request.method == "POST":
        name = " ".join(request.POST.get("name", "").split())[:100]
        if not name:
            context["fault"] = "Type a name."
        elif Pattern.objects.filter(name=name).exclude(pk=pk).exists():
            context["fault"] = "Another pattern has this name."
        else:
            found.name = name
            found.save(update_fields=["name"])
            return redirect("rack")
    context["jobs"] = found.jobs.filter(removed_at=None).order_by("-number")[:50]
    return render(request, "jobs/pattern.html", context)
