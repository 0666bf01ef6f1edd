"""What is kept is given again only where it would come out the same.

Every single value of a job is changed in turn. What has the same key as before is made
anew, and must come out the same, byte for byte: a key that lacks what its stage reads is
caught by whatever it reads.
"""

from dataclasses import fields, is_dataclass

import numpy as np
import pytest
from shapely.geometry.base import BaseGeometry

from engraving.artwork import Artwork, InMemorySource
from engraving.jobspec import JobSpec
from engraving.pipeline import Pipeline, StageCache
from engraving.pipeline.pathmap import Looked
from support.jobs import changed
from support.variations import variations

Y, X = np.mgrid[0:16, 0:20]
PICTURE = (90 + 70 * np.sin(X / 4) * np.cos(Y / 3) + 3 * X).clip(0, 255).astype(np.uint8)
DRAWN = {"file": "a.svg", "rings": [[[-1, -0.5], [1, -0.5], [0, 0.75]]], "lines": []}
LINE = {"text": "Ab", "x_mm": 0.1, "y_mm": -0.4, "cap_mm": 0.6}
POINTS = [[0.2, 0.3], [0.7, 0.4], [0.5, 0.9]]

PLAIN = JobSpec.model_validate(
    {
        "artwork": {"width_px": 20, "height_px": 16, "dropped": [{"colour": "#f0e0d0"}]},
        "blank": {"width_mm": 5, "height_mm": 4, "thickness_mm": 3, "keep_inside": True},
        "size": {"width_mm": 2.0, "height_mm": 1.6, "pitch_mm": 0.1, "offset_x_mm": 0.2},
        "substrate": {"texture": "wood", "onset": 0.05, "scorch_from": 1.5},
        "mask": {
            "edits": [{"kind": "brush", "points": POINTS, "size": 0.2}],
            "frame": "oval", "frame_inset_mm": 0.1, "feather_mm": 0.2, "vignette_mm": 0.2,
        },
        "tone": {"gamma": 1.2, "shadows": 5, "sharpen_amount": 20, "local_amount": 10},
        "retouch": {"strokes": [{"points": POINTS, "size": 0.2}]},
        "lettering": {"lines": [LINE]},
        "border": {"on": True, "width_mm": 0.2},
        "dots": {"noise": 2},
        "machine": {
            "response_ms": 0.4, "row_shift": [[50, 0.02], [200, 0.05]], "step_mm": 0.01,
            "bed_width_mm": 60, "bed_height_mm": 50, "link_baud": 9600,
            "lenses": [{"name": "L", "depth_mm": 2.0, "spot_mm": 0.12}], "lens": "L",
        },
        "burn": {"focus_mm": 0.5, "air": True, "passes": 2, "recipe_dose": 3.0},
        "place": {"x_mm": 12, "y_mm": 14, "turn_deg": 7},
        "reproduction": {"mode": "linear"},
    }
)  # fmt: skip
WORK = changed(
    PLAIN,
    lettering={"lines": []},
    mask={"vignette_mm": 0},
    machine={"link_baud": 0},
    dots={"method": "threshold"},
    operations=[
        {"kind": "raster"},
        {"kind": "hatch", "shape": "drawn", "drawing": DRAWN, "spacing_mm": 0.3},
        {"kind": "score", "shape": "traced", "trace": {"least_mm": 0.1}},
        {"kind": "cut", "shape": "picture", "offset_mm": 0.4, "lead_in_mm": 0.2, "bridges": 2,
         "bridge_mm": 0.2, "kerf_mm": 0.05},
    ],
)  # fmt: skip
FIXTURE = changed(
    WORK,
    fixture={
        "columns": 2, "rows": 1, "gap_x_mm": 1, "shown": 1, "pause": True,
        "pockets": [{"words": ["one"]}, {"turn_deg": 3, "x_mm": 7, "y_mm": 1}],
    },
    lettering={"lines": [{**LINE, "text": "{n}{1}"}]},
)  # fmt: skip
TURNED = changed(
    PLAIN,
    blank={
        "shape": "taper",
        "diameter_mm": 8,
        "foot_mm": 6,
        "height_mm": 4,
        "width_mm": 25,
    },
    place={"turn_deg": 0},
    mount={"kind": "chuck", "wrap": True, "overlap_mm": 0.3, "strip_mm": 1.0},
)
SPOT = changed(PLAIN, reproduction={"mode": "spot"}, dots={"noise": 0})
KEPT = changed(PLAIN, artwork={"keep_dots": True}, mask={"edits": []})


