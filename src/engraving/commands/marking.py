"""Commands of the ways of marking besides dots: relief, carve, inside, drag."""

import math
from pathlib import Path
from typing import Any

import click
import numpy as np

from engraving.artwork import InMemorySource, Source, read_artwork
from engraving.artwork.depth import read_depth
from engraving.carving import hold_to_board
from engraving.commands.options import (
    DPI,
    FILE,
    LENGTH,
    SPEED,
    above_zero,
    choice,
    existing,
    options,
    size_of,
)
from engraving.errors import ArtworkError
from engraving.jobspec import (
    RASTER,
    ArtworkPart,
    BlankPart,
    BurnPart,
    CarvingPart,
    DotsPart,
    JobSpec,
    MachinePart,
    MarkingPart,
    OperationPart,
    PlacePart,
    Polarity,
    ReliefPart,
    SizePart,
    SubstratePart,
    ToolPart,
)
from engraving.jobspec.base import LARGEST_MM
from engraving.outline import candidates, read_dxf, read_svg
from engraving.pipeline import Pipeline, StageCache
from engraving.pipeline.stages.ways.carved import SCREENS
from engraving.units import dpi_to_pitch

_CACHE_BYTES = 1 << 30
_DOTS_A_CELL = 12
_GRID_MM = (0.05, 0.5)
"""Finest and coarsest distance of the dots that a carved picture is read at."""

_sized = options(
    click.option("--width", type=LENGTH, help="Width; 80mm with no height."),
    click.option("--height", type=LENGTH, help="Height."),
)
_placed = options(
    click.option("--x", type=LENGTH, default="10mm", show_default=True),
    click.option("--y", type=LENGTH, default="20mm", show_default=True),
)
_tool = options(
    click.option("--tool-angle", type=float, default=90.0, show_default=True, help="°"),
    click.option("--tip", type=LENGTH, default="0mm", show_default=True, help="Flat tip."),
    click.option("--board", type=LENGTH, default="3mm", show_default=True),
    click.option("--plunge", type=SPEED, default="5mm/s", show_default=True),
    click.option("--spindle", type=int, default=18000, show_default=True, help="1/min"),
)
_moving = options(
    click.option("--accel", type=float, default=500.0, show_default=True, help="mm/s²."),
    click.option("--rapid", type=SPEED, default="50mm/s", show_default=True),
    click.option("--lift", type=LENGTH, default="2mm", show_default=True),
)


@click.command()
@click.argument("depth_file", metavar="DEPTH", type=FILE)
@click.argument("out", type=FILE)
@_sized
@click.option("--dpi", type=DPI, default="254", show_default=True)
@click.option("--depth", type=LENGTH, default="2mm", show_default=True)
@click.option("--per-pass", type=LENGTH, default="0.2mm", show_default=True)
@click.option("--speed", type=SPEED, default="100mm/s", show_default=True)
@click.option("--power", type=float, default=40.0, show_default=True, help="Percent.")
@click.option("--accel", type=float, default=3000.0, show_default=True, help="mm/s².")
@click.option("--rapid", type=SPEED, default="300mm/s", show_default=True)
@_placed
@click.option("--invert", is_flag=True, help="White is far: a mould.")
@click.option("--no-spread", is_flag=True, help="Whole passes only.")
@click.option("--one-way", is_flag=True, help="Burn all rows in the same direction.")
@click.option("--plan", type=FILE, help="Passes of every dot, as a NumPy file.")
def relief(depth_file: Path, out: Path, **given: Any) -> None:
    """Carve a depth picture by passes of a beam: white is near, black far."""
    data = existing(depth_file).read_bytes()
    picture, found = read_artwork(data), read_depth(data)
    source = ArtworkPart(
        file=depth_file.name, width_px=picture.width_px, height_px=picture.height_px,
        holds="depth",
    )  # fmt: skip
    above_zero(depth=given["depth"], per_pass=given["per_pass"])
    spec = JobSpec(
        name=depth_file.stem[:200],
        artwork=source,
        size=size_of(given, source.ratio, dpi_to_pitch(given["dpi"])),
        marking=MarkingPart(
            way="relief",
            relief=ReliefPart(
                depth_mm=given["depth"], per_pass_mm=given["per_pass"],
                invert=given["invert"], spread=not given["no_spread"],
            ),
        ),
        machine=MachinePart(
            acceleration_mm_s2=given["accel"], rapid_mm_s=given["rapid"],
        ),
        burn=BurnPart(
            speed_mm_s=given["speed"], power=given["power"],
            both_ways=not given["one_way"],
        ),
        place=_place(given),
    )  # fmt: skip
    source_of = InMemorySource(picture, depth=found)
    pipeline = Pipeline(source_of, StageCache(_CACHE_BYTES))
    if given["plan"] is not None:
        with given["plan"].open("wb") as stream:
            np.save(stream, pipeline.relief(spec).passes)
    _write(pipeline, spec, out)


