"""The list of operations on the Outlines station: order, tracing, drawings in and out."""

import io
import re

import ezdxf
import pytest
from svgelements import SVG, Path

from support.gate import signed_gcode
from support.pages import read
from workshop.jobs.pictures.engine import pipeline
from workshop.jobs.revisions.writer import spec_of
from workshop.shelf.recipes.changes import put_recipe, recipe_part

HX = {"HX-Request": "true"}


@pytest.fixture
def ops(client, ticket):
    """Do something to the operations; the spec is fresh afterwards."""

    def do(verb, **sent):
        client.get(f"/jobs/{ticket.number}/outlines/")
        where = f"/jobs/{ticket.number}/operations/" + (f"{verb}/" if verb else "")
        answer = client.post(
            where,
            {name: one if name == "changed" else str(one) for name, one in sent.items()},
            headers=HX,
        )
        ticket.refresh_from_db()
        return answer

    return do


def kinds(ticket):
    return [one.kind for one in spec_of(ticket).operations]


def lines_of(ticket, at):
    spec = spec_of(ticket)
    return pipeline().followed(spec, spec.operations[at]).paths


def test_added_moved_out_switched_off_and_removed(client, ops, ticket):
    page = read(ops("add", kind="cut", shape="rectangle"))
    assert "ol is-cut is-looked" in page
    page = read(ops("", at=1, offset_mm="3"))
    spec = spec_of(ticket)
    assert f"{spec.size.width_mm + 6:.1f} ×" in page
    gcode = signed_gcode(client, ticket)
    assert b"F600\n" in gcode  # 10 mm/s
    before = pipeline().estimate(spec)
    ops("", at=1, speed_mm_s="5")
    after = pipeline().estimate(spec_of(ticket))
    assert after.operation_s[1] > before.operation_s[1]
    assert after.operation_s[0] == pytest.approx(before.operation_s[0])
    assert sum(after.operation_s.values()) == pytest.approx(after.seconds)
    sheet = read(client.get(f"/jobs/{ticket.number}/sheet/"))
    assert "<b>Picture</b>" in sheet
    assert "<b>Cut</b>" in sheet
    bed = read(client.get(f"/jobs/{ticket.number}/place/"))
    assert "bed__cut is-cut" in bed
    assert "ol is-cut" not in read(ops("seen", at=1))
    assert spec_of(ticket).operations[1].on
    ops("on", at=1)
    assert not spec_of(ticket).operations[1].on
    ops("remove", at=1)
    assert kinds(ticket) == ["raster"]
    assert "switch it off instead" in read(ops("remove", at=0))


def test_they_come_in_the_order_of_the_trade(ops, ticket):
    """Engraving before cutting, inside before outside; by hand in any order, with a warning."""
    ops("add", kind="cut", shape="rectangle")
    ops("add", kind="hatch", shape="traced")
    ops("add", kind="score", shape="blank")
    assert kinds(ticket) == ["raster", "hatch", "score", "cut"]
    ops("", at=3, offset_mm="9")
    ops("add", kind="cut", shape="rounded")
    assert [one.shape for one in spec_of(ticket).operations][3:] == ["rounded", "rectangle"]
    ops("move", at=4, to=3)
    ops("move", at=4, to=0)
    assert kinds(ticket) == ["cut", "raster", "hatch", "score", "cut"]


@pytest.mark.parametrize(
    ("moves", "rule"), [([(1, 0)], "cut_loose_last"), ([(2, 1)], "inside_before_outside")]
)
def test_a_wrong_order_is_found_and_put_right(client, ops, ticket, moves, rule):
    ops("add", kind="cut", shape="rectangle")
    ops("", at=1, offset_mm="9")
    ops("add", kind="cut", shape="rounded")
    for at, to in moves:
        ops("move", at=at, to=to)
    client.post(f"/jobs/{ticket.number}/findings/{rule}/fix/", headers=HX)
    ticket.refresh_from_db()
    assert kinds(ticket) == ["raster", "cut", "cut"]
    assert [one.shape for one in spec_of(ticket).outlines] == ["rounded", "rectangle"]
    found = read(client.get(f"/jobs/{ticket.number}/findings/"))
    assert rule not in found


