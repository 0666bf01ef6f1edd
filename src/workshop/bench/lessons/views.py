"""Photos of pieces: taken, read again, left out; recipes amended."""

from django.contrib import messages
from django.core.files.uploadedfile import SimpleUploadedFile
from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from workshop.bench.camera.card import photograph as taken
from workshop.bench.lessons import changes
from workshop.bench.lessons.pictures import KINDS, picture_path
from workshop.bench.models import Run
from workshop.bench.runs.start import CannotBurnError
from workshop.shell.numbers import finite
from workshop.shell.services import Error


def _run(pk: int) -> Run:
    return get_object_or_404(Run.objects.select_related("job__recipe", "machine"), pk=pk)


def _back(run: Run) -> HttpResponse:
    return redirect(f"{reverse('logged', args=[run.pk])}#teaches")


@require_POST
def photograph(request: HttpRequest, pk: int) -> HttpResponse:
    """Let the stand-in camera take a picture of the piece, and read it."""
    run = _run(pk)
    try:
        data = taken(run.job, run)
        changes.keep_photo(run, SimpleUploadedFile("piece.png", data, "image/png"))
    except (CannotBurnError, Error) as error:
        messages.warning(request, getattr(error, "message", str(error)))
    return _back(run)


@require_POST
def read(request: HttpRequest, pk: int) -> HttpResponse:
    """Read the photo again, with the points that were dragged or without."""
    run = _run(pk)
    if not run.photo or not changes.photo_path(run.photo).is_file():
        messages.warning(request, "Add a photo of the piece first.")
        return _back(run)
    try:
        places = [
            (finite(x), finite(y))
            for x, y in (
                pair.split(",") for pair in request.POST.get("corners", "").split()
            )
        ]
    except ValueError:
        messages.warning(request, "The four points cannot be read.")
        return _back(run)
    changes.learn(run, places or None)
    return _back(run)


@require_POST
def leave_out(request: HttpRequest, pk: int) -> HttpResponse:
    """Leave a piece out of what its recipe learns from, or count it again."""
    run = _run(pk)
    changes.leave_out(run, out=request.POST.get("out") == "1")
    return _back(run)


@require_POST
def amend(request: HttpRequest, pk: int) -> HttpResponse:
    """Amend the recipe by what its pieces say."""
    run = _run(pk)
    try:
        recipe = changes.amend(run, request.POST.get("version", ""))
    except (CannotBurnError, Error) as error:
        messages.warning(request, getattr(error, "message", str(error)))
        return _back(run)
    messages.success(request, f"{recipe} is amended; it is version {recipe.version} now.")
    return redirect("recipe", pk=recipe.pk)


@require_GET
def picture(request: HttpRequest, pk: int, kind: str) -> FileResponse:
    """Show the piece squared and evenly lit, or where it differs from what was expected."""
    if kind not in KINDS:
        raise Http404
    path = picture_path(_run(pk), kind)
    if not path.is_file():
        raise Http404
    return FileResponse(path.open("rb"), content_type="image/png")
