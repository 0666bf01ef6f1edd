"""All ways of marking a picture, by their names."""

from collections.abc import Mapping
from types import MappingProxyType

from engraving.pipeline.stages.ways.carved import CARVED
from engraving.pipeline.stages.ways.dots import DOTS
from engraving.pipeline.stages.ways.drag import DRAG
from engraving.pipeline.stages.ways.relief import RELIEF
from engraving.pipeline.stages.ways.way import Way

WAYS: Mapping[str, Way] = MappingProxyType(
    {one.name: one for one in (DOTS, RELIEF, CARVED, DRAG)}
)
