"""Heights of an uneven bed: typed as they lie, followed, refused where they are no grid."""

import pytest

from support.pages import read
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
