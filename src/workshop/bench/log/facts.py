"""What the log shows of each burn, and of two beside one another."""

from dataclasses import dataclass
from typing import Any

from django.core.paginator import Page, Paginator

from engraving.jobspec import JobSpec
from workshop.bench.log.search import Wanted, found
from workshop.bench.models import Run
from workshop.bench.runs.keep import recipe_name
from workshop.jobs.revisions.differences import differing, said

_A_PAGE = 50


@dataclass(frozen=True)
class Row:
    """A burn, its description, and the name a recipe of it would have."""

    run: Run
    spec: JobSpec
    name: str


def row_of(run: Run) -> Row:
    """Return a burn as it is shown."""
    spec = JobSpec.model_validate(run.spec)
    return Row(run, spec, recipe_name(spec, run.job.number))


def log(wanted: Wanted, number: int) -> tuple[Page[Run], list[Row]]:
    """Return a page of the burns that are asked for, and its rows."""
    page = Paginator(found(wanted), _A_PAGE).get_page(number)
    return page, [row_of(run) for run in page]


@dataclass(frozen=True)
class Beside:
    """Two burns, and the values in which they differ: of the first, of the second."""

    rows: list[Row]
    values: list[tuple[str, str]]


def beside(first: Run, second: Run) -> Beside:
    """Lay two burns beside one another."""
    rows = [row_of(first), row_of(second)]
    specs = [one.spec for one in rows]
    paths = differing(specs)
    values = list(zip(*(said(one, paths) for one in specs), strict=True))
    return Beside(rows, values)


def told(run: Run) -> list[tuple[str, str]]:
    """Return what happened on the way, in the order of happening."""
    lines: list[tuple[str, str]] = []
    if run.first_row:
        lines.append(("Begun", f"at row {run.first_row}; those before were burned already"))
    for at, feed, power in run.trims:
        lines.append((f"{at:.0f} s", f"speed {feed} %, power {power} %"))
    if run.holds:
        lines.append(("Held", f"{run.holds} time{'s' if run.holds > 1 else ''}"))
    lines += [(f"{at:.0f} s", said) for at, said in run.alarms if said != run.error]
    if run.error:
        lines.append(("Ended", run.error))
    return lines


def page_facts(run: Run) -> dict[str, Any]:
    """Return what a burn's own page shows."""
    others = Run.objects.exclude(state="queued").exclude(pk=run.pk)
    same = others.filter(job=run.job_id) | others.filter(
        spec__substrate__name=run.spec["substrate"]["name"]
    )
    return {
        "row": row_of(run),
        "told": told(run),
        "others": list(same.select_related("job").order_by("-pk")[:30]),
    }
