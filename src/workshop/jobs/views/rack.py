"""The rack: tickets, and pictures that come in."""

from typing import Any

from django.contrib import messages
from django.core.files.uploadedfile import UploadedFile
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET, require_POST

from workshop.handbook import book
from workshop.jobs.exports.opening import is_gcode, open_gcode, open_job_file
from workshop.jobs.exports.proof_sheet import proof_sheet
from workshop.jobs.models import STATIONS, GcodeFile, Job
from workshop.jobs.patterns import pockets
from workshop.jobs.pictures import engine, intake, pieces, windows
from workshop.jobs.revisions import writer
from workshop.jobs.ticket import bin as the_bin
from workshop.jobs.ticket import lifecycle, line
from workshop.jobs.ticket import wanted as asked_for
from workshop.jobs.ticket.findings import quick_findings, weights
from workshop.jobs.ticket.summary import station_lines
from workshop.jobs.views.answers import is_partial, job_numbered, refused
from workshop.shelf import overview
from workshop.shelf.models import Machine, Substrate
from workshop.shell.numbers import whole
from workshop.shell.services import Error


def rack(request: HttpRequest) -> HttpResponse:
    """Show the tickets; a workshop without a machine is asked for one first."""
    if not Machine.objects.exists() and not Job.everything.exists():
        return redirect("first_machine")
    wanted = asked_for.Wanted.of(request.GET.dict())
    jobs, more = asked_for.page_of(wanted)
    context: dict[str, Any] = {
        "to_do": [_hanging(job) for job in jobs],
        "wanted": wanted,
        "more": more,
    }
    if wanted.page > 1 and is_partial(request):
        return render(request, "jobs/_partials/hanging.html", context)
    burned = Job.objects.with_all().burned_lately()
    burned = burned.found_by(wanted.find) if wanted.find else burned
    context |= {
        "burned": [] if wanted.narrows else [_hanging(job) for job in burned],
        "patterns": pockets.listed(),
        "all": asked_for.found(wanted).count(),
    }
    if wanted.find:
        said, told = book.find(wanted.find)
        context |= {
            "named": overview.named(wanted.find),
            "said": said[:4],
            "told": told[:3],
        }
    if is_partial(request):
        return render(request, "jobs/_partials/tickets.html", context)
    return render(request, "jobs/rack.html", context | {"choices": _choices()})


def _choices() -> dict[str, Any]:
    """Return what the rack can be narrowed to, by the name of its field."""
    found: dict[str, Any] = {
        "state": list(asked_for.STATES.items()),
        "machine": [("", "Any machine"), *Machine.objects.values_list("pk", "name")],
        "substrate": [("", "Any substrate"), *Substrate.objects.values_list("pk", "name")],
        "customer": [("", "For anyone"), *((one, one) for one in asked_for.customers())],
        "due": list(asked_for.DUES.items()),
        "sort": list(asked_for.SORTS.items()),
    }
    return found


@require_POST
def several(request: HttpRequest) -> HttpResponse:
    """Do the same with several tickets."""
    numbers = [whole(one) or 0 for one in request.POST.getlist("number")]
    jobs = list(Job.objects.with_all().filter(number__in=numbers).order_by("number"))
    do = request.POST.get("do", "")
    if not jobs:
        messages.warning(request, "Choose tickets first: the box on each of them.")
        return redirect("rack")
    if do == "sheets":
        answer = HttpResponse(proof_sheet(*jobs), content_type="application/pdf")
        answer["Content-Disposition"] = 'attachment; filename="proof-sheets.pdf"'
        return answer
    count = f"{len(jobs)} ticket{'s' if len(jobs) > 1 else ''}"
    named = ",".join(str(job.number) for job in jobs)
    if do == "remove":
        for job in jobs:
            the_bin.remove(job)
        said = f"{count} in the bin for {the_bin.KEPT_DAYS} days."
        messages.success(request, said, extra_tags=f"put-back {named}")
    elif do == "line":
        asked = request.POST.get("at", "")
        machine = get_object_or_404(Machine, pk=whole(asked) or 0) if asked else None
        refused_ones = line.line_up(jobs, machine)
        for sentence in refused_ones:
            messages.warning(request, sentence)
        if len(refused_ones) < len(jobs):
            messages.success(request, "Lined up; the Bench shows the line of each machine.")
    elif do == "leave":
        line.leave(jobs)
        return redirect("bench")
    elif do in ("away", "back"):
        at = timezone.now() if do == "away" else None
        Job.objects.filter(pk__in=[job.pk for job in jobs]).update(put_away_at=at)
        said = "put away; the rack shows them when asked" if at else "on the rack again"
        messages.success(request, f"{count} {said}.")
    return redirect("rack")


