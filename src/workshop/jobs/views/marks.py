"""Helper marks on the bed."""

from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import require_POST

from workshop.jobs.cards.outlines import outlines_on_card
from workshop.jobs.stations.place.mark_form import MarkForm
from workshop.jobs.stations.place.marks import add_mark, remove_mark
from workshop.jobs.views.answers import answer, job_numbered, refused, sent_to
from workshop.shell.services import Error


@require_POST
def add(request: HttpRequest, number: int) -> HttpResponse:
    """Draw a mark."""
    form = MarkForm(request.POST, auto_id="mark-%s")
    request.COOKIES["fold"] = "marks"
    if form.is_valid():
        try:
            add_mark(job_numbered(number), form.cleaned_data)
        except Error as error:
            form.add_error(None, error.message)
    return answer(
        request, job_numbered(number), also={"mark": form} if form.errors else None
    )


@require_POST
def remove(request: HttpRequest, number: int, at: int) -> HttpResponse:
    """Take a mark off."""
    request.COOKIES["fold"] = "marks"
    try:
        remove_mark(job_numbered(number), at)
    except Error as error:
        return refused(error.message)
    return answer(request, job_numbered(number))


@require_POST
def on_card(request: HttpRequest, number: int) -> HttpResponse:
    """Open a job that burns the blanks' outlines on card."""
    try:
        twin = outlines_on_card(job_numbered(number))
    except Error as error:
        return refused(error.message)
    return sent_to(twin, "place")
