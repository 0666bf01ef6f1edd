"""From the picture on the grid to the levels that dots are made of."""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.artwork.levels import splitting_level
from engraving.artwork.mask import laid_over
from engraving.artwork.overlay import DARK, LIGHT
from engraving.artwork.retouch import apply_shading
from engraving.jobspec import DotsPart, Polarity, ReproductionPart, SubstratePart, TonePart
from engraving.pipeline.cone import Cone, cone_of, drawn_on_cone
from engraving.pipeline.stage import Asked, stage, value
from engraving.pipeline.stages.picture import PLACED, grid, mask, overlay, shading
from engraving.pipeline.stages.settings import (
    GRID,
    Beam,
    beam,
    burns_dark,
    cell_mm,
    dose,
    inverted,
)
from engraving.proof import (
    MaterialResponse,
    Palette,
    SpotModel,
    spot_model,
    substrate_palette,
)
from engraving.proof.reproduction import (
    Process,
    burned_lightness,
    burned_table,
    linear_table,
    measured_table,
)
from engraving.tone import (
    AutoGround,
    AutoTone,
    apply_tone,
    auto_tone,
    levels_to_burn,
    look_at,
)
from engraving.tone.auto import PictureLook

Codes = NDArray[np.uint8]

PLAIN_DOTS = DotsPart(method="threshold", level=50)
"""Artwork that is made of dots is split into its two levels."""

LOOK = tuple(
    f"substrate.{name}"
    for name in (
        "ground", "mark", "response", "onset", "scorch_from", "scorch", "clear", "backing",
    )
)  # fmt: skip
"""How a substrate looks and answers the beam, but for its texture."""


@value(reads=("artwork.keep_dots",))
def keeps_dots(asked: Asked) -> bool:
    """Whether the artwork's own dots are burned; tone and dot method are bypassed."""
    return asked.spec.keeps_dots


@value(reads=("tone",), needs=(keeps_dots,))
def tone(asked: Asked) -> TonePart | None:
    """The tone settings that count; None where the artwork's own dots are kept."""
    return None if asked.get(keeps_dots) else asked.spec.tone.effective()


@value(needs=(tone, cell_mm))
def toned_cell(asked: Asked) -> tuple[float, float] | None:
    """The cell that tone settings in mm are laid on; None where none count."""
    return None if asked.get(tone) is None else asked.get(cell_mm)


@stage(needs=(grid, tone, toned_cell, shading))
def toned(asked: Asked) -> Codes:
    """Return the toned and retouched picture, shape (rows, cols)."""
    plane, settings, cell = asked.get(grid), asked.get(tone), asked.get(toned_cell)
    if settings is None or cell is None:
        # The two levels need not be black and white.
        return np.multiply(plane > splitting_level(plane), np.uint8(255))
    found, shade = apply_tone(plane, settings, cell), asked.get(shading)
    return found if shade is None else apply_shading(found, *shade)


@stage(needs=(toned, mask, overlay, burns_dark))
def finished(asked: Asked) -> Codes:
    """Return the picture as it should look: mask, lettering and border applied.

    What is not burned shows as 255 where the beam darkens, else as 0.
    """
    out, kept, drawn = asked.get(toned), asked.get(mask), asked.get(overlay)
    if kept is not None:
        out = laid_over(out, kept, 255 if asked.get(burns_dark) else 0)
    if drawn is not None:
        out = np.where(drawn == DARK, np.uint8(0), out)
        out = np.where(drawn == LIGHT, np.uint8(255), out)
    return out


@value(reads=("dots",), needs=(keeps_dots,))
def dots_settings(asked: Asked) -> DotsPart:
    """How tone becomes dots; what becomes of short runs is a matter of its own."""
    if asked.get(keeps_dots):
        return PLAIN_DOTS
    return asked.spec.dots.model_copy(update={"runs": "keep", "least_run_mm": 0.0})


@dataclass(frozen=True)
class Burning:
    """All that decides how light a patch of dots comes out, as plain data."""

    dots: DotsPart
    cell_mm: tuple[float, float]
    beam: Beam
    substrate: SubstratePart
    burns_dark: bool
    prints: bool

    def answer(self, times: float) -> MaterialResponse:
        """Return how the substrate answers the beam at so many times the recipe's dose."""
        substrate = self.substrate
        return MaterialResponse(
            self.beam.shape,
            substrate.response,
            substrate.onset,
            substrate.scorch_from,
            round(times, 4),
            self.beam.pulsed,
        )

    def spot(self, times: float) -> SpotModel:
        """Return the marks of a spot at so many times the recipe's dose."""
        along, pitch = self.cell_mm
        ratio, long = round(self.beam.spot_mm / pitch, 6), round(along / pitch, 6)
        smear = round(self.beam.smear_mm / along, 4)
        return spot_model(ratio, self.answer(times), long, smear)

    def palette(self) -> Palette:
        """Return the colours from untouched to fully marked."""
        return substrate_palette(self.substrate, self.answer(1.0).top)

    def process(self) -> Process:
        """Return the same, ready to burn patches.

        At the recipe's dose: who burns stronger or weaker than it says is to
        see that in the proof, not have it corrected away.
        """
        return Process(
            self.dots, self.cell_mm, self.spot(1.0), self.palette(), self.burns_dark,
            self.prints,
        )  # fmt: skip


