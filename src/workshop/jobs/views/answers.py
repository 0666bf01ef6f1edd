"""What every view of the rack and the tickets answers with."""

import json
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.urls import reverse

from workshop.jobs import choices
from workshop.jobs.forms import FORMS, StationForm, form_class
from workshop.jobs.forms.marks import MarkForm
from workshop.jobs.forms.operations import OperationForm
from workshop.jobs.models import Job
from workshop.jobs.services import (
    bed_camera,
    border,
    cards,
    dots_facts,
    fixture,
    marks,
    mount,
    operations,
    picture_facts,
    pictures,
    place_facts,
    proxies,
    revisions,
    stations,
    takes,
    tone_facts,
)
from workshop.jobs.services import readings as facts
from workshop.shell.numbers import whole

MARK_VALUES = {"kind": "upright", "x_mm": 0, "y_mm": 0, "width_mm": 50, "height_mm": 50}


def job_numbered(number: int) -> Job:
    """Return the job of a ticket number, or answer 404."""
    return get_object_or_404(Job.objects.with_all(), number=number)


def is_partial(request: HttpRequest) -> bool:
    """Whether htmx asks for a part of a page."""
    return bool(getattr(request, "htmx", False))


def refused(sentence: str) -> HttpResponse:
    """Answer that something cannot be done, and why."""
    return HttpResponse(sentence, status=422, content_type="text/plain; charset=utf-8")


def meanwhile(request: HttpRequest, job: Job, form: StationForm) -> str:
    """Say whether the job was changed elsewhere since the page was made.

    The page tells the state it shows, and what it showed of each changed field.
    Nothing is undone: both changes stand, and of a field that was changed twice
    the newest value, with the other one named.
    """
    shown = request.headers.get("X-Base", "")
    if not shown or shown == job.state:
        return ""
    twice = []
    for name in sorted(form.typed):
        before, now = request.POST.get(f"was:{name}"), form.posted_now(name)
        if before is not None and before != now and now != form.data.get(name, ""):
            twice.append(f"{form.fields[name].label} was {now or 'off'} there")
    told = f" {', '.join(twice)}; Undo goes back to it." if twice else ""
    return f"This ticket was changed on another page meanwhile; both changes stand.{told}"


def sent_to(job: Job, station: str) -> HttpResponse:
    """Answer by opening another job's station."""
    response = HttpResponse(status=204)
    response["HX-Redirect"] = reverse("station", args=[job.number, station])
    return response


def answer(  # noqa: PLR0913 (all but the first three keywords)
    request: HttpRequest,
    job: Job,
    form: StationForm | None = None,
    *,
    also: dict[str, Any] | None = None,
    live: bool = False,
    ahead: bool = False,
    said: str = "",
) -> HttpResponse:
    """Return what a change alters: the stations, and beside them the rest.

    ``also`` holds forms with faults that a station shows beside its own.

    Where the grid stayed as it was (`live`, `ahead`) the table fetches its
    picture before the page has taken in the rest.
    """
    context = ticket_context(request, job, form, live=live)
    context["said"] = said or revisions.met()
    context |= also or {}
    page = "jobs/_partials/live.html" if live else "jobs/_partials/answer.html"
    response = render(request, page, context)
    if live:
        response["HX-Reswap"] = "none"
    faulty = [one for one in (form, *(also or {}).values()) if one and one.errors]
    if faulty:
        # What still shows what was refused; "-" where nothing does.
        names = [name for one in faulty for name in one.refused]
        response["X-Faults"] = ",".join(names) or "-"
    if live or ahead:
        response["X-Keys"] = json.dumps(context["keys"])
    return response


def ticket_context(
    request: HttpRequest, job: Job, form: StationForm | None = None, *, live: bool = False
) -> dict[str, Any]:
    """Return what the ticket and its parts show."""
    spec, slug = revisions.spec_of(job), job.station
    shown = revisions.shown_spec(job)
    found = facts.quick_findings(job, spec)
    can_undo, can_redo = revisions.can_undo_redo(job)
    context: dict[str, Any] = {
        "job": job,
        "spec": spec,
        "lines": facts.station_lines(job, spec, found),
        "station": slug,
        "station_template": _template(slug, card=spec.card is not None),
        "can_undo": can_undo,
        "can_redo": can_redo,
        "state": job.state,
        "keys": pictures.view_keys(shown),
        "stage": {
            **facts.stage_facts(shown),
            "large": "1" if proxies.is_large(shown) else "",
        },
        "readings": facts.quick_readings(spec),
        "form": form,
        "fold": (form and form.fold()) or request.COOKIES.get("fold", ""),
        "said": "",
        "exact": False,
        "takes": [] if live else takes.cards(job, spec),
        "stops": facts.weights(found)[0],
        "first_fix": facts.first_fix(found),
    }
    if slug in FORMS and form is None and not live:
        values = stations.station_values(job, slug)
        context["form"] = form_class(slug, card=spec.card is not None)(initial=values)
    context.update(_station_context(job, spec, slug, live=live))
    if slug == "place":
        context |= _operations_context(request, job, spec)
    return context


def _bed_and_camera(spec: Any, job: Job) -> dict[str, Any]:
    seen = bed_camera.camera_facts(job, spec)
    return {**place_facts.bed_facts(spec, seen.get("middles", [])), "camera": seen}


def _operations_context(request: HttpRequest, job: Job, spec: Any) -> dict[str, Any]:
    """Return the list of operations, and the form of the one that was looked at last."""
    text = request.COOKIES.get("operation", "0")
    ops = operations.operations_facts(spec, whole(text) or 0)
    return {
        "ops": ops,
        "operation": operation_form(job, spec, ops["looked"]),
        "marks": marks.mark_rows(spec),
        "mark": MarkForm(initial=MARK_VALUES, auto_id="mark-%s"),
        "adding": choices.adding_choices(),
    }


def operation_form(job: Job, spec: Any, at: int, data: Any = None) -> OperationForm:
    """Return the form of one operation, filled with its values or with what was sent."""
    values = operations.operation_values(spec, at)
    recipes = operations.fitting_recipes(job, ["hatch", "score", "cut"])
    if data is None:
        return OperationForm(initial=values, recipes=recipes)
    return OperationForm.of(data, values, recipes=recipes)


def _template(slug: str, *, card: bool) -> str:
    """Return a station's template; a swatch card has its own, and knows no tone."""
    own = {"artwork": "card", "tone": "card_tone"}.get(slug, slug) if card else slug
    return f"jobs/stations/{own}.html"


def _station_context(job: Job, spec: Any, slug: str, *, live: bool) -> dict[str, Any]:
    if slug == "dots":
        found = dots_facts.dots_facts(spec, quick=live)
        return {"methods": choices.dot_methods(), "facts": found}
    if spec.card is not None and slug in ("artwork", "tone"):
        return {"facts": cards.card_facts(spec)}
    if slug == "artwork" and live:
        return {"facts": picture_facts.counts(spec)}
    facts_of = {
        "artwork": lambda: picture_facts.artwork_facts(spec, job),
        "blank": lambda: picture_facts.blank_facts(spec, job),
        "tone": lambda: tone_facts.tone_facts(spec, quick=live),
        "burn": lambda: facts.burn_facts(spec, job),
        "place": lambda: {
            **_bed_and_camera(spec, job),
            "fixture": fixture.fixture_facts(spec),
            "mount": mount.mount_facts(spec),
            "walk": border.border_facts(spec),
        },
    }.get(slug)
    return {"facts": facts_of()} if facts_of else {}
