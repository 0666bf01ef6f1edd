"""The command line: dots, proof, gcode, relief, carve, inside, drag, estimate, check, job.

Errors go to stderr as one sentence and end with status 2.
"""

import dataclasses
import hashlib
import json
import math
import sys
from pathlib import Path
from typing import Any

import click
from PIL import Image
from pydantic import ValidationError

from engraving.artwork import Artwork, InMemorySource, Source, read_artwork
from engraving.artwork.source import no_font
from engraving.check import Facts, check_job, listing, stopped_by
from engraving.commands.bars import bars
from engraving.commands.marking import COMMANDS
from engraving.commands.options import (
    DPI,
    FILE,
    LENGTH,
    SPEED,
    choice,
    existing,
    options,
    size_of,
)
from engraving.dots import METHODS, method_named
from engraving.drawing import (
    JOIN_MM,
    DrawnPath,
    filled,
    joined,
    merged,
    read_dxf_paths,
    read_svg_paths,
)
from engraving.errors import ArtworkError, EngravingError, InputError, JobError
from engraving.gcode import read_moves
from engraving.jobspec import (
    ArtworkPart,
    BurnPart,
    DotsPart,
    JobSpec,
    MachinePart,
    PlacePart,
    Polarity,
    ReproductionPart,
    Scan,
    SubstratePart,
    TonePart,
    explain,
)
from engraving.jobspec.job_file import JobFile, pocket_pictures, read_job_file
from engraving.motion import JUNCTION_MM, Estimate, estimate
from engraving.pipeline import Pipeline, StageCache
from engraving.units import dpi_to_pitch

_CACHE_BYTES = 1 << 30


_grid_options = options(
    click.argument("artwork", type=FILE),
    click.argument("out", type=FILE),
    click.option("--width", type=LENGTH, help="Engraved width; 80mm with no height."),
    click.option("--height", type=LENGTH, help="Engraved height."),
    click.option("--dpi", type=DPI, default="254", show_default=True),
    click.option(
        "--method",
        default="floyd-steinberg",
        show_default=True,
        help=f"One of: {' '.join(METHODS)}.",
    ),
    click.option("--scan", default="serpentine", help="serpentine or one-way."),
    click.option("--ruling", type=float, help="Of screens and lines: lines a cm."),
    click.option("--angle", type=float, help="Of screens and lines: degrees."),
    click.option("--tones", default="plain", show_default=True, help="plain linear spot."),
    click.option("--auto-tone", is_flag=True, help="Compute tone from the picture."),
    click.option("--polarity", default="darkens", help="darkens or lightens."),
    click.option("--gamma", type=float, help="Above 1 lightens middle tones."),
    click.option("--brightness", type=float, help="-100 to 100."),
    click.option("--contrast", type=float, help="-100 to 100."),
)


@click.group(context_settings={"help_option_names": ["-h", "--help"]})
def cli() -> None:
    """Old Ember: photographs to raster engraving jobs, without a browser."""


@cli.command()
@_grid_options
def dots(artwork: Path, out: Path, **given: Any) -> None:
    """Write the dots as a 1-bit PNG; black = burn."""
    spec, pipeline = _prepare(artwork, given)
    pipeline.burned(spec).write_png(out, spec.size.cell_mm)


@cli.command()
@_grid_options
@click.option("--spot", type=LENGTH, default="0.1mm", show_default=True)
def proof(artwork: Path, out: Path, spot: float, **given: Any) -> None:
    """Write the predicted look as a PNG, one pixel per dot."""
    spec, pipeline = _prepare(artwork, given, machine={"spot_mm": spot})
    pipeline.write_proof(spec, out)


@cli.command()
@_grid_options
@click.option("--speed", type=SPEED, default="100mm/s", show_default=True)
@click.option("--power", type=float, default=40.0, show_default=True, help="Percent.")
@click.option("--passes", type=int, default=1, show_default=True)
@click.option("--accel", type=float, default=3000.0, show_default=True, help="mm/s².")
@click.option("--rapid", type=SPEED, default="300mm/s", show_default=True)
@click.option("--x", type=LENGTH, default="10mm", show_default=True)
@click.option("--y", type=LENGTH, default="20mm", show_default=True)
@click.option("--one-way", is_flag=True, help="Burn all rows in the same direction.")
@click.option("--s-max", type=int, default=1000, show_default=True)
@click.option("--beam", default="M3", show_default=True, help="M3 or M4.")
def gcode(artwork: Path, out: Path, **given: Any) -> None:
    """Write the tool path as G-code."""
    machine = {
        "acceleration_mm_s2": given.pop("accel"),
        "rapid_mm_s": given.pop("rapid"),
        "s_max": given.pop("s_max"),
        "beam": choice("--beam", given.pop("beam"), ("M3", "M4")),
    }
    burn = {
        "speed_mm_s": given.pop("speed"),
        "power": given.pop("power"),
        "passes": given.pop("passes"),
        "both_ways": not given.pop("one_way"),
    }
    place = {"x_mm": given.pop("x"), "y_mm": given.pop("y")}
    spec, pipeline = _prepare(artwork, given, machine=machine, burn=burn, place=place)
    with out.open("wb") as stream:
        pipeline.write_gcode(spec, stream)


