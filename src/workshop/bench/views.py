"""Start, follow and stop burns."""

from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_POST

from workshop.bench import services, tasks
from workshop.bench.models import Run
from workshop.jobs.models import Job


def _panel(
    request: HttpRequest, run: Run | None, job: Job, fault: str = ""
) -> HttpResponse:
    context = {"run": run, "job": job, "fault": fault}
    return render(request, "bench/_partials/run.html", context)


@require_POST
def burn(request: HttpRequest, number: int) -> HttpResponse:
    """Burn a job on the stand-in."""
    job = get_object_or_404(Job.objects.with_all(), number=number)
    try:
        run = services.start_run(job)
    except services.CannotBurnError as error:
        return _panel(request, Run.objects.latest_of(job), job, str(error))
    tasks.burn(run.pk)
    run.refresh_from_db()
    return _panel(request, run, job)


def latest(request: HttpRequest, number: int) -> HttpResponse:
    """Show a job's newest burn, or the way to the first."""
    job = get_object_or_404(Job.objects.with_all(), number=number)
    return _panel(request, Run.objects.latest_of(job), job)


def now(request: HttpRequest) -> HttpResponse:
    """Show what is on the bench."""
    runs = list(Run.objects.active().select_related("job__machine", "job__substrate"))
    last = (
        None if runs else Run.objects.select_related("job__machine").order_by("-pk").first()
    )
    return render(request, "bench/_partials/now.html", {"runs": runs, "last": last})


def run(request: HttpRequest, pk: int) -> HttpResponse:
    """Show how a burn goes."""
    found = get_object_or_404(Run.objects.select_related("job"), pk=pk)
    return _panel(request, found, found.job)


@require_POST
def stop(request: HttpRequest, pk: int) -> HttpResponse:
    """Stop a burn."""
    found = get_object_or_404(Run.objects.select_related("job"), pk=pk)
    services.stop_run(found)
    found.refresh_from_db()
    return _panel(request, found, found.job)


def burn_map(request: HttpRequest, pk: int) -> FileResponse:
    """Show where the beam's energy went."""
    path = services.map_path(get_object_or_404(Run, pk=pk))
    if not path.exists():
        raise Http404
    return FileResponse(path.open("rb"), content_type="image/png")


def plan(request: HttpRequest, pk: int) -> HttpResponse:
    """Show the dots that were planned."""
    picture = services.plan_picture(get_object_or_404(Run, pk=pk))
    return HttpResponse(picture, content_type="image/png")
