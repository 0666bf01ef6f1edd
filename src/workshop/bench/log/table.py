"""The log as CSV (RFC 4180, UTF-8), a row a burn."""

import csv
import io
from collections.abc import Iterable, Iterator

from engraving.jobspec import JobSpec
from workshop.bench.models import Run
from workshop.shelf.recipes.table import written

COLUMNS = (
    "begun", "ended", "job", "name", "customer", "revision", "machine", "lens", "material",
    "recipe", "version", "power_percent", "speed_mm_s", "passes", "pitch_mm", "method",
    "operator", "state", "result", "why", "rating", "rows", "rows_burned", "planned_s",
    "took_s", "holds", "trims", "alarms", "signed", "fault", "output_sha256", "notes",
)  # fmt: skip


def csv_rows(runs: Iterable[Run]) -> Iterator[str]:
    """Yield the table's lines; the first begins with a byte order mark."""
    yield "\ufeff" + _line(dict(zip(COLUMNS, COLUMNS, strict=True)))
    for run in runs:
        yield _line({name: written(value) for name, value in _row(run).items()})


def _line(values: dict[str, str]) -> str:
    stream = io.StringIO(newline="")
    csv.DictWriter(stream, COLUMNS).writerow(values)
    return stream.getvalue()


def _row(run: Run) -> dict[str, object]:
    spec = JobSpec.model_validate(run.spec)
    burn, machine = spec.burn, spec.machine
    return {
        "begun": run.created.isoformat(timespec="seconds"),
        "ended": run.ended.isoformat(timespec="seconds") if run.ended else "",
        "job": run.job.number,
        "name": run.job.name,
        "customer": run.job.customer,
        "revision": run.revision,
        "machine": machine.name,
        "lens": machine.lens,
        "material": spec.substrate.name,
        "recipe": burn.recipe,
        "version": burn.recipe_version or "",
        "power_percent": burn.power,
        "speed_mm_s": burn.speed_mm_s,
        "passes": burn.passes,
        "pitch_mm": spec.size.pitch_mm,
        "method": "its own dots" if spec.keeps_dots else spec.dots.method,
        "operator": run.operator,
        "state": run.get_state_display(),
        "result": run.get_result_display() if run.result else "",
        "why": run.why,
        "rating": run.rating or "",
        "rows": run.rows,
        "rows_burned": run.rows_done,
        "planned_s": round(run.planned_s, 1),
        "took_s": round(run.clock_s, 1),
        "holds": run.holds,
        "trims": "; ".join(f"{at:g} s {feed} % {power} %" for at, feed, power in run.trims),
        "alarms": "; ".join(f"{at:g} s {said}" for at, said in run.alarms),
        "signed": "; ".join(f"{one['name']}: {one['sentence']}" for one in run.signed),
        "fault": run.error,
        "output_sha256": run.output_sha256,
        "notes": run.notes,
    }
