"""G-code with heights: what is written, read back by us and by pygcode, and timed."""

import io
import json
import re

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image
from pygcode import Line
from shapely.geometry import box

from engraving.__main__ import main
from engraving.gcode import read_job, read_moves, write_gcode
from engraving.jobspec import (
    ArtworkPart,
    DrawingPart,
    JobSpec,
    MachinePart,
    OperationPart,
    SizePart,
    ToolPart,
)
from engraving.motion import Clock, estimate
from engraving.pipeline.file_path import Placing, write_file
from engraving.place import as_written
from engraving.toolpath.tool import ToolRun, record_tool
from support.jobs import changed, pipeline_of, png

ROUTER = MachinePart(
    kind="vtool", z_axis=True, acceleration_mm_s2=500, rapid_mm_s=50, lift_mm=3
)


def strokes_of(points):
    return [np.array(one, float) for one in points]


def recorded(strokes, machine=ROUTER, feed=20.0, plunge=5.0, tool=None):
    return list(record_tool(strokes_of(strokes), machine, ToolRun(feed, plunge, tool)))


def in_file(spec, pipeline):
    out = io.BytesIO()
    planned = pipeline.write_gcode(spec, out)
    return out.getvalue(), planned


def body(text):
    return [line for line in text.decode().splitlines() if not line.startswith(";")]


def test_a_stroke_goes_across_down_along_and_up():
    (moves,) = recorded([[(10, 5, -1), (20, 5, -1)]])
    places = np.stack([moves.x, moves.y, moves.z], axis=1) / 1000
    assert np.allclose(
        places, [(10, 5, 3), (10, 5, 0.5), (10, 5, -1), (20, 5, -1), (20, 5, 3)]
    )
    assert moves.power.tolist() == [0, 0, 1, 1, 0]
    assert moves.feed.tolist() == [0, 0, 300, 1200, 0]


def test_a_steep_way_down_is_as_slow_as_a_plunge():
    (moves,) = recorded([[(0, 0, 0), (3, 0, -4), (6, 0, 0)]])
    down, up = moves.feed[3] / 60, moves.feed[4] / 60
    assert down * 4 / 5 == pytest.approx(5, abs=0.01)
    assert up == pytest.approx(20)


points = st.tuples(st.floats(0, 100), st.floats(0, 100), st.floats(-3, 0))
many = st.lists(st.lists(points, min_size=1, max_size=6), min_size=1, max_size=8)


@given(many, st.booleans(), st.sampled_from(["front-left", "back-right"]))
@settings(max_examples=40)
def test_what_is_written_is_read_back_with_its_heights_and_times(strokes, inches, origin):
    spec = JobSpec(machine=ROUTER.model_copy(update={"inches": inches, "origin": origin}))
    bands = recorded(strokes, as_written(spec).machine, tool=ToolPart())
    out = io.BytesIO()
    clock = Clock((500, 500), 50)
    for moves in write_gcode(spec, bands, out):
        clock.add(moves)
    text = out.getvalue()
    read = list(read_moves(text))
    x, _y, z, power = (
        np.concatenate([getattr(m, name) for m in read])
        for name in ("x", "y", "z", "power")
    )
    unit = bands[0].unit_mm
    whole = [
        np.concatenate([getattr(m, name) for m in bands])
        for name in ("x", "y", "z", "power")
    ]
    # The file lifts the tool before and after, and says nothing twice.
    assert np.abs(z[power > 0] * 1e-5 - whole[2][whole[3] > 0] * unit).max() < 2e-5
    assert np.abs(x[power > 0] * 1e-5 - whole[0][whole[3] > 0] * unit).max() < 2e-5
    found = estimate(iter(read), (500, 500), 50)
    assert found.burn_mm == pytest.approx(clock.estimate().burn_mm, abs=0.01)
    assert found.rows == len(strokes)
    assert found.seconds == pytest.approx(clock.estimate().seconds, rel=0.03, abs=1.5)
    for line in body(text):
        assert len(line) <= 80
        Line(line)


