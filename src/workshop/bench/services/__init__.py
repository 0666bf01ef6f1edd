"""What the bench does: burns, border walks, and the log."""

from workshop.bench.services.bed import photograph_bed
from workshop.bench.services.burns import (
    CannotBurnError,
    burn,
    give_up_left_over,
    go_on,
    held_back,
    keep_as_recipe,
    kept_as,
    log,
    map_path,
    photograph,
    plan_picture,
    start_run,
    stop_run,
)
from workshop.bench.services.walk import walk

__all__ = [
    "CannotBurnError",
    "burn",
    "give_up_left_over",
    "go_on",
    "held_back",
    "keep_as_recipe",
    "kept_as",
    "log",
    "map_path",
    "photograph",
    "photograph_bed",
    "plan_picture",
    "start_run",
    "stop_run",
    "walk",
]
