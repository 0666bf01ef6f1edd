"""A blank that is made in the middle of a job."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect

from workshop.jobs.stations.registry import change_station
from workshop.jobs.ticket.lifecycle import visit
from workshop.jobs.views.answers import job_numbered
from workshop.shelf.blanks.views import asked_for


def new_blank(request: HttpRequest, number: int) -> HttpResponse:
    """Show a new blank's form; once it is saved, the ticket has it."""
    job = job_numbered(number)
    found = asked_for(request, None, ticket=job)
    if isinstance(found, HttpResponse):
        return found
    change_station(job, "blank", {"blank": found}, apart=True)
    visit(job_numbered(number), "blank")
    messages.success(request, f"{found.name} is on the shelf, and on this ticket.")
    return redirect("job", number=number)