def test_the_slowest_axis_rules():
    """Straight down 9 mm at 10 mm/s, 200 mm/s²: 9/10 + 10/200 s, whatever X could do."""
    found = Clock((3000, 3000), 300)
    (moves,) = recorded([[(0, 0, -1)]], ROUTER.model_copy(update={"lift_mm": 9.0}))
    assert found.add(moves)[0] == pytest.approx(0.9 + 0.05, rel=1e-6)
    # Aslant, three down for every four along: Z's acceleration of 200 is 250 along the way.
    slant = recorded([[(0, 0, 0), (400, 0, -300)]], feed=1000, plunge=1e4)
    clock = Clock((3000, 3000), 300, z_axis=(1000, 150), junction_mm=0)
    seconds = clock.add(slant[0])
    assert seconds[3] == pytest.approx(2 * np.sqrt(500 / 250), rel=1e-3)


def test_a_file_of_a_tool_has_no_beam_and_a_spindle_that_warms_up():
    gray = np.tile(np.linspace(0, 255, 60).astype(np.uint8), (40, 1))
    spec = changed(
        JobSpec(machine=ROUTER, size=SizePart(width_mm=30, height_mm=20, pitch_mm=0.5)),
        artwork={"width_px": 60, "height_px": 40},
        dots={"method": "line", "ruling_cm": 4}, marking={"way": "carved"},
    )  # fmt: skip
    text, planned = in_file(spec, pipeline_of(gray))
    lines = body(text)
    assert lines[:6] == ["G21", "G90", "G94", "G0Z3.000", "M3S18000", "G4P3"]
    assert lines[-3:] == ["G0Z3.000", "M5", "M2"]
    assert not any("S" in line for line in lines[5:])
    assert read_job(text) == spec
    again = estimate(read_moves(text), (500, 500), 50, junction_mm=spec.machine.junction_mm)
    assert again.burn_mm == pytest.approx(planned.burn_mm, rel=1e-4)
    assert planned.burn_bounds_mm[0] >= 10 - 0.01
    assert planned.burn_bounds_mm[2] <= 40.01
    point = changed(
        spec,
        machine={"kind": "drag"},
        marking={"way": "drag"},
        dots={"method": "threshold"},
    )
    text, _ = in_file(point, pipeline_of(gray))
    assert not any(line[0] in "MS" and line != "M2" for line in body(text))


def test_another_tool_is_waited_for_and_warmed_up():
    ring = tuple(box(-5, -4, 5, 4).exterior.coords)[:-1]
    drawing = DrawingPart(file="a", rings=(ring,))
    title = OperationPart(
        kind="inside", shape="drawn", drawing=drawing, offset_mm=0,
        tool=ToolPart(name="V-tool 60°", angle_deg=60, spindle_rpm=12000),
    )  # fmt: skip
    spec = changed(
        JobSpec(machine=ROUTER, size=SizePart(width_mm=30, height_mm=20, pitch_mm=0.5)),
        artwork={"width_px": 60, "height_px": 40}, marking={"way": "carved"},
        dots={"method": "line", "ruling_cm": 4},
        operations=[{"kind": "raster"}, title.model_dump(mode="json")],
    )  # fmt: skip
    pipeline = pipeline_of(np.full((40, 60), 90, np.uint8))
    lines = body(in_file(spec, pipeline)[0])
    (at,) = (i for i, line in enumerate(lines) if line.startswith("M0"))
    # A tool that was touched off on the piece is lifted before it turns.
    assert lines[at - 2 : at + 7] == [
        "G0Z3.000", "M5", "M0 ; touch off: V-tool 60 deg", "G21", "G90", "G94", "G0Z3.000",
        "M3S12000", "G4P3",
    ]  # fmt: skip
    assert re.match(r"G0X\S+Y\S+Z3$", lines[at + 7])  # nothing is left out after it
    found = pipeline.inside(spec, spec.operations[1])
    assert found.deepest_mm == pytest.approx(1.5)
    assert found.widest_mm == pytest.approx(8, abs=0.01)


def test_what_is_cut_out_after_a_picture_is_cut_by_the_same_tool_unasked():
    spec = changed(
        JobSpec(machine=ROUTER, size=SizePart(width_mm=30, height_mm=20, pitch_mm=0.5)),
        artwork={"width_px": 60, "height_px": 40}, marking={"way": "carved"},
        dots={"method": "line", "ruling_cm": 4},
        operations=[{"kind": "raster"}, {"kind": "cut", "shape": "rectangle"}],
    )  # fmt: skip
    lines = body(in_file(spec, pipeline_of(np.full((40, 60), 90, np.uint8)))[0])
    assert not any(line.startswith("M0") for line in lines)
    assert sum(line.startswith("M3") for line in lines) == 1
    assert lines.index("M5") > max(i for i, line in enumerate(lines) if "Z-" in line)


