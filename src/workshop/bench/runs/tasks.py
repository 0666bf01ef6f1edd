"""Long work, done by the worker."""

import threading
import time

from django.conf import settings
from django.db import DatabaseError, close_old_connections
from huey.contrib.djhuey import HUEY, db_task, on_startup
from redis import RedisError

from workshop.bench.models import Run
from workshop.bench.runs.follow import (
    end,
    follow,
    follow_to_the_end,
    give_up_left_over,
    prepare,
)
from workshop.jobs.pictures.engine import warm_up
from workshop.shell.alone import alone

_EVERY_S = 0.4
NO_TASKS = (
    "The Redis that OLD_EMBER_REDIS names does not answer, so no worker hears of this "
    "burn; start it, then burn again."
)
_tidying, _tidied = threading.Lock(), threading.Event()


@on_startup()
def tidy() -> None:
    """Close what an earlier worker was preparing, follow what burns, and get warm.

    Every thread of the worker begins with this, and none may take a task before it is
    done; it is done once.
    """
    with _tidying:
        if not _tidied.is_set():
            _tidied.set()
            give_up_left_over()
            threading.Thread(target=_follow_all, daemon=True).start()
            warm_up()


def _follow_all() -> None:
    """Note how all burns go, for as long as the worker lives; of several workers one."""
    while True:
        with alone(settings.VAR / "following") as mine:
            if mine:
                _follow_each()
        time.sleep(_EVERY_S)


def _follow_each() -> None:
    try:
        for run in Run.objects.filter(state="running").select_related("machine"):
            follow(run)
        close_old_connections()
    except DatabaseError:
        pass  # locked for the moment; what burns goes on, and is noted next time


def hand_over(run: Run) -> None:
    """Let a worker burn it; where no task can be left for one, the burn has failed."""
    try:
        burn(run.pk)
    except RedisError:
        end(run, "failed", NO_TASKS)


@db_task()
def burn(run_id: int) -> None:
    """Burn a job on its controller."""
    run = Run.objects.select_related("job__machine", "machine").get(pk=run_id)
    prepare(run)
    if HUEY.immediate:
        follow_to_the_end(run)
