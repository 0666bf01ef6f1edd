"""Start, follow and stop burns."""

from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from workshop.bench import services, tasks
from workshop.bench.models import Run
from workshop.jobs.cards import reading
from workshop.jobs.models import Job
from workshop.jobs.pictures import windows
from workshop.jobs.revisions.writer import shown_spec
from workshop.jobs.views import camera
from workshop.jobs.views.answers import job_numbered, refused
from workshop.jobs.views.cards import card_job_numbered, card_page
from workshop.shell.numbers import finite, whole
from workshop.shell.services import Error, read_length


def _panel(
    request: HttpRequest, run: Run | None, job: Job, fault: str = ""
) -> HttpResponse:
    busy = run is not None and run.is_active
    held = "" if busy or fault else services.held_back(job)
    context = {"run": run, "job": job, "fault": fault, "held": held}
    context |= services.kept_as(job)
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


@require_POST
def walk(request: HttpRequest, number: int) -> HttpResponse:
    """Send the head round the border, the beam off or faint."""
    job = get_object_or_404(Job.objects.with_all(), number=number)
    box, power = request.POST.get("box", ""), request.POST.get("power", "")
    try:
        services.walk(job, read_length(box or "0"), finite(power or "0"))
    except (ValueError, Error):
        return HttpResponse("Type the box's height and the power in %.", status=422)
    except services.CannotBurnError as error:
        return HttpResponse(str(error), status=422)
    return HttpResponse("The border is being walked.")


def latest(request: HttpRequest, number: int) -> HttpResponse:
    """Show a job's newest burn, or the way to the first."""
    job = get_object_or_404(Job.objects.with_all(), number=number)
    return _panel(request, Run.objects.latest_of(job), job)


def now(request: HttpRequest) -> HttpResponse:
    """Show what is on the bench."""
    related = ("job__machine", "job__substrate", "job__head")
    runs = list(Run.objects.active().select_related(*related))
    last = (
        None if runs else Run.objects.select_related("job__machine").order_by("-pk").first()
    )
    shown = [(one, windows.view_keys(shown_spec(one.job))["proof"]) for one in runs]
    return render(request, "bench/_partials/now.html", {"runs": shown, "last": last})


def lamp(request: HttpRequest) -> HttpResponse:
    """Show whether something is being burned."""
    return render(request, "bench/_partials/lamp.html")


def run(request: HttpRequest, pk: int) -> HttpResponse:
    """Show how a burn goes."""
    found = get_object_or_404(Run.objects.select_related("job"), pk=pk)
    return _panel(request, found, found.job)


@require_POST
def go_on(request: HttpRequest, pk: int) -> HttpResponse:
    """Let a burn that waits go on."""
    found = get_object_or_404(Run.objects.select_related("job"), pk=pk)
    services.go_on(found)
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


@require_POST
def photograph(request: HttpRequest, number: int) -> HttpResponse:
    """Let the stand-in camera take a picture of a card, and read it."""
    job = card_job_numbered(number)
    try:
        key = reading.keep_photo(services.photograph(job))
    except services.CannotBurnError as error:
        return card_page(request, job, str(error))
    reading.read_card(job, key)
    return redirect("read_card", number=number)


@require_POST
def photograph_bed(request: HttpRequest, number: int, what: str) -> HttpResponse:
    """Let the stand-in camera take a picture of the bed, and use it."""
    job = job_numbered(number)
    try:
        data = services.photograph_bed(job, what)
    except services.CannotBurnError as error:
        return refused(str(error))
    return camera.taken(request, job, what, lambda: data)


def log(request: HttpRequest) -> HttpResponse:
    """Show what was burned, newest first."""
    return render(request, "bench/log.html", {"rows": services.log(), "fault": ""})


@require_POST
def keep_run(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep what a burn was made with as a recipe, and rate it."""
    found = get_object_or_404(Run.objects.select_related("job"), pk=pk)
    rating = min(whole(request.POST.get("rating", "0")) or 0, 5)
    name = " ".join(request.POST.get("name", "").split())[:100]
    try:
        recipe = services.keep_as_recipe(found, name, rating)
    except services.CannotBurnError as error:
        return render(
            request,
            "bench/log.html",
            {"rows": services.log(), "fault": str(error)},
            status=422,
        )
    return redirect("recipe", pk=recipe.pk)