@cli.command("estimate")
@click.argument("file", type=FILE)
@click.option("--accel", type=float, default=3000.0, show_default=True, help="mm/s².")
@click.option("--rapid", type=SPEED, default="300mm/s", show_default=True)
@click.option(
    "--junction",
    type=LENGTH,
    default=f"{JUNCTION_MM}mm",
    show_default=True,
    help="Deviation at corners; 0: a stop at every one.",
)
@click.option(
    "--ahead",
    type=click.IntRange(0, 100_000),
    default=0,
    show_default=True,
    help="Moves the controller plans together; 0: as many as it takes.",
)
@click.option(
    "--diameter", type=LENGTH, help="Of a piece that A turns; else as the file's job says."
)
def estimate_file(
    file: Path,
    accel: float,
    rapid: float,
    junction: float,
    ahead: int,
    diameter: float | None,
) -> None:
    """Print the time and extent of a G-code file as JSON."""
    if not (0 < accel < float("inf") and rapid > 0):
        raise InputError("--accel and --rapid must be above 0.")
    if junction < 0 or (diameter is not None and diameter <= 0):
        raise InputError("--junction must not be below 0, and --diameter above it.")
    surface = None if diameter is None else math.pi * diameter / 360
    with existing(file).open("rb") as stream:
        moves = read_moves(stream, surface, arc_mm=junction)
        _print(_estimate_json(estimate(moves, (accel, accel), rapid, junction, ahead)))


@cli.command()
@click.argument("file", type=FILE)
@click.option(
    "--join",
    type=LENGTH,
    default=f"{JOIN_MM}mm",
    show_default=True,
    help="Loose ends so near one another are one point.",
)
def outlines(file: Path, join: float) -> None:
    """Print the lines of an SVG or DXF drawing as JSON, in the file's own order."""
    data = existing(file).read_bytes()
    read = read_dxf_paths if file.suffix.lower() == ".dxf" else read_svg_paths
    drawn = read(data)
    paths, twice = merged(joined(drawn.paths, join)[0])
    _print(
        {
            "parts": [_part_json(one) for one in paths],
            "merged": twice,
            "left_out": list(drawn.words),
        }
    )


def _part_json(path: DrawnPath) -> dict[str, Any]:
    areas = filled([path.points], nonzero=path.nonzero) if path.closed else []
    return {
        "closed": path.closed,
        "length_mm": path.length_mm,
        "area_mm2": float(sum(one.area for one in areas)),
        "box_mm": [*path.points.min(axis=0), *path.points.max(axis=0)],
    }


@cli.command()
@click.argument("file", type=FILE)
def check(file: Path) -> None:
    """Print what the rules find in a job file as JSON."""
    found = read_job_file(file)
    if found.picture is None:
        _print(_check_json(*check_job(Facts(found.spec))))
        return
    spec, pipeline = _job_pipeline(found, found.picture)
    _print(_check_json(*pipeline.check(spec)))


@cli.command()
def rules() -> None:
    """Print all that is checked before a burn, as Markdown."""
    click.echo(listing(), nl=False)


@cli.command()
@click.argument("files", type=FILE, nargs=-1, required=True)
@click.option("--dots", "dots_to", type=FILE, help="1-bit PNG; black = burn.")
@click.option("--toned", "toned_to", type=FILE, help="Gray PNG before dots.")
@click.option("--proof", "proof_to", type=FILE, help="The predicted look.")
@click.option("--gcode", "gcode_to", type=FILE)
@click.option("--report", "report_to", type=FILE, help="Findings and time as JSON.")
def job(files: tuple[Path, ...], **targets: Path | None) -> None:
    """Run job files (.zip or .json) headless.

    With several jobs each output gets the job file's name in front of it.
    """
    for file in files:
        found = read_job_file(file)
        if found.picture is None:
            raise JobError(
                f"The artwork “{found.spec.artwork.file}” of {file.name} is not there."
            )
        spec, pipeline = _job_pipeline(found, found.picture)
        several = len(files) > 1
        _write_outputs(spec, pipeline, _named(targets, file, several=several))


def _named(
    targets: dict[str, Path | None], file: Path, *, several: bool
) -> dict[str, Path]:
    wanted = {name: path for name, path in targets.items() if path is not None}
    if not several:
        return wanted
    return {
        name: path.with_name(f"{file.stem}-{path.name}") for name, path in wanted.items()
    }


def _write_outputs(spec: JobSpec, pipeline: Pipeline, targets: dict[str, Path]) -> None:
    if path := targets.get("dots_to"):
        pipeline.burned(spec).write_png(path, spec.size.cell_mm)
    if path := targets.get("toned_to"):
        Image.fromarray(pipeline.finished(spec)).save(path, "PNG")
    if path := targets.get("proof_to"):
        pipeline.write_proof(spec, path)
    findings, fine = pipeline.check(spec)
    if path := targets.get("gcode_to"):
        if why := stopped_by(findings):
            raise JobError(why)
        with path.open("wb") as stream:
            pipeline.write_gcode(spec, stream)
    report = {
        **_check_json(findings, fine),
        "estimate": _estimate_json(pipeline.estimate(spec)),
        "burned_share": pipeline.dots(spec).share,
    }
    if path := targets.get("report_to"):
        path.write_text(json.dumps(report, indent=2) + "\n")
    elif not targets:
        _print(report)


