"""What a change under the finger would look like, before it is written."""

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_POST

from workshop.jobs.models import Job
from workshop.jobs.pictures import windows
from workshop.jobs.revisions import writer
from workshop.jobs.stations import registry
from workshop.jobs.views.answers import refused
from workshop.shell.services import Error


@require_POST
@never_cache
def look(request: HttpRequest, number: int, station: str) -> HttpResponse:
    """Answer with the picture that the table would show, and its key in a header.

    Nothing is written: that follows when the hand rests. Where the change is refused,
    or where the piece would lie otherwise, there is no picture (204).
    """
    if station not in registry.LOOKED_AT:
        raise Http404
    job = get_object_or_404(Job.objects.select_related("head"), number=number)
    before = writer.spec_of(job)
    spec = registry.as_typed(job, station, request.POST)
    if spec is None or not windows.lies_the_same(before, spec):
        return HttpResponse(status=204)
    wanted = request.GET.dict()
    if wanted.get("view") not in windows.VIEWS:
        raise Http404
    try:
        found, key = windows.looked_at(spec, wanted, number)
    except Error as error:
        return refused(error.message)
    answer = HttpResponse(found.data, content_type=found.content_type)
    answer["X-Key"] = key
    return answer
