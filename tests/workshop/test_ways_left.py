"""A job that was marked another way for a while is as it was."""

import pytest

from engraving.jobspec import JobSpec
from support.jobs import changed, png
from workshop.jobs.pictures.intake import keep_artwork
from workshop.jobs.revisions.writer import spec_of
from workshop.jobs.stations.dots.ways import in_way
from workshop.jobs.ticket.lifecycle import open_job
from workshop.shelf.machines.changes import put_machine


def test_the_first_ticket_of_all_is_on_a_beam(db, scene):
    put_machine("A mill, first by name", kind="vtool", max_speed_mm_s=60)
    put_machine("Beam")
    ticket = open_job(keep_artwork("scene.png", [png(scene)]), "Scene")
    assert spec_of(ticket).machine.name == "Beam"


@pytest.mark.parametrize("way", ["carved", "drag"])
def test_there_and_back_nothing_is_left_of_a_way(way):
    begun = JobSpec()
    assert in_way(in_way(begun, way), "dots") == begun


@pytest.mark.parametrize("way", ["carved", "drag"])
def test_what_was_set_by_hand_is_kept(way):
    by_hand = changed(in_way(JobSpec(), way), dots={"angle_deg": 31.0})
    assert in_way(by_hand, "dots").dots == by_hand.dots
