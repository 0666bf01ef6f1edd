"""Drawings of lines: true shapes, whatever transforms them, and none lost unsaid.

Truth: SVG 2 (W3C) basic shapes, coordinate systems and fill rules; the DXF reference's
groups; areas and lengths by plain geometry and shapely.
"""

import io
import json
import math
from itertools import pairwise

import ezdxf
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import LineString, Polygon, affinity
from shapely.geometry import box

from engraving.__main__ import main
from engraving.check import Facts, check_job
from engraving.drawing import drawn_shapes, joined, read_dxf_paths, read_svg_paths
from engraving.errors import ArtworkError
from engraving.jobspec import ArtworkPart, JobSpec, OperationPart
from engraving.outline import follow, read_svg

BOX = 'width="100mm" height="100mm" viewBox="0 0 100 100"'


def svg(body, attributes=BOX):
    return f'<svg xmlns="http://www.w3.org/2000/svg" {attributes}>{body}</svg>'.encode()


def dxf(draw, units=4):
    drawing = ezdxf.new("R2010", units=units)
    draw(drawing, drawing.modelspace())
    stream = io.StringIO()
    drawing.write(stream)
    return stream.getvalue().encode()


def areas(data):
    return [Polygon(one.points) for one in read_svg_paths(data).paths if one.closed]


def square(x, y, side=10.0):
    return f'<rect x="{x}" y="{y}" width="{side}" height="{side}"/>'


def job(**operation):
    outline = {"shape": "drawn", "offset_mm": 0, **operation}
    spec = JobSpec(artwork=ArtworkPart(width_px=100, height_px=100),
                   size={"width_mm": 300, "height_mm": 300, "pitch_mm": 1})  # fmt: skip
    return spec, OperationPart(**outline)


def _middle():
    spec, _ = job()
    return (
        spec.place.x_mm + spec.size.width_mm / 2,
        spec.place.y_mm + spec.size.height_mm / 2,
    )


MIDDLE = _middle()


def followed(body, **operation):
    spec, part = job(**operation)
    return follow(spec, part.model_copy(update={"drawing": read_svg("a.svg", svg(body))}))


def long(paths):
    return sum(LineString(path).length for path in paths)


numbers = st.floats(-40, 40).map(lambda value: round(value, 2))
angles = st.floats(-180, 180).map(lambda value: round(value, 1))
transforms = st.lists(
    st.one_of(
        st.tuples(angles, numbers, numbers).map(lambda it: ("rotate({:g} {:g} {:g})".format(*it), it)),
        st.tuples(numbers, numbers).map(lambda it: ("translate({:g} {:g})".format(*it), it)),
        st.sampled_from([(2, 1), (-1, 1), (0.5, -3)]).map(lambda it: ("scale({:g} {:g})".format(*it), it)),
        st.sampled_from([10, -30, 45]).map(lambda it: (f"skewX({it:g})", it)),
        st.sampled_from([10, -30, 45]).map(lambda it: (f"skewY({it:g})", it)),
    ),
    max_size=4,
)  # fmt: skip


def matrix(told):
    """A transform of SVG 2, 8.4, as shapely's six numbers."""
    name, it = told
    if name.startswith("rotate"):
        turn = math.radians(it[0])
        a, b = math.cos(turn), math.sin(turn)
        x, y = it[1:]
        return [a, -b, b, a, x - a * x + b * y, y - b * x - a * y]
    if name.startswith("translate"):
        return [1, 0, 0, 1, *it]
    if name.startswith("scale"):
        return [it[0], 0, 0, it[1], 0, 0]
    lean = math.tan(math.radians(it))
    return [1, lean, 0, 1, 0, 0] if name.startswith("skewX") else [1, 0, lean, 1, 0, 0]


