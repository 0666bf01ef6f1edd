"""The pages of the log, and what is on the bench now."""

from typing import Any

from django.contrib import messages
from django.http import (
    FileResponse,
    Http404,
    HttpRequest,
    HttpResponse,
    StreamingHttpResponse,
)
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET, require_POST

from workshop.bench.lessons.changes import photo_path
from workshop.bench.lessons.facts import lesson_facts
from workshop.bench.log import changes, facts
from workshop.bench.log.form import CameOutForm
from workshop.bench.log.search import Wanted, found
from workshop.bench.log.table import csv_rows
from workshop.bench.models import Run
from workshop.bench.runs.keep import keep_as_recipe
from workshop.bench.runs.start import CannotBurnError
from workshop.jobs.pictures import pieces, windows
from workshop.jobs.revisions.writer import shown_spec
from workshop.shelf.models import Machine
from workshop.shell.numbers import finite, whole
from workshop.shell.services import Error


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
    shown = [(one, windows.view_key(shown_spec(one.job), "proof")) for one in runs]
    return render(request, "bench/_partials/now.html", {"runs": shown, "last": last})


def lamp(request: HttpRequest) -> HttpResponse:
    """Show whether something is being burned."""
    return render(request, "bench/_partials/lamp.html")


def log(request: HttpRequest) -> HttpResponse | StreamingHttpResponse:
    """Show what was burned, newest first, as far as it is asked for."""
    wanted = Wanted.of(request.GET.dict())
    if request.GET.get("as") == "csv":
        answer = StreamingHttpResponse(
            csv_rows(found(wanted).iterator(200)), content_type="text/csv; charset=utf-8"
        )
        answer["Content-Disposition"] = 'attachment; filename="burn-log.csv"'
        return answer
    return _log_page(request, wanted)


def _log_page(request: HttpRequest, wanted: Wanted, fault: str = "") -> HttpResponse:
    page, rows = facts.log(wanted, whole(request.GET.get("page", "")) or 1)
    query = request.GET.copy()
    query.pop("page", None)
    context = {
        "page": page,
        "rows": rows,
        "wanted": wanted,
        "machines": Machine.objects.all(),
        "went": [*Run.RESULTS, *(one for one in Run.STATES if one[0] != "queued")],
        "query": query.urlencode(),
        "fault": fault,
    }
    return render(request, "bench/log.html", context, status=422 if fault else 200)


def _run(pk: int) -> Run:
    return get_object_or_404(Run.objects.select_related("job__recipe", "machine"), pk=pk)


@never_cache
def logged(request: HttpRequest, pk: int) -> HttpResponse:
    """Show a burn with all that is known of it; note how the piece came out."""
    run = _run(pk)
    if request.method != "POST":
        known = {"result": run.result, "why": run.why, "notes": run.notes}
        return _page(request, run, CameOutForm(known))
    form = CameOutForm(request.POST, request.FILES)
    if not form.is_valid():
        return _page(request, run, form, status=422)
    try:
        changes.note_result(run, form.cleaned_data)
    except Error as error:
        form.add_error("photo", error.message)
        return _page(request, run, form, status=422)
    messages.success(request, "Noted.")
    return redirect("logged", pk=run.pk)


def _page(
    request: HttpRequest, run: Run, form: CameOutForm, status: int = 200
) -> HttpResponse:
    context: dict[str, Any] = {"run": run, "form": form, **facts.page_facts(run)}
    context |= lesson_facts(run)
    return render(request, "bench/burn.html", context, status=status)


@require_POST
def again(request: HttpRequest, pk: int) -> HttpResponse:
    """Set the job as it was burned, ready to be burned again exactly."""
    try:
        job = changes.as_burned(_run(pk))
    except Error as error:
        messages.warning(request, error.message)
        return redirect("logged", pk=pk)
    return redirect("station", number=job.number, station="run")


@never_cache
def beside(request: HttpRequest) -> HttpResponse:
    """Lay two burns beside one another; keep a take between them."""
    asked = request.GET.getlist("run")
    picked = [whole(one) for one in asked][:2]
    if len(asked) != 2 or None in picked:
        return _log_page(request, Wanted(), "Choose two burns to lay side by side.")
    runs = [_run(one or 0) for one in picked]
    if request.method == "POST":
        try:
            share = finite(request.POST.get("share", "50")) / 100
            changes.take_between(runs[0], runs[1], share)
        except (Error, ValueError) as error:
            said = error.message if isinstance(error, Error) else "Type a share in %."
            messages.warning(request, said)
            return redirect(f"{reverse('beside')}?run={picked[0]}&run={picked[1]}")
        return redirect("job", number=runs[0].job.number)
    return render(request, "bench/beside.html", {"found": facts.beside(*runs)})


@require_GET
def proof(request: HttpRequest, pk: int) -> HttpResponse:
    """Show the proof of what was burned."""
    picture = pieces.piece_picture(facts.row_of(_run(pk)).spec, 700)
    return HttpResponse(picture.data, content_type=picture.content_type)


@require_GET
def photo(request: HttpRequest, pk: int) -> FileResponse:
    """Show the photo of the finished piece."""
    path = photo_path(_run(pk).photo)
    if not path.is_file():
        raise Http404
    return FileResponse(path.open("rb"), content_type="image/jpeg")


@require_POST
def keep_run(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep what a burn was made with as a recipe, and rate it."""
    burned = _run(pk)
    rating = min(whole(request.POST.get("rating", "0")) or 0, 5)
    name = " ".join(request.POST.get("name", "").split())[:100]
    try:
        as_trimmed = request.POST.get("trimmed") == "on"
        recipe = keep_as_recipe(burned, name, rating, as_trimmed=as_trimmed)
    except CannotBurnError as error:
        return _log_page(request, Wanted(), str(error))
    return redirect("recipe", pk=recipe.pk)
