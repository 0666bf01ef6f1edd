"""What is kept: bounded by all it takes, made once, and made again after a fault."""

import pickle

import numpy as np
import pytest
from shapely import Point

from engraving.pipeline import StageCache


class Counted:
    def __init__(self, result):
        self.result, self.made = result, 0

    def __call__(self):
        self.made += 1
        return self.result


@pytest.mark.parametrize(
    "large",
    [np.zeros(10_000, np.uint8), [np.zeros(10_000, np.uint8)], {"a": np.zeros(10_000, np.uint8)},
     b"x" * 10_000, (("x" * 10_000),), [Point(0, 0).buffer(1, quad_segs=200)]],
)  # fmt: skip
def test_lists_and_what_is_in_them_count(large):
    """Two do not fit: the older one goes, whatever the results are made of."""
    cache, first = StageCache(12_000), Counted(large)
    cache.get("a", first)
    cache.get("b", Counted(copied(large)))
    cache.get("a", first)
    assert first.made == 2


def copied(found):
    """The same anew, arrays and texts too."""
    return pickle.loads(pickle.dumps(found))  # noqa: S301


def test_what_is_larger_than_all_room_is_kept_until_the_next_comes():
    cache, small, large = StageCache(1_000), Counted(3.0), Counted(b"x" * 10_000)
    cache.get("small", small)
    for _ in range(2):
        assert cache.get("large", large) == b"x" * 10_000
    assert large.made == 1
    for key in ("small", "large"):
        cache.get(key, {"small": small, "large": large}[key])
    assert (small.made, large.made) == (2, 2)


def test_small_ones_stay_together():
    cache, first = StageCache(12_000), Counted(3.0)
    for key in "abcdef":
        cache.get(key, first)
    cache.get("a", first)
    assert first.made == 6


def test_after_a_fault_it_is_tried_again():
    cache = StageCache(1000)

    def broken():
        raise ValueError("not now")

    for _ in range(3):
        with pytest.raises(ValueError, match="not now"):
            cache.get("a", broken)
    assert cache.get("a", lambda: 5) == 5
    assert not cache.busy


def test_it_tells_how_full_it_is_and_how_it_serves():
    cache = StageCache(12_000)
    assert cache.use.share == 0
    for key in "abab":
        cache.get(key, Counted(np.zeros(4_000, np.uint8)))
    use = cache.use
    assert (use.held_bytes, use.most_bytes, use.results) == (8_000, 12_000, 2)
    assert (use.asked, use.there, use.share) == (4, 2, 0.5)