@settings(max_examples=60)
@given(
    transforms,
    transforms,
    st.sampled_from(["rect", "circle", "ellipse", "polygon", "path"]),
)
def test_every_shape_takes_its_whole_transform(own, group, kind):
    """Turned, skewed, mirrored, themselves or by a group, in a scaled box."""
    bodies = {
        "rect": ('x="3" y="4" width="10" height="20"', box(3, 4, 13, 24)),
        "circle": ('cx="5" cy="6" r="7"', affinity.translate(disc(7, 7), 5, 6)),
        "ellipse": ('cx="5" cy="6" rx="9" ry="3"', affinity.translate(disc(9, 3), 5, 6)),
        "polygon": ('points="0,0 10,0 4,7"', Polygon([(0, 0), (10, 0), (4, 7)])),
        "path": ('d="M1 2h10v5z"', Polygon([(1, 2), (11, 2), (11, 7)])),
    }
    told, wanted = bodies[kind]
    names = [" ".join(name for name, _ in some) for some in (group, own)]
    data = svg(f'<g transform="{names[0]}"><{kind} {told} transform="{names[1]}"/></g>',
               'width="50mm" height="50mm" viewBox="0 0 100 100"')  # fmt: skip
    for one in reversed([*group, *own]):
        wanted = affinity.affine_transform(wanted, matrix(one))
    wanted = affinity.scale(wanted, 0.5, -0.5, origin=(0, 0))
    (found,) = areas(data)
    assert found.hausdorff_distance(wanted) < 0.02 + 1e-5 * wanted.length


def disc(rx, ry):
    turn = np.linspace(0, 2 * np.pi, 4000, endpoint=False)
    return Polygon(np.stack([rx * np.cos(turn), ry * np.sin(turn)], axis=1))


def test_a_turned_rectangle_in_a_box_of_100_mm():
    (found,) = areas(svg('<rect width="10" height="20" transform="rotate(90)"/>'))
    assert found.bounds == pytest.approx((-20, -10, 0, 0), abs=1e-4)


def test_a_drawing_in_a_drawing_has_its_own_box():
    """SVG 2, 8.2: the inner box is fitted, here centred across."""
    inner = '<svg x="10" y="20" width="40" height="20" viewBox="0 0 10 10">{}</svg>'
    (found,) = areas(svg(inner.format('<rect width="10" height="10"/>')))
    assert found.bounds == pytest.approx((20, -40, 40, -20), abs=1e-3)
    (found,) = areas(svg(inner.format('<rect width="50%" height="50%"/>')))
    assert found.bounds == pytest.approx((20, -30, 30, -20), abs=1e-3)
    stretched = inner.replace("viewBox", 'preserveAspectRatio="none" viewBox')
    (found,) = areas(svg(stretched.format('<rect width="10" height="10"/>')))
    assert found.bounds == pytest.approx((10, -40, 50, -20), abs=1e-3)


HIDDEN = [
    "<defs>{}</defs>", "<symbol>{}</symbol>", "<mask>{}</mask>", "<marker>{}</marker>",
    "<clipPath>{}</clipPath>", "<pattern>{}</pattern>", '<g display="none">{}</g>',
    '<g style="display: none">{}</g>', '<g visibility="hidden">{}</g>',
    "<style>rect {{ display: none }}</style>{}", "<g><defs><g>{}</g></defs></g>",
]  # fmt: skip


@pytest.mark.parametrize("round_it", HIDDEN)
def test_what_is_not_drawn_does_not_come_in_and_is_said(round_it):
    data = svg(round_it.format(square(1, 1)) + '<circle cx="50" cy="50" r="5"/>')
    drawn = read_svg_paths(data)
    assert len(drawn.paths) == 1
    assert sum(drawn.left_out.values()) == 1
    assert read_svg("a.svg", data).missing == drawn.words


def test_text_is_left_out_and_said():
    drawn = read_svg_paths(svg("<text>Ahoy</text>" + square(1, 1)))
    assert drawn.words == ("text, which has no outline",)


