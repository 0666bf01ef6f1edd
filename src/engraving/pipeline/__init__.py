"""From a job's description to each stage's result."""

from engraving.pipeline.cache import StageCache, stage_key
from engraving.pipeline.stages import Pipeline

__all__ = ["Pipeline", "StageCache", "stage_key"]