def _prepare(
    artwork: Path, given: dict[str, Any], **parts: dict[str, Any]
) -> tuple[JobSpec, Pipeline]:
    """Return the job the options describe, and its pipeline."""
    method_named(given["method"])
    picture = read_artwork(existing(artwork))
    source = ArtworkPart(
        file=artwork.name, width_px=picture.width_px, height_px=picture.height_px
    )
    tone = {
        name: value
        for name in ("gamma", "brightness", "contrast")
        if (value := given[name]) is not None
    }
    tones = choice("--tones", given["tones"], ("plain", "linear", "spot"))
    spec = JobSpec(
        name=artwork.stem[:200],
        artwork=source,
        size=size_of(given, source.ratio, dpi_to_pitch(given["dpi"])),
        tone=TonePart(**tone),
        dots=_dots(given),
        reproduction=ReproductionPart(mode=tones),
        substrate=SubstratePart(
            polarity=Polarity(choice("--polarity", given["polarity"], Polarity)),
            ground="#ffffff",
            mark="#000000",
        )
        if given["polarity"] != "lightens"
        else SubstratePart(polarity=Polarity.LIGHTENS, ground="#000000", mark="#ffffff"),
        machine=MachinePart(**parts.get("machine", {})),
        burn=BurnPart(**parts.get("burn", {})),
        place=PlacePart(**parts.get("place", {"x_mm": 10.0, "y_mm": 20.0})),
    )
    pipeline = Pipeline(InMemorySource(picture), StageCache(_CACHE_BYTES))
    if given["auto_tone"]:
        values = {**pipeline.auto_tone(spec).values, **tone}
        spec = spec.model_copy(update={"tone": TonePart(**values)})
    return spec, pipeline


def _dots(given: dict[str, Any]) -> DotsPart:
    asked = {"ruling_cm": given["ruling"], "angle_deg": given["angle"]}
    set_ = {name: value for name, value in asked.items() if value is not None}
    scan = Scan(choice("--scan", given["scan"], Scan))
    return DotsPart(method=given["method"], scan=scan, **set_)


def _job_pipeline(job: JobFile, picture: bytes) -> tuple[JobSpec, Pipeline]:
    """Return the job with its artwork's true facts, and its pipeline."""
    spec, digest = job.spec, hashlib.sha256(picture).hexdigest()
    if spec.artwork.sha256 not in ("", digest):
        raise ArtworkError(
            "The artwork is not the one this job was made for; its content differs."
        )
    artwork: Artwork = read_artwork(picture, spec.artwork.page)
    part = spec.artwork.model_copy(
        update={
            "sha256": digest,
            "width_px": artwork.width_px,
            "height_px": artwork.height_px,
        }
    )
    found, cache, fonts = (
        spec.model_copy(update={"artwork": part}), StageCache(_CACHE_BYTES), job.fonts,
    )  # fmt: skip
    missing = sorted(set(pocket_pictures(spec)) - set(job.pictures))
    if missing:
        raise JobError(
            "Pictures of the fixture's pockets are missing; export the job again."
        )
    source = Source(
        lambda part: job.pictures.get(part.sha256, picture),
        lambda name: fonts[name] if name in fonts else no_font(name),
    )
    pipeline = Pipeline(source, cache)
    cache.get(pipeline.artwork.key(found), lambda: artwork)
    return found, pipeline


def _estimate_json(result: Estimate) -> dict[str, Any]:
    return dataclasses.asdict(result)


def _check_json(findings: list[Any], fine: list[Any]) -> dict[str, Any]:
    return {
        "findings": [dataclasses.asdict(finding) for finding in findings],
        "fine": [dataclasses.asdict(passed) for passed in fine],
    }


def _print(data: dict[str, Any]) -> None:
    click.echo(json.dumps(data, indent=2))


for _command in COMMANDS:
    cli.add_command(_command)


_CALLED = "engrave" if Path(sys.argv[0]).stem == "engrave" else "python -m engraving"


def main(arguments: list[str] | None = None) -> int:
    """Run the command line, or the given one, and return its exit status."""
    try:
        with bars():
            cli.main(arguments, standalone_mode=False, prog_name=_CALLED)
    except EngravingError as error:
        return _fail(error.message)
    except ValidationError as error:
        return _fail(explain(error))
    except click.ClickException as error:
        return _fail(error.format_message())
    except click.exceptions.Abort:
        return _fail("Stopped.")
    except OSError as error:
        return _fail(f"“{error.filename}” cannot be used: {error.strerror}.")
    return 0


def _fail(sentence: str) -> int:
    click.echo(sentence, err=True)
    return 2


if __name__ == "__main__":
    sys.exit(main())
