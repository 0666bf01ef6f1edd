"""Jobs and pictures for tests."""

import io

from PIL import Image

from engraving.artwork import Artwork, Held
from engraving.pipeline import Pipeline, StageCache


def pipeline_of(gray):
    """A pipeline whose artwork is this plane."""
    artwork = Artwork(gray, "PNG", "gray", None, (), False)
    return Pipeline(Held(artwork), StageCache(1 << 26))


def png(pixels, **options):
    """Bytes of a PNG."""
    stream = io.BytesIO()
    Image.fromarray(pixels).save(stream, "PNG", **options)
    return stream.getvalue()


def changed(spec, **parts):
    """A spec with values of its parts changed: burn={"power": 10}."""
    data = spec.model_dump(mode="json")
    for part, values in parts.items():
        data[part] = {**data[part], **values} if isinstance(values, dict) else values
    return type(spec).model_validate(data)