def test_a_recipe_comes_with_what_is_added(ops, ticket, shelf):
    of = {shelf["slate"].pk: shelf["slate"], shelf["wood"].pk: shelf["wood"]}
    substrate = of[ticket.substrate_id]
    put_recipe(shelf["bench"], substrate, "Through", kind="cut", speed_mm_s=4.0, power=90.0)
    lines = put_recipe(
        shelf["bench"], substrate, "Lines", kind="hatch", pitch_mm=0.3, angle_deg=45.0, cross=True
    )  # fmt: skip
    ops("add", kind="cut", shape="rectangle")
    assert (spec_of(ticket).operations[1].recipe, spec_of(ticket).operations[1].power) == (
        "Through",
        90,
    )
    page = read(ops("", at=1, recipe=lines.pk))
    one = spec_of(ticket).operations[1]
    assert (one.kind, one.spacing_mm, one.hatch_deg, one.cross) == ("hatch", 0.3, 45, True)
    assert one.speed_mm_s == recipe_part(lines).speed_mm_s
    assert "From “Lines”" in page


def test_traced_outlines_are_chosen_by_pressing_them(ops, ticket):
    page = read(ops("add", kind="score", shape="traced"))
    ops("", at=1, least_mm="0.2", smooth_mm="0.1")
    every = len(lines_of(ticket, 1))
    assert every >= 2
    page = read(ops("look", at=1))
    assert page.count('class="ring"') == every
    points = re.findall(r'data-point="([^"]*)"', page)
    page = read(ops("rings", at=1, points=";".join(points[-2:])))
    assert page.count("ring is-out") == 2
    assert len(lines_of(ticket, 1)) == every - 2
    ops("rings", at=1, points=points[-1], use="1")
    assert len(lines_of(ticket, 1)) == every - 1
    ops("all", at=1)
    assert len(lines_of(ticket, 1)) == every
    assert ops("rings", at=1, points="900 900").status_code == 422
    assert ops("rings", at=1, points="").status_code == 422
    assert ops("rings", at=1, points="1 x").status_code == 422


def test_chosen_outlines_become_an_operation_of_their_own(ops, ticket):
    page = read(ops("add", kind="score", shape="traced"))
    points = re.findall(r'data-point="([^"]*)"', page)
    every = len(lines_of(ticket, 1))
    ops("split", at=1, points=";".join(points[:2]))
    assert [len(lines_of(ticket, at)) for at in (1, 2)] == [every - 2, 2]
    ops("split", at=2, points=points[0], x="1.5", y="-2")
    assert [len(lines_of(ticket, at)) for at in (1, 2, 3)] == [every - 2, 1, 1]
    own = spec_of(ticket).operations[3]
    assert (own.move_x_mm, own.move_y_mm) == (1.5, -2)
    ops("", at=2, move_x_mm="4")
    assert spec_of(ticket).operations[1].move_x_mm == 0
    assert ops("split", at=2, points=";".join(points)).status_code == 422
    assert ops("split", at=1, points=points[2], x="far", y="0").status_code == 422


def test_dropped_specks_are_told_while_the_slider_moves(client, ops, ticket):
    page = read(ops("add", kind="score", shape="traced"))
    assert "dropped" not in page
    ops("", at=1, least_mm="60")
    answer = client.post(
        f"/jobs/{ticket.number}/operations/",
        {"at": "1", "changed": "lightest", "lightest": "60"},
        headers={**HX, "X-Live": "1"},
    )
    page = read(answer)
    assert re.search(r"[0-9] outlines?; [1-9] smaller than 60.00 mm dropped", page)
    assert 'id="outlines" hx-swap-oob="morph"' in page
    assert answer["HX-Reswap"] == "none"


def test_cut_around_it_is_one_press(ops, ticket):
    """What the mask keeps where there is one, else the picture; once."""
    page = read(ops("around"))
    assert [(one.kind, one.shape) for one in spec_of(ticket).outlines] == [
        ("cut", "rectangle")
    ]
    assert "ol is-cut is-looked" in page
    ops("around")
    assert kinds(ticket) == ["raster", "cut"]


def test_scaled_together_or_each_for_itself(ops, ticket):
    ops("add", kind="score", shape="traced")
    ops("", at=1, scale_x="50")
    one = spec_of(ticket).operations[1]
    assert (one.scale_x, one.scale_y) == (50, 50)
    ops("", at=1, changed=["lock_scale", "scale_x", "scale_y"], scale_x="50", scale_y="80")
    one = spec_of(ticket).operations[1]
    assert (one.lock_scale, one.scale_x, one.scale_y) == (False, 50, 80)


def test_faults_stand_at_their_field_and_keep_the_rest(ops, ticket):
    ops("add", kind="cut", shape="rectangle")
    page = read(ops("", at=1, kerf_mm="wide", offset_mm="4"))
    assert 'id="op-kerf_mm-fault"' in page
    assert 'value="wide"' in page
    assert spec_of(ticket).operations[1].offset_mm == 4
    ops("", at=1, shape="traced")
    page = read(ops("", at=1, lightest="10", darkest="40"))
    assert "darkest tone" in page
    assert ops("", at=7).status_code == 422
    assert ops("add", kind="melt", shape="rectangle").status_code == 422
    assert ops("nonsense", at=1).status_code == 404