@value(reads=LOOK, needs=(dots_settings, cell_mm, beam, burns_dark, inverted))
def burning(asked: Asked) -> Burning:
    """All that decides how light a patch of dots comes out."""
    return Burning(
        asked.get(dots_settings),
        asked.get(cell_mm),
        asked.get(beam),
        asked.spec.substrate,
        asked.get(burns_dark),
        asked.get(inverted),
    )


@stage(needs=(burning, dose), kind="passing")
def spot(asked: Asked) -> SpotModel:
    """Return the spot model of a job."""
    return asked.get(burning).spot(asked.get(dose))


@stage(needs=(burning,), kind="passing")
def palette(asked: Asked) -> Palette:
    """Return the colours of the burned piece."""
    return asked.get(burning).palette()


@stage(needs=(burning,), kind="passing")
def process(asked: Asked) -> Process:
    """Return all that decides how light a patch of dots comes out."""
    return asked.get(burning).process()


@stage(needs=(burning,))
def ends(asked: Asked) -> tuple[float, float]:
    """Return the L* of bare and of solidly burned substrate, at the recipe's dose."""
    found = burned_lightness(asked.get(burning).process(), np.array([0.0, 1.0]))
    return float(found[0]), float(found[1])


@dataclass(frozen=True)
class Correction:
    """What decides the level to burn for each wanted code."""

    wanted: ReproductionPart
    burns_dark: bool
    burning: Burning | None


@value(reads=("marking.way",))
def by_tool(asked: Asked) -> bool:
    """Whether a tool that touches marks: it has no spot, and no dot gain."""
    return asked.spec.marking.way in ("carved", "drag")


@value(reads=("reproduction",), needs=(keeps_dots, burns_dark, burning, by_tool))
def correction(asked: Asked) -> Correction | None:
    """What the tones are corrected by; None where codes say what is burned."""
    wanted = asked.spec.reproduction
    if asked.get(keeps_dots) or wanted.mode == "plain":
        return None
    if wanted.mode == "spot" and asked.get(by_tool):
        wanted = wanted.model_copy(update={"mode": "linear"})
    burned = asked.get(burning) if wanted.mode == "spot" else None
    return Correction(wanted, asked.get(burns_dark), burned)


@stage(needs=(correction,))
def reproduction(asked: Asked) -> Codes | None:
    """Return the level to burn for each wanted code; None where codes say it."""
    how = asked.get(correction)
    if how is None:
        return None
    if how.burning is not None:
        return burned_table(how.burning.process())
    if how.wanted.mode == "measured":
        return measured_table(how.wanted.patches, burns_dark=how.burns_dark)
    return linear_table(burns_dark=how.burns_dark)


def to_levels(codes: Codes, table: Codes | None, *, burns_dark: bool) -> Codes:
    """Return the levels that burn wanted codes, of the whole picture or a part."""
    if table is not None:
        return np.asarray(cv2.LUT(codes, table), np.uint8)
    return levels_to_burn(codes, Polarity.DARKENS if burns_dark else Polarity.LIGHTENS)


@value(reads=("mount.kind", "blank", "size.offset_y_mm", *GRID), needs=(keeps_dots,))
def cone(asked: Asked) -> Cone | None:
    """The tapered wall that a picture is drawn for; None where it is drawn for none."""
    return None if asked.get(keeps_dots) else cone_of(asked.spec)


@stage(needs=(finished, reproduction, burns_dark, cone))
def levels(asked: Asked) -> Codes:
    """Return what the dot method reads: 0 burn solid, 255 leave."""
    codes, dark, wall = asked.get(finished), asked.get(burns_dark), asked.get(cone)
    if wall is not None:
        codes = drawn_on_cone(wall, codes, fill=255 if dark else 0)
    return to_levels(codes, asked.get(reproduction), burns_dark=dark)


@stage(needs=(grid, mask))
def looked_at(asked: Asked) -> PictureLook:
    """Return what auto tone sees of the picture."""
    return look_at(asked.get(grid), asked.get(mask))


@stage(
    reads=("machine.spot_mm", *PLACED, *GRID, "size.repeat"),
    needs=(looked_at, ends, burns_dark),
    kind="passing",
)
def auto(asked: Asked) -> AutoTone:
    """Return tone settings computed from the picture and its substrate."""
    spec = asked.spec
    darkest, lightest = sorted(asked.get(ends))
    ground = AutoGround(
        darkest,
        lightest,
        asked.get(burns_dark),
        spec.machine.spot_mm / spec.size.pitch_mm,
        spec.size.cell_mm,
        spec.source_per_dot,
    )
    return auto_tone(asked.get(looked_at), ground)
