"""Jobs and pictures for tests."""

import io
from functools import cache

import numpy as np
from PIL import Image

from engraving.artwork import Artwork, InMemorySource
from engraving.pipeline import Pipeline, StageCache


def pipeline_of(gray):
    """A pipeline whose artwork is this plane."""
    artwork = Artwork(gray, "PNG", "gray", None, (), False)
    return Pipeline(InMemorySource(artwork), StageCache(1 << 26))


def png(pixels, **options):
    """Bytes of a PNG."""
    stream = io.BytesIO()
    Image.fromarray(pixels).save(stream, "PNG", **options)
    return stream.getvalue()


def changed(spec, **parts):
    """A spec with values of its parts changed: burn={"power": 10}."""
    data = spec.model_dump(mode="json")
    for part, values in parts.items():
        data[part] = (
            {**(data[part] or {}), **values} if isinstance(values, dict) else values
        )
    return type(spec).model_validate(data)


@cache
def photograph(cols=640, rows=480):
    """A smooth scene with a checkered grain, as PNG bytes of 300 dpi."""
    y, x = np.mgrid[0:rows, 0:cols]
    light = 128 + 90 * np.sin(x / 41) * np.cos(y / 33) + 20 * ((x // 16 + y // 16) % 2)
    tint = np.stack([light, light * 0.9, light * 0.75], axis=-1)
    return png(tint.clip(0, 255).astype(np.uint8), dpi=(300, 300))
