"""The command line: dots, proof, gcode, estimate, outlines, check, job.

Errors go to stderr as one sentence and end with status 2.
"""

import dataclasses
import hashlib
import json
import math
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

import click
from PIL import Image
from pydantic import ValidationError

from engraving.artwork import Artwork, InMemorySource, Source, read_artwork
from engraving.artwork.source import no_font
from engraving.check import Facts, check_job, listing, stopped_by
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
    SizePart,
    SubstratePart,
    TonePart,
    explain,
)
from engraving.jobspec.job_file import JobFile, pocket_pictures, read_job_file
from engraving.motion import JUNCTION_MM, Estimate, estimate
from engraving.pipeline import Pipeline, StageCache
from engraving.units import dpi_to_pitch, parse_dpi, parse_length, parse_speed

F = TypeVar("F", bound=Callable[..., Any])

_CACHE_BYTES = 1 << 30


class Quantity(click.ParamType[float]):
    """An option read by one of the `units` parsers."""

    def __init__(self, name: str, parse: Callable[..., float]) -> None:
        self.name = name
        self._parse = parse

    def convert(
        self, value: Any, param: click.Parameter | None, _ctx: click.Context | None
    ) -> float:
        """Return the number in core units; see `engraving.units`."""
        if isinstance(value, float):
            return value
        name = param.opts[0] if param else self.name
        try:
            return self._parse(str(value))
        except InputError as error:
            raise InputError(f"{name}: {error.message}", field=name) from None


LENGTH = Quantity("length", parse_length)
SPEED = Quantity("speed", parse_speed)
DPI = Quantity("dpi", parse_dpi)
FILE = click.Path(path_type=Path)


def _options(*options: Callable[[F], F]) -> Callable[[F], F]:
    def apply(command: F) -> F:
        for option in reversed(options):
            command = option(command)
        return command

    return apply


_grid_options = _options(
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
def dots(artwork: Path, out: Path, **options: Any) -> None:
    """Write the dots as a 1-bit PNG; black = burn."""
    spec, pipeline = _prepare(artwork, options)
    pipeline.burned(spec).write_png(out, spec.size.cell_mm)


@cli.command()
@_grid_options
@click.option("--spot", type=LENGTH, default="0.1mm", show_default=True)
def proof(artwork: Path, out: Path, spot: float, **options: Any) -> None:
    """Write the predicted look as a PNG, one pixel per dot."""
    spec, pipeline = _prepare(artwork, options, machine={"spot_mm": spot})
    out.write_bytes(pipeline.proof_png(spec))


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
def gcode(artwork: Path, out: Path, **options: Any) -> None:
    """Write the tool path as G-code."""
    machine = {
        "acceleration_mm_s2": options.pop("accel"),
        "rapid_mm_s": options.pop("rapid"),
        "s_max": options.pop("s_max"),
        "beam": _choice("--beam", options.pop("beam"), ("M3", "M4")),
    }
    burn = {
        "speed_mm_s": options.pop("speed"),
        "power": options.pop("power"),
        "passes": options.pop("passes"),
        "both_ways": not options.pop("one_way"),
    }
    place = {"x_mm": options.pop("x"), "y_mm": options.pop("y")}
    spec, pipeline = _prepare(artwork, options, machine=machine, burn=burn, place=place)
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
    with _file(file).open("rb") as stream:
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
    data = _file(file).read_bytes()
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
        path.write_bytes(pipeline.proof_png(spec))
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
    artwork: Path, options: dict[str, Any], **parts: dict[str, Any]
) -> tuple[JobSpec, Pipeline]:
    """Return the job the options describe, and its pipeline."""
    method_named(options["method"])
    picture = read_artwork(_file(artwork))
    source = ArtworkPart(
        file=artwork.name, width_px=picture.width_px, height_px=picture.height_px
    )
    tone = {
        name: value
        for name in ("gamma", "brightness", "contrast")
        if (value := options[name]) is not None
    }
    tones = _choice("--tones", options["tones"], ("plain", "linear", "spot"))
    spec = JobSpec(
        name=artwork.stem[:200],
        artwork=source,
        size=_size(options, source.ratio),
        tone=TonePart(**tone),
        dots=_dots(options),
        reproduction=ReproductionPart(mode=tones),
        substrate=SubstratePart(
            polarity=Polarity(_choice("--polarity", options["polarity"], Polarity)),
            ground="#ffffff",
            mark="#000000",
        )
        if options["polarity"] != "lightens"
        else SubstratePart(polarity=Polarity.LIGHTENS, ground="#000000", mark="#ffffff"),
        machine=MachinePart(**parts.get("machine", {})),
        burn=BurnPart(**parts.get("burn", {})),
        place=PlacePart(**parts.get("place", {"x_mm": 10.0, "y_mm": 20.0})),
    )
    pipeline = Pipeline(InMemorySource(picture), StageCache(_CACHE_BYTES))
    if options["auto_tone"]:
        values = {**pipeline.auto_tone(spec).values, **tone}
        spec = spec.model_copy(update={"tone": TonePart(**values)})
    return spec, pipeline


def _dots(options: dict[str, Any]) -> DotsPart:
    asked = {"ruling_cm": options["ruling"], "angle_deg": options["angle"]}
    given = {name: value for name, value in asked.items() if value is not None}
    scan = Scan(_choice("--scan", options["scan"], Scan))
    return DotsPart(method=options["method"], scan=scan, **given)


def _size(options: dict[str, Any], ratio: float) -> SizePart:
    width, height = options["width"], options["height"]
    if width is None and height is None:
        width = 80.0
    for name, value in (("--width", width), ("--height", height)):
        if value is not None and value <= 0:
            raise InputError(f"{name} must be above 0 mm; it is {value:g} mm.")
    width = width if width is not None else height * ratio
    height = height if height is not None else width / ratio
    return SizePart(width_mm=width, height_mm=height, pitch_mm=dpi_to_pitch(options["dpi"]))


def _choice(option: str, value: str, choices: Any) -> str:
    names = [str(choice) for choice in choices]
    if value not in names:
        raise InputError(f"{option} is “{value}”; choose one of {', '.join(names)}.")
    return value


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


def _file(path: Path) -> Path:
    if not path.is_file():
        raise ArtworkError(f"There is no file “{path.name}”.")
    return path


def _estimate_json(result: Estimate) -> dict[str, Any]:
    return dataclasses.asdict(result)


def _check_json(findings: list[Any], fine: list[Any]) -> dict[str, Any]:
    return {
        "findings": [dataclasses.asdict(finding) for finding in findings],
        "fine": [dataclasses.asdict(passed) for passed in fine],
    }


def _print(data: dict[str, Any]) -> None:
    click.echo(json.dumps(data, indent=2))


def main(arguments: list[str] | None = None) -> int:
    """Run the command line, or the given one, and return its exit status."""
    try:
        cli.main(arguments, standalone_mode=False, prog_name="python -m engraving")
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
