"""The pages of the log, and what is on the bench now."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from workshop.bench.log.facts import log as logged
from workshop.bench.models import Run
from workshop.bench.runs.keep import keep_as_recipe
from workshop.bench.runs.start import CannotBurnError
from workshop.jobs.pictures import windows
from workshop.jobs.revisions.writer import shown_spec
from workshop.shell.numbers import whole


def now(request: HttpRequest) -> HttpResponse:
    """Show what is on the bench."""
    related = ("machine", "job__machine", "job__substrate", "job__head")
    runs = list(Run.objects.active().select_related(*related))
    last = (
        None
        if runs
        else Run.objects.exclude(state="queued")
        .select_related("job__machine")
        .order_by("-pk")
        .first()
    )
    shown = [(one, windows.view_keys(shown_spec(one.job))["proof"]) for one in runs]
    return render(request, "bench/_partials/now.html", {"runs": shown, "last": last})


def lamp(request: HttpRequest) -> HttpResponse:
    """Show whether something is being burned."""
    return render(request, "bench/_partials/lamp.html")


def log(request: HttpRequest) -> HttpResponse:
    """Show what was burned, newest first."""
    return render(request, "bench/log.html", {"rows": logged(), "fault": ""})


@require_POST
def keep_run(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep what a burn was made with as a recipe, and rate it."""
    found = get_object_or_404(Run.objects.select_related("job"), pk=pk)
    rating = min(whole(request.POST.get("rating", "0")) or 0, 5)
    name = " ".join(request.POST.get("name", "").split())[:100]
    try:
        as_trimmed = request.POST.get("trimmed") == "on"
        recipe = keep_as_recipe(found, name, rating, as_trimmed=as_trimmed)
    except CannotBurnError as error:
        context = {"rows": logged(), "fault": str(error)}
        return render(request, "bench/log.html", context, status=422)
    return redirect("recipe", pk=recipe.pk)
