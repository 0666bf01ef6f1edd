"""The stages that make the picture on the burn grid: gray, mask, shading, overlay."""

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.artwork import Artwork, Source, place_on_grid
from engraving.artwork.grid import place_seen, place_share, repeat_dots
from engraving.artwork.mask import LONGEST_PX as MASK_PX
from engraving.artwork.mask import edited, finished, whole
from engraving.artwork.mix import gray_plane, needs_colour
from engraving.artwork.overlay import draw_overlay
from engraving.artwork.retouch import LONGEST_PX as SHADE_PX
from engraving.artwork.retouch import Shading, shaded, unshaded
from engraving.lettering import Face
from engraving.pipeline.cache import StageCache, stage_key
from engraving.spec import Ground, JobSpec

_PLANE = ("sha256", "page", "mix", "dropped", "ground", "ground_gray")
_PLACED = ("corners", "turns", "mirror", "straighten_deg", "crop", "keep_dots")


class PictureStages:
    """What comes before tone.

    Parameters
    ----------
    source : Source
        Where pictures and fonts come from.
    cache : StageCache
        Where results are kept; share one between pipelines of one process.
    """

    def __init__(self, source: Source, cache: StageCache) -> None:
        self._source = source
        self._cache = cache

    # Keys

    def plane_key(self, spec: JobSpec) -> str:
        """Key of the whole gray picture."""
        return stage_key("plane", spec.artwork.model_dump(include=set(_PLANE)))

    def placed_key(self, spec: JobSpec) -> str:
        """Key of where the picture lies on the grid."""
        part = spec.artwork.model_dump(include={*_PLACED, "width_px", "height_px"})
        return stage_key("placed", part, spec.size.cols, spec.size.rows, spec.size.repeat)

    def grid_key(self, spec: JobSpec) -> str:
        """Key of the artwork on the burn grid."""
        return stage_key("grid", self.plane_key(spec), self.placed_key(spec))

    def mask_key(self, spec: JobSpec) -> str:
        """Key of the mask on the burn grid."""
        part = spec.artwork
        picture = (part.sha256, part.page, part.ground == Ground.UNBURNED)
        if not _has_mask(spec):
            return stage_key("mask", picture, self.placed_key(spec))
        return stage_key(
            "mask",
            picture,
            self.placed_key(spec),
            spec.mask.model_dump(mode="json"),
            (spec.size.width_mm, spec.size.height_mm, spec.size.cell_mm),
        )

    def shading_key(self, spec: JobSpec) -> str:
        """Key of the retouching on the burn grid."""
        if not _has_shading(spec):
            return "none"
        strokes = spec.retouch.model_dump(mode="json")
        return stage_key("shading", self.placed_key(spec), strokes)

    def overlay_key(self, spec: JobSpec) -> str:
        """Key of lettering and border."""
        if not _has_overlay(spec):
            return "none"
        frame = {"frame", "frame_inset_mm", "corner_mm"}
        return stage_key(
            "overlay",
            (spec.size.width_mm, spec.size.height_mm, spec.size.cell_mm),
            spec.lettering.model_dump(),
            spec.border.model_dump(),
            spec.mask.model_dump(include=frame),
        )

    # Stages

    def artwork(self, spec: JobSpec, *, colour: bool = False) -> Artwork:
        """Return the picture as read."""
        part = spec.artwork
        key = artwork_key(part.sha256, part.page, colour=colour)
        return self._cache.get(key, lambda: self._source.artwork(part, colour=colour))

    def likeness(self, spec: JobSpec) -> NDArray[np.uint8]:
        """Return RGBA codes of the whole upright picture, to look at and draw upon."""
        part = spec.artwork
        key = likeness_key(part.sha256, part.page)
        return self._cache.get(key, lambda: self._source.likeness(part))

    def face(self, name: str) -> Face:
        """Return a font."""
        return self._cache.get(stage_key("face", name), lambda: self._source.face(name))

    def plane(self, spec: JobSpec) -> NDArray[Any]:
        """Return the whole gray picture as the job mixes it."""
        part = spec.artwork
        colour = needs_colour(part)
        found = self.artwork(spec, colour=colour)
        plain = found.alpha is None or part.ground == Ground.UNBURNED
        if plain and not (colour and found.colour is not None):
            return found.gray
        return self._cache.get(self.plane_key(spec), lambda: gray_plane(found, part))

    def grid(self, spec: JobSpec) -> NDArray[Any]:
        """Return the artwork with one pixel per dot, shape (rows, cols)."""
        return self._on_grid(spec)[0]

    def opacity(self, spec: JobSpec) -> NDArray[np.uint8] | None:
        """Return the artwork's own opacity on the grid; None where all is opaque."""
        return self._on_grid(spec)[1]

    def _on_grid(self, spec: JobSpec) -> tuple[NDArray[Any], NDArray[np.uint8] | None]:
        return self._cache.get(self.grid_key(spec), lambda: self._place(spec))

    def _place(self, spec: JobSpec) -> tuple[NDArray[Any], NDArray[np.uint8] | None]:
        gray, alpha = self._place_once(spec)
        return _side_by_side(spec, gray), None if alpha is None else _side_by_side(
            spec, alpha
        )

    def _place_once(self, spec: JobSpec) -> tuple[NDArray[Any], NDArray[np.uint8] | None]:
        part, size = spec.artwork, _once(spec)
        plane = self.plane(spec)
        alpha = self.artwork(spec, colour=needs_colour(part)).alpha
        if part.keep_dots:
            dots = repeat_dots(plane, part, *size)
            return dots, None if alpha is None else repeat_dots(alpha, part, *size)
        if alpha is None:
            return place_on_grid(plane, part, *size), None
        if part.ground == Ground.UNBURNED:
            return place_seen(plane, alpha, part, *size)
        return place_on_grid(plane, part, *size), place_share(alpha, part, *size)

    def mask(self, spec: JobSpec) -> NDArray[np.uint8] | None:
        """Return what is kept of each dot, 255 all; None where all is kept."""
        unburned = spec.artwork.ground == Ground.UNBURNED
        opacity = self.opacity(spec) if unburned else None
        if not _has_mask(spec):
            return opacity
        drawn = self._cache.get(self.mask_key(spec), lambda: (self._drawn_mask(spec),))[0]
        if opacity is None or drawn is None:
            return drawn if opacity is None else opacity
        return np.asarray(cv2.multiply(drawn, opacity, scale=1 / 255))

    def _drawn_mask(self, spec: JobSpec) -> NDArray[np.uint8] | None:
        on_grid = None
        if spec.mask.edits:
            once = place_share(self.edited_mask(spec), spec.artwork, *_once(spec))
            on_grid = _side_by_side(spec, once)
        return finished(on_grid, spec.mask, spec.size)

    def edited_mask(self, spec: JobSpec) -> NDArray[np.uint8]:
        """Return the mask after all edits, on a likeness of the whole picture.

        Kept edit by edit, so that one more costs only itself.
        """
        rgb = self._small_likeness(spec, MASK_PX)
        mask = whole(rgb.shape[1], rgb.shape[0])
        key = stage_key("edit", spec.artwork.sha256, spec.artwork.page)
        for edit in spec.mask.edits:
            key = stage_key(key, edit.model_dump(mode="json"))
            mask = self._cache.get(key, lambda m=mask, e=edit: edited(m, e, rgb))  # type: ignore[misc]
        return mask

    def _small_likeness(self, spec: JobSpec, longest: int) -> NDArray[np.uint8]:
        part = spec.artwork
        key = stage_key("likeness", part.sha256, part.page, longest)
        return self._cache.get(key, lambda: _reduced(self.likeness(spec), longest))

    def shading(self, spec: JobSpec) -> NDArray[np.uint8] | None:
        """Return factor and addend of the tones, shape (2, rows, cols), or None."""
        if not _has_shading(spec):
            return None
        return self._cache.get(self.shading_key(spec), lambda: self._shade(spec))

    def _shade(self, spec: JobSpec) -> NDArray[np.uint8]:
        part = spec.artwork
        scale = min(SHADE_PX / max(part.width_px, part.height_px), 1.0)
        width, height = round(part.width_px * scale), round(part.height_px * scale)
        shading = unshaded(max(width, 1), max(height, 1))
        key = stage_key("shade", shading.shape)
        for stroke in spec.retouch.strokes:
            key = stage_key(key, stroke.model_dump(mode="json"))
            shading = self._cache.get(key, lambda s=shading, t=stroke: shaded(s, t))  # type: ignore[misc]
        return self._shading_on_grid(spec, shading)

    @staticmethod
    def _shading_on_grid(spec: JobSpec, shading: Shading) -> NDArray[np.uint8]:
        planes = np.rint(shading.clip(0, 1) * 255).astype(np.uint8)
        once = [place_share(plane, spec.artwork, *_once(spec)) for plane in planes]
        return np.stack([_side_by_side(spec, plane) for plane in once])

    def overlay(self, spec: JobSpec) -> NDArray[np.uint8] | None:
        """Return what is drawn in pure dark (1) or light (2); None when nothing is."""
        if not _has_overlay(spec):
            return None
        return self._cache.get(
            self.overlay_key(spec),
            lambda: draw_overlay(
                spec.size, spec.lettering, spec.border, spec.mask, self.face
            ),
        )


