"""A stage of a job says what it reads; its key follows from that.

A stage names the values of a job it reads and the stages it needs. It is handed a
job that holds these values and no others, and no results but those: what it does not
name it cannot have, so its key (a digest of exactly this) can lack nothing.

`stage` results are kept in the pipeline's cache. A `value` is plain data, cheap to
come by, and its key is what it comes to: a change that leaves a value as it was
leaves all as it was that reads the value only. `passing` results (a tool path that
is walked once) are made each time.
"""

import threading
from collections import OrderedDict
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Concatenate, Generic, ParamSpec, TypeVar, cast, overload

import numpy as np
from numpy.typing import NDArray

from engraving.artwork import Source
from engraving.errors import EngravingError
from engraving.jobspec import JobSpec
from engraving.jobspec.base import Part
from engraving.pipeline.cache import StageCache, stage_key

P = ParamSpec("P")
T = TypeVar("T")
T_co = TypeVar("T_co", covariant=True)
S = TypeVar("S")
A = TypeVar("A", bound=np.generic)

STAGES: dict[str, "Stage[..., Any]"] = {}
"""Every stage by its name."""

_MOST_JOBS = 64
Names = Mapping[str, tuple[str, ...] | None]


class StageError(EngravingError):
    """A stage asks for another one that it does not say it needs."""


def all_but(part: str, *names: str) -> tuple[str, ...]:
    """Return the dotted names of a part's values, but for some.

    Examples
    --------
    >>> all_but("border", "on", "width_mm", "corner_mm")
    ('border.inset_mm',)
    """
    kind = JobSpec.model_fields[part].annotation
    model = next(one for one in (kind, *getattr(kind, "__args__", ())) if _is_part(one))
    return tuple(f"{part}.{one}" for one in model.model_fields if one not in names)


def _is_part(kind: Any) -> bool:
    return isinstance(kind, type) and issubclass(kind, Part)


@dataclass(frozen=True, eq=False, repr=False)
class Stage(Generic[P, T_co]):
    """How one thing is computed from a job.

    Attributes
    ----------
    name : str
    reads : tuple of str
        What it reads of a job: names of parts, or of their values, as
        ``"tone"`` or ``"size.pitch_mm"``.
    needs : tuple of Stage
        Whose results it asks for.
    make : callable
        Computes it from `Asked`, and from what else it is told.
    kind : {"kept", "value", "passing"}
    of_pieces : bool
        It makes jobs of its own, one a pocket, and asks for their stages: of a
        job with a fixture it reads all that those read.
    counts : callable, optional
        Returns those of `needs` that it asks for, for a job: of several ways to do
        something a job's key depends on the one that is taken, and on no other.
    """

    name: str
    reads: tuple[str, ...]
    needs: tuple["Stage[..., Any]", ...]
    make: Callable[Concatenate["Asked", P], T_co]
    kind: str = "kept"
    of_pieces: bool = False
    counts: Callable[["Asked"], Sequence["Stage[..., Any]"]] | None = None
    names: Names = field(init=False)
    everything: Names = field(init=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "names", _by_part(self.reads))
        object.__setattr__(self, "everything", _by_part(self.all_reads()))

    def __repr__(self) -> str:
        return f"<stage {self.name}>"

    def all_reads(self) -> set[str]:
        """Return what it reads, and all that it needs reads."""
        return set(self.reads).union(*(one.all_reads() for one in self.needs))

    def of(self, spec: JobSpec) -> Names:
        """Return the values of a job that it is handed, by part."""
        return self.everything if self.of_pieces and spec.fixture else self.names

    @overload
    def __get__(self, pipeline: "Stages", kind: type) -> "Bound[P, T_co]": ...
    @overload
    def __get__(self, pipeline: object, kind: type) -> "Stage[P, T_co]": ...
    def __get__(self, pipeline: object, kind: type) -> "Stage[P, T_co] | Bound[P, T_co]":
        return Bound(self, pipeline) if isinstance(pipeline, Stages) else self


