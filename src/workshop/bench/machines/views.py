"""The machines' pages, and what their buttons ask for."""

from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse, JsonResponse, StreamingHttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET, require_POST

from workshop.bench.machines import facts
from workshop.bench.machines import first as beginning
from workshop.bench.machines.asked import ask_machine, take
from workshop.bench.machines.deeds import WHO
from workshop.bench.machines.deeds import do as done
from workshop.bench.machines.state import TooManyError, shown
from workshop.bench.machines.state import events as told
from workshop.bench.machines.walk import walk
from workshop.bench.models import Run
from workshop.bench.runs import track
from workshop.bench.runs.start import CannotBurnError, stop_run
from workshop.bench.where import address_of, link_to
from workshop.controller.errors import LinkError
from workshop.jobs.models import Job
from workshop.shelf.machines import changes
from workshop.shelf.machines.form import FirstForm
from workshop.shelf.models import Machine
from workshop.shell.numbers import finite, whole
from workshop.shell.services import Error, read_length, show_lengths


def bench(request: HttpRequest) -> HttpResponse:
    """Show all machines."""
    return render(request, "bench/bench.html", {"machines": facts.standings()})


def page(request: HttpRequest, pk: int) -> HttpResponse:
    """Show a machine."""
    machine = get_object_or_404(Machine, pk=pk)
    inches = request.COOKIES.get("units") == "in"
    context = facts.page_facts(machine, whole(request.GET.get("job", "")), inches=inches)
    return render(request, "bench/machine.html", context)


@never_cache
def state(request: HttpRequest, pk: int) -> JsonResponse:
    """Tell how a machine is this moment."""
    return JsonResponse(shown(get_object_or_404(Machine, pk=pk)))


@never_cache
def events(request: HttpRequest, pk: int) -> StreamingHttpResponse | HttpResponse:
    """Tell how a machine is whenever that changes (server-sent events)."""
    machine = get_object_or_404(Machine, pk=pk)
    try:
        answer = StreamingHttpResponse(told(machine), content_type="text/event-stream")
    except TooManyError:
        return HttpResponse("Too many pages listen; ask instead.", status=503)
    answer["X-Accel-Buffering"] = "no"
    return answer


@require_POST
def stop(request: HttpRequest, pk: int) -> JsonResponse:
    """Stop whatever a machine does, before anything else."""
    machine = get_object_or_404(Machine, pk=pk)
    hard = request.POST.get("hard") == "1"
    try:
        link_to(machine, "stop", hard=hard)
    except LinkError as error:
        return JsonResponse({"fault": str(error)}, status=422)
    # One that is still getting ready may not begin afterwards.
    for run in Run.objects.active().filter(address=address_of(machine)):
        stop_run(run, hard=hard)
    return JsonResponse({"said": ""})


@require_POST
def do(request: HttpRequest, pk: int, deed: str) -> JsonResponse:
    """Do what a button says."""
    machine = get_object_or_404(Machine, pk=pk)
    try:
        words = request.POST.dict() | {WHO: request.user.get_username()}
        return JsonResponse({"said": done(machine, deed, words)})
    except CannotBurnError as error:
        return JsonResponse({"fault": str(error)}, status=422)
    except KeyError:
        return JsonResponse({"fault": "There is no such button."}, status=404)


@require_GET
def transcript(request: HttpRequest, pk: int) -> HttpResponse:
    """Give away what was said on the link lately."""
    machine = get_object_or_404(Machine, pk=pk)
    try:
        text = link_to(machine, "transcript")
    except LinkError as error:
        text = str(error)
    return HttpResponse(text, content_type="text/plain; charset=utf-8")


@require_GET
def path_picture(request: HttpRequest, pk: int) -> HttpResponse:
    """Show when each spot of a burn is burned, as a picture of time."""
    picture = track.path_of(get_object_or_404(Run, pk=pk))
    answer = HttpResponse(picture, content_type="image/png")
    answer["Cache-Control"] = "private, max-age=86400, immutable"
    return answer


@require_GET
@never_cache
def row(request: HttpRequest, pk: int) -> JsonResponse:
    """Tell where a row of a burn begins, and how much is burned then."""
    run = get_object_or_404(Run, pk=pk)
    found = track.row_of(run, whole(request.GET.get("row", "")) or 0)
    return JsonResponse({} if found is None else found.told())


@require_POST
def walk_border(request: HttpRequest, number: int) -> HttpResponse:
    """Send the head round a job's border, the beam off or faint."""
    job = get_object_or_404(Job.objects.with_all(), number=number)
    box, power = request.POST.get("box", ""), request.POST.get("power", "")
    try:
        walk(job, read_length(box or "0"), finite(power or "0"))
    except (ValueError, Error):
        return HttpResponse("Type the box's height and the power in %.", status=422)
    except CannotBurnError as error:
        return HttpResponse(str(error), status=422)
    return HttpResponse("The border is being walked.")


def first(request: HttpRequest) -> HttpResponse:
    """Ask for the first machine, and set it up."""
    kind = request.POST.get("kind") or request.GET.get("kind", "co2")
    start = changes.starting_machine(kind)
    initial = {
        "name": "Bench 1",
        "kind": start["kind"],
        **{name: start[name] for name in beginning.ASKED},
    }
    if request.method != "POST":
        # Another kind was pressed: what was typed of the one before is kept.
        typed = {one: request.GET[one] for one in ("name", "link") if one in request.GET}
        return _first_page(request, FirstForm(initial=initial | typed))
    form = FirstForm(request.POST, initial=initial)
    if form.is_valid():
        try:
            return _set_up(request, form.cleaned_data)
        except Error as error:
            form.add_fault(error.field, error.message)
        except (LinkError, ValueError) as error:
            form.add_fault("link", str(error))
    return _first_page(request, form)


def _set_up(request: HttpRequest, data: dict[str, Any]) -> HttpResponse:
    said = f"{data['name']} is on the shelf"
    if request.POST.get("read"):
        machine, asked = beginning.read_from(data)
        bed = show_lengths(machine.part["bed_width_mm"], machine.part["bed_height_mm"], 1)
        said += f", its bed of {bed} and its speeds as its controller says"
        for sentence in asked.findings:
            messages.warning(request, sentence)
    else:
        beginning.set_up(data)
    messages.success(request, f"{said}. Now drop a photograph.")
    return redirect("rack")


def _first_page(request: HttpRequest, form: FirstForm) -> HttpResponse:
    context = {"form": form, "ports": beginning.ports()}
    return render(request, "bench/first.html", context)


def ask(request: HttpRequest, pk: int) -> HttpResponse:
    """Show what a machine says of itself, and take of it what is ticked."""
    machine = get_object_or_404(Machine, pk=pk)
    asked, taken, fault = None, None, ""
    try:
        if request.method == "POST":
            taken = take(machine, request.POST.getlist("take"))
        asked = ask_machine(machine)
    except (LinkError, ValueError) as error:
        fault = str(error)
    context = {"machine": machine, "asked": asked, "fault": fault, "taken": taken}
    return render(request, "bench/asked.html", context)
