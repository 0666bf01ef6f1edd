"""The path as a picture of time: what is burned first comes first, and all of it comes."""

import numpy as np
import pytest

from engraving.jobspec import RASTER, OperationPart
from engraving.pipeline import Looked
from engraving.pipeline.stages import path
from support.jobs import changed, pipeline_of


def looked(spec, rim=0.0):
    place, size = spec.place, spec.size
    bits = round(size.width_mm / size.along_mm), round(size.height_mm / size.pitch_mm)
    return Looked(
        place.x_mm - rim,
        place.y_mm - rim,
        size.width_mm + 2 * rim,
        size.height_mm + 2 * rim,
        *bits,
    )


def test_a_pixel_a_dot_it_is_the_dots(job):
    spec, pipeline = job
    spec = changed(spec, burn={"both_ways": False})
    found = pipeline.path_map(spec, looked(spec))
    bits = pipeline.burned(spec).unpack().astype(bool)
    # A run ends on the next dot's edge, so that dot may count as touched too.
    assert (found.burned > 0)[bits].all()
    extra = (found.burned > 0) & ~bits
    assert extra.sum() <= np.count_nonzero(np.diff(bits.astype(int), axis=1) < 0)


def test_time_runs_from_the_back_forward(job):
    spec, pipeline = job
    found = pipeline.path_map(spec, looked(spec)).burned.astype(float)
    rows = np.array([row[row > 0].mean() for row in found if (row > 0).any()])
    assert (np.diff(rows) > 0).all()
    assert found.max() > 0.9 * 65535
    heads = pipeline.path_map(spec, looked(spec)).heads
    assert (np.diff(heads[:, 0]) >= -1e-6).all()
    assert heads[:, 0].max() <= 1 + 1e-6


def test_travel_is_apart_and_cuts_come_last(job):
    spec, pipeline = job
    spec = spec.model_copy(update={"operations": (RASTER, OperationPart(offset_mm=1))})
    wide = looked(spec, rim=3.0)
    found = pipeline.path_map(spec, wide)
    assert (found.passed > 0).any()
    rim = found.burned[:, : wide.cols // 5]
    assert rim[rim > 0].min() > np.median(found.burned[found.burned > 0])


def test_a_window_shows_its_part(job):
    spec, pipeline = job
    whole = looked(spec)
    half = Looked(
        whole.left, whole.front, whole.width / 2, whole.height, whole.cols // 2, whole.rows
    )
    left = pipeline.path_map(spec, whole).burned[:, : whole.cols // 2]
    assert (pipeline.path_map(spec, half).burned == left).mean() > 0.99


def test_each_move_has_its_time(job):
    from engraving.motion import Clock

    spec, pipeline = job
    clock = Clock(spec.machine.accelerations, spec.machine.rapid_mm_s)
    each = np.concatenate([clock.add(moves) for moves in pipeline.bands(spec)])
    assert each.sum() == pytest.approx(clock.estimate().seconds)
    assert (each >= 0).all()


def test_a_way_that_is_kept_is_painted_as_one_walked_anew(job, scene, monkeypatch):
    spec, pipeline = job
    kept = pipeline.path_map(spec, looked(spec))
    monkeypatch.setattr(path, "_KEPT_MOVES", 10)
    anew = pipeline_of(scene).path_map(spec, looked(spec))
    for name in ("burned", "passed", "heads"):
        assert np.array_equal(getattr(kept, name), getattr(anew, name))
    assert kept.burned.any()
