"""The pages of files of G-code."""

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET, require_POST

from workshop.bench.files import burning, facts, pictures
from workshop.bench.files.form import PlacingForm
from workshop.bench.models import FileBurn
from workshop.bench.runs.start import CannotBurnError
from workshop.jobs.exports.opening import open_with_picture
from workshop.jobs.models import GcodeFile
from workshop.shell.numbers import finite
from workshop.shell.services import Error


@require_GET
@never_cache
def files(request: HttpRequest) -> HttpResponse:
    """Show the files that came in."""
    listed = GcodeFile.objects.select_related("machine").prefetch_related("burns")[:200]
    return render(request, "bench/files.html", {"files": listed})


def _file(pk: int) -> GcodeFile:
    return get_object_or_404(GcodeFile.objects.select_related("machine"), pk=pk)


@never_cache
def file(request: HttpRequest, pk: int) -> HttpResponse:
    """Show a file as it lies on its machine; place it."""
    found = _file(pk)
    if request.method != "POST":
        return _page(request, found)
    form = PlacingForm(request.POST)
    if not form.is_valid():
        return _page(request, found, form)
    for name, value in form.cleaned_data.items():
        setattr(found, name, value)
    found.save()
    return redirect("gcode_file", pk=pk)


def _page(
    request: HttpRequest, found: GcodeFile, form: PlacingForm | None = None, fault: str = ""
) -> HttpResponse:
    for made in found.burns.filter(state="running"):
        burning.follow(made)
    context: dict[str, Any] = facts.page_facts(found)
    if "lies" in context:
        lies = context["lies"]
        first = {
            "machine": context["machine"], "full_power": context["full_power"],
            "x_mm": lies.burned[0], "y_mm": lies.burned[1],
        }  # fmt: skip
        context["form"] = form or PlacingForm(initial=first)
    context["fault"] = fault
    bad = bool(fault) or (form is not None and not form.is_valid())
    return render(request, "bench/file.html", context, status=422 if bad else 200)


@require_POST
def burn(request: HttpRequest, pk: int) -> HttpResponse:
    """Burn a file where it lies."""
    found = _file(pk)
    name = " ".join(request.POST.get("name", "").split()) or request.user.get_username()
    try:
        burning.burn(
            found,
            operator=name,
            ticked=request.POST.getlist("tick"),
            seen=request.POST.get("seen") == "on",
        )
    except (CannotBurnError, Error) as error:
        return _page(request, found, fault=str(getattr(error, "message", error)))
    return redirect("gcode_file", pk=pk)


@require_POST
def walk(request: HttpRequest, pk: int) -> HttpResponse:
    """Send the head round a file."""
    found = _file(pk)
    try:
        burning.walk(found, finite(request.POST.get("power", "0")))
    except ValueError:
        return _page(request, found, fault="Type the faint beam's power in %.")
    except (CannotBurnError, Error) as error:
        return _page(request, found, fault=str(getattr(error, "message", error)))
    messages.success(request, "The head walks round it.")
    return redirect("gcode_file", pk=pk)


@require_POST
def stop(request: HttpRequest, pk: int) -> HttpResponse:
    """Stop a burn of a file."""
    made = get_object_or_404(FileBurn, pk=pk)
    if fault := burning.stop(made):
        messages.warning(request, fault)
    return redirect("gcode_file", pk=made.file_id)


@require_POST
def with_picture(request: HttpRequest, pk: int) -> HttpResponse:
    """Open the job in a file with the picture it asks for."""
    found, upload = _file(pk), request.FILES.get("picture")
    if upload is None:
        return _page(request, found, fault="Choose the picture first.")
    try:
        job = open_with_picture(found, upload.name or "picture", upload.chunks())
    except Error as error:
        return _page(request, found, fault=error.message)
    return redirect("job", number=job.number)


@require_POST
def remove(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a file off the list; burns of it go with it."""
    found = _file(pk)
    messages.success(request, f"{found.name} is removed.")
    found.delete()
    return redirect("gcode_files")


@require_GET
def picture(request: HttpRequest, pk: int, what: str) -> HttpResponse:
    """Show where a file burns: by itself, or on the bed."""
    if what not in ("own", "bed"):
        raise Http404
    found = _file(pk)
    part = facts.part_of(facts.machine_for(found))
    try:
        data = pictures.picture(found, part, bed=what == "bed")
    except Error:
        raise Http404 from None
    return HttpResponse(data, content_type="image/png")
