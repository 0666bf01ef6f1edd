"""A stage has what it names, and nothing else."""

from typing import get_args

import numpy as np
import pytest

from engraving.artwork import Artwork, InMemorySource
from engraving.jobspec import JobSpec
from engraving.pipeline import Pipeline, StageCache
from engraving.pipeline.stage import STAGES, StageError, Stages, stage, value
from support.jobs import changed, pipeline_of

PICTURE = np.arange(320, dtype=np.uint16).reshape(16, 20).astype(np.uint8)

JOB = JobSpec()


@pytest.fixture
def stages(monkeypatch):
    """A pipeline, and a register that forgets the stages of a test."""
    monkeypatch.setattr("engraving.pipeline.stage.STAGES", dict(STAGES))
    return Stages(
        InMemorySource(Artwork(PICTURE, "PNG", "gray", None, (), False)),
        StageCache(1 << 20),
    )


def test_what_is_not_named_is_not_there(stages):
    @stage(reads=["size.pitch_mm"])
    def careless(asked):
        return asked.spec.size.pitch_mm * asked.spec.size.width_mm

    @stage(reads=["size"])
    def careful(asked):
        return asked.spec.size.pitch_mm * asked.spec.size.width_mm

    with pytest.raises(AttributeError, match="width_mm"):
        stages.get(careless, JOB)
    assert stages.get(careful, JOB) == 8


def test_what_is_not_needed_is_not_given(stages):
    @stage(reads=["tone"])
    def first(asked):
        return 1

    @stage()
    def second(asked):
        return asked.get(first)

    with pytest.raises(StageError, match=r"second.*first"):
        stages.get(second, JOB)


def test_a_value_that_stays_the_same_changes_no_key(stages):
    @value(reads=["burn.power", "burn.speed_mm_s"])
    def energy(asked):
        return asked.spec.burn.power / asked.spec.burn.speed_mm_s

    @stage(needs=[energy])
    def burned(asked):
        return asked.get(energy)

    twice = changed(
        JOB, burn={"power": JOB.burn.power / 2, "speed_mm_s": JOB.burn.speed_mm_s / 2}
    )
    other = changed(JOB, burn={"power": JOB.burn.power / 2})
    assert stages.key(burned, twice) == stages.key(burned, JOB) != stages.key(burned, other)


@pytest.mark.parametrize("one", STAGES.values(), ids=STAGES)
def test_every_stage_says_what_it_does_and_reads_what_there_is(one):
    assert one.make.__doc__
    for part, names in one.names.items():
        kind = JobSpec.model_fields[part].annotation
        models = [one for one in (kind, *get_args(kind)) if hasattr(one, "model_fields")]
        there = models[0].model_fields if names else ()
        assert set(names or ()) <= set(there), part


def test_keys_do_not_depend_on_the_process():
    """A page made by one process asks another one for its pictures."""
    first, second = pipeline_of(PICTURE), pipeline_of(PICTURE)
    assert isinstance(first, Pipeline)
    assert (
        first.estimate.key(JOB) == second.estimate.key(changed(JOB)) != first.dots.key(JOB)
    )


def test_another_pocket_looked_at_leaves_the_path_as_it_was():
    pipeline = pipeline_of(PICTURE)
    first = changed(JOB, fixture={"columns": 2, "rows": 1})
    second = changed(first, fixture={"shown": 1})
    wider = changed(first, fixture={"gap_x_mm": 9})
    key = pipeline.estimate.key
    assert key(first) == key(second) != key(wider)