@dataclass(frozen=True)
class Bound(Generic[P, T_co]):
    """A stage of one pipeline: call it for its result."""

    stage: Stage[P, T_co]
    pipeline: "Stages"

    def __call__(self, spec: JobSpec, *args: P.args, **kwargs: P.kwargs) -> T_co:
        """Return the stage's result for a job."""
        return self.pipeline.get(self.stage, spec, *args, **kwargs)

    def key(self, spec: JobSpec) -> str:
        """Return the key of all that the result depends on."""
        return self.pipeline.key(self.stage, spec)


def stage(
    *, reads: Iterable[str] = (), needs: Sequence[Stage[..., Any]] = (),
    kind: str = "kept", of_pieces: bool = False,
    counts: Callable[["Asked"], Sequence[Stage[..., Any]]] | None = None,
) -> Callable[[Callable[Concatenate["Asked", P], T]], Stage[P, T]]:  # fmt: skip
    """Make a stage of a function, and note it under its name."""

    def noted(make: Callable[Concatenate["Asked", P], T]) -> Stage[P, T]:
        made = Stage(
            make.__name__, tuple(reads), tuple(needs), make, kind, of_pieces, counts
        )
        STAGES[made.name] = made
        return made

    return noted


def value(
    *, reads: Iterable[str] = (), needs: Sequence[Stage[..., Any]] = ()
) -> Callable[[Callable[["Asked"], T]], Stage[[], T]]:
    """Make a stage whose key is what it comes to: cheap, and plain data."""
    return stage(reads=reads, needs=needs, kind="value")


@dataclass(frozen=True)
class Asked:
    """What a stage is handed.

    Attributes
    ----------
    spec : JobSpec
        The job, with the values that the stage says it reads, and no others: any
        other one raises AttributeError.
    source : Source
        Where pictures and fonts come from.
    """

    spec: JobSpec
    source: Source
    _stage: Stage[..., Any]
    _job: "_Job"

    def get(self, wanted: Stage[P, T], *args: P.args, **kwargs: P.kwargs) -> T:
        """Return the result of a stage that this one needs.

        Raises
        ------
        StageError
            When the stage does not say that it needs that one.
        """
        self._hold_to_needs(wanted)
        return self._job.get(wanted, *args, **kwargs)

    def of_piece(
        self, piece: JobSpec, wanted: Stage[P, T], *args: P.args, **kwargs: P.kwargs
    ) -> T:
        """Return the result of a needed stage for a piece of the job."""
        self._hold_to_needs(wanted)
        return self._job.stages.get(wanted, piece, *args, **kwargs)

    def folded(
        self,
        start: NDArray[A],
        steps: Iterable[Part],
        apply: Callable[[NDArray[A], Any], NDArray[A]],
        *,
        uses: Sequence[Stage[..., Any]] = (),
    ) -> NDArray[A]:
        """Return what steps make of a start, each kept: one more costs only itself.

        Parameters
        ----------
        start : ndarray
            The same for every job of this shape.
        steps : iterable of Part
        apply : callable
            Returns what a step makes of what was there before it; it may use
            the results of the stages in `uses`, and nothing else of the job.
        """
        used = [self._job.key(one) for one in uses]
        key, made = stage_key(self._stage.name, "step", used, start.shape), start
        for one in steps:
            key = stage_key(key, one.model_dump(mode="json"))
            made = self._job.stages.cache.get(key, lambda a=made, b=one: apply(a, b))  # type: ignore[misc]
        return made

    def _hold_to_needs(self, wanted: Stage[..., Any]) -> None:
        if wanted not in self._stage.needs:
            raise StageError(f"“{self._stage.name}” does not say it needs “{wanted.name}”.")


class Stages:
    """Computes stages of any job, and keeps what may be needed again.

    Parameters
    ----------
    source : Source
        Where pictures and fonts come from.
    cache : StageCache
        Where results are kept; share one between pipelines of one process.
    """

    def __init__(self, source: Source, cache: StageCache) -> None:
        self.source = source
        self.cache = cache
        self._jobs: OrderedDict[int, _Job] = OrderedDict()
        self._lock = threading.Lock()

    def get(
        self, wanted: Stage[P, T], spec: JobSpec, *args: P.args, **kwargs: P.kwargs
    ) -> T:
        """Return a stage's result for a job."""
        return self._job(spec).get(wanted, *args, **kwargs)

    def key(self, wanted: Stage[..., Any], spec: JobSpec) -> str:
        """Return the key of all that a stage's result depends on."""
        return self._job(spec).key(wanted)

    def _job(self, spec: JobSpec) -> "_Job":
        """Return a job with its keys; those of the last few are remembered."""
        with self._lock:
            found = self._jobs.get(id(spec))
            if found is None:
                found = self._jobs[id(spec)] = _Job(self, spec)
                if len(self._jobs) > _MOST_JOBS:
                    self._jobs.popitem(last=False)
            return found