@click.command()
@click.argument("artwork", type=FILE)
@click.argument("out", type=FILE)
@_sized
@click.option(
    "--screen", default="line", show_default=True, help=f"One of: {' '.join(SCREENS)}."
)
@click.option("--cell", type=LENGTH, default="3mm", show_default=True)
@click.option("--angle", type=float, default=45.0, show_default=True, help="°")
@click.option("--wavelength", type=LENGTH, default="60mm", show_default=True)
@click.option("--swing", type=LENGTH, default="4mm", show_default=True)
@click.option("--every", type=int, default=1, show_default=True, help="n-th line.")
@click.option("--set-off", is_flag=True, help="Every other row of dots by half.")
@_tool
@click.option("--deepest", type=LENGTH, default="1.4mm", show_default=True)
@click.option("--least", type=LENGTH, default="0.15mm", show_default=True)
@click.option("--ramp", type=LENGTH, default="1mm", show_default=True)
@click.option("--feed", type=SPEED, default="25mm/s", show_default=True)
@click.option("--polarity", default="darkens", help="darkens or lightens.")
@_moving
@_placed
def carve(artwork: Path, out: Path, **given: Any) -> None:
    """Carve a picture with a V-tool: lines and dots as wide as it is dark."""
    above_zero(cell=given["cell"], deepest=given["deepest"], board=given["board"])
    hold_to_board(given["deepest"], given["board"])
    cell = given["cell"]
    pitch = min(max(cell / _DOTS_A_CELL, _GRID_MM[0]), _GRID_MM[1])
    dots = DotsPart(
        method=choice("--screen", given["screen"], SCREENS),
        ruling_cm=10 / cell, angle_deg=given["angle"],
        wavelength_mm=given["wavelength"], swing_mm=given["swing"], every=given["every"],
    )  # fmt: skip
    carving = CarvingPart(
        tool=_tool_part(given), deepest_mm=given["deepest"], least_mm=given["least"],
        plunge_mm_s=given["plunge"], ramp_mm=given["ramp"], set_off=given["set_off"],
    )  # fmt: skip
    spec, pipeline = _of_picture(artwork, given, pitch, "vtool")
    spec = spec.model_copy(
        update={
            "dots": dots,
            "marking": MarkingPart(way="carved", carving=carving),
            "blank": BlankPart(thickness_mm=given["board"]),
            "burn": BurnPart(speed_mm_s=given["feed"]),
        }
    )
    _write(pipeline, spec, out)


@click.command()
@click.argument("outlines", type=FILE)
@click.argument("out", type=FILE)
@_tool
@click.option("--deepest", type=LENGTH, default="1.5mm", show_default=True)
@click.option("--spacing", type=LENGTH, default="0.3mm", show_default=True)
@click.option("--feed", type=SPEED, default="20mm/s", show_default=True)
@_moving
@_placed
def inside(outlines: Path, out: Path, **given: Any) -> None:
    """Carve the areas of an SVG or DXF drawing along their middle."""
    above_zero(deepest=given["deepest"], board=given["board"], spacing=given["spacing"])
    hold_to_board(given["deepest"], given["board"])
    data = existing(outlines).read_bytes()
    read = read_dxf if outlines.suffix.lower() == ".dxf" else read_svg
    drawing = read(outlines.name, data)
    operation = OperationPart(
        kind="inside", shape="drawn", drawing=drawing, offset_mm=0,
        spacing_mm=given["spacing"], deepest_mm=given["deepest"],
        speed_mm_s=given["feed"],
    )  # fmt: skip
    areas, _ = candidates(operation, None)
    if areas.is_empty:
        raise ArtworkError("The drawing encloses no area that could be carved.")
    points = np.array([point for ring in drawing.rings for point in ring])
    reach = 2 * np.abs(points).max(axis=0)
    spec = JobSpec(
        name=outlines.stem[:200],
        size=SizePart(
            width_mm=_length(float(reach[0])), height_mm=_length(float(reach[1])),
            pitch_mm=0.5,
        ),
        marking=MarkingPart(way="carved", carving=CarvingPart(
            tool=_tool_part(given), plunge_mm_s=given["plunge"],
        )),
        blank=BlankPart(thickness_mm=given["board"]),
        machine=_machine(given, "vtool"),
        operations=(RASTER.model_copy(update={"on": False}), operation),
        place=_place(given),
    )  # fmt: skip
    pipeline = Pipeline(Source(lambda _: b""), StageCache(_CACHE_BYTES))
    _write(pipeline, spec, out)


