"""Where rows and strokes begin, and going on from one of them."""

import io

import numpy as np
import pytest

from engraving.pipeline import Looked
from engraving.pipeline.starts import without_first
from standins.controller import Machine, Settings
from support.jobs import changed

JOBS = {
    "rows": {},
    "one way": {"burn": {"both_ways": False}},
    "turned": {"place": {"turn_deg": 7, "x_mm": 40, "y_mm": 40}},
    "rows along y": {"burn": {"rows": "y"}},
    "a cut after": {
        "operations": [{"kind": "raster"}, {"kind": "cut", "shape": "rectangle"}]
    },
    "power": {"dots": {"method": "power"}},
    "inches": {"machine": {"inches": True, "decimals": 5}},
}


def written(spec, pipeline, after=0):
    stream = io.BytesIO()
    starts = pipeline.write_run(spec, stream, after=after)
    lines = [
        line for line in stream.getvalue().decode().splitlines() if not line.startswith(";")
    ]
    return starts, lines


@pytest.mark.parametrize("name", JOBS)
def test_each_start_is_a_rapid_line(job, name):
    spec, pipeline = job
    spec = changed(spec, **JOBS[name])
    starts, lines = written(spec, pipeline)
    estimate = pipeline.estimate(spec)
    rows = pipeline.estimate(changed(spec, operations=[{"kind": "raster"}])).rows
    assert len(starts.lines) == rows + (name == "a cut after")
    for at in starts.lines:
        assert "S0" in lines[at]
        assert lines[at].startswith(("G0", "X"))
    assert (np.diff(starts.seconds) > 0).all()
    assert starts.seconds[-1] < starts.estimate.seconds == estimate.seconds


@pytest.mark.parametrize("name", JOBS)
@pytest.mark.parametrize("share", [0.0, 0.37, 1.0])
def test_two_parts_burn_what_the_whole_does(job, name, share):
    spec, pipeline = job
    spec = changed(spec, machine={"beam": "M4"})
    spec = changed(spec, **JOBS[name])
    starts, lines = written(spec, pipeline)
    rows = round(share * (len(starts.lines) - 1))
    _, rest = written(spec, pipeline, after=rows)
    split = starts.lines[rows]
    whole, parts = (Machine(Settings(3000, 300, 1000)) for _ in range(2))
    for line in lines:
        whole.take(line)
    for line in [*lines[:split], "S0", "M5", "M2", *rest]:
        parts.take(line)
    for one in (whole, parts):
        one.run()
    box = 0, 0, (0.2, 0.2), (600, 600)
    assert (
        np.abs(whole.map(*box) - parts.map(*box)).max()
        < 1e-4 + 0.02 * whole.map(*box).max()
    )


def test_nothing_is_left_after_the_last(job):
    spec, pipeline = job
    count = len(written(spec, pipeline)[0].lines)
    assert list(without_first(pipeline.bands(spec), count)) == []
    assert (
        sum(len(one.starts()) for one in without_first(pipeline.bands(spec), count - 3))
        == 3
    )


@pytest.mark.parametrize("name", JOBS)
def test_a_burn_is_tracked_as_it_is_written(job, name):
    spec, pipeline = job
    spec = changed(spec, **JOBS[name])
    estimate = pipeline.estimate(spec)
    rim, whole = np.array([-1, -1, 1, 1]), estimate.seconds
    left, front, right, back = estimate.bounds_mm + rim
    looked = Looked(left, front, right - left, back - front, 90, 75)
    starts, _ = written(spec, pipeline)
    tracks = [pipeline.track(spec, looked)]
    for after in (0, len(starts.lines) // 2):
        tracking = pipeline.tracking(spec, looked, whole)
        pipeline.write_run(spec, io.BytesIO(), after=after, tracking=tracking)
        tracks.append(tracking.found())
    for found in tracks:
        assert (found.path.burned == pipeline.path_map(spec, looked).burned).all()
        assert found.begun[:, 2] * whole == pytest.approx(starts.seconds, abs=1e-6)
    burned = tracks[0].path.burned
    at = (tracks[0].begun[:, :2] - (left, front)) / (right - left, back - front)
    cols, heights = (at * (90, 75)).astype(int).T
    burned = np.pad(burned, 1)[::-1]
    near = [
        burned[row : row + 3, col : col + 3] for col, row in zip(cols, heights, strict=True)
    ]
    assert all(one.any() for one in near), "a row begins where something burns"
