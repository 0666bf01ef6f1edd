"""What a picture takes on its way to dots: bytes, and no wide numbers of all of it."""

import tracemalloc

import numpy as np
import pytest

from engraving.artwork import Artwork, InMemorySource, seen
from engraving.artwork.seen import place_seen
from engraving.jobspec import ArtworkPart, JobSpec, SizePart
from engraving.pipeline import Pipeline, StageCache
from support.jobs import changed

WIDE, HIGH = 500, 8000
"""Tall, so that a band of rows is little of it."""
MOST = 9
"""Bytes a dot at once, besides the picture: planes are kept for the next change."""
Y, X = np.mgrid[0:HIGH, 0:WIDE]
GRAY = (127 + 80 * np.sin(X / 97) * np.cos(Y / 61)).astype(np.uint8)
CLEAR = np.clip(255 * (np.sin(X / 50) * np.cos(Y / 90) + 0.5), 0, 255).astype(np.uint8)
STROKE = {"points": [[0.2, 0.3], [0.8, 0.6]], "size": 0.2, "strength": 40}
JOBS = {
    "plain": {},
    "kept dots": {"artwork": {"keep_dots": True}},
    "fewer dots": {"size": {"width_mm": WIDE / 20, "height_mm": HIGH / 20}},
    "levels of power": {"dots": {"method": "power"}},
    "sharpened": {"tone": {"sharpen_amount": 100, "detail_opacity": 50, "denoise": 20}},
    "local contrast": {"tone": {"local_amount": 50, "shadows": 20}},
    "retouched": {"retouch": {"strokes": [STROKE]}},
    "round, fading": {"mask": {"frame": "circle", "vignette_mm": 2}},
    "oval": {"mask": {"frame": "oval"}, "size": {"dot_pitch_mm": 0.13}},
    "bordered": {"border": {"on": True}},
    "on its blank": {"blank": {"keep_inside": True}},
}


def burn(name, alpha, high):
    """Make the dots of so many rows."""
    artwork = Artwork(
        GRAY[:high], "PNG", "gray", None, (), two_level=False,
        alpha=None if alpha is None else alpha[:high],
    )  # fmt: skip
    part = ArtworkPart(width_px=WIDE, height_px=high)
    size = SizePart(width_mm=WIDE / 10, height_mm=high / 10, pitch_mm=0.1)
    job = changed(JobSpec(artwork=part, size=size), **JOBS[name])
    Pipeline(InMemorySource(artwork), StageCache(1 << 30)).burned(job)


@pytest.mark.parametrize("alpha", [None, CLEAR], ids=["opaque", "transparent"])
@pytest.mark.parametrize("name", JOBS)
def test_it_takes_a_few_bytes_a_dot(name, alpha):
    burn(name, alpha, HIGH // 20)  # What is loaded once does not count.
    tracemalloc.start()
    try:
        burn(name, alpha, HIGH)
        assert tracemalloc.get_traced_memory()[1] < MOST * GRAY.size
    finally:
        tracemalloc.stop()


@pytest.mark.parametrize("kind", [np.uint8, np.uint16])
@pytest.mark.parametrize(
    ("cols", "rows", "turns"), [(300, 260, 0), (97, 130, 1), (333, 90, 2)]
)
def test_transparent_pictures_are_placed_in_bands_as_they_were_whole(
    cols, rows, turns, kind, monkeypatch
):
    tones = (
        np.random.default_rng(4).integers(0, np.iinfo(kind).max, (260, 300)).astype(kind)
    )
    part = ArtworkPart(width_px=300, height_px=260, turns=turns)
    placed = []
    for deep in (1000, 19):

        def in_bands(count, work, deep=deep):
            for first in range(0, count, deep):
                work(first, min(first + deep, count))

        monkeypatch.setattr(seen, "in_bands", in_bands)
        placed.append(place_seen(tones, CLEAR[:260, :300], part, cols, rows))
    assert np.array_equal(*placed)
