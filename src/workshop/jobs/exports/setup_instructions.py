"""What hands do before the beam and after it."""

from engraving.jobspec import JobSpec
from engraving.place import tilt_deg
from engraving.recipe import spot_on_surface_mm
from workshop.jobs.models import Job
from workshop.shelf.recipes.changes import recipe_part
from workshop.shell.services import show_length


def _held(spec: JobSpec) -> str:
    mount = spec.mount
    if not mount.rotary:
        return ""
    said = [mount.kind, mount.jaw]
    if spec.blank.shape == "taper":
        said.append(f"tilted by {tilt_deg(spec.blank):.2f}°")
    return ", ".join(one for one in said if one)


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


def before_and_after(job: Job, spec: JobSpec) -> dict[str, list[tuple[str, str]]]:
    """Return what to do before the beam and after it, by what it is about.

    Taken from the substrate on the shelf, the machine and the recipe, as far
    as they say something.
    """
    care = job.substrate.care if job.substrate else {}
    recipe = recipe_part(job.recipe) if job.recipe else None
    machine, burn = spec.machine, spec.burn
    focus = []
    if machine.block_mm:
        focus.append(f"with the block of {show_length(machine.block_mm, 1)}")
    if machine.focus_height_mm:
        focus.append(f"lens {show_length(machine.focus_height_mm, 1)} above the surface")
    if burn.focus_mm:
        how = "moved by the program" if machine.z_axis else "set it by hand"
        focus.append(f"{show_length(burn.focus_mm, 1)} above the surface, {how}")
        focus.append(f"the spot is {show_length(spot_on_surface_mm(spec), 2)} there")
    before = [
        ("Mount", _held(spec)),
        ("Coating", (recipe and recipe.coating) or care.get("coating", "")),
        ("Under it", care.get("underlay", "")),
        ("Lens", machine.lens),
        ("Focus", ", ".join(focus)),
        ("Air", f"on, by {machine.air_on}" if spec.blows_air else "off"),
        ("Fumes", care.get("fumes", "")),
        ("Eyes", eyes(spec, care.get("eyes", ""))),
    ]
    after = [("Cleaning", (recipe and recipe.cleaning) or care.get("cleaning", ""))]
    return {
        "before": [(what, text) for what, text in before if text],
        "after": [(what, text) for what, text in after if text],
    }
