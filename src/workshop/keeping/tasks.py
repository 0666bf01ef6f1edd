"""What the worker does by itself: backups, and the bin."""

import logging

from django.conf import settings
from huey import crontab
from huey.contrib.djhuey import db_periodic_task

from workshop.jobs.ticket.bin import empty_old
from workshop.keeping import nightly
from workshop.shell.alone import alone

_log = logging.getLogger(__name__)


@db_periodic_task(crontab(minute="*/10"))
def keep_house() -> None:
    """Make last night's backup where it is due, and empty the bin of what is old.

    Asked every ten minutes and not at an hour: a workshop's computer sleeps at night.
    Of several workers one does it.
    """
    with alone(settings.VAR / "housekeeping") as mine:
        if mine:
            _keep_house()


def _keep_house() -> None:
    empty_old()
    if not nightly.due():
        return
    try:
        nightly.make()
    except OSError as error:
        _log.warning("the nightly backup could not be made (%s)", error.strerror)
