"""Long work, done by the worker."""

from huey.contrib.djhuey import db_task

from workshop.bench import services
from workshop.bench.models import Run


@db_task()
def burn(run_id: int) -> None:
    """Burn a job on its controller."""
    services.burn(Run.objects.select_related("job__machine").get(pk=run_id))
