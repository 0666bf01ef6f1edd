"""Long work, done by the worker."""

from huey.contrib.djhuey import db_task, on_startup

from workshop.bench import services
from workshop.bench.models import Run


@on_startup()
def tidy() -> None:
    """Close what an earlier worker left open."""
    services.give_up_left_over()


@db_task()
def burn(run_id: int) -> None:
    """Burn a job on its controller."""
    services.burn(Run.objects.select_related("job__machine").get(pk=run_id))
