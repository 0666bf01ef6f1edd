"""Long work, where the worker looks for it."""

from workshop.bench.runs.tasks import burn, tidy

__all__ = ["burn", "tidy"]
