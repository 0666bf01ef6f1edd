"""A change under way, and what every station ties together."""

from dataclasses import dataclass, field
from typing import Any

from engraving.jobspec import JobSpec
from engraving.place import anchor_of, engravable_box, from_anchor
from workshop.jobs.models import Job
from workshop.jobs.revisions.writer import updated


@dataclass
class Edit:
    """A change under way."""

    spec: JobSpec
    changes: dict[str, Any]
    job: Job
    relations: dict[str, int | None] = field(default_factory=dict)

    def has(self, *names: str) -> bool:
        """Whether any of these fields was changed."""
        return any(name in self.changes for name in names)

    def take(self, part: str, **fields: str) -> None:
        """Copy changed fields to values of a part: ``grow="grow_mm"``."""
        values = {
            value: self.changes[name] for name, value in fields.items() if self.has(name)
        }
        if values:
            self.spec = updated(self.spec, {part: values})


def resized(spec: JobSpec, width_mm: float, height_mm: float, **more: Any) -> JobSpec:
    """Return the job at another size; the piece's anchor stays where it is on the bed."""
    x, y = anchor_of(spec.size, spec.place, spec.place.anchor)
    size = {"width_mm": width_mm, "height_mm": height_mm, **more}
    spec = updated(spec, {"size": size})
    left, front = from_anchor(spec.size, spec.place.anchor, x, y, spec.place.turn_deg)
    return updated(spec, {"place": {"x_mm": left, "y_mm": front}})


def refitted(spec: JobSpec) -> JobSpec:
    """Return the job with its size as its fit asks for; see `SizePart`."""
    width, height = fitted_mm(spec)
    return resized(spec, width, height)


def fitted_mm(spec: JobSpec) -> tuple[float, float]:
    """Return width and height in mm that the job's fit gives."""
    size, ratio = spec.size, spec.artwork.ratio
    if spec.keeps_dots:
        _, _, across, down = spec.artwork.window_px
        across *= size.repeat
        times = max(1, round(size.cols / across))
        return across * times * size.along_mm, down * times * size.pitch_mm
    _, _, wide, high = engravable_box(spec.blank)
    if size.fit == "cover":
        wide = spec.blank.width_mm + 2 * size.bleed_mm
        high = spec.blank.height_mm + 2 * size.bleed_mm
        width = max(wide, high * ratio)
        return width, width / ratio
    if size.fit == "stretch":
        return wide + 2 * size.bleed_mm, high + 2 * size.bleed_mm
    if size.fit == "inside":
        width = min(wide, high * ratio)
        return width, width / ratio
    if size.lock_ratio:
        return size.width_mm, size.width_mm / ratio
    return size.width_mm, size.height_mm


def centred_on_blank(spec: JobSpec) -> JobSpec:
    """Return the job with its picture in the middle of the engravable area."""
    x, y, _, _ = engravable_box(spec.blank)
    return nudged(spec, x - spec.size.offset_x_mm, y - spec.size.offset_y_mm)


def nudged(spec: JobSpec, x_mm: float, y_mm: float) -> JobSpec:
    """Return the job with its picture moved on the blank; the blank stays put."""
    size, place = spec.size, spec.place
    # On the bed a mirrored piece is seen from below.
    across = -x_mm if spec.mirrored else x_mm
    return updated(
        spec,
        {
            "size": {
                "offset_x_mm": round(size.offset_x_mm + x_mm, 6),
                "offset_y_mm": round(size.offset_y_mm + y_mm, 6),
            },
            "place": {"x_mm": place.x_mm + across, "y_mm": place.y_mm + y_mm},
        },
    )
