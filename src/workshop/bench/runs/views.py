"""Start, follow and stop burns, on the Run station's sheet."""

from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_POST

from workshop.bench.models import Run
from workshop.bench.runs import start, tasks
from workshop.bench.runs.compare import plan_picture
from workshop.bench.runs.files import map_path
from workshop.bench.runs.follow import refreshed
from workshop.bench.runs.keep import recipe_name
from workshop.bench.where import address_of, witness_of
from workshop.jobs.models import Job
from workshop.jobs.revisions.writer import spec_of


def _run(pk: int) -> Run:
    return get_object_or_404(Run.objects.select_related("job", "machine"), pk=pk)


def panel(request: HttpRequest, run: Run | None, job: Job, fault: str = "") -> HttpResponse:
    """Answer with the burn's part of the sheet."""
    busy = run is not None and run.is_active
    spec = spec_of(job)
    context = {
        "run": run,
        "job": job,
        "fault": fault,
        "held": "" if busy or fault else start.held_back(job),
        "is_card": spec.card is not None,
        "recipe_name": recipe_name(spec, job.number),
        "simulated": witness_of(address_of(job.machine)) is not None,
    }
    return render(request, "bench/_partials/run.html", context)


@require_POST
def burn(request: HttpRequest, number: int) -> HttpResponse:
    """Burn a job on its machine."""
    job = get_object_or_404(Job.objects.with_all(), number=number)
    try:
        run = start.start_run(job, operator=request.user.get_username())
    except start.CannotBurnError as error:
        return panel(request, Run.objects.latest_of(job), job, str(error))
    tasks.hand_over(run)
    run.refresh_from_db()
    answer = panel(request, run, job)
    answer["HX-Trigger"] = "handsUsed"
    return answer


def latest(request: HttpRequest, number: int) -> HttpResponse:
    """Show a job's newest burn, or the way to the first."""
    job = get_object_or_404(Job.objects.with_all(), number=number)
    return panel(request, refreshed(Run.objects.latest_of(job)), job)


def run(request: HttpRequest, pk: int) -> HttpResponse:
    """Show how a burn goes; once it is over, the whole panel is put in the place of it."""
    found = _run(pk)
    refreshed(found)
    if found.is_active and request.headers.get("HX-Target") == "burn-live":
        return render(request, "bench/_partials/live.html", {"run": found})
    answer = panel(request, found, found.job)
    answer["HX-Retarget"] = "#burn"
    answer["HX-Reswap"] = "outerHTML"
    return answer


@require_POST
def go_on(request: HttpRequest, pk: int) -> HttpResponse:
    """Let a burn that is held, or waits, go on."""
    return _told(request, _run(pk), start.go_on)


@require_POST
def hold(request: HttpRequest, pk: int) -> HttpResponse:
    """Hold a burn after its row; asked for again, at once."""
    return _told(request, _run(pk), start.hold)


def _told(request: HttpRequest, found: Run, tell: start.Teller) -> HttpResponse:
    try:
        tell(found)
    except start.CannotBurnError as error:
        return panel(request, found, found.job, str(error))
    return panel(request, refreshed(found), found.job)


@require_POST
def stop(request: HttpRequest, pk: int) -> HttpResponse:
    """Stop a burn."""
    found = _run(pk)
    fault = start.stop_run(found)
    found.refresh_from_db()
    return panel(request, refreshed(found), found.job, fault if found.is_active else "")


def burn_map(request: HttpRequest, pk: int) -> FileResponse:
    """Show where the beam's energy went."""
    path = map_path(get_object_or_404(Run, pk=pk))
    if not path.exists():
        raise Http404
    return FileResponse(path.open("rb"), content_type="image/png")


def plan(request: HttpRequest, pk: int) -> HttpResponse:
    """Show the dots that were planned."""
    picture = plan_picture(get_object_or_404(Run, pk=pk))
    return HttpResponse(picture, content_type="image/png")