def _hanging(job: Job) -> dict[str, Any]:
    spec = writer.spec_of(job)
    found = quick_findings(job, spec)
    lines = station_lines(job, spec, found)
    stops, cautions = weights(found)
    done = sum(line.state == "done" for line in lines)
    unfinished = next((line.name for line in lines if line.state != "done"), "")
    return {
        "job": job,
        "spec": spec,
        "lines": lines,
        "done": done,
        "key": pieces.piece_key(writer.shown_spec(job)),
        "stops": stops,
        "cautions": cautions,
        "unfinished": unfinished,
        "late": job.due is not None and job.due < timezone.localdate(),
        "ready": not stops and done >= len(STATIONS) - 1,
    }


@require_POST
def new_job(request: HttpRequest) -> HttpResponse:
    """Open a ticket for each uploaded picture, one for all of them, or for a job file."""
    files = request.FILES.getlist("files")
    if not files:
        return refused("Choose a picture first.")
    together = request.POST.get("together") == "1"
    opened: list[Job] = []
    bad: list[str] = []
    files_in: list[GcodeFile] = []
    for upload in files:
        try:
            if (upload.name or "").lower().endswith(".zip"):
                opened.append(open_job_file(upload))  # type: ignore[arg-type]
                continue
            if is_gcode(upload.name or "", _head(upload)):
                found = open_gcode(upload.name or "file", upload.chunks())
                (opened if isinstance(found, Job) else files_in).append(found)  # type: ignore[arg-type]
                continue
            artwork = intake.keep_artwork(upload.name or "picture", upload.chunks())
            if together and opened:
                intake.add_sheet(opened[0], artwork)
            else:
                opened.append(lifecycle.open_job(artwork))
                windows.begin_first(writer.spec_of(opened[-1]))
        except Error as error:
            bad.append(f"{upload.name}: {error.message}")
    if not opened and not files_in:
        return refused(" ".join(bad))
    for sentence in bad:
        messages.warning(request, f"Left out. {sentence}")
    response = HttpResponse(status=204)
    response["HX-Redirect"] = _where(opened, files_in)
    return response


def _head(upload: UploadedFile) -> bytes:
    head = bytes(upload.read(4096))
    upload.seek(0)
    return head


def _where(opened: list[Job], files: list[GcodeFile]) -> str:
    """Return where an upload leads: to the one thing that came in, or to all tickets."""
    if len(opened) == 1 and not files:
        return reverse("job", args=[opened[0].number])
    if len(files) == 1 and not opened:
        return reverse("gcode_file", args=[files[0].pk])
    return reverse("rack") if opened else reverse("gcode_files")


@require_GET
@never_cache
def ready(request: HttpRequest) -> HttpResponse:
    """Say whether every kernel is warm."""
    return JsonResponse({"ready": engine.is_warm()})


@require_POST
def copy(request: HttpRequest, number: int) -> HttpResponse:
    """Open a new ticket with the same settings."""
    return redirect("job", number=lifecycle.copy(job_numbered(number)).number)


@require_POST
def remove(request: HttpRequest, number: int) -> HttpResponse:
    """Take a ticket off the rack."""
    job = job_numbered(number)
    the_bin.remove(job)
    said = f"{job.number:04d} {job.name} lies in the bin for {the_bin.KEPT_DAYS} days."
    messages.success(request, said, extra_tags=f"put-back {job.number}")
    return redirect("rack")


@never_cache
def bin_page(request: HttpRequest) -> HttpResponse:
    """Show what lies in the bin; put a ticket back, or remove it for good."""
    if request.method != "POST":
        found = [(job, the_bin.days_left(job)) for job in the_bin.in_bin()]
        return render(request, "jobs/bin.html", {"jobs": found})
    numbers = [whole(one) or -1 for one in request.POST.get("number", "").split(",")]
    jobs = list(Job.everything.exclude(removed_at=None).filter(number__in=numbers))
    if not jobs:
        raise Http404
    job = jobs[0]
    if request.POST.get("do") == "drop":
        the_bin.drop(job)
        messages.success(request, f"{job.number:04d} {job.name} is removed for good.")
        return redirect("bin")
    for one in jobs:
        the_bin.put_back(one)
    if request.POST.get("then") == "rack":
        names = ", ".join(f"{one.number:04d} {one.name}" for one in jobs)
        verb = "hangs" if len(jobs) == 1 else "hang"
        messages.success(request, f"{names} {verb} on the rack again.")
        return redirect("rack")
    return redirect("job", number=job.number)
