"""The page of backups."""

import tempfile

from django.contrib import messages
from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET, require_POST

from workshop.jobs.pictures.engine import stage_cache
from workshop.keeping import about, nightly
from workshop.keeping.backup import write_backup
from workshop.keeping.models import Keeping
from workshop.shell.roles import may


@never_cache
def keeping(request: HttpRequest) -> HttpResponse:
    """Show what is kept, and switch the nightly backup."""
    if request.method == "POST":
        wanted = request.POST.get("nightly") == "1"
        Keeping.objects.update_or_create(pk=1, defaults={"nightly": wanted})
        said = "A backup is made every night." if wanted else "No backup is made by itself."
        messages.success(request, said)
        return redirect("keeping")
    context = {
        "nightly": Keeping.now().nightly,
        "kept": [(one.name, one.stat().st_size) for one in nightly.kept()],
        "most": nightly.KEPT,
        "versions": about.versions(),
        "cache": stage_cache().use,
        "places": about.places() if may(request.user, "burns") else [],
    }
    return render(request, "keeping/keeping.html", context)


@require_POST
def backup(request: HttpRequest) -> FileResponse:
    """Give a backup of everything, made this moment."""
    stream = tempfile.TemporaryFile()  # noqa: SIM115 (the answer closes it)
    write_backup(stream)
    stream.seek(0)
    name = f"old-ember-{timezone.localtime():%Y-%m-%d-%H%M}.zip"
    return FileResponse(stream, as_attachment=True, filename=name)


@require_GET
def kept(request: HttpRequest, name: str) -> FileResponse:
    """Give one of the nightly backups."""
    found = next((one for one in nightly.kept() if one.name == name), None)
    if found is None:
        raise Http404
    return FileResponse(found.open("rb"), as_attachment=True, filename=name)
