"""G-code: what is written, read back by us and by pygcode, and what must always hold."""

import io
import re

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from pygcode import Line

from engraving.errors import JobError
from engraving.gcode import read_job, read_moves
from engraving.jobspec import ArtworkPart, JobSpec, SizePart
from engraving.motion import estimate
from engraving.toolpath import plan_raster, record
from support.jobs import changed, pipeline_of

SMALL = JobSpec(
    artwork=ArtworkPart(width_px=12, height_px=5),
    size=SizePart(width_mm=1.2, height_mm=0.5, pitch_mm=0.1),
)
pictures = arrays(np.uint8, (5, 12), elements=st.sampled_from([0, 60, 128, 200, 255]))


def written(spec, pipeline):
    stream = io.BytesIO()
    found = pipeline.write_gcode(spec, stream)
    return stream.getvalue(), found


def body(text):
    return [line for line in text.decode().splitlines() if not line.startswith(";")]


def test_a_row_runs_from_edge_to_edge_on_its_centre_line():
    """Row of 750 dots at 0.1 mm from x = 10: edges 10 and 85 (common practice)."""
    gray = np.full((1, 750), 255, np.uint8)
    gray[0, :3] = gray[0, -1] = 0
    spec = changed(
        SMALL,
        artwork={"width_px": 750, "height_px": 1},
        size={"width_mm": 75, "height_mm": 0.1},
        dots={"method": "threshold"},
        machine={"rapid_mm_s": 100},
        place={"x_mm": 10, "y_mm": 30},
    )
    text, _ = written(spec, pipeline_of(gray))
    lines = body(text)
    run_up = 100**2 / (2 * 3000)
    assert lines[:4] == ["G21", "G90", "G94", "M3 S0"]
    assert lines[4] == f"G0X{10 - run_up:.3f}Y30.05S0"
    assert lines[5:10] == [
        "G1X10F6000",
        "X10.3S400",
        "X84.9S0",
        "X85S400",
        f"X{85 + run_up:.3f}S0",
    ]
    assert lines[10:] == ["S0", "M5", "M2"]


@pytest.mark.parametrize(("beam", "s_max", "word"), [("M3", 255, 102), ("M4", 10000, 4000)])
def test_beam_words(beam, s_max, word, job):
    spec, pipeline = job
    spec = changed(spec, machine={"beam": beam, "s_max": s_max})
    lines = body(written(spec, pipeline)[0])
    assert f"{beam} S0" in lines
    powers = {int(m[1]) for line in lines if (m := re.search(r"S(\d+)$", line))}
    assert powers == {0, word}


@settings(max_examples=60, deadline=None)
@given(
    pictures,
    st.booleans(),
    st.sampled_from(["front-left", "back-right"]),
    st.integers(1, 3),
)
def test_what_always_holds(gray, both_ways, origin, passes):
    spec = changed(
        SMALL,
        dots={"method": "floyd-steinberg"},
        burn={"both_ways": both_ways, "passes": passes},
        machine={"origin": origin},
        place={"x_mm": 50, "y_mm": 60},
    )
    pipeline = pipeline_of(gray)
    text, _ = written(spec, pipeline)
    lines = body(text)
    assert all(len(line) <= 80 and line.isascii() for line in text.decode().splitlines())
    assert not any(re.search(r"\dE|e", line) for line in lines)
    # no beam during travel; the last beam command is off
    assert all(line.endswith("S0") for line in lines if line.startswith("G0"))
    assert [line for line in lines if line.startswith("M")][-2:] == ["M5", "M2"]
    moves = list(read_moves(text))
    for band in moves:
        x, y = band.x * band.unit_mm, band.y * band.unit_mm
        assert ((band.feed > 0) | (band.power == 0)).all()
        # never outside the bed
        assert min(x.min(), y.min()) >= 0
        assert max(x.max(), y.max()) <= 400
    burned = sum(
        float(np.abs(np.diff(band.x, prepend=0))[band.power > 0].sum()) * band.unit_mm
        for band in moves
    )
    assert burned / 0.1 == pytest.approx(passes * pipeline.dots(spec).count, abs=1e-6)


def test_no_drift_over_many_rows(job):
    """0.0847 mm pitch at 3 decimals: rounded places, not added steps."""
    spec, pipeline = job
    spec = changed(
        spec,
        size={
            "pitch_mm": 25.4 / 300,
            "width_mm": 80 * 25.4 / 300,
            "height_mm": 60 * 25.4 / 300,
        },
    )
    bands = list(record(pipeline.dots(spec), *plan_raster(spec)))
    rows = np.unique(np.concatenate([band.y for band in bands])) * 0.001
    index = np.rint((rows - spec.place.y_mm) / spec.size.pitch_mm - 0.5)
    exact = spec.place.y_mm + (index + 0.5) * spec.size.pitch_mm
    assert np.abs(rows - exact).max() <= 0.0005 + 1e-9


