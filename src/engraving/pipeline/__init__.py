"""From a job's description to each stage's result."""

from engraving.pipeline.burn_track import BurnTrack
from engraving.pipeline.cache import StageCache, stage_key
from engraving.pipeline.job import Pipeline
from engraving.pipeline.overtaken import Overtaken, stop_if_overtaken, unless_overtaken
from engraving.pipeline.pathmap import Looked, PathMap

__all__ = [
    "BurnTrack",
    "Looked",
    "Overtaken",
    "PathMap",
    "Pipeline",
    "StageCache",
    "stage_key",
    "stop_if_overtaken",
    "unless_overtaken",
]
