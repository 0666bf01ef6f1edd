"""What a machine's data change in its G-code, and rows along Y, crossed and shifted."""

import io

import numpy as np
import pytest

from engraving.gcode import read_moves
from engraving.jobspec import MachinePart
from engraving.lettering import GLYPHS, stroke_length_mm, stroke_text
from engraving.place import frame_of, job_zero
from engraving.toolpath import record_strokes
from standins.controller import Machine, Settings
from support.jobs import changed


def text_of(spec, pipeline):
    stream = io.BytesIO()
    pipeline.write_gcode(spec, stream)
    return stream.getvalue()


def played(text, **settings):
    machine = Machine(Settings(3000, 300, 1000, **settings))
    for line in text.decode().splitlines():
        machine.take(line)
    machine.run()
    return machine


def test_header_footer_air_and_line_ends(job):
    spec, pipeline = job
    machine = {"header": "G64", "footer": "G0X0Y0", "line_end": "crlf", "air_on": "M7"}
    text = text_of(changed(spec, machine=machine, burn={"air": True}), pipeline)
    lines = text.decode().split("\r\n")
    assert "\n" not in "".join(lines)
    body = [line for line in lines if not line.startswith(";")]
    assert body[:6] == ["G21", "G90", "G94", "G64", "M7", "M3 S0"]
    assert body[-6:] == ["S0", "M5", "M9", "G0X0Y0", "M2", ""]
    assert b"\r\nM7\r\n" not in text_of(changed(spec, machine=machine), pipeline)


def test_inches_burn_the_same(job):
    spec, pipeline = job
    inch = changed(spec, machine={"inches": True, "decimals": 5})
    text = text_of(inch, pipeline)
    assert b"G20\n" in text
    one, other = (played(text_of(s, pipeline)).strokes() for s in (spec, inch))
    assert np.abs(one - other)[:, :4].max() < 0.002
    assert sum(len(moves) for moves in read_moves(text)) > 100


def test_focus_moves_only_where_there_is_an_axis(job):
    spec, pipeline = job
    up = changed(spec, burn={"focus_mm": 1.5}, machine={"z_axis": True})
    text = text_of(up, pipeline)
    assert b"G0Z1.500S0\n" in text
    assert text.rstrip().endswith(b"M5\nG0Z0\nM2")
    assert set(played(text).strokes()[:, 5]) == {1.5}
    assert (
        b"Z"
        not in text_of(changed(spec, burn={"focus_mm": 1.5}), pipeline).split(b"M3 S0")[1]
    )


@pytest.mark.parametrize("origin", ["front-left", "back-right"])
@pytest.mark.parametrize(
    "burn", [{"rows": "y"}, {"cross": True}, {"rows": "y", "both_ways": False}]
)
def test_rows_along_y_burn_the_same_dots(job, burn, origin):
    spec, pipeline = job
    spec = changed(
        spec, burn=burn, machine={"origin": origin, "acceleration_y_mm_s2": 1200}
    )
    machine = played(text_of(spec, pipeline), acceleration_y=1200)
    planned, bits = pipeline.estimate(spec), pipeline.burned(spec)
    assert machine.clock_s == pytest.approx(planned.seconds, rel=0.01)
    frame = frame_of(spec.machine)
    wide, high = bits.cols * spec.size.along_mm, bits.rows * spec.size.pitch_mm
    x, y = frame.to_machine(spec.place.x_mm, spec.place.y_mm)
    left, front = min(x, x + frame.sign_x * wide), min(y, y + frame.sign_y * high)
    strokes = machine.strokes()
    fine = machine.map(left, front, spec.size.cell_mm, (bits.rows, bits.cols))
    fine = fine[:: frame.sign_y, :: frame.sign_x]
    one = spec.burn.power / 100 * spec.size.along_mm / spec.burn.speed_mm_s
    times = 2 if burn.get("cross") else 1
    assert np.abs(fine / one / times - bits.unpack()).max() < 0.01
    upright = np.abs(strokes[:, 0] - strokes[:, 2]) < 1e-6
    assert upright.any() == (burn.get("rows") == "y" or bool(burn.get("cross")))


