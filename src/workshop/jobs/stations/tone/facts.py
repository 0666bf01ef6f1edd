"""What the Tone station says beside its fields."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from engraving.check.burning import MOST_BURNED
from engraving.jobspec import JobSpec, Polarity, TonePart
from engraving.pipeline import stage_key
from engraving.place import shown_piece
from engraving.tone import (
    before_curve,
    code_counts,
    counts_through,
    summary,
    tone_table,
)
from workshop.jobs.pictures.engine import pipeline, stage_cache
from workshop.jobs.stations.tone.whose import has_its_own, may_have_its_own
from workshop.shell.services import show_length, show_number


@dataclass(frozen=True)
class ToneFacts:
    """Histograms and curve as SVG path data, shares of tones, and words of the folds."""

    tone: TonePart
    may_own: bool
    own: bool
    before: str
    after: str
    curve: str
    entering: str
    black: float
    white: float
    burns: float
    mostly: bool
    auto: str
    folds: dict[str, str]
    shades: str
    blur_mm: float
    sharpen_mm: float
    detail_mm: float


def tone_facts(spec: JobSpec, *, quick: bool = False) -> ToneFacts:
    """Return histograms and the curve as SVG paths in a box of 256 × 100.

    Under the finger (`quick`) the toned histogram follows from the source's
    counts and the curve; what looks at surroundings comes when the hand rests.
    """
    whole, spec = spec, shown_piece(spec)
    stages = pipeline()
    counts = stage_cache().get(
        stage_key("counts", stages.grid.key(spec), stages.mask.key(spec)),
        lambda: code_counts(stages.grid(spec), stages.mask(spec)),
    )
    before, tone = summary(counts), spec.tone.effective()
    table = tone_table(tone)
    toned = (
        counts_through(counts, table)
        if quick
        else code_counts(stages.toned(spec), stages.mask(spec))
    )
    after, burns = summary(toned), _burned_share(spec, toned)
    curve = "M" + "L".join(
        f"{i} {100 - int(v) * 100 / 255:.1f}" for i, v in enumerate(table)
    )
    return ToneFacts(
        tone=spec.tone,
        may_own=may_have_its_own(whole),
        own=has_its_own(whole),
        before=_bars(before.bars),
        after=_bars(after.bars, closed=False),
        curve=curve,
        entering=" ".join(f"{value * 255:.1f}" for value in before_curve(tone)),
        black=after.black,
        white=after.white,
        burns=burns,
        mostly=burns > MOST_BURNED and spec.polarity == Polarity.DARKENS,
        auto="" if quick else _auto_said(spec),
        folds=_folds(spec),
        shades=_shades(tone.shade),
        blur_mm=tone.blur_dots * spec.size.pitch_mm,
        sharpen_mm=spec.tone.sharpen_dots * spec.size.pitch_mm,
        detail_mm=spec.tone.detail_dots * spec.size.pitch_mm,
    )


def _burned_share(spec: JobSpec, counts: NDArray[np.float64]) -> float:
    """Return the share of the picture's dots that these tones burn, 0..1."""
    table = pipeline().reproduction(spec)
    codes = np.arange(256)
    level = table if table is not None else codes if spec.burns_dark else 255 - codes
    return float((counts * (1 - level / 255)).sum() / max(counts.sum(), 1))


def _auto_said(spec: JobSpec) -> str:
    """Return what auto tone did, while all its settings are as it made them."""
    found = pipeline().auto_tone(spec)
    values = {name: getattr(spec.tone, name) for name in found.values}
    return found.said if values == found.values else ""


def _folds(spec: JobSpec) -> dict[str, str]:
    """Return what each fold holds, in a few words."""
    tone = spec.tone
    words = {
        "light": _both(_signed(tone.exposure, 2), _signed(tone.offset, 1, " %")),
        "curve": f"{len(tone.curve)} points" if tone.curve else "straight",
        "depths": _both(_signed(tone.shadows, 0), _signed(tone.highlights, 0, " %")),
        "local": _some(tone.local_amount, f"over {show_length(tone.local_mm, 1)}"),
        "grain": _both(
            f"{tone.denoise:.0f} %" if tone.denoise else "",
            f"{show_number(tone.blur_dots, 1)} dots" if tone.blur_dots else "",
        ),
        "sharpen": _some(tone.sharpen_amount, f"{show_number(tone.sharpen_dots, 1)} dots"),
        "detail": _some(tone.detail_opacity, f"{show_number(tone.detail_dots, 1)} dots"),
    }
    groups = {"light": ("exposure",), "grain": ("denoise", "blur")}
    for name, said in words.items():
        if said and set(groups.get(name, (name,))) & set(tone.off):
            words[name] = f"passed over, {said}"
    return words


def _signed(value: float, places: int, unit: str = "") -> str:
    return f"{value:+.{places}f}{unit}" if value else ""


def _both(first: str, second: str) -> str:
    return ", ".join(one for one in (first, second) if one)


def _some(amount: float, how: str) -> str:
    return f"{amount:.0f} %, {how}" if amount else ""


def _bars(shares: tuple[float, ...], *, closed: bool = True) -> str:
    """Return a path; heights by square root, so that small shares show.

    The ends, often tall, are cut off a little above the highest bar between.
    """
    inner = max(*shares[1:-1], 1e-9) ** 0.5
    step = 256 / (len(shares) - 1)
    points = [
        f"{i * step:.1f} {100 - 84 * min(share**0.5 / inner, 1.1):.1f}"
        for i, share in enumerate(shares)
    ]
    line = "L".join(points)
    return f"M0 100L{line}L256 100Z" if closed else f"M{line}"


def _shades(count: int) -> str:
    """Say how many shades were added."""
    number = "1 shade" if abs(count) == 1 else f"{abs(count)} shades"
    return f"{number} {'lighter' if count > 0 else 'darker'}" if count else "Passed over"
