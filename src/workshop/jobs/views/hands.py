"""The list for the hands: looked at, ticked, lines left out."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET, require_POST

from workshop.jobs.hands import ticks
from workshop.jobs.views.answers import job_numbered, refused

_GONE = "The list was changed since this page was opened; look again."


@require_GET
@never_cache
def hands(request: HttpRequest, number: int) -> HttpResponse:
    """Show the list."""
    job = job_numbered(number)
    context = {"job": job, "list": ticks.hand_list(job)}
    return render(request, "jobs/_partials/handlist.html", context)


@require_POST
def tick(request: HttpRequest, number: int, slug: str) -> HttpResponse:
    """Tick a line, take the tick back, or leave the line out on this machine."""
    job = job_numbered(number)
    if job.machine is None:
        return refused("Its machine is not on the shelf any more; choose one at Burn.")
    if "out" in request.POST:
        ticks.leave_out(job.machine, slug, out=request.POST["out"] == "1")
    elif not ticks.tick(
        job, slug, request.user.get_username(), done=request.POST.get("done") == "1"
    ):
        return refused(_GONE)
    job = job_numbered(number)
    line = next((one for one in ticks.hand_list(job) if one.line.slug == slug), None)
    if line is None:
        return refused(_GONE)
    return render(request, "jobs/_partials/handline.html", {"job": job, "one": line})