def test_return_rows_are_moved_by_the_table(job):
    """A machine that puts marks 0.05 mm late burns straight once its table says so."""
    spec, pipeline = job
    late = {"delay_ms": 0.05 / 2 / spec.burn.speed_mm_s * 1000}
    told = changed(spec, machine={"row_shift": [[spec.burn.speed_mm_s, 0.05]]})
    wrong = []
    for one in (spec, told):
        strokes = played(text_of(one, pipeline), **late).strokes()
        ahead = strokes[:, 2] > strokes[:, 0]
        cell = one.size.along_mm
        edges = [
            np.mod(np.minimum(s[:, 0], s[:, 2]) - one.place.x_mm, cell)
            for s in (strokes[ahead], strokes[~ahead])
        ]
        off = np.mod(edges[0].mean() - edges[1].mean() + cell / 2, cell) - cell / 2
        wrong.append(abs(off))
    assert wrong[0] == pytest.approx(0.05, abs=0.002)
    assert wrong[1] == pytest.approx(0, abs=0.002)


@pytest.mark.parametrize(
    ("origin", "runs", "corner"),
    [("front-left", {}, (10, 20)), ("back-right", {}, (390, 380)),
     ("back-left", {"y_runs": "back"}, (10, -380)), ("front-right", {"x_runs": "right"}, (-390, 20))],
)  # fmt: skip
def test_axes_run_as_told(origin, runs, corner):
    frame = frame_of(MachinePart(origin=origin, **runs))
    assert frame.to_machine(10, 20) == corner
    assert frame.to_bed(*corner) == (10, 20)


def test_single_stroke_letters():
    for letter, strokes in GLYPHS.items():
        points = np.concatenate(strokes)
        assert 0 <= points[:, 0].min() <= points[:, 0].max() <= 1, letter
        assert -2.1 / 6 <= points[:, 1].min() <= points[:, 1].max() <= 1.1, letter
    line = np.concatenate(stroke_text("Ähre 12 %", 2.0, 5.0, 7.0))
    assert line[:, 0].min() == pytest.approx(5)
    assert line[:, 0].max() - 5 == pytest.approx(stroke_length_mm("Ähre 12 %", 2.0))
    up = np.concatenate(stroke_text("Ähre 12 %", 2.0, 5.0, 7.0, turned=True))
    assert (up[:, 1].max() - 7, 5 - up[:, 0].min()) == pytest.approx(
        (stroke_length_mm("Ähre 12 %", 2.0), line[:, 1].max() - 7)
    )
    assert stroke_text("", 2) == []


def test_strokes_are_rapid_between_and_lit_along():
    moves = record_strokes(stroke_text("T", 6.0, 10, 10), MachinePart(), 50, 30)
    assert moves.power.tolist() == [0, 300, 0, 300]
    assert moves.feed.tolist() == [0, 3000, 0, 3000]
    assert len(record_strokes([], MachinePart(), 50, 30)) == 0


@pytest.mark.parametrize("origin", ["front-left", "back-right"])
@pytest.mark.parametrize("anchor", ["front-left", "middle-centre"])
def test_from_where_the_head_stands_it_burns_the_same(job, origin, anchor):
    """The head was driven to the anchor; the file knows only ways from there."""
    spec, pipeline = job
    spec = changed(spec, machine={"origin": origin}, place={"anchor": anchor})
    free = changed(spec, place={"zero": "head"})
    text = text_of(free, pipeline)
    assert b"G92X0Y0\n" in text
    assert text.rstrip().endswith(b"G0X0Y0S0\nG92.1\nM2")
    start = job_zero(free)
    assert start != (0, 0)
    there = played(text, start=start)
    plain = played(text_of(spec, pipeline))
    assert np.abs(there.strokes() - plain.strokes())[:, :4].max() < 0.0011
    assert there.position_mm == pytest.approx(start, abs=0.001)
    # And back to where it stood, once all is burned.
    assert there.clock_s == pytest.approx(pipeline.estimate(free).seconds, rel=0.015)
    assert job_zero(spec) == (0, 0)
