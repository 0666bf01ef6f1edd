"""What is overtaken stops between two results; what was made is kept, and made once."""

import numpy as np
import pytest

from engraving.artwork import Artwork, InMemorySource
from engraving.jobspec import JobSpec
from engraving.pipeline import Overtaken, Pipeline, StageCache, unless_overtaken
from support.jobs import changed

PICTURE = np.arange(1200, dtype=np.uint16).reshape(30, 40).astype(np.uint8)
JOB = changed(
    JobSpec(), artwork={"width_px": 40, "height_px": 30},
    size={"width_mm": 4.0, "height_mm": 3.0, "pitch_mm": 0.1},
    tone={"shadows": 20, "sharpen_amount": 50, "detail_opacity": 20},
)  # fmt: skip


class Noted(StageCache):
    """A cache that tells what was made."""

    def __init__(self):
        super().__init__(1 << 26)
        self.made = []

    def get(self, key, make):
        def noted():
            found = make()
            self.made.append(key)
            return found

        return super().get(key, noted)


class Overtaking:
    """Is overtaken from when it was asked so many times."""

    def __init__(self, times):
        self.left = times

    def __call__(self):
        self.left -= 1
        return self.left < 0


def estimated(cache):
    artwork = Artwork(PICTURE, "PNG", "gray", None, (), False)
    return Pipeline(InMemorySource(artwork), cache).estimate(JOB)


def test_at_every_moment_it_stops_and_goes_on_later_with_what_is_left():
    straight = Noted()
    wanted = estimated(straight)
    assert len(straight.made) > 8
    for moment in range(len(straight.made)):
        cache = Noted()
        with pytest.raises(Overtaken), unless_overtaken(Overtaking(moment)):
            estimated(cache)
        assert len(cache.made) <= moment
        assert not cache.busy
        assert estimated(cache) == wanted, "outside nothing stops it"
        assert sorted(cache.made) == sorted(straight.made), "each once"
