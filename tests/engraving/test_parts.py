"""A job in several files: together they are the job, and each is a program of its own."""

import io

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from engraving.errors import InputError
from engraving.gcode import read_moves
from engraving.gcode.parts import MOST_PARTS
from engraving.jobspec import ArtworkPart, JobSpec
from support.jobs import changed, pipeline_of

CHANCE = (np.random.default_rng(4).random((60, 80)) * 255).astype(np.uint8)
SMALL = JobSpec(
    artwork=ArtworkPart(width_px=80, height_px=60),
    size={"width_mm": 16, "height_mm": 12, "pitch_mm": 0.2},
    place={"x_mm": 30, "y_mm": 40},
)
TAGS = changed(
    SMALL,
    fixture={"columns": 3, "rows": 1, "gap_x_mm": 2, "pause": True, "pockets": []},
    blank={"width_mm": 16, "height_mm": 12},
)


def written(spec, **how):
    streams = []

    def opened(number):
        assert number == len(streams)
        streams.append(io.BytesIO())
        return streams[-1]

    parts = pipeline_of(CHANCE).write_parts(spec, opened, **how)
    return parts, [stream.getvalue() for stream in streams]


def whole(spec):
    stream = io.BytesIO()
    pipeline_of(CHANCE).write_gcode(spec, stream)
    return stream.getvalue()


def burned(*texts):
    """Every line with the beam on, from where to where and how strong, in their order."""
    found = []
    for text in texts:
        at = np.zeros(2)
        for moves in read_moves(text):
            ends = np.stack([moves.x, moves.y], axis=1) * moves.unit_mm
            begins = np.vstack([at, ends[:-1]])
            on = moves.power > 0
            found.append(np.hstack([begins, ends, moves.power[:, None]])[on])
            at = ends[-1]
    return np.concatenate(found)


@settings(max_examples=20, deadline=None)
@given(
    st.sampled_from([SMALL, TAGS]),
    st.integers(6, 60),
    st.booleans(),
    st.sampled_from(["lf", "crlf"]),
    st.sampled_from([{}, {"turn_deg": 7.0}, {"zero": "head"}]),
)
def test_parts_are_the_job_and_none_is_too_large(spec, kilobytes, by_pocket, ends, place):
    machine = {"file_mb": kilobytes / 1000, "line_end": ends}
    spec = changed(spec, machine=machine, place=place)
    parts, texts = written(spec, by_pocket=by_pocket)
    assert [part.size for part in parts] == [len(text) for text in texts]
    assert max(len(text) for text in texts) <= kilobytes * 1000
    np.testing.assert_allclose(burned(*texts), burned(whole(spec)), atol=1e-9)
    for text in texts:
        lines = text.decode("ascii").split()
        assert lines[-1] == "M2"
        assert "M5" in lines
        # It travels to where it burns with the beam off, whatever was burned before.
        code = [line for line in lines if line[0] in "GM"]
        assert code.index("G90") < next(i for i, one in enumerate(code) if one[:3] == "G0X")


def test_a_file_a_pocket_waits_for_nobody():
    parts, texts = written(TAGS, by_pocket=True)
    assert len(parts) == 3
    assert all(b"M0\n" not in text for text in texts)
    assert whole(TAGS).count(b"M0\n") == 2
    lefts = [burned(text)[:, 0].min() for text in texts]
    assert np.diff(lefts) == pytest.approx([18, 18], abs=0.5)


def test_what_cannot_be_cut_has_its_sentence():
    with pytest.raises(InputError, match="Not even one row"):
        written(changed(SMALL, machine={"file_mb": 0.0001}))


def test_no_end_of_files():
    long = changed(SMALL, size={"height_mm": 120, "width_mm": 160, "pitch_mm": 0.1})
    room = next(len(text) for text in written(changed(SMALL, burn={"passes": 1}))[1])
    with pytest.raises(InputError, match=f"more than {MOST_PARTS}"):
        written(changed(long, machine={"file_mb": max(room, 12000) / 1e6}))


def test_what_is_not_read_back_as_planned_is_told(monkeypatch):
    """A store that loses bytes."""

    class Lossy(io.BytesIO):
        def write(self, data):
            return super().write(data[: len(data) * 3 // 4])

    with pytest.raises(InputError, match="not written as planned"):
        pipeline_of(CHANCE).write_parts(SMALL, lambda _: Lossy())
