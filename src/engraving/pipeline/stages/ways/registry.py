"""All ways of marking a picture, by their names."""

from collections.abc import Mapping
from types import MappingProxyType

from engraving.jobspec import JobSpec
from engraving.pipeline.stages.ways.carved import CARVED
from engraving.pipeline.stages.ways.dots import DOTS
from engraving.pipeline.stages.ways.drag import DRAG
from engraving.pipeline.stages.ways.relief import RELIEF
from engraving.pipeline.stages.ways.way import Way, Words

WAYS: Mapping[str, Way] = MappingProxyType(
    {one.name: one for one in (DOTS, RELIEF, CARVED, DRAG)}
)


def words_of(spec: JobSpec) -> Words:
    """Return what the things of a job's way are called; a swatch card is made of dots."""
    return WAYS["dots" if spec.card is not None else spec.marking.way].words
