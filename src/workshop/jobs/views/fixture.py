"""Fixtures: pictures for the pockets, their likenesses, and the template sheet."""

from django.http import Http404, HttpRequest, HttpResponse
from django.views.decorators.http import require_GET, require_POST

from workshop.jobs.pictures import intake, windows
from workshop.jobs.revisions import writer
from workshop.jobs.stations.place import fixture
from workshop.jobs.views.answers import answer, job_numbered, refused
from workshop.jobs.views.files import kept
from workshop.shell.services import Error


@require_POST
def fill(request: HttpRequest, number: int) -> HttpResponse:
    """Put uploaded pictures into the pockets, in burning order."""
    job = job_numbered(number)
    artworks = []
    for upload in request.FILES.getlist("files"):
        try:
            artworks.append(intake.keep_artwork(upload.name or "picture", upload.chunks()))
        except Error as error:
            return refused(f"{upload.name}: {error.message}")
    try:
        count = fixture.fill_pockets(job, artworks, fit="fit" in request.POST)
    except Error as error:
        return refused(error.message)
    said = f"{count} picture{'s' if count != 1 else ''} in the pockets."
    return answer(request, job_numbered(number), said=said)


@require_GET
def pocket(request: HttpRequest, number: int, index: int, key: str) -> HttpResponse:
    """Return the proof in one pocket, small; the key only makes the address unique."""
    spec = writer.spec_of(job_numbered(number))
    if spec.fixture is None or index >= spec.fixture.count:
        raise Http404
    return kept(windows.thumbnail(fixture.pocket_piece(spec, index), 200))


@require_GET
def template(request: HttpRequest, number: int) -> HttpResponse:
    """Return the sheet that locates the blanks, as PDF at true size."""
    job = job_numbered(number)
    try:
        sheet = fixture.template_sheet(writer.spec_of(job))
    except Error as error:
        return refused(error.message)
    response = HttpResponse(sheet, content_type="application/pdf")
    response["Content-Disposition"] = f'attachment; filename="{number:04d}-template.pdf"'
    return response