def test_read_back_it_takes_the_same_time(job):
    spec, pipeline = job
    text, planned = written(spec, pipeline)
    machine = spec.machine
    again = estimate(read_moves(text), machine.accelerations, machine.rapid_mm_s)
    # At the end of a band of rows the head is taken to rest, as it nearly does.
    assert again.seconds == pytest.approx(planned.seconds, rel=1e-3)
    assert (again.moves, again.rows) == (planned.moves, planned.rows)
    assert again.burn_mm == pytest.approx(planned.burn_mm)


def test_a_file_read_in_parts_takes_the_same_time(job, monkeypatch):
    """Parts end where a rapid changes the row: there the head rests."""
    spec, pipeline = job
    spec = changed(spec, machine={"junction_mm": 0})
    text, planned = written(spec, pipeline)
    monkeypatch.setattr("engraving.gcode.reader._CHUNK", 150)
    bands = list(read_moves(io.BytesIO(text)))
    assert [len(one) for one in read_moves(text)] == [len(one) for one in bands]
    assert len(bands) > 5
    machine = spec.machine
    again = estimate(bands, machine.accelerations, machine.rapid_mm_s, 0)
    assert again.seconds == pytest.approx(planned.seconds, rel=1e-9)
    assert again.rows == planned.rows


def test_blank_rows_and_margins_cost_nothing():
    gray = np.full((60, 80), 255, np.uint8)
    gray[20:30, 30:40] = 0
    spec = changed(
        SMALL,
        artwork={"width_px": 80, "height_px": 60},
        size={"width_mm": 8, "height_mm": 6},
    )
    found = pipeline_of(gray).estimate(spec)
    assert found.rows == 10
    assert found.burn_bounds_mm == pytest.approx((13, 13.05, 14, 13.95))


def test_long_blanks_are_crossed_quickly():
    gray = np.full((2, 1000), 255, np.uint8)
    gray[:, :10] = gray[:, -10:] = 0
    base = changed(
        SMALL,
        artwork={"width_px": 1000, "height_px": 2},
        size={"width_mm": 100, "height_mm": 0.2},
        dots={"method": "threshold"},
    )
    fast = pipeline_of(gray).estimate(changed(base, machine={"rapid_mm_s": 400}))
    slow = pipeline_of(gray).estimate(changed(base, machine={"rapid_mm_s": 100}))
    assert fast.run_up_s < slow.run_up_s / 3
    assert fast.burn_mm == slow.burn_mm


def test_pygcode_understands_every_line(job):
    spec, pipeline = job
    for text in written(spec, pipeline)[0].decode().splitlines():
        line = Line(text)
        moves = [code for code in line.block.gcodes if str(code.word_key) in ("G00", "G01")]
        assert len(moves) <= 1


def test_the_job_travels_in_the_file(job):
    spec, pipeline = job
    text, _ = written(spec, pipeline)
    assert read_job(text) == spec
    assert read_job(b"G21\n") is None
    with pytest.raises(JobError, match="damaged"):
        read_job(text.replace(b"; job ", b"; job A", 1))


@pytest.mark.parametrize(
    ("text", "seconds"),
    [
        (b"G21 G90\nG1 X100 F30000", 0.3),
        (b"g20 g90\ng1x3.937007874f1181.102362", 0.3),
        (b"G91 (half)\nG1 X50 F30000 ; and half\nX50", 0.3),
        (b"%\nN10 G1 X100. F+30000\n", 0.3),
    ],
)
def test_files_of_others_are_read(text, seconds):
    assert estimate(read_moves(text), (5000, 5000), 500).seconds == pytest.approx(
        seconds, rel=1e-4
    )


@pytest.mark.parametrize(
    ("text", "words"),
    [
        (b"G1 X5\n", "line 1 .*before any feed"),
        (b"G21 G18\nG2 X1 Z1 I5 F600\n", "line 1 .*cannot be timed"),
        (b"G21\nG2 X1 Y1 F600\n", "line 2 .*arc without centre"),
        (b"G21\nG2 X1 Y1 I5 F600\n", "line 2 .*do not lie on it"),
        (b"G21\nG2 X10 R2 F600\n", "line 2 .*arc"),
        (b"G1 X F600\n", "without a number"),
        (b"\x00\x01\x02", "no word"),
        ("Größe\n".encode(), "without a number|no word"),
    ],
)
def test_what_cannot_be_timed_gets_a_sentence(text, words):
    with pytest.raises(JobError, match="(?i)" + words):
        list(read_moves(text))