@click.command()
@click.argument("artwork", type=FILE)
@click.argument("out", type=FILE)
@_sized
@click.option("--mark", type=LENGTH, default="0.15mm", show_default=True)
@click.option("--method", default="line", show_default=True, help="line or a dot method.")
@click.option("--angle", type=float, default=0.0, show_default=True, help="Of lines, °.")
@click.option("--crossed", is_flag=True, help="Lines once more, square to them.")
@click.option(
    "--ground",
    type=click.FloatRange(0, 50),
    default=2.0,
    show_default=True,
    help="Lines leave bare what asks for less, %.",
)
@click.option("--speed", type=SPEED, default="40mm/s", show_default=True)
@click.option("--depth", type=LENGTH, default="0.1mm", show_default=True)
@click.option("--polarity", default="lightens", help="darkens or lightens.")
@_moving
@_placed
def drag(artwork: Path, out: Path, **given: Any) -> None:
    """Scratch a picture with a drag point: its light parts into dark metal."""
    above_zero(mark=given["mark"], depth=given["depth"])
    dots = DotsPart(method=given["method"], angle_deg=given["angle"])
    marking = MarkingPart(way="drag")
    drag_part = marking.drag.model_copy(
        update={"crossed": given["crossed"], "ground_percent": given["ground"]}
    )
    spec, pipeline = _of_picture(artwork, given, given["mark"], "drag")
    machine = {"spot_mm": given["mark"], "depth_mm": given["depth"]}
    spec = spec.model_copy(
        update={
            "dots": dots,
            "marking": marking.model_copy(update={"drag": drag_part}),
            "machine": spec.machine.model_copy(update=machine),
            "burn": BurnPart(speed_mm_s=given["speed"]),
        }
    )
    _write(pipeline, spec, out)


COMMANDS = (relief, carve, inside, drag)


def _of_picture(
    artwork: Path, given: dict[str, Any], pitch_mm: float, kind: str
) -> tuple[JobSpec, Pipeline]:
    """Return a job of a picture on a machine that touches, and its pipeline."""
    picture = read_artwork(existing(artwork))
    source = ArtworkPart(
        file=artwork.name, width_px=picture.width_px, height_px=picture.height_px
    )
    polarity = Polarity(choice("--polarity", given["polarity"], Polarity))
    spec = JobSpec(
        name=artwork.stem[:200],
        artwork=source,
        size=size_of(given, source.ratio, pitch_mm),
        substrate=SubstratePart(polarity=polarity),
        machine=_machine(given, kind),
        place=_place(given),
    )
    return spec, Pipeline(InMemorySource(picture), StageCache(_CACHE_BYTES))


def _machine(given: dict[str, Any], kind: Any) -> MachinePart:
    above_zero(accel=given["accel"], rapid=given["rapid"], lift=given["lift"])
    return MachinePart(
        kind=kind, acceleration_mm_s2=given["accel"], rapid_mm_s=given["rapid"],
        lift_mm=given["lift"], z_axis=True,
    )  # fmt: skip


def _place(given: dict[str, Any]) -> PlacePart:
    return PlacePart(x_mm=given["x"], y_mm=given["y"])


def _tool_part(given: dict[str, Any]) -> ToolPart:
    tip = given["tip"]
    return ToolPart(
        name=f"V-tool {given['tool_angle']:g}°", angle_deg=given["tool_angle"],
        tip_mm=tip, diameter_mm=max(100.0, tip + 1) if tip >= 99 else 100.0,
        spindle_rpm=given["spindle"],
    )  # fmt: skip


def _length(mm: float) -> float:
    return min(max(math.ceil(mm * 1000) / 1000, 0.5), LARGEST_MM)


def _write(pipeline: Pipeline, spec: JobSpec, out: Path) -> None:
    """Write a job's G-code; nothing of it where it cannot be made."""
    made = out.with_name(f".{out.name}.part")
    try:
        with made.open("wb") as stream:
            pipeline.write_gcode(spec, stream)
        made.replace(out)
    finally:
        made.unlink(missing_ok=True)
