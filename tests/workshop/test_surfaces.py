"""A relief on the table: its mesh, cuts through it, its light, and what is said of its material."""

import json
import re

import numpy as np
import pytest

from support.pages import read
from workshop.jobs.pictures.surfaces import mesh, section
from workshop.jobs.pictures.windows import view_keys
from workshop.jobs.revisions.writer import shown_spec, spec_of
from workshop.shelf.substrates.changes import put_substrate


@pytest.fixture
def relief(act, ticket):
    act("dots", way="relief", relief_depth="2")
    return ticket


def key(ticket):
    return view_keys(shown_spec(ticket))["proof"]


def test_the_mesh_reaches_over_the_whole_blank_and_no_farther(relief, act, shelf):
    act("blank", blank=shelf["disc"].pk)
    found = mesh(spec_of(relief))
    told = json.loads(found.told)
    depths = np.frombuffer(found.data, "<f4").reshape(told["rows"], told["cols"])
    assert max(depths.shape) <= 256
    assert (told["width"], told["height"]) == pytest.approx((90, 90), abs=0.5)
    on = np.isfinite(depths)
    assert on.mean() == pytest.approx(np.pi / 4, abs=0.02)
    assert not on[0, 0]
    assert 0 < told["deepest"] <= 2.4


def test_a_cut_has_its_length_its_ticks_and_both_lines(client, relief):
    where = f"/jobs/{relief.number}/section/{key(relief)}/"
    page = read(client.get(where, {"x0": 0, "y0": 10, "x1": 40, "y1": 40}))
    assert "A cut 50.0 mm long" in page
    assert "as wanted" in page
    found = section(spec_of(relief), (0.0, 10.0), (40.0, 40.0))
    assert [value for value, _ in found.across] == [0, 10, 20, 30, 40, 50]
    assert found.across[-1][1] == pytest.approx(600)


@pytest.mark.parametrize(
    ("words", "status", "says"),
    [
        ({}, 422, "Draw a line"),
        ({"x0": "nan", "y0": 0, "x1": 9, "y1": 0}, 422, "Draw a line"),
        ({"x0": 3, "y0": 3, "x1": 3, "y1": 3.1}, 422, "half a millimetre"),
        ({"x0": 0, "y0": 0, "x1": 1e7, "y1": 0}, 422, "off the picture"),
    ],
)
def test_what_is_no_line_has_its_sentence(client, relief, words, status, says):
    answer = client.get(f"/jobs/{relief.number}/section/{key(relief)}/", words)
    assert answer.status_code == status
    assert says in answer.content.decode()


def test_a_flat_piece_and_a_past_one(client, ticket, act):
    first = key(ticket)
    for what in (f"surface/{first}.bin", f"section/{first}/?x0=0&y0=0&x1=9&y1=9"):
        answer = client.get(f"/jobs/{ticket.number}/{what}")
        assert (answer.status_code, b"is flat" in answer.content) == (422, True)
    act("burn", power="41")
    assert client.get(f"/jobs/{ticket.number}/surface/{first}.bin").status_code == 410
    page = read(client.get(f"/jobs/{ticket.number}/dots/"))
    assert 'data-deep=""' in page


def test_the_lamp_lights_the_proof_from_where_it_stands(client, relief):
    window = {"left": 0, "top": 0, "cols": 200, "rows": 150, "w": 200, "h": 150}
    where = f"/jobs/{relief.number}/picture/proof/{key(relief)}/"
    shown = {
        lamp: client.get(where, {**window, "lamp": lamp}).content for lamp in (45, 135, 405)
    }
    assert shown[45] != shown[135]
    assert shown[45] == shown[405]
    assert client.get(where, {**window, "lamp": "up"}).status_code == 422


def test_a_board_is_shown_both_ways(client, relief, act, shelf):
    """The other way is what the job would look like with light and dark exchanged."""
    act("dots", way="dots")
    window = {"left": 0, "top": 0, "cols": 200, "rows": 150, "w": 200, "h": 150}
    where = f"/jobs/{relief.number}/picture/proof/"
    other = client.get(f"{where}{key(relief)}/", {**window, "turned": 1}).content
    here = client.get(f"{where}{key(relief)}/", window).content
    act("blank", side_invert="yes")
    assert client.get(f"{where}{key(relief)}/", window).content == other
    assert other != here


def test_a_fine_relief_is_shown_coarser_first_by_the_same_lamp(client, relief, act):
    assert 'data-large=""' in read(client.get(f"/jobs/{relief.number}/dots/"))
    act("blank", pitch="0.05")
    page = read(client.get(f"/jobs/{relief.number}/dots/"))
    assert 'data-large="1"' in page
    size = spec_of(relief).size
    window = {"left": 0, "top": 0, "cols": size.cols, "rows": size.rows, "w": 300, "h": 225}
    where = f"/jobs/{relief.number}/picture/proof/{key(relief)}/"
    shown = [client.get(where, {**window, "quick": 1, "lamp": lamp}) for lamp in (45, 135)]
    assert [one.status_code for one in shown] == [200, 200]
    assert shown[0].content != shown[1].content


def test_even_and_uneven_materials_are_told_apart(client, relief, act):
    assert "carves evenly" in read(client.get(f"/jobs/{relief.number}/dots/"))
    pine = put_substrate("Pine", uneven=25)
    act("blank", substrate=pine.pk)
    page = read(client.get(f"/jobs/{relief.number}/dots/"))
    assert "Pine carves unevenly" in page
    low, high = re.search(r"between ([0-9.]+) mm and ([0-9.]+) mm", page).groups()
    assert float(low) / float(high) == pytest.approx(0.75 / 1.25, abs=0.01)


def test_a_pass_has_its_time(client, relief):
    client.get(f"/jobs/{relief.number}/dots/")
    page = read(client.get(f"/jobs/{relief.number}/readings/"))
    assert 'data-for="relief-time"' in page
    assert "A pass takes" in page
