"""Round pieces: rolled up again, what the stand-in burned is the picture.

The stand-in turns a piece of its own diameter by what it is told; the wall's
map is on that piece's surface.
"""

import io
import math

import numpy as np
import pytest

from engraving.gcode import read_moves
from engraving.jobspec import ArtworkPart, BlankPart, JobSpec, MountPart
from engraving.motion import estimate
from engraving.place import (
    after_a_wrong_stop,
    mm_per_degree,
    mounted,
    repeating_pitch_mm,
    slant_mm,
    surface_steps_per_mm,
    tilt_deg,
    written_per_mm,
)
from standins.controller import Machine, Settings
from support.jobs import changed, pipeline_of


@pytest.mark.parametrize(
    ("across", "degree", "steps"),
    # circumference π·D; π·D/360 mm a degree; 6400 steps a turn of the workpiece
    [(24.05, 0.209876, 84.706165), (50, 0.436332, 40.743665), (57, 0.497419, 35.740057), (100, 0.872665, 20.371833)],
)  # fmt: skip
def test_a_chuck(across, degree, steps):
    assert mm_per_degree(across) == pytest.approx(degree, rel=1e-5)
    assert surface_steps_per_mm(MountPart(kind="chuck"), across) == pytest.approx(
        steps, rel=1e-7
    )


@pytest.mark.parametrize(
    ("roller", "turn", "steps"),
    [(30, 6400, 67.906109), (25.4, 3200, 40.102033), (20, 3200, 50.929582)],
)
def test_rollers_do_not_care_for_the_piece(roller, turn, steps):
    mount = MountPart(kind="rollers", roller_mm=roller, steps_per_turn=turn)
    assert surface_steps_per_mm(mount, 57) == surface_steps_per_mm(mount, 73)
    assert surface_steps_per_mm(mount, 57) == pytest.approx(steps, rel=1e-7)


def test_in_place_of_a_linear_axis():
    """80 steps a mm: a turn of 6400 steps is told as 80 mm; Ø57 is scaled by 80/179.07."""
    spec = job(MountPart(kind="chuck"), 57)
    assert written_per_mm(spec) == pytest.approx(0.446751, rel=1e-6)
    assert written_per_mm(changed(spec, mount={"reversed": True})) < 0


def test_tapers_and_seams():
    cup = BlankPart(shape="taper", diameter_mm=89, foot_mm=70, height_mm=150)
    assert slant_mm(cup) == pytest.approx(150.300532, rel=1e-7)
    assert tilt_deg(cup) == pytest.approx(3.623893, rel=1e-6)
    assert repeating_pitch_mm(math.pi * 57, 0.1, 1) == pytest.approx(0.09998369, rel=1e-6)
    assert math.pi * 24.05 == pytest.approx(75.55530, rel=1e-6)
    # it stopped 5° past its mark: 365° came of one turn's steps
    assert after_a_wrong_stop(6400, 5) == pytest.approx(6400 * 360 / 365)
    assert after_a_wrong_stop(6400, 0) == 6400


def job(mount, across, width=None, **more):
    """A wall of a diameter, its picture round it."""
    around = math.pi * across
    wide = width or around
    cols = round(wide / 0.2)
    spec = JobSpec(
        artwork=ArtworkPart(width_px=cols, height_px=60),
        blank={"shape": "wall", "diameter_mm": across, "height_mm": 40},
        size={
            "width_mm": wide,
            "height_mm": 12,
            "pitch_mm": 0.2,
            "dot_pitch_mm": wide / cols,
        },
        place={"x_mm": 60, "y_mm": 0},
        mount=mount.model_dump(),
    )
    return changed(spec, dots={"method": "bayer"}, **more)


def scene(spec):
    rows, cols = 60, spec.artwork.width_px
    y, x = np.mgrid[0:rows, 0:cols]
    return (127 + 90 * np.sin(x / 9) * np.cos(y / 7)).clip(0, 255).astype(np.uint8)


def rolled(spec, pipeline, true_diameter):
    """The stand-in after the job, a piece of its true diameter turned in it."""
    mount = spec.mount
    across = mount.roller_mm if mount.kind == "rollers" else true_diameter
    a = math.pi * across / 360
    y = mount.y_steps_mm / mount.steps_per_turn * math.pi * across
    way = -1 if mount.reversed else 1
    machine = Machine(Settings(y_factor=way * y, a_factor=way * a))
    stream = io.BytesIO()
    planned = pipeline.write_gcode(spec, stream)
    for line in stream.getvalue().decode().splitlines():
        machine.take(line)
    machine.run()
    return machine, planned, stream.getvalue()


MOUNTS = [
    MountPart(kind="chuck", output="degrees"),
    MountPart(kind="chuck", output="scaled", reversed=True, top="right"),
    MountPart(kind="rollers", output="scaled", roller_mm=25.4, steps_per_turn=3200),
    MountPart(kind="rollers", output="degrees", top="right"),
    MountPart(kind="chuck", output="degrees", strip_mm=3.1),
]


@pytest.mark.parametrize("rows", ["x", "y"])
@pytest.mark.parametrize("mount", MOUNTS)
def test_rolled_up_again_it_is_the_picture(mount, rows):
    spec = job(mount, 20.0, burn={"rows": rows}, machine={"decimals": 4})
    pipeline = pipeline_of(scene(spec))
    machine, planned, _ = rolled(spec, pipeline, 20.0)
    assert machine.clock_s == pytest.approx(planned.seconds, rel=0.02)
    lying, bits = pipeline.on_machine(spec)
    energy = machine.map(60, 0, lying.size.cell_mm, (bits.rows, bits.cols))
    burned = energy > np.quantile(energy, 0.999) / 2
    assert np.count_nonzero(burned != bits.unpack().astype(bool)) == 0
    # A quarter back, it is the picture as it is looked at.
    upright = np.rot90(burned, -1 if mount.top == "left" else 1)
    assert (upright == pipeline.dots(spec).unpack().astype(bool)).all()