def test_nothing_included_is_said(client, ops, ticket):
    ops("on", at=0)
    page = read(client.get(f"/jobs/{ticket.number}/findings/"))
    assert "nothing would be done" in page
    ops("add", kind="cut", shape="rectangle")
    ops("", at=1, speed_mm_s="900")
    page = read(client.get(f"/jobs/{ticket.number}/findings/"))
    assert "cannot follow an outline that fast" in page
    ops("", at=1, speed_mm_s="9", shape="drawn")
    page = read(client.get(f"/jobs/{ticket.number}/findings/"))
    assert "nothing was found or drawn" in page


SQUARE = b'<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="20mm" viewBox="0 0 40 20"><rect width="40" height="20"/><path d="M5 5L15 5L15 15" fill="none"/></svg>'


def dxf():
    drawing = ezdxf.new(units=ezdxf.units.IN)
    space = drawing.modelspace()
    for a, b in (
        ((0, 0), (1, 0)),
        ((1, 0), (1, 0.5)),
        ((1, 0.5), (0, 0.5)),
        ((0, 0.5), (0, 0)),
    ):
        space.add_line(a, b)
    space.add_circle((0.5, 0.25), 0.1)
    stream = io.StringIO()
    drawing.write(stream)
    return stream.getvalue().encode()


@pytest.mark.parametrize(
    ("name", "data", "size", "lines"),
    [("plate.svg", SQUARE, (40, 20), 2), ("plate.dxf", dxf(), (25.4, 12.7), 2)],
)
def test_drawings_come_in_at_their_true_size(client, ticket, name, data, size, lines):
    client.get(f"/jobs/{ticket.number}/outlines/")
    upload = io.BytesIO(data)
    upload.name = name
    where = f"/jobs/{ticket.number}/operations/file/"
    page = read(client.post(where, {"drawing": upload}, headers=HX))
    ticket.refresh_from_db()
    assert kinds(ticket) == ["raster", "score"]
    assert name in page
    paths = lines_of(ticket, 1)
    assert len(paths) == lines
    low = [min(path[:, axis].min() for path in paths) for axis in (0, 1)]
    high = [max(path[:, axis].max() for path in paths) for axis in (0, 1)]
    assert (high[0] - low[0], high[1] - low[1]) == pytest.approx(size, abs=0.01)


@pytest.mark.parametrize("name", ["broken.svg", "broken.dxf"])
def test_what_is_no_drawing_is_refused(client, ticket, name):
    upload = io.BytesIO(b"neither the one nor the other")
    upload.name = name
    answer = client.post(f"/jobs/{ticket.number}/operations/file/", {"drawing": upload})
    assert answer.status_code == 422
    assert name in answer.content.decode()
    assert client.post(f"/jobs/{ticket.number}/operations/file/").status_code == 422


def test_outlines_go_out_as_they_lie(client, ops, ticket):
    """Read back by svgelements and ezdxf: the same size, closed, a layer for each."""
    empty = client.get(f"/jobs/{ticket.number}/outlines.svg")
    assert empty.status_code == 422
    ops("add", kind="cut", shape="rectangle")
    spec = spec_of(ticket)
    wide = spec.size.width_mm + 4
    text = client.get(f"/jobs/{ticket.number}/outlines.svg").content
    drawing = SVG.parse(io.BytesIO(text), ppi=25.4)
    path = next(one for one in drawing.elements() if isinstance(one, Path))
    left, _, right, _ = path.bbox()
    assert right - left == pytest.approx(wide, abs=1e-3)
    data = client.get(f"/jobs/{ticket.number}/outlines.dxf").content.decode()
    read = ezdxf.read(io.StringIO(data))
    (line,) = read.modelspace()
    assert (line.closed, line.dxf.layer, read.units) == (True, "2-cut", ezdxf.units.MM)
    assert max(x for x, *_ in line) - min(x for x, *_ in line) == pytest.approx(wide)
    assert client.get(f"/jobs/{ticket.number}/outlines.doc").status_code == 404


def test_along_what_the_mask_keeps(act, ops, ticket):
    import json

    points = [[0.3, 0.3], [0.7, 0.3], [0.7, 0.8], [0.3, 0.8]]
    act("artwork", mask_add=json.dumps({"kind": "lasso", "points": points, "keep": False}))
    ops("add", kind="cut", shape="picture")
    ops("", at=1, offset_mm="0")
    assert len(lines_of(ticket, 1)) == 2  # the hole that was taken out, and the edge
    ops("", at=1, hole_mm="3", hole_inset_mm="4")
    assert len(lines_of(ticket, 1)) == 3
