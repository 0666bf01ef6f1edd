"""Proofs sent to whom a piece is for; the page they see shows nothing else."""

from typing import Any

from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET, require_POST

from workshop.jobs.approvals import asking
from workshop.jobs.approvals.one_file import one_file, printed
from workshop.jobs.models import Approval
from workshop.jobs.pictures.store import proof_path
from workshop.jobs.revisions.writer import spec_of
from workshop.jobs.views.answers import job_numbered
from workshop.shell.numbers import whole
from workshop.shell.services import Error

_WORDS = ("chosen", "name", "remark")


@never_cache
def approvals(request: HttpRequest, number: int) -> HttpResponse:
    """Show a ticket's proofs and what came back; make another."""
    job = job_numbered(number)
    fault = ""
    if request.method == "POST":
        takes = {whole(one) or 0 for one in request.POST.getlist("takes")}
        try:
            asking.ask(job, takes, request.POST.get("message", ""))
        except Error as error:
            fault = error.message
        else:
            messages.success(request, "The proof is ready to be sent.")
            return redirect("approvals", number=number)
    found = [
        (one, request.build_absolute_uri(reverse("proof_page", args=[one.token])))
        for one in job.approvals.all()
    ]
    context = {
        "job": job,
        "found": found,
        "takes": job.takes.all(),
        "fault": fault,
        "standing": asking.standing(job, spec_of(job)),
        "message": request.POST.get("message", "") if fault else "",
    }
    return render(request, "jobs/approvals.html", context)


@require_POST
def act(request: HttpRequest, number: int, pk: int, do: str) -> HttpResponse:
    """Take a proof back, write down an answer that came otherwise, or follow it."""
    approval = get_object_or_404(Approval, pk=pk, job=job_numbered(number))
    if do == "back":
        asking.take_back(approval)
    elif do == "follow":
        asking.take_chosen(approval)
        return redirect("job", number=number)
    elif do == "note":
        try:
            asking.answer(approval, *_answered(request))
        except Error as error:
            messages.warning(request, error.message)
    else:
        raise Http404
    return redirect("approvals", number=number)


def _answered(request: HttpRequest) -> tuple[int | None, str, str]:
    words, told = request.POST, request.POST.get("chosen", "")
    # Nothing is chosen by itself: who presses without choosing is asked.
    chosen = None if told == "change" else (whole(told) if told.isdigit() else -1)
    return chosen, words.get("name", ""), words.get("remark", "")


@require_GET
def file(request: HttpRequest, number: int, pk: int) -> HttpResponse:
    """Give a proof as one file: a page that asks, or pages to print and to sign."""
    approval = get_object_or_404(Approval, pk=pk, job=job_numbered(number))
    if request.GET.get("as") == "pdf":
        answer = HttpResponse(printed(approval), content_type="application/pdf")
        answer["Content-Disposition"] = f'attachment; filename="proof-{number:04d}.pdf"'
        return answer
    answer = HttpResponse(one_file(approval), content_type="text/html; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="proof-{number:04d}.html"'
    return answer


@login_not_required
@never_cache
def proof_page(request: HttpRequest, token: str) -> HttpResponse:
    """Show a proof to whom it was sent, and take what they say."""
    approval = get_object_or_404(Approval, token=token, job__removed_at=None)
    context: dict[str, Any] = {"approval": approval, "fault": ""}
    if request.method == "POST":
        try:
            asking.answer(approval, *_answered(request))
        except Error as error:
            typed = {name: request.POST.get(name, "") for name in _WORDS}
            context |= {"fault": error.message, "typed": typed}
        else:
            return redirect("proof_page", token=token)
    answer = render(request, "jobs/proof_page.html", context)
    answer["X-Robots-Tag"] = "noindex, nofollow"
    return answer


@login_not_required
@require_GET
def proof_picture(request: HttpRequest, token: str, at: int) -> HttpResponse:
    """Return a picture of a proof that was sent."""
    approval = get_object_or_404(
        Approval, token=token, taken_back=False, job__removed_at=None
    )
    path = proof_path(token, at)
    if at >= len(approval.shown) or not path.is_file():
        raise Http404
    answer = HttpResponse(path.read_bytes(), content_type="image/jpeg")
    answer["Cache-Control"] = "private, max-age=86400, immutable"
    return answer