class _Job:
    """A job with the keys and values found so far; a job never changes."""

    def __init__(self, stages: Stages, spec: JobSpec) -> None:
        self.stages = stages
        self._spec = spec
        self._keys: dict[Stage[..., Any], str] = {}
        self._values: dict[Stage[..., Any], Any] = {}

    def get(self, wanted: Stage[P, T], *args: P.args, **kwargs: P.kwargs) -> T:
        if wanted.kind == "value":
            self.key(wanted)
            return cast("T", self._values[wanted])
        if wanted.kind == "passing":
            return self._made(wanted, *args, **kwargs)
        key = self.key(wanted)
        if args or kwargs:
            key = stage_key(key, plain(args), plain(kwargs))
        return self.stages.cache.get(key, lambda: self._made(wanted, *args, **kwargs))

    def _made(self, wanted: Stage[P, T], *args: P.args, **kwargs: P.kwargs) -> T:
        return wanted.make(self._asked(wanted), *args, **kwargs)

    def _asked(self, wanted: Stage[..., Any]) -> "Asked":
        narrow = narrowed(self._spec, wanted.of(self._spec))
        return Asked(narrow, self.stages.source, wanted, self)

    def key(self, wanted: Stage[..., Any]) -> str:
        found = self._keys.get(wanted)
        if found is None:
            found = self._keys[wanted] = self._find_key(wanted)
        return found

    def _find_key(self, wanted: Stage[..., Any]) -> str:
        if wanted.kind == "value":
            made = self._values[wanted] = self._made(wanted)
            return stage_key(wanted.name, plain(made))
        names = wanted.of(self._spec)
        include = {part: set(some) if some else True for part, some in names.items()}
        read = self._spec.model_dump(mode="json", include=include)
        needs = wanted.needs
        if wanted.counts is not None:
            needs = tuple(wanted.counts(self._asked(wanted)))
        return stage_key(wanted.name, read, [self.key(one) for one in needs])


def plain(found: Any) -> Any:
    """Return data that go into a key: a part's values, anything else by its text."""
    if isinstance(found, Part):
        return found.model_dump(mode="json")
    if isinstance(found, tuple | list):
        return [plain(one) for one in found]
    if isinstance(found, dict):
        return {str(name): plain(one) for name, one in found.items()}
    return found if isinstance(found, str | int | float | None) else repr(found)


def narrowed(spec: JobSpec, names: Names) -> JobSpec:
    """Return a job that holds the named values and no others.

    Asking it for any other one raises AttributeError, wherever it is asked.
    """
    parts = {}
    for part, some in names.items():
        whole = getattr(spec, part)
        parts[part] = whole if some is None or whole is None else _only(whole, some)
    return _bare(JobSpec, parts)


def _only(part: Part, names: tuple[str, ...]) -> Part:
    return _bare(type(part), {name: getattr(part, name) for name in names})


def _bare(model: type[S], values: dict[str, Any]) -> S:
    """Return a model with some of its values; the others are not there at all."""
    made = model.__new__(model)
    object.__setattr__(made, "__dict__", values)
    object.__setattr__(made, "__pydantic_fields_set__", set(values))
    object.__setattr__(made, "__pydantic_extra__", None)
    object.__setattr__(made, "__pydantic_private__", None)
    return made


def _by_part(reads: Iterable[str]) -> Names:
    """Return the names within each part, sorted; None where the whole of it is read."""
    found: dict[str, set[str] | None] = {}
    for name in reads:
        part, _, inner = name.partition(".")
        some = found.setdefault(part, set())
        if not inner:
            found[part] = None
        elif some is not None:
            some.add(inner)
    return {
        part: None if some is None else tuple(sorted(some))
        for part, some in sorted(found.items())
    }