class VerifyingCache(StageCache):
    """Makes anew what it kept, once for each job, and notes where that differs."""

    def __init__(self):
        super().__init__(1 << 26)
        self.results, self.seen, self.wrong = {}, set(), []

    def get(self, key, make):
        if key in self.seen:
            return self.results[key]
        self.seen.add(key)
        made = make()
        if key in self.results and plain(self.results[key]) != plain(made):
            self.wrong.append(getattr(make, "__qualname__", key))
        self.results[key] = made
        return made


def plain(found):
    """What a stage gave, as data that compare by value."""
    if isinstance(found, np.ndarray):
        return found.dtype.str, found.shape, found.tobytes()
    if isinstance(found, BaseGeometry):
        return found.wkb
    if isinstance(found, dict):
        return {name: plain(one) for name, one in found.items()}
    if isinstance(found, list | tuple):
        return [plain(one) for one in found]
    if is_dataclass(found):
        return [plain(getattr(found, one.name)) for one in fields(found)]
    return repr(found).partition(" object at ")[0]


def asked(name):
    """What asks a pipeline for one of its stages."""
    return lambda pipeline, spec: getattr(pipeline, name)(spec)


def _path_map(pipeline, spec):
    pipeline.path_map(spec, Looked(0, 0, 60, 50, 24, 20))


PICTURES = [
    asked(name) for name in ("burned", "finished", "off_blank", "short_runs", "auto_tone")
]
PATHS = [asked("estimate"), asked("check"), _path_map]
ALL = [*PICTURES, *PATHS]

CASES = [
    *[(PLAIN, part, ALL) for part in PLAIN.model_dump() if part not in ("operations", "card")],
    *[(WORK, part, PATHS) for part in ("operations", "size", "mask", "blank", "place", "side",
                                       "tone", "burn", "machine")],
    *[(FIXTURE, part, PATHS) for part in ("fixture", "size", "lettering", "place", "blank")],
    *[(TURNED, part, PATHS) for part in ("mount", "size", "blank", "machine", "place")],
    *[(SPOT, part, PICTURES) for part in ("machine", "burn", "substrate", "size", "side")],
    *[(KEPT, part, ALL) for part in ("size", "artwork")],
]  # fmt: skip
NAMES = {id(PLAIN): "plain", id(WORK): "work", id(FIXTURE): "fixture", id(TURNED): "turned",
         id(SPOT): "spot", id(KEPT): "kept"}  # fmt: skip


def hold(jobs, stages):
    """Let one pipeline make all jobs in turn, holding what it kept against what it makes."""
    cache = VerifyingCache()
    pipeline = Pipeline(
        InMemorySource(Artwork(PICTURE, "PNG", "gray", None, (), False)), cache
    )
    for what, job in jobs:
        cache.seen.clear()
        for stage in stages:
            stage(pipeline, job)
        assert not cache.wrong, what


@pytest.mark.parametrize(
    ("spec", "part", "stages"),
    CASES,
    ids=[f"{NAMES[id(spec)]}-{part}" for spec, part, _ in CASES],
)
def test_what_is_kept_is_of_the_job_as_it_is(spec, part, stages):
    hold([("nothing", spec), *variations(spec, part)], stages)


@pytest.mark.parametrize("shape", ["picture", "traced", "rectangle", "blank"])
def test_the_same_dots_on_a_larger_piece_have_larger_outlines(shape):
    small = changed(
        WORK, mask={"edits": [], "frame": "none", "feather_mm": 0},
        operations=[{"kind": "raster"}, {"kind": "cut", "shape": shape}],
    )  # fmt: skip
    large = changed(small, size={"width_mm": 4.0, "height_mm": 3.2, "pitch_mm": 0.2})
    assert large.size.cols == small.size.cols
    hold([("nothing", small), ("twice as large", large)], ALL)
