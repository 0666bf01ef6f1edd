"""A job that was marked another way for a while is as it was."""

import pytest

from engraving.jobspec import JobSpec
from support.jobs import changed
from workshop.jobs.stations.dots.ways import in_way


@pytest.mark.parametrize("way", ["carved", "drag"])
def test_there_and_back_nothing_is_left_of_a_way(way):
    begun = JobSpec()
    assert in_way(in_way(begun, way), "dots") == begun


@pytest.mark.parametrize("way", ["carved", "drag"])
def test_what_was_set_by_hand_is_kept(way):
    by_hand = changed(in_way(JobSpec(), way), dots={"angle_deg": 31.0})
    assert in_way(by_hand, "dots").dots == by_hand.dots