def test_the_standard_document_type_is_read():
    doctype = (
        b'<?xml version="1.0"?>\n<!DOCTYPE svg PUBLIC "-//W3C//DTD SVG 1.1//EN"\n'
        b' "http://www.w3.org/Graphics/SVG/1.1/DTD/svg11.dtd">'
    )
    assert len(areas(doctype + svg(square(1, 1)))) == 1
    entity = doctype.replace(b">", b'[<!ENTITY a SYSTEM "file:///etc/passwd">]>', 2)
    with pytest.raises(ArtworkError):
        read_svg_paths(entity + svg(square(1, 1)))


class TestNothingVanishes:
    def test_the_same_square_twice_is_cut_once_and_scored_twice(self):
        body = square(10, 10) * 2
        cut, score = followed(body, kind="cut"), followed(body, kind="score")
        assert (long(cut.paths), cut.told.merged) == (pytest.approx(40, abs=1e-3), 1)
        assert (long(score.paths), score.told.merged) == (pytest.approx(80, abs=1e-3), 0)

    def test_a_shared_edge_is_cut_once_and_kept_when_scored(self):
        body = square(10, 10) + square(20, 10)
        cut, score = followed(body, kind="cut"), followed(body, kind="score")
        assert (long(cut.paths), cut.told.merged) == (pytest.approx(70, abs=0.01), 1)
        assert long(score.paths) == pytest.approx(80, abs=1e-3)

    @pytest.mark.parametrize("kind", ["cut", "score"])
    @pytest.mark.parametrize("rule", ["evenodd", "nonzero"])
    def test_a_bow_tie_keeps_all_of_its_line(self, kind, rule):
        body = f'<path fill-rule="{rule}" d="M10 10L30 30L30 10L10 30Z"/>'
        wanted = 2 * 20 * math.sqrt(2) + 2 * 20
        assert long(followed(body, kind=kind).paths) == pytest.approx(wanted, abs=0.01)

    def test_parts_closer_than_the_kerf_are_parted_and_said(self):
        body = square(10, 10) + square(20.15, 10)
        found = followed(body, kind="cut", kerf_mm=0.2)
        assert (found.told.gaps, found.told.nearest_mm) == (
            1,
            pytest.approx(0.15, abs=1e-3),
        )
        assert long(found.paths) == pytest.approx(2 * (40 + 0.2 * math.pi), abs=0.01)
        apart = followed(square(10, 10) + square(20.25, 10), kind="cut", kerf_mm=0.2)
        assert apart.told.gaps == 0

    def test_touching_parts_with_a_kerf_are_cut_once_between(self):
        found = followed(square(10, 10) + square(20, 10), kind="cut", kerf_mm=0.2)
        assert found.told.gaps == 1
        between = box(MIDDLE[0] - 0.01, 0, MIDDLE[0] + 0.01, 400)
        cut = [LineString(path).intersection(between).length for path in found.paths]
        assert sum(cut) == pytest.approx(10.2, abs=0.1)

    def test_an_outline_too_narrow_for_its_kerf_is_said(self):
        ring = '<path fill-rule="evenodd" d="M0 0h20v20h-20zM9.95 9.95h.1v.1h-.1z"/>'
        found = followed(ring, kind="cut", kerf_mm=0.2)
        assert found.told.vanished == 1

    @pytest.mark.parametrize(("rule", "turn", "area"), [
        ("evenodd", "h6v6h-6z", 64), ("nonzero", "h6v6h-6z", 100), ("nonzero", "v6h6v-6z", 64),
    ])  # fmt: skip
    def test_fill_rules(self, rule, turn, area):
        """SVG 2, 13.4.2: an inner ring is a hole by the rule and by its direction."""
        body = f'<path fill-rule="{rule}" d="M0 0h10v10h-10zM2 2{turn}"/>'
        drawn = drawn_shapes(read_svg("a.svg", svg(body)))
        assert sum(one.area for one in drawn.areas) == pytest.approx(area, abs=0.01)
        assert long(followed(body, kind="score").paths) == pytest.approx(64, abs=0.01)

    @settings(max_examples=40, deadline=None)
    @given(st.lists(st.tuples(st.integers(0, 8), st.integers(0, 8), st.integers(1, 6)),
                    min_size=1, max_size=8))  # fmt: skip
    def test_scored_lines_are_the_drawn_ones(self, squares):
        """Whatever touches, crosses, holds or repeats another, every line is there."""
        body = "".join(square(x, y, side) for x, y, side in squares)
        found = followed(body, kind="score").paths
        wanted = [box(x, y, x + side, y + side).exterior for x, y, side in squares]
        assert long(found) == pytest.approx(sum(one.length for one in wanted), abs=0.01)
        cut = followed(body, kind="cut").paths
        apart = union_length(wanted)
        assert union_length([LineString(path) for path in cut]) == pytest.approx(
            apart, abs=0.1
        )


