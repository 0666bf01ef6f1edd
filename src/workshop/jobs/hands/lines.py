"""What hands do before the beam, and after it: made from the job and its shelf."""

from collections.abc import Iterator
from dataclasses import dataclass

from engraving.jobspec import JobSpec, LensPart
from engraving.place import burned_box, tilt_deg
from engraving.recipe import spot_on_surface_mm
from workshop.jobs.models import Job
from workshop.shelf.recipes.changes import recipe_part

_LARGE_MM = 60.0
"""A smaller piece is level where it lies (common practice, no source)."""


def _mm(value: float, places: int = 1) -> str:
    """Return a length as the list keeps it; pages turn it into inches."""
    return f"{value:.{places}f} mm"


@dataclass(frozen=True)
class HandLine:
    """One thing to do at the machine.

    Attributes
    ----------
    slug : str
        Its name in addresses and in the log.
    what, text : str
        What it is about, and what is to be done.
    each_piece : bool
        It is done anew for every piece; what else was done for the piece before, and is
        the same, stays done.
    """

    slug: str
    what: str
    text: str
    each_piece: bool = False


def before(job: Job, spec: JobSpec, *, rotary_was_on: bool = False) -> list[HandLine]:
    """Return what is to be done before the beam runs, in the order of doing it.

    Parameters
    ----------
    job : Job
        With its substrate and recipe.
    spec : JobSpec
        Its present state.
    rotary_was_on : bool
        A rotary was spoken of for a piece before on this machine.
    """
    lines = [
        *_machine(spec, rotary_was_on=rotary_was_on),
        *_piece(job, spec),
        HandLine("focus", "Focus", _focus(spec), each_piece=True),
        *_air(job, spec),
    ]
    return [one for one in lines if one.text]


def after(job: Job) -> str:
    """Return what is to be done to the piece afterwards; empty where nothing is known."""
    care = job.substrate.care if job.substrate else {}
    recipe = recipe_part(job.recipe) if job.recipe else None
    return (recipe and recipe.cleaning) or str(care.get("cleaning", ""))


def _machine(spec: JobSpec, *, rotary_was_on: bool) -> Iterator[HandLine]:
    machine, mount = spec.machine, spec.mount
    if machine.touches:
        yield from _tools(spec)
    else:
        yield HandLine("lens", "Lens", f"{machine.lens} is fitted" if machine.lens else "")
    if mount.rotary:
        said = [
            f"{mount.kind} plugged in and switched on", mount.jaw,
            f"tilted by {tilt_deg(spec.blank):.2f}°" if spec.blank.shape == "taper" else "",
            f"{mount.steps_per_turn:g} steps a turn",
        ]  # fmt: skip
        yield HandLine("rotary", "Rotary", ", ".join(one for one in said if one))
    elif rotary_was_on:
        yield HandLine("rotary", "Rotary", "unplugged; the bed moves again, not the mount")


def _tools(spec: JobSpec) -> Iterator[HandLine]:
    """Yield what is to be put into a spindle, or under a spring."""
    if spec.machine.kind == "drag":
        yield HandLine("tool", "Point", "springs freely, light pressure; no spindle turns")
        return
    parts = [spec.marking.carving.tool] if spec.raster else []
    own = [one.tool or spec.marking.carving.tool for one in spec.outlines if one.on]
    names = list(dict.fromkeys(one.name for one in (*parts, *own)))
    said = ", then ".join(names) or spec.marking.carving.tool.name
    if len(names) > 1:
        said += ", each touched off when the program asks for it"
    yield HandLine("tool", "Tool", f"{said}; sharp, and tight in the collet")


def _piece(job: Job, spec: JobSpec) -> Iterator[HandLine]:
    care = job.substrate.care if job.substrate else {}
    recipe = recipe_part(job.recipe) if job.recipe else None
    yield HandLine("clean", "Surface", "clean, dry, no fingerprints", each_piece=True)
    coating = (recipe and recipe.coating) or care.get("coating", "")
    yield HandLine("coating", "Coating", coating, each_piece=True)
    yield HandLine("underlay", "Under it", care.get("underlay", ""))
    side = "the face that is looked at lies down" if spec.side.seen_from == "back" else ""
    yield HandLine("side", "Which way up", side, each_piece=True)
    yield HandLine("level", "Level", _level(spec))
    held = "clamped" if spec.mount.rotary else "lies where it belongs and cannot move"
    yield HandLine("fixed", "Piece", held, each_piece=True)


def _level(spec: JobSpec) -> str:
    box, fitted = burned_box(spec), _fitted(spec)
    if spec.mount.rotary or max(box.width, box.height) < _LARGE_MM:
        return ""
    within = fitted.depth_mm if fitted else 0.0
    return "all four corners as high as one another" + (
        f", within {_mm(within)}" if within else ""
    )


def _fitted(spec: JobSpec) -> LensPart | None:
    machine = spec.machine
    return next((one for one in machine.lenses if one.name == machine.lens), None)


def _focus(spec: JobSpec) -> str:
    """Say the height of this very piece, where it lies: beds are not flat."""
    machine, burn, thick = spec.machine, spec.burn, spec.blank.thickness_mm
    if machine.touches:
        return "touched off on the piece, where it lies"
    said = []
    if machine.block_mm:
        long, high = (_mm(mm) for mm in (machine.block_mm, machine.block_mm + thick))
        said.append(f"block of {long} on the piece, {high} above the bed")
    elif machine.focus_height_mm:
        said.append(f"lens {_mm(machine.focus_height_mm)} above the piece")
    else:
        said.append(f"set on the piece, {_mm(thick)} thick")
    if not spec.mount.rotary:
        # No numbers: half a millimetre's nudge is no other height.
        said.append("at the middle of the picture, where it lies")
    relief = spec.marking.relief
    if spec.marking.way == "relief" and relief.focus == "middle" and not machine.z_axis:
        deep = min(relief.depth_mm, relief.floor_mm or relief.depth_mm)
        said.append(f"then the surface {_mm(deep / 2, 2)} above the focus")
    if burn.focus_mm:
        how = "moved by the program" if machine.z_axis else "set it by hand"
        said.append(f"then {_mm(burn.focus_mm)} above the surface, {how}")
        said.append(f"the spot is {_mm(spot_on_surface_mm(spec), 2)} there")
    return "; ".join(said)


def _air(job: Job, spec: JobSpec) -> Iterator[HandLine]:
    care = job.substrate.care if job.substrate else {}
    if not spec.machine.touches:
        air = f"on, by {spec.machine.air_on}" if spec.blows_air else "off"
        yield HandLine("air", "Air", air)
        fumes = care.get("fumes", "")
        yield HandLine("exhaust", "Exhaust", f"on. {fumes}".strip() if fumes else "on")
    yield HandLine("eyes", "Eyes", eyes(spec, care.get("eyes", "")))


def eyes(spec: JobSpec, adds: str = "") -> str:
    """Return what protects the eyes: it follows the machine, whatever lies under it.

    Parameters
    ----------
    adds : str
        What the substrate adds, such as that it reflects.
    """
    machine = spec.machine
    if machine.touches:
        said = "Safety glasses: chips fly."
    else:
        micron = machine.wavelength_um
        said = f"Goggles for {micron:g} µm ({1000 * micron:.0f} nm), or the lid closed."
    return f"{said} {adds}".strip()