def test_going_on_begins_with_the_tool_lifted_at_a_stroke():
    (moves,) = recorded([[(0, 0, -1), (5, 0, -1)], [(0, 2, -1), (5, 2, -1)], [(0, 4, -1)]])
    starts = moves.starts()
    assert len(starts) == moves.rows == 3
    for at in starts:
        assert moves.feed[at] == 0
        assert moves.z[at] == 3000
    rest = moves.between(int(starts[1]), len(moves))
    assert rest.z[0] * 0.001 == 3
    assert len(rest.starts()) == 2


RUNS = {
    "relief": ["--width", "12mm", "--dpi", "127", "--depth", "2mm", "--per-pass", "0.2mm"],
    "carve": ["--width", "60mm", "--screen", "wavy", "--cell", "3mm", "--angle", "43", "--wavelength", "60mm",
              "--swing", "4mm", "--every", "1", "--tool-angle", "90", "--deepest", "1.4mm", "--board", "3mm", "--feed", "25mm/s"],
    "drag": ["--width", "12mm", "--mark", "0.15mm", "--method", "line", "--speed", "40mm/s", "--lift", "2mm"],
}  # fmt: skip


@pytest.fixture
def picture(tmp_path):
    y, x = np.mgrid[:80, :80]
    codes = (255 * np.hypot(x - 40, y - 40) / 57).astype(np.uint8)
    path = tmp_path / "dome.png"
    path.write_bytes(png(codes))
    return path


@pytest.mark.parametrize("command", RUNS)
def test_each_command_writes_a_file_that_reads_back(command, picture, tmp_path, capsys):
    out = tmp_path / "out.gcode"
    assert main([command, str(picture), str(out), *RUNS[command]]) == 0
    for line in body(out.read_bytes())[:400]:
        Line(line)
    assert main(["estimate", str(out)]) == 0
    assert json.loads(capsys.readouterr().out)["burn_mm"] > 10
    assert read_job(out.read_bytes()).marking.way in ("relief", "carved", "drag")


def test_the_plan_holds_the_passes_of_every_dot(picture, tmp_path):
    out, plan = tmp_path / "out.gcode", tmp_path / "plan.npy"
    assert (
        main(["relief", str(picture), str(out), *RUNS["relief"], "--plan", str(plan)]) == 0
    )
    passes = np.load(plan)
    assert passes.dtype == np.uint16
    assert passes.shape == (60, 60)
    depth = 2 * (255 - np.asarray(Image.open(picture), float)) / 255
    assert passes.mean() * 0.2 == pytest.approx(depth.mean(), rel=0.01)
    whole = tmp_path / "whole.npy"
    main(
        [
            "relief",
            str(picture),
            str(out),
            *RUNS["relief"],
            "--plan",
            str(whole),
            "--no-spread",
            "--invert",
        ]
    )
    assert np.load(whole)[0, 0] > np.load(whole)[30, 30]


