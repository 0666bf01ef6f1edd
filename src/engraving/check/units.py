"""Rules on numbers that look as if they were typed in another unit."""

import math

from engraving.check.facts import Facts
from engraving.check.findings import Finding, Fine, Fix, Severity, rule

_FACTORS = {
    60.0: "a minute for a second",
    25.4: "inches for mm",
    10.0: "cm for mm",
    100.0: "a shifted point",
}
_NEAR = 0.03


def _mistaken(found: float, wanted: float) -> tuple[float, str] | None:
    """Return the factor by which a number is off and what it is of; None for neither."""
    if found <= 0 or wanted <= 0:
        return None
    times = max(found / wanted, wanted / found)
    for factor, why in _FACTORS.items():
        if abs(times / factor - 1) <= _NEAR:
            return factor, why
    return None


@rule(of_rows=True, of="beam")
def speed_in_its_unit(facts: Facts) -> Finding | Fine | None:
    """The speed is not the recipe's in another unit."""
    recipe = facts.shelf.recipe if facts.shelf else None
    if recipe is None or facts.spec.card:
        return None
    speed, wanted = facts.spec.burn.speed_mm_s, recipe.speed_mm_s
    found = _mistaken(speed, wanted)
    if found is None:
        return Fine("speed_in_its_unit", "Speed, of the recipe's", f"{speed / wanted:.2f}")
    return Finding(
        "speed_in_its_unit",
        Severity.CAUTION,
        "burn",
        f"The speed is {found[0]:g} times off the recipe's: {found[1]}?",
        f"{speed:g} mm/s set, {wanted:g} mm/s in the recipe",
        Fix(f"Set {wanted:g} mm/s", {"burn": {"speed_mm_s": wanted}}),
    )


@rule(of_rows=True)
def size_in_its_unit(facts: Facts) -> Finding | Fine | None:
    """The size is not the blank's in another unit."""
    spec = facts.spec
    size, blank = spec.size, spec.blank
    if spec.card or spec.mount.rotary or size.fit != "exact":
        return None
    # A picture fits by its longer side; only what is beyond all sense is asked about.
    times = max(size.width_mm / blank.width_mm, size.height_mm / blank.height_mm)
    found = _mistaken(times, 1.0)
    if found is None:
        return Fine("size_in_its_unit", "Size, of the blank's", f"{times:.2f}")
    width, height = (side / times for side in (size.width_mm, size.height_mm))
    return Finding(
        "size_in_its_unit",
        Severity.CAUTION,
        "blank",
        f"The picture is {found[0]:g} times off the blank: {found[1]}?",
        f"{size.width_mm:g} × {size.height_mm:g} mm on "
        f"{blank.width_mm:g} × {blank.height_mm:g} mm",
        Fix(
            f"Set {width:.1f} × {height:.1f} mm",
            {"size": {"width_mm": round(width, 3), "height_mm": round(height, 3)}},
        )
        if math.isfinite(width) and min(width, height) >= 1
        else None,
    )