@pytest.mark.parametrize("rows", ["x", "y"])
@pytest.mark.parametrize("output", ["degrees", "scaled"])
def test_in_inches_it_is_the_same_piece_in_the_same_time(output, rows):
    """A degree is a degree in a file of inches too (NISTIR 6556, 2.1.2.5)."""
    spec = job(MountPart(kind="chuck", output=output), 20.0, burn={"rows": rows})
    metric = pipeline_of(scene(spec))
    wanted, planned, text = rolled(spec, metric, 20.0)
    in_inches = changed(spec, machine={"inches": True, "decimals": 5})
    found, _, inch_text = rolled(in_inches, metric, 20.0)
    assert found.clock_s == pytest.approx(wanted.clock_s, rel=1e-3)
    for reach in (np.min, np.max, np.mean):
        ends, also = (reach(one.strokes()[:, :2], axis=0) for one in (wanted, found))
        assert also == pytest.approx(ends, abs=0.01)
    # What a scaled Y stands for is known to the controller alone.
    for one in (text, inch_text) if output == "degrees" else ():
        read = estimate(read_moves(one), (3000, 3000), 300)
        assert read.seconds == pytest.approx(planned.seconds, rel=0.02)


@pytest.mark.parametrize("back", [True, False])
def test_a_job_from_the_head_ends_where_it_began(back):
    spec = job(
        MountPart(kind="chuck", output="degrees", back_to_start=back), 20.0,
        place={"zero": "head"},
    )  # fmt: skip
    text = rolled(spec, pipeline_of(scene(spec)), 20.0)[2]
    assert b"G92X0A0\n" in text
    home = b"G0X0A0S0" if back else b"G0X0S0"
    assert text.rstrip().splitlines()[-3:] == [home, b"G92.1", b"M2"]


def test_a_wrap_closes_within_a_dot():
    spec = job(MountPart(kind="chuck", wrap=True), 18.0)
    pipeline = pipeline_of(scene(spec))
    machine, _, text = rolled(spec, pipeline, 18.0)
    y = machine.strokes()[:, 1]
    lying = mounted(spec)
    open_mm = math.pi * 18.0 - (y.max() - y.min() + lying.size.pitch_mm)
    assert abs(open_mm) < lying.size.pitch_mm
    assert text.rstrip().endswith(b"G0Y0S0\nM2")  # back to start


def test_the_seam_is_burned_over():
    spec = job(MountPart(kind="chuck", wrap=True, overlap_mm=1.0), 18.0)
    plain = changed(spec, mount={"overlap_mm": 0})
    pipeline = pipeline_of(scene(spec))
    over = pipeline.on_machine(spec)[1].rows - pipeline.on_machine(plain)[1].rows
    assert over == round(1.0 / spec.size.along_mm)


@pytest.mark.parametrize(
    ("kind", "width"),
    # 50 mm set for Ø57 on Ø60: π·60/π·57 wider in a chuck, true on rollers
    [("chuck", 52.631579), ("rollers", 50.0)],
)
def test_a_wrong_diameter(kind, width):
    spec = job(MountPart(kind=kind), 57.0, width=50.0)
    pipeline = pipeline_of(np.zeros((60, spec.artwork.width_px), np.uint8))
    machine, _, _ = rolled(spec, pipeline, 60.0)
    y = machine.strokes()[:, 1]
    pitch = spec.size.along_mm * width / 50.0
    assert y.max() - y.min() + pitch == pytest.approx(width, abs=0.01)


def test_what_is_flat_is_not_turned():
    with pytest.raises(ValueError, match="can be turned"):
        JobSpec(mount=MountPart(kind="chuck"))
    with pytest.raises(ValueError, match="no fixture"):
        JobSpec(
            blank={"shape": "wall", "diameter_mm": 20, "height_mm": 40},
            mount=MountPart(kind="chuck"), fixture={"columns": 2},
        )  # fmt: skip


def test_a_tapered_wall_looks_straight():
    """A square on the piece: as wide in mm at the wide end as at the narrow one."""
    cup = {"shape": "taper", "diameter_mm": 89, "foot_mm": 70, "height_mm": 60}
    spec = changed(job(MountPart(kind="chuck"), 20.0), blank=cup)
    wide = spec.blank.width_mm
    spec = changed(spec, size={"width_mm": wide, "height_mm": 60, "dot_pitch_mm": 0.2, "pitch_mm": 0.2},
                   dots={"method": "threshold"}, artwork={"width_px": 1248, "height_px": 300})  # fmt: skip
    gray = np.full((300, 1248), 255, np.uint8)
    gray[:, 574:674] = 0  # an upright bar of 20 mm, 8 % of the way round
    dots = pipeline_of(gray).dots(spec).unpack()
    top, foot = (float(dots[row].sum()) * 0.2 for row in (2, -3))
    mean = (89 + 70) / 2
    # A row's dots lie apart by equal angles: D/mean times 0.2 mm on the wall there.
    assert top * 89 / mean == pytest.approx(20, abs=0.5)
    assert foot * 70 / mean == pytest.approx(20, abs=0.5)
    flat = pipeline_of(gray).dots(changed(spec, mount={"kind": "flat"})).unpack()
    assert flat[2].sum() == flat[-3].sum()