def test_areas_of_a_drawing_are_carved_where_they_lie(tmp_path, capsys):
    drawing = tmp_path / "bar.svg"
    drawing.write_text('<svg xmlns="http://www.w3.org/2000/svg" width="30mm" height="3mm" viewBox="0 0 30 3">'
                       '<rect width="30" height="3"/></svg>')  # fmt: skip
    out = tmp_path / "out.gcode"
    words = [
        "--tool-angle",
        "90",
        "--deepest",
        "1.5mm",
        "--board",
        "3mm",
        "--feed",
        "20mm/s",
    ]
    assert main(["inside", str(drawing), str(out), *words]) == 0
    cut = list(read_moves(out.read_bytes()))
    depths = np.concatenate([m.z[m.power > 0] for m in cut]) * 1e-5
    x = np.concatenate([m.x[m.power > 0] for m in cut]) * 1e-5
    assert depths.min() == pytest.approx(-1.5)
    assert (x.min(), x.max()) == pytest.approx((10, 40))
    out.unlink()
    for deepest, board in (("2.9mm", "3mm"), ("0.9mm", "1mm")):
        assert (
            main(["inside", str(drawing), str(out), "--deepest", deepest, "--board", board])
            == 2
        )
        said = capsys.readouterr().err
        assert deepest[:-2] in said
        assert board[:-2] in said
        assert not out.exists()


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["carve", "{picture}", "{out}", "--screen", "checks"], "choose one of"),
        (["carve", "{picture}", "{out}", "--cell", "0mm"], "--cell must be above 0"),
        (["carve", "{picture}", "{out}", "--tool-angle", "200"], "angle_deg"),
        (["drag", "{picture}", "{out}", "--method", "engrave"], "dot method"),
        (["drag", "{picture}", "{out}", "--lift", "-1mm"], "--lift must be above 0"),
        (
            ["relief", "{picture}", "{out}", "--per-pass", "0mm"],
            "--per-pass must be above 0",
        ),
        (
            ["relief", "{picture}", "{out}", "--depth", "2mm", "--per-pass", "0.0001mm"],
            "2000 passes",
        ),
        (["relief", "nothing.png", "{out}"], "There is no file"),
        (["inside", "{picture}", "{out}"], "drawing"),
    ],
)
def test_bad_input_gets_a_sentence_and_no_file(words, said, picture, tmp_path, capsys):
    out = tmp_path / "out.gcode"
    given_words = [one.format(picture=picture, out=out) for one in words]
    assert main(given_words) == 2
    error = capsys.readouterr().err
    assert said in error
    assert error.count("\n") == 1
    assert not out.exists()
    assert not list(tmp_path.glob("*.part"))
    assert not list(tmp_path.glob(".*"))


def test_a_file_with_an_arc_and_heights_is_read_as_a_rising_curve():
    text = b"G21 G90\nM3 S1000\nG0 X10 Y0 Z1\nG1 Z-1 F300\nG3 X0 Y10 I-10 J0 Z-2 F600\nG0 Z5\nM2\n"
    (moves,) = read_moves(text)
    heights = moves.z[moves.power > 0] * 1e-5
    assert heights[0] == -1
    assert heights[-1] == -2
    assert (np.diff(heights) <= 0).all()
    assert len(heights) > 20


def test_a_beam_that_lifts_its_focus_still_burns_as_before():
    spec = JobSpec(
        artwork=ArtworkPart(width_px=4, height_px=2),
        size=SizePart(width_mm=0.4, height_mm=0.2),
    )
    spec = changed(
        spec, machine={"z_axis": True}, burn={"focus_mm": 2}, dots={"method": "threshold"}
    )
    text, planned = in_file(spec, pipeline_of(np.zeros((2, 4), np.uint8)))
    assert "G0Z2.000S0" in body(text)
    read = estimate(read_moves(text), (3000, 3000), 300)
    assert read.burn_mm == pytest.approx(planned.burn_mm) == pytest.approx(0.8)
    # At the end the focus goes back the two millimetres it was lifted.
    assert read.seconds == pytest.approx(planned.seconds + 0.25, abs=0.03)


@pytest.mark.parametrize("inches", [False, True])
def test_a_strange_file_keeps_its_heights_on_a_machine_that_touches(inches):
    text = b"G21 G90\nG0 Z4\nM3 S12000\nG0 X10 Y10\nG1 Z-1.2 F300\nG1 X30 F900\nG0 Z4\nM5\nM2\n"
    machine = ROUTER.model_copy(update={"inches": inches})
    out = io.BytesIO()
    write_file(lambda: io.BytesIO(text), machine, Placing(5, 0), out, "a")
    assert b"M3S12000\nG4P3\n" in out.getvalue()
    (read,) = read_moves(out.getvalue())
    down = read.power > 0
    assert read.z[down] * 1e-5 == pytest.approx([-1.2, -1.2], abs=0.02)
    assert read.x[down] * 1e-5 == pytest.approx([15, 35], abs=0.02)
    beam = io.BytesIO()
    write_file(lambda: io.BytesIO(text), MachinePart(), Placing(), beam, "a")
    assert b"Z" not in beam.getvalue().split(b"G94")[1]
