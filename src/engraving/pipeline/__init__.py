"""From a job's description to each stage's result."""

from engraving.pipeline.cache import StageCache, stage_key
from engraving.pipeline.job import Pipeline
from engraving.pipeline.pathmap import Looked, PathMap
from engraving.pipeline.starts import Begun

__all__ = ["Begun", "Looked", "PathMap", "Pipeline", "StageCache", "stage_key"]