def _once(spec: JobSpec) -> tuple[int, int]:
    """Return columns and rows of the artwork where it lies several times side by side."""
    return spec.size.cols // spec.size.repeat, spec.size.rows


def _side_by_side(spec: JobSpec, plane: NDArray[Any]) -> NDArray[Any]:
    return plane if spec.size.repeat == 1 else np.tile(plane, (1, spec.size.repeat))


def artwork_key(sha256: str, page: int, *, colour: bool = False) -> str:
    """Return the key a read picture is kept under."""
    return stage_key("artwork", sha256, page, colour)


def likeness_key(sha256: str, page: int) -> str:
    """Return the key a picture's likeness is kept under."""
    return stage_key("likeness", sha256, page)


def _has_mask(spec: JobSpec) -> bool:
    return spec.mask.on and (bool(spec.mask.edits) or spec.mask.frame != "none")


def _has_shading(spec: JobSpec) -> bool:
    return spec.retouch.on and bool(spec.retouch.strokes)


def _has_overlay(spec: JobSpec) -> bool:
    return spec.border.on or bool(spec.lettering.lines)


def _reduced(rgba: NDArray[np.uint8], longest: int) -> NDArray[np.uint8]:
    """Return RGB codes no longer than `longest`, averaged."""
    rgb = np.ascontiguousarray(rgba[..., :3])
    scale = longest / max(rgb.shape[:2])
    if scale >= 1:
        return rgb
    size = max(1, round(rgb.shape[1] * scale)), max(1, round(rgb.shape[0] * scale))
    return np.asarray(cv2.resize(rgb, size, interpolation=cv2.INTER_AREA))