def union_length(lines):
    import shapely

    snapped = [shapely.set_precision(LineString(one.coords), 1e-3) for one in lines]
    return shapely.union_all(snapped).length


class TestLooseEnds:
    LINES = '<path d="M0 0H10"/><path d="M10.03 0V10"/><path d="M10 10.02H0"/><path d="M0 10V0.04"/>'

    def test_they_are_closed_within_a_tolerance_and_counted(self):
        found = followed(self.LINES, kind="cut")
        assert (len(found.paths), found.told.closed) == (1, 4)
        assert np.array_equal(found.paths[0][0], found.paths[0][-1])
        open_ = followed(self.LINES, kind="cut", join_mm=0.01)
        assert (len(open_.paths), open_.told.closed) == (4, 0)

    def test_three_ends_in_one_place_stay_as_they_are(self):
        star = "".join(f'<path d="M0 0L{x} {y}"/>' for x, y in [(9, 0), (0, 9), (-9, 0)])
        paths, closed = joined(read_svg_paths(svg(star)).paths)
        assert (len(paths), closed) == (3, 0)


class TestDxf:
    def test_line_ends_of_other_systems(self):
        data = dxf(lambda _, space: space.add_circle((5, 5), 3))
        for ends in (b"\n", b"\r\n"):
            (path,) = read_dxf_paths(data.replace(b"\n", ends)).paths
            assert Polygon(path.points).area == pytest.approx(math.pi * 9, rel=5e-3)

    def test_hidden_layers_and_entities_stay_out(self):
        def draw(drawing, space):
            off, frozen = drawing.layers.add("off"), drawing.layers.add("frozen")
            off.off()
            frozen.freeze()
            for layer in ("off", "frozen", "off"):
                space.add_circle((5, 5), 3, dxfattribs={"layer": layer})
            space.add_circle((5, 5), 2, dxfattribs={"invisible": 1})
            space.add_text("Ahoy")
            space.add_circle((5, 5), 1)

        drawn = read_dxf_paths(dxf(draw))
        assert len(drawn.paths) == 1
        assert drawn.words == ("3 × on a hidden layer", "invisible", "text")

    @pytest.mark.parametrize(
        ("units", "mm"), [(1, 25.4), (4, 1), (5, 10), (9, 0.0254), (0, 1)]
    )
    def test_units(self, units, mm):
        """DXF reference, $INSUNITS: 1 inches, 4 mm, 5 cm, 9 mils."""
        data = dxf(lambda _, space: space.add_line((0, 0), (100, 0)), units)
        (path,) = read_dxf_paths(data).paths
        assert np.ptp(path.points[:, 0]) == pytest.approx(100 * mm)


