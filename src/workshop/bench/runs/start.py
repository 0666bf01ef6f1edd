"""Start a burn, or refuse to: one a machine at a time."""

from collections.abc import Callable

from django.db import IntegrityError, transaction

from engraving.errors import EngravingError
from workshop.bench.models import FileBurn, Run
from workshop.bench.where import address_of, link
from workshop.controller.errors import LinkError
from workshop.jobs.exports.gate import held, signed_as_logged
from workshop.jobs.hands.ticks import as_logged, open_lines, used_up
from workshop.jobs.models import Job
from workshop.jobs.pictures.engine import pipeline
from workshop.jobs.revisions.writer import spec_of

Teller = Callable[[Run], None]
ENDS = ("done", "stopped", "failed")
"""States of a program on the link that is over."""
BUSY = "The machine is busy with another burn."


class CannotBurnError(Exception):
    """The job is held; the message says why."""


def start_run(job: Job, after: int = 0, operator: str = "") -> Run:
    """Make a burn of a job's present state, ready for the worker.

    Parameters
    ----------
    job : Job
    after : int
        So many rows are burned already, and are left out.
    operator : str
        Who burns it, where that is known.

    Raises
    ------
    CannotBurnError
        When a stop or an unsigned caution holds the job, its list for the hands is not
        ticked, it cannot be computed, or its machine is busy.
    """
    if why := held_back(job):
        raise CannotBurnError(why)
    hold_free(job)
    if not after and (why := open_lines(job)):
        # Of a piece that is gone on with, nothing was touched.
        raise CannotBurnError(why)
    if not after and (why := not_touched(job)):
        raise CannotBurnError(why)
    planned_s = pipeline().estimate(spec_of(job)).seconds
    try:
        with transaction.atomic():
            run = Run.objects.create(
                job=job,
                machine=job.machine,
                address=address_of(job.machine),
                spec=job.spec_data,
                planned_s=planned_s,
                first_row=after,
                hands=as_logged(job),
                signed=signed_as_logged(job),
                operator=operator[:40],
                revision=job.head.number if job.head else 0,
            )
            used_up(job)
            return run
    except IntegrityError:
        raise CannotBurnError(BUSY) from None


def queue_run(job: Job) -> Run:
    """Let a job come next on its machine; what is burned is fixed now.

    Raises
    ------
    CannotBurnError
        As `start_run`, but for a machine that is busy.
    """
    if why := held_back(job):
        raise CannotBurnError(why)
    return Run.objects.create(
        job=job,
        machine=job.machine,
        address=address_of(job.machine),
        spec=job.spec_data,
        planned_s=pipeline().estimate(spec_of(job)).seconds,
        state="queued",
        revision=job.head.number if job.head else 0,
    )


def begin_queued(run: Run, operator: str = "") -> None:
    """Let the piece that comes next be burned.

    Raises
    ------
    CannotBurnError
        When it is not in the queue any more, the job was changed since, or the machine
        is busy.
    """
    if run.job.spec_data != run.spec:
        raise CannotBurnError("The job was changed since; take it off and add it anew.")
    if why := held_back(run.job):
        raise CannotBurnError(why)
    hold_free(run.job)
    if why := open_lines(run.job) or not_touched(run.job):
        raise CannotBurnError(why)
    queued = Run.objects.filter(pk=run.pk, state="queued")
    try:
        with transaction.atomic():
            begun = queued.update(
                state="waiting",
                hands=as_logged(run.job),
                signed=signed_as_logged(run.job),
                operator=operator[:40],
            )
            if begun:
                used_up(run.job)
    except IntegrityError:
        raise CannotBurnError(BUSY) from None
    if not begun:
        raise CannotBurnError("It is not in the queue any more.")


def held_back(job: Job) -> str:
    """Return what keeps a job from being burned as it stands, empty where nothing does."""
    try:
        return held(job)
    except EngravingError as error:
        return error.message


def not_touched(job: Job) -> str:
    """Return why a tool would not find the piece, empty where it was touched off."""
    if not spec_of(job).machine.touches:
        return ""
    return tool_in_the_air(address_of(job.machine))


def tool_in_the_air(address: str) -> str:
    """Return why a tool at an address would not find its piece, empty where it would."""
    try:
        known = link("state", address=address)
    except LinkError as error:
        return str(error)
    if known.get("touched"):
        return ""
    return (
        "The tool was not touched off on this piece: lower it until it touches, and say so "
        "on the machine's page."
    )


def hold_free(job: Job) -> None:
    """Make sure that a job's machine burns nothing.

    Raises
    ------
    CannotBurnError
        When it does.
    """
    hold_address_free(address_of(job.machine))


def hold_address_free(address: str) -> None:
    """Make sure that nothing is burned at an address, neither a job nor a file.

    Raises
    ------
    CannotBurnError
        When something is.
    """
    if Run.objects.active().filter(address=address).exists():
        raise CannotBurnError(BUSY)
    for made in FileBurn.objects.filter(address=address, state="running"):
        # Its page may not have been looked at since it ended: the link knows.
        try:
            known = link("program", address=address, name=made.link_name)
        except LinkError:
            continue
        if known and known["state"] not in ENDS:
            raise CannotBurnError(BUSY)


def stop_run(run: Run, *, hard: bool = False) -> str:
    """Stop a burn: the machine first, whatever the tables do; return what went wrong.

    Parameters
    ----------
    run : Run
    hard : bool
        At once, though the machine may lose its place.
    """
    fault = ""
    try:
        link("stop", address=run.address, name=str(run.pk), hard=hard)
    except LinkError as error:
        fault = str(error)
    Run.objects.filter(pk=run.pk).update(stop_wanted=True)
    return fault


def go_on(run: Run) -> None:
    """Let a burn that is held, or waits for its operator, go on.

    Raises
    ------
    CannotBurnError
        When the machine is not reached.
    """
    _tell(run, "go_on")


def hold(run: Run) -> None:
    """Hold a burn after its row; asked for again, at once.

    Raises
    ------
    CannotBurnError
        When the machine is not reached.
    """
    _tell(run, "hold")


def _tell(run: Run, do: str) -> None:
    try:
        link(do, address=run.address)
    except LinkError as error:
        raise CannotBurnError(str(error)) from None
