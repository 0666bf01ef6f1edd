"""Long work, where the worker looks for it."""

from workshop.bench.machines.tasks import keep_heights
from workshop.bench.runs.tasks import burn, tidy

__all__ = ["burn", "keep_heights", "tidy"]
