"""Helper marks on the bed."""

from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import require_POST

from workshop.jobs.forms.marks import MarkForm
from workshop.jobs.services import marks, tickets
from workshop.jobs.views.answers import answer, job_numbered, refused, sent_to


@require_POST
def add(request: HttpRequest, number: int) -> HttpResponse:
    """Draw a mark."""
    form = MarkForm(request.POST, auto_id="mark-%s")
    request.COOKIES["fold"] = "marks"
    if form.is_valid():
        try:
            marks.add_mark(job_numbered(number), form.cleaned_data)
        except tickets.Error as error:
            form.add_error(None, error.message)
    return answer(
        request, job_numbered(number), also={"mark": form} if form.errors else None
    )


@require_POST
def remove(request: HttpRequest, number: int, at: int) -> HttpResponse:
    """Take a mark off."""
    request.COOKIES["fold"] = "marks"
    try:
        marks.remove_mark(job_numbered(number), at)
    except tickets.Error as error:
        return refused(error.message)
    return answer(request, job_numbered(number))


@require_POST
def on_card(request: HttpRequest, number: int) -> HttpResponse:
    """Open a job that burns the blanks' outlines on card."""
    try:
        twin = marks.outlines_on_card(job_numbered(number))
    except tickets.Error as error:
        return refused(error.message)
    return sent_to(twin, "place")
