"""What the log shows of each burn."""

from dataclasses import dataclass

from engraving.jobspec import JobSpec
from workshop.bench.models import Run
from workshop.bench.runs.keep import recipe_name

_LOGGED = 200


@dataclass(frozen=True)
class Row:
    """A burn, its description, and the name a recipe of it would have."""

    run: Run
    spec: JobSpec
    name: str


def log() -> list[Row]:
    """Return the burns of the log, newest first."""
    runs = Run.objects.exclude(state="queued").select_related("job__recipe").order_by("-pk")
    runs = runs[:_LOGGED]
    specs = [(run, JobSpec.model_validate(run.spec)) for run in runs]
    return [Row(run, spec, recipe_name(spec, run.job.number)) for run, spec in specs]
