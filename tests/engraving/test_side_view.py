"""A tool's path from the side: as low as the tool goes there, and nothing of a beam."""

import numpy as np
import pytest

from engraving.jobspec import JobSpec
from support.jobs import changed, pipeline_of

LEFT_HALF = np.where(np.arange(160) < 80, 0, 255).astype(np.uint8)[None].repeat(80, axis=0)


def board(origin="front-left"):
    return changed(
        JobSpec(size={"width_mm": 40, "height_mm": 20, "pitch_mm": 0.25}),
        artwork={"width_px": 160, "height_px": 80},
        machine={"kind": "vtool", "origin": origin},
        blank={"thickness_mm": 3},
        dots={"method": "line", "ruling_cm": 4},
        marking={"way": "carved", "carving": {"deepest_mm": 1}},
        place={"x_mm": 30, "y_mm": 50},
    )


@pytest.mark.parametrize("origin", ["front-left", "back-right"])
def test_it_is_as_low_as_the_path_and_lies_where_it_is_seen(origin):
    """The dark left half is carved, and is on the left wherever the machine counts from."""
    spec = board(origin)
    pipeline = pipeline_of(LEFT_HALF)
    found = pipeline.side_view(spec)
    lowest = min(float((m.z * m.unit_mm).min()) for m in pipeline.bands(spec))
    assert found.lowest.min() == pytest.approx(lowest, abs=1e-6)
    at = found.left_mm + np.linspace(0, found.width_mm, len(found.lowest))
    carved = at[found.lowest < -0.1]
    assert carved.min() == pytest.approx(30, abs=1.5)
    assert carved.max() == pytest.approx(50, abs=1.5)


def test_a_beam_has_none():
    spec = changed(board(), machine={"kind": "co2"}, marking={"way": "dots"})
    assert pipeline_of(LEFT_HALF).side_view(spec) is None
