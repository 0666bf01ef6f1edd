"""The same again, and patterns: pictures in, tickets out."""

from collections.abc import Callable, Iterator, Sequence
from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from workshop.jobs.models import Artwork, Job, Pattern
from workshop.jobs.patterns import again as the_same
from workshop.jobs.patterns import patterns, pockets
from workshop.jobs.pictures import intake, windows
from workshop.jobs.revisions.writer import spec_of
from workshop.jobs.views.answers import answer, job_numbered, refused
from workshop.shell.services import Error


@require_POST
def again(request: HttpRequest, number: int) -> HttpResponse:
    """Open a ticket like this one for each picture."""
    job, fit = job_numbered(number), _fits(request)
    return _opened(request, lambda load: the_same.like(job, load[0], fit_tone=fit))


@require_POST
def drop_on(request: HttpRequest, pk: int) -> HttpResponse:
    """Open a ticket by a pattern for each picture, or for each load of its fixture."""
    pattern, fit = get_object_or_404(Pattern, pk=pk), _fits(request)
    if "pockets" in request.POST and (room := pockets.room(pattern)):
        return _opened(
            request,
            lambda load: pockets.open_load(pattern, load, fit_tone=fit),
            each=room,
        )
    return _opened(request, lambda load: patterns.open_by(pattern, load[0], fit_tone=fit))


def _fits(request: HttpRequest) -> bool:
    return request.POST.get("tone") != "keep"


def _opened(
    request: HttpRequest, make: Callable[[Sequence[Artwork]], Job], each: int = 1
) -> HttpResponse:
    """Make a ticket of each load of pictures; what is none is said, and nothing lost."""
    opened: list[Job] = []
    bad: list[str] = []
    taken = list(_taken_in(request, bad))
    for start in range(0, len(taken), each):
        load = taken[start : start + each]
        try:
            opened.append(make(load))
        except Error as error:
            bad.append(f"{', '.join(one.name for one in load)}: {error.message}")
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


def _taken_in(request: HttpRequest, bad: list[str]) -> Iterator[Artwork]:
    """Yield the pictures that came, and put into words which are none."""
    for upload in request.FILES.getlist("files"):
        try:
            yield intake.keep_artwork(upload.name or "picture", upload.chunks())
        except Error as error:
            bad.append(f"{upload.name}: {error.message}")


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
