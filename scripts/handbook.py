"""Make the handbook's pictures from the demo's, by the core: ``make handbook``.

Each picture shows the same piece twice: before on the left, after on the right.
"""

import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parents[1]
sys.path[:0] = [str(ROOT / "src"), str(ROOT / "tests")]

import cv2  # noqa: E402
import numpy as np  # noqa: E402
from numpy.typing import NDArray  # noqa: E402
from PIL import Image  # noqa: E402

from engraving.artwork import Artwork, InMemorySource  # noqa: E402
from engraving.jobspec import JobSpec  # noqa: E402
from engraving.pipeline import Pipeline, StageCache  # noqa: E402
from engraving.proof import Window  # noqa: E402
from engraving.recipe import job_dose_j_mm2  # noqa: E402
from engraving.tone import auto_part  # noqa: E402
from support.jobs import changed  # noqa: E402
from workshop.demo import pictures  # noqa: E402

Pixels = NDArray[np.uint8]
TARGET = ROOT / "src" / "workshop" / "handbook" / "pages" / "img"
HALF, GAP = (276, 207), 8
"""Size of a half and what lies between two, in pixels."""
PITCH_MM = 0.1
PALE, QUALITY = 244, 82


def job(**parts: Any) -> JobSpec:
    """A job of the default pale wood whose grid is a half's, a dot a pixel."""
    size = {"width_mm": HALF[0] * PITCH_MM, "height_mm": HALF[1] * PITCH_MM}
    own = {**size, "pitch_mm": PITCH_MM, **parts.get("size", {})}
    return changed(JobSpec(), **{**parts, "size": own})


class Scene:
    """A picture of the demo, and what becomes of it."""

    def __init__(self, pixels: Pixels) -> None:
        gray = pixels if pixels.ndim == 2 else cv2.cvtColor(pixels, cv2.COLOR_RGB2GRAY)
        colour = pixels if pixels.ndim == 3 else None
        artwork = Artwork(gray, "PNG", "made", None, (), False, colour=colour)
        self.rows, self.cols = gray.shape
        self.pipeline = Pipeline(InMemorySource(artwork), StageCache(1 << 27))

    def _own(self, parts: dict[str, Any]) -> JobSpec:
        px = {"width_px": self.cols, "height_px": self.rows}
        return job(**{**parts, "artwork": {**px, **parts.get("artwork", {})}})

    def tones(self, **parts: Any) -> Pixels:
        """The tones that dots will be made of."""
        return np.asarray(self.pipeline.toned(self._own(parts)))

    def piece(self, closer: int = 1, **parts: Any) -> Pixels:
        """The finished piece, or its middle from so many times closer."""
        spec = self._own(parts)
        across, down = (round(one / spec.size.pitch_mm * PITCH_MM) for one in HALF)
        cols, rows = across // closer, down // closer
        left, top = (across - cols) // 2, (down - rows) // 2
        window = Window(left, top, cols, rows, *HALF)
        return np.asarray(self.pipeline.proof(spec, window))

    def fitted(self) -> dict[str, Any]:
        """What auto tone finds for it."""
        return auto_part(
            JobSpec().tone, self.pipeline.auto_tone(self._own({}))
        ).model_dump()


def beside(before: Pixels, after: Pixels) -> Image.Image:
    """Two halves in one picture."""
    halves = [
        Image.fromarray(one).convert("RGB").resize(HALF, Image.Resampling.BOX)
        for one in (before, after)
    ]
    both = Image.new("RGB", (2 * HALF[0] + GAP, HALF[1]), (PALE, PALE, PALE))
    both.paste(halves[0], (0, 0))
    both.paste(halves[1], (HALF[0] + GAP, 0))
    return both


def photographed(pixels: Pixels) -> Pixels:
    """As a hurried hand takes it: in mist, a little dark, and soft."""
    soft = cv2.GaussianBlur(pixels, (0, 0), 1.1).astype(np.float32)
    return np.rint(52 + soft * 0.46).astype(np.uint8)


def views() -> Iterator[tuple[str, Pixels, Pixels]]:
    """Yield the name of each picture, and its two halves."""
    house = pictures.dome(828, 621)
    clear = Scene(house)
    misty = Scene(photographed(house))
    noise = np.random.default_rng(7).normal(0, 22, house.shape)
    grainy = Scene(np.clip(house + noise, 0, 255).astype(np.uint8))
    moon = pictures.moon(828)[104:725]
    night = Scene(moon)

    outline = [
        [0.27, 0.86], [0.27, 0.62], [0.28, 0.5], [0.36, 0.34], [0.5, 0.28], [0.64, 0.34],
        [0.72, 0.5], [0.73, 0.62], [0.73, 0.86],
    ]  # fmt: skip
    cut = {"edits": [{"kind": "lasso", "points": outline, "keep": False}], "invert": True}
    yield "artwork", clear.piece(), clear.piece(mask=cut)
    yield "ground", clear.tones(), clear.tones(mask=cut)
    tilted = Scene(_tilted(house, 3.2))
    crop = {"left": 0.14, "top": 0.12, "width": 0.72, "height": 0.72}
    level = {"straighten_deg": -3.2, "crop": crop}
    yield "shape", tilted.tones(), tilted.tones(artwork=level)
    red = {"mix": {"red": 100, "green": 10, "blue": -10}}
    yield "gray", clear.tones(), clear.tones(artwork=red)

    yield "blank", clear.piece(4, size={"pitch_mm": 0.2}), clear.piece(4)
    yield "tone", misty.piece(), misty.piece(tone=misty.fitted())
    yield "levels", misty.tones(), misty.tones(tone={"input_black": 52, "input_white": 168})
    lift = {"curve": [[0, 0], [60, 104], [190, 206], [255, 255]]}
    yield "curve", clear.tones(), clear.tones(tone=lift)
    yield "depths", night.tones(), night.tones(tone={"shadows": 80})
    yield "local", misty.tones(), misty.tones(tone={"local_amount": 80, "local_mm": 3})
    yield "grain", grainy.tones(), grainy.tones(tone={"denoise": 85})
    yield "sharpen", misty.tones(), misty.tones(tone={"sharpen_amount": 220})
    plain = {"method": "threshold"}
    yield "dots", clear.piece(dots=plain), clear.piece(dots={"method": "floyd-steinberg"})
    right = {"recipe_dose": job_dose_j_mm2(job())}
    weak = {**right, "power": JobSpec().burn.power * 0.35}
    yield "burn", clear.piece(burn=weak), clear.piece(burn=right)


def _tilted(pixels: Pixels, degrees: float) -> Pixels:
    rows, cols = pixels.shape[:2]
    turn = cv2.getRotationMatrix2D((cols / 2, rows / 2), -degrees, 1.0)
    return cv2.warpAffine(pixels, turn, (cols, rows), borderMode=cv2.BORDER_REFLECT)


def main() -> None:
    """Write the pictures."""
    TARGET.mkdir(exist_ok=True)
    for name, before, after in views():
        beside(before, after).save(TARGET / f"{name}.webp", quality=QUALITY, method=6)


if __name__ == "__main__":
    main()