def test_two_thousand_rings_are_sorted():
    """How quickly is printed by the benchmarks."""
    body = "".join(square(3 * (k % 50), 3 * (k // 50), 2) for k in range(1000))
    body += "".join(square(3 * (k % 50) + 0.5, 3 * (k // 50) + 0.5, 1) for k in range(1000))
    drawn = drawn_shapes(read_svg("a.svg", svg(body)))
    assert len(drawn.areas) == 1000
    assert {len(one.interiors) for one in drawn.areas} == {1}


class TestOrder:
    def test_inside_strictly_before_outside_at_any_depth(self):
        body = "".join(
            square(x + k * 2, 10 + k * 2, 40 - 4 * k) for x in (0, 60) for k in range(8)
        )
        found = [Polygon(path) for path in followed(body, kind="cut").paths]
        assert len(found) == 16
        for at, one in enumerate(found):
            assert not any(later.within(one) for later in found[at + 1 :])

    def test_the_way_between_a_hundred_parts_is_that_of_the_nearest(self):
        chance = np.random.default_rng(3)
        body = "".join(
            square(10 * x, 10 * y, 5) for x, y in chance.permutation(
                [(x, y) for x in range(10) for y in range(10)])
        )  # fmt: skip
        paths = followed(body, kind="cut").paths
        ends = [(0, 0)] + [point for path in paths for point in (path[0], path[-1])]
        way = sum(math.dist(a, b) for a, b in list(pairwise(ends))[0::2])
        # About 100 ways of 5 to 10 mm, and the one from the bed's corner.
        assert way < 1100

    def test_lead_ins_keep_clear_of_parts_and_cuts(self):
        body = "".join(square(12 * x, 12 * y) for x in range(3) for y in range(3))
        body += "".join(f'<circle cx="{12 * x + 5}" cy="{12 * y + 5}" r="3"/>'
                        for x in range(3) for y in range(3))  # fmt: skip
        found = followed(body, kind="cut", kerf_mm=0.2, lead_in_mm=1.5)
        assert found.told.no_lead == 0
        bodies = drawn_shapes(read_svg("a.svg", svg(body))).areas
        moved = [affinity.translate(one, *MIDDLE) for one in bodies]
        assert len(found.paths) == 18
        for path in found.paths:
            assert math.dist(path[0], path[1]) == pytest.approx(1.5)
            lead = LineString(path[:2])
            assert min(one.distance(lead) for one in moved) > 0.09


class TestBridges:
    @pytest.mark.parametrize("kerf", [0.0, 0.5])
    def test_what_holds_is_as_wide_as_asked(self, kerf):
        found = followed(
            square(10, 10, 40), kind="cut", kerf_mm=kerf, bridges=3, bridge_mm=1
        )
        assert len(found.paths) == 3
        beam = [LineString(path).buffer(kerf / 2 or 1e-6) for path in found.paths]
        for one, other in [(0, 1), (1, 2), (0, 2)]:
            assert beam[one].distance(beam[other]) == pytest.approx(1, abs=0.01)

    def test_they_keep_off_corners(self):
        found = followed(square(10, 10, 40), kind="cut", bridges=4, bridge_mm=2)
        corners = [(MIDDLE[0] + x, MIDDLE[1] + y) for x in (-20, 20) for y in (-20, 20)]
        for path in found.paths:
            for end in (path[0], path[-1]):
                assert min(math.dist(end, corner) for corner in corners) > 2

    def test_too_many_for_the_line_is_said(self):
        found = followed(square(10, 10, 4), kind="cut", bridges=4, bridge_mm=4)
        assert found.told.unbridged == 1


@pytest.mark.parametrize(("inset", "off"), [(5, False), (1, True), (28, True), (24, False)])
def test_a_hole_to_hang_it_by_lies_in_the_material(inset, off):
    ring = '<path fill-rule="evenodd" d="M0 0h30v30h-30zM12 3h6v15h-6z"/>'
    found = followed(ring if inset == 5 else square(0, 0, 30), kind="cut",
                     hole_mm=4, hole_inset_mm=inset)  # fmt: skip
    assert found.told.hole_off == (off or inset == 5)


@pytest.mark.parametrize(("rule", "body", "operation", "severity"), [
    ("outlines_have_width", '<path d="M0 0h.1v.1h-.1zM5 5h9v9h-9z"/>', {"offset_mm": -0.2}, "caution"),
    ("kerf_leaves_parts_whole", square(0, 0) + square(10.1, 0), {"kerf_mm": 0.3}, "caution"),
    ("bridges_fit", square(0, 0, 2), {"bridges": 4, "bridge_mm": 4}, "caution"),
    ("lead_ins_fit", square(0, 0) + square(10.3, 0) + square(0, 10.3) + square(10.3, 10.3)
     + square(5, 5, 0.2), {"lead_in_mm": 8, "kerf_mm": 0.1}, "caution"),
    ("hole_lies_in_material", square(0, 0, 30), {"hole_mm": 4, "hole_inset_mm": 1}, "caution"),
    ("lines_once", square(0, 0) * 3, {}, "note"),
    ("ends_were_closed", '<path d="M0 0.03V0H9V9H0V0.05"/>', {}, "note"),
    ("drawing_came_whole", square(0, 0) + "<text>Ahoy</text>", {}, "note"),
])  # fmt: skip
def test_check_tells_it(rule, body, operation, severity):
    spec, part = job(kind="cut", **operation)
    part = part.model_copy(update={"drawing": read_svg("a.svg", svg(body))})
    told = {0: follow(spec, part).told}
    spec = spec.model_copy(update={"operations": (part,)})
    found = {one.rule: one for one in check_job(Facts(spec, outlines=told))[0]}
    assert found[rule].severity == severity
    assert found[rule].sentence.endswith(".")
    assert "operation 1" in found[rule].figure
    plain = part.model_copy(update={"drawing": read_svg("a.svg", svg(square(0, 0, 40))),
        "offset_mm": 0, "kerf_mm": 0.1, "bridge_mm": 1, "lead_in_mm": 2, "hole_inset_mm": 5})  # fmt: skip
    told = {0: follow(spec, plain).told}
    spec = spec.model_copy(update={"operations": (plain,)})
    assert rule not in {one.rule for one in check_job(Facts(spec, outlines=told))[0]}


def test_the_command_line_lists_the_parts(tmp_path, capsys, monkeypatch):
    def run(data, name="plan.svg"):
        file = tmp_path / name
        file.write_bytes(data)
        monkeypatch.setattr("sys.argv", ["engraving", "outlines", str(file)])
        return main(), *capsys.readouterr()

    body = square(10, 20) * 2 + '<path d="M0 0H5"/><defs>' + square(0, 0) + "</defs>"
    status, out, _ = run(svg(body))
    assert status == 0
    told = json.loads(out)
    ring, line = told["parts"]
    assert (ring["closed"], line["closed"]) == (True, False)
    assert ring["length_mm"] == pytest.approx(40, abs=1e-3)
    assert ring["area_mm2"] == pytest.approx(100, abs=1e-2)
    assert ring["box_mm"] == pytest.approx([10, -30, 20, -20], abs=1e-3)
    assert line["box_mm"] == pytest.approx([0, 0, 5, 0], abs=1e-3)
    assert (told["merged"], told["left_out"]) == (1, ["in a store of definitions"])

    def draw(_, space):
        space.add_circle((5, 5), 3, dxfattribs={"invisible": 1})
        space.add_circle((7, 5), 2)

    told = json.loads(run(dxf(draw), "plan.dxf")[1])
    assert told["parts"][0]["area_mm2"] == pytest.approx(4 * math.pi, rel=0.01)
    assert told["left_out"] == ["invisible"]
    # A bow tie goes round both of its halves.
    told = json.loads(run(svg('<path d="M0 0L10 10V0L0 10z"/>'))[1])
    assert told["parts"][0]["area_mm2"] == pytest.approx(50, abs=0.01)
    status, _, said = run(b"no drawing")
    assert (status, said.count("\n")) == (2, 1)
