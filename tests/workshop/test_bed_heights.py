"""Heights of an uneven bed: typed as they lie, followed, refused where they are no grid."""

from unittest.mock import patch

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from support.pages import read
from workshop.bench.machines import heights
from workshop.bench.machines.deeds import do
from workshop.bench.models import Run
from workshop.bench.runs.start import CannotBurnError
from workshop.jobs.revisions.writer import spec_of
from workshop.shelf.machines.changes import put_machine


@pytest.fixture
def carving(act, ticket, shelf):
    mill = put_machine("Mill", kind="vtool", max_speed_mm_s=60)
    act("burn", machine=mill.pk)
    return ticket


def level(ticket):
    return spec_of(ticket).marking.carving.level


def test_they_are_typed_as_they_lie_the_back_row_first(client, carving, act):
    act(
        "dots",
        carve_level="0.1 0.2 0.3\n0 0 -0.05",
        carve_level_step="40",
        carve_level_x="10",
    )
    assert level(carving).heights_mm == ((0, 0, -0.05), (0.1, 0.2, 0.3))
    assert (level(carving).step_x_mm, level(carving).x_mm) == (40, 10)
    page = read(client.get(f"/jobs/{carving.number}/dots/"))
    assert "0.1 0.2 0.3 0 0 -0.05</textarea>" in page
    assert "The tool follows these heights" in page
    act("dots", carve_level="")
    assert level(carving) is None


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("0 0\n0 x", "as numbers"),
        ("0 0\n0", "as many heights"),
        ("0 99", "20 mm uneven"),
        ("nan 0", "20 mm uneven"),
    ],
)
def test_what_is_no_grid_is_said_at_its_field(carving, act, text, says):
    page = read(act("dots", carve_level=text))
    assert says in page
    assert level(carving) is None


def test_run_shows_the_path_from_the_side(client, carving, act, shelf):
    act("blank", blank=shelf["board"].pk)
    sheet = read(client.get(f"/jobs/{carving.number}/sheet/"))
    assert "From the front:" in sheet
    act("burn", machine=shelf["bench"].pk)
    assert "From the front:" not in read(client.get(f"/jobs/{carving.number}/sheet/"))


@pytest.mark.parametrize("place", ["outlines", "place", "sheet"])
def test_what_cannot_be_carved_inside_says_why_on_every_list(
    client, carving, act, shelf, place
):
    act("artwork", line_add="1")
    act("artwork", line0_text="Star")
    act("blank", blank=shelf["board"].pk)
    client.get(f"/jobs/{carving.number}/outlines/")
    where = f"/jobs/{carving.number}/operations/"
    added = client.post(f"{where}add/", {"at": 0, "kind": "inside", "shape": "lettering"})
    assert added.status_code == 200, read(added)[:300]
    client.post(where, {"at": 1, "changed": "deepest_mm", "deepest_mm": "90"})
    carving.refresh_from_db()
    assert [one.kind for one in spec_of(carving).operations] == ["raster", "inside"]
    answer = client.get(f"/jobs/{carving.number}/{place}/")
    assert answer.status_code == 200
    assert "Traceback" not in read(answer)


@given(st.integers(2, 6), st.integers(2, 6), st.floats(-0.01, 0.01), st.floats(-0.01, 0.01))
def test_what_is_probed_on_the_way_stands_where_it_was_probed(columns, rows, across, back):
    grid = heights.Grid(20, 30, 15, 12, columns, rows)
    level = grid.level([across * x + back * y for x, y in grid.places()])
    for row, line in enumerate(level.heights_mm):
        for column, mm in enumerate(line):
            plane = across * 15 * column + back * 12 * row
            assert mm - level.heights_mm[0][0] == pytest.approx(plane, abs=2e-3)
    assert min(min(line) for line in level.heights_mm) == 0
    # To and fro: no step is longer than from one place to the next.
    steps = np.diff(np.array(grid.places()), axis=0)
    assert np.abs(steps).sum(axis=1).max() <= 15


@pytest.mark.parametrize("count", [-1, 0, 1, 16])
def test_a_grid_of_too_few_or_too_many_places_is_refused(carving, count):
    with pytest.raises(CannotBurnError, match="2 to 15 places"):
        heights.grid_over(spec_of(carving), count, 3)


def test_what_was_broken_off_is_not_followed(carving):
    grid = heights.grid_over(spec_of(carving), 2, 2)
    assert not heights.keep(carving, grid, [0.1, 0.2, 0.3])
    assert level(carving) is None
    assert heights.keep(carving, grid, [-12.4, -12.3, -12.2, -12.35])
    assert level(carving).heights_mm == ((0.0, 0.1), (0.05, 0.2))


def test_a_job_off_the_bed_is_not_probed(carving, act):
    act("place", x="-20")
    with pytest.raises(CannotBurnError, match="beyond the bed"):
        heights.grid_over(spec_of(carving), 3, 3)


def test_a_machine_that_burns_is_not_moved_to_be_probed(carving):
    """A page that is stale, or somebody else's, asks while a program waits for its tool."""
    mill = carving.machine
    mill.link = "/dev/ttyUSB7"
    mill.save()
    Run.objects.create(
        job=carving, spec=carving.spec_data, state="running", address=mill.link
    )
    with (
        patch("workshop.bench.machines.deeds.link_to") as asked,
        pytest.raises(CannotBurnError, match="burn"),
    ):
        do(mill, "probe-bed", {"job": str(carving.number), "across": "3", "back": "3"})
    asked.assert_not_called()
