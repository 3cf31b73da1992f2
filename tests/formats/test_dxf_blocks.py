"""What lies in blocks of DXF, aslant, or on splines of other kinds, against the DXF reference and closed forms."""

import math

import ezdxf.xclip
import numpy as np
import pytest
import shapely
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from scipy.interpolate import BSpline

from tests.builders import workshop
from tests.formats.test_dxf import dxf
from unkelt.app.work import opened, written
from unkelt.formats.dxf.read import read_dxf
from unkelt.geometry.flatten import lines
from unkelt.geometry.measure import bounds, signed_areas
from unkelt.geometry.region import region


def test_what_lies_in_a_block_takes_over_what_its_reference_says(tmp_path):
    """DXF reference, BLOCK: on layer 0 it is on the reference's layer, `BYBLOCK` has its colour. A layer that is off
    hides what is on it, a frozen one all of a block that lies on it.
    """

    def draw(msp):
        msp.doc.layers.add("Cut", color=1)
        msp.doc.layers.add("Frozen", color=3).freeze()
        msp.doc.layers.add("Off", color=3).off()
        inner = msp.doc.blocks.new("inner")
        for attributes in ({"layer": "0"}, {"layer": "0", "color": 0}, {"layer": "Cut", "color": 5}):
            inner.add_circle((0, 0), 1, attributes)
        msp.doc.blocks.new("outer").add_blockref("inner", (0, 0), {"layer": "0", "color": 0})
        msp.add_blockref("inner", (0, 0), {"layer": "Cut", "color": 2})
        msp.add_blockref("inner", (0, 10), {"layer": "Frozen"})
        msp.add_blockref("inner", (0, 20), {"layer": "Off"})
        msp.add_blockref("inner", (0, 30), {"layer": "Cut", "invisible": 1})
        msp.add_blockref("outer", (0, 40), {"layer": "Cut", "color": 4})

    found = read_dxf(dxf(tmp_path, draw))
    rows: dict[float, list[tuple[str, str, bool]]] = {}
    for group in found.groups():
        for each in group.items:
            rows.setdefault(round(each.path.points[0, 0, 1]), []).append(
                (group.label, each.look.stroke, each.look.visible)
            )
    red, green, blue = "#ff0000", "#00ff00", "#0000ff"
    assert [sorted(row) for _, row in sorted(rows.items(), reverse=True)] == [
        sorted([("Cut", red, True), ("Cut", "#ffff00", True), ("Cut", blue, True)]),
        sorted([("Frozen", green, False), ("Frozen", green, False), ("Cut", blue, False)]),
        sorted([("Off", green, False), ("Off", green, False), ("Cut", blue, True)]),
        sorted([("Cut", red, False), ("Cut", red, False), ("Cut", blue, False)]),
        sorted([("Cut", red, True), ("Cut", "#00ffff", True), ("Cut", blue, True)]),
    ]


def test_an_unevenly_scaled_block_keeps_its_lines_whole(tmp_path):
    """Arcs in polylines, hatches and text, which CAD programs take apart or drop when they explode such a block."""

    def draw(msp):
        block = msp.doc.blocks.new("B", base_point=(1, 0))
        block.add_lwpolyline([(1, 0, 0, 0, 1), (11, 0, 0, 0, 1)], close=True, dxfattribs={"const_width": 2})
        block.add_hatch(color=1).paths.add_polyline_path([(1, 0), (5, 0), (5, 4)])
        block.add_text("Tern", height=2, dxfattribs={"insert": (1, 20)})
        msp.add_blockref("B", (0, 0), {"xscale": -3, "yscale": 0.5})

    found = read_dxf(dxf(tmp_path, draw))
    round_, hatch = found.outlines()
    assert round_.path.closed.tolist() == [True]
    assert abs(signed_areas(round_.path).sum()) == pytest.approx(math.pi * 15 * 2.5, rel=1e-4)
    assert round_.look.stroke_width_mm == pytest.approx(2 * math.sqrt(1.5))
    assert round_.look.pen is not None
    assert abs(signed_areas(hatch.path).sum()) == pytest.approx(8 * 1.5)
    x0, _, x1, _ = bounds(round_.path)
    assert (x1 - x0) == pytest.approx(30, abs=0.01)
    placement = found.letterings()[0].placement
    assert placement.xx / placement.yy == pytest.approx(-6)  # it reads from right to left, and is wide
    assert found.source.remarks == ()


@pytest.mark.parametrize(("style", "area"), [(0, 10000 - 6400 + 3600), (1, 10000 - 6400), (2, 10000)])
def test_a_hatch_fills_what_its_style_says(tmp_path, style, area):
    """DXF reference, HATCH group code 75: odd parity, outermost area only, through all."""

    def draw(msp):
        hatch = msp.add_hatch(dxfattribs={"hatch_style": style})
        for k, flags in ((0, 1), (10, 16), (20, 0)):
            hatch.paths.add_polyline_path([(k, k), (100 - k, k), (100 - k, 100 - k), (k, 100 - k)], flags=flags)

    (found,) = read_dxf(dxf(tmp_path, draw)).outlines()
    assert region(found.path, found.look.even_odd, 0.01).area == pytest.approx(area)


def test_rows_of_copies_and_attributes(tmp_path):
    def draw(msp):
        block = msp.doc.blocks.new("B")
        block.add_line((0, 0), (1, 0))
        block.add_attdef("NAME", (0, 2), "unfilled")
        reference = msp.add_blockref("B", (10, 0), {"rotation": 90})
        reference.grid(size=(2, 3), spacing=(5, 7))
        reference.add_attrib("NAME", "Tern", (3, 3))
        reference.add_attrib("PRICE", "9", (3, 3)).is_invisible = True

    found = read_dxf(dxf(tmp_path, draw))
    assert len(found.outlines()) == 6
    said = [(run.text, run.look.visible) for text in found.letterings() for run in text.runs]
    assert said == [("Tern", True), ("9", False)]


def test_what_lies_aslant_is_seen_from_above_and_told(tmp_path):
    """A plane of its own by the arbitrary axis algorithm (DXF reference); a circle seen from the side is a line."""

    def draw(msp):
        msp.add_circle((0, 0), 5, {"extrusion": (1, 0, 0)})
        msp.add_lwpolyline([(0, 0), (8, 0), (8, 6)], close=True, dxfattribs={"extrusion": (0, 0.6, 0.8)})
        msp.add_circle((-20, 0, 4), 5, {"extrusion": (0, 0, -1)})
        msp.add_text("Tern", height=2, dxfattribs={"extrusion": (0, 0.6, 0.8), "insert": (9, 0)})

    found = read_dxf(dxf(tmp_path, draw))
    side, _, back = (bounds(each.path) for each in found.outlines())
    assert (side[2] - side[0], side[3] - side[1]) == pytest.approx((0, 10), abs=1e-6)
    assert abs(signed_areas(found.outlines()[1].path).sum()) == pytest.approx(24 * 0.8)
    placement = found.letterings()[0].placement
    assert (placement.xx, placement.yy) == pytest.approx((-(0.8**-0.5), -(0.8**0.5)))  # it is turned, and lower
    assert back[0] - side[0] == pytest.approx(15, abs=0.01)  # its own x runs to the left
    assert [remark.words for remark in found.source.remarks] == [
        "3 entities don't lie flat on the drawing: Unkelt takes them as they are seen from above"
    ]


def test_the_second_reader_sees_blocks_as_they_were_read(tmp_path):
    """Sheared by a turn within an uneven scale, from a base point, in rows, in the colour of their reference."""

    def draw(msp):
        inner = msp.doc.blocks.new("inner", base_point=(2, 1))
        inner.add_circle((0, 0), 6, {"color": 0})
        inner.add_lwpolyline([(0, 0, 0, 0, 0.5), (20, 0), (20, 15)])
        outer = msp.doc.blocks.new("outer")
        outer.add_blockref("inner", (9, 9), {"rotation": 33, "color": 3})
        msp.add_line((-50, -50), (150, 150))
        msp.add_blockref("outer", (0, 0), {"xscale": 2, "yscale": 0.5, "rotation": 20}).grid((2, 2), (50, 30))
        msp.add_blockref("inner", (80, 0), {"color": 1, "extrusion": (0, 0, -1)})

    case = opened(dxf(tmp_path, draw), workshop())
    assert written(case, tmp_path / "b.svg").pictures == ()


def test_blocks_that_cannot_be_kept_whole_are_told(tmp_path):
    def draw(msp):
        block = msp.doc.blocks.new("B")
        block.add_line((0, 0), (9, 0))
        block.add_blockref("B", (0, 1))
        msp.add_blockref("nowhere", (0, 0))
        clipped = msp.add_blockref("B", (0, 50))
        ezdxf.xclip.XClip(clipped).set_block_clipping_path([(0, 0), (1, 1)])

    told = {remark.words: remark.code for remark in read_dxf(dxf(tmp_path, draw)).source.remarks}
    assert told == {
        "1 block is clipped: Unkelt shows all of it": "content.effect",
        "1 block that is referred to is missing, and was left out": "content.left-out",
        "1 block lies in itself or too deep in others, and was left out": "content.left-out",
    }


PLACE = st.tuples(st.integers(-40, 40), st.integers(-40, 40))


@settings(max_examples=25, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.data(), st.integers(1, 5), st.booleans(), st.booleans())
def test_splines_of_every_kind_lie_where_scipy_has_them(tmp_path, data, degree, clamped, weighted):
    points = data.draw(st.lists(PLACE, min_size=degree + 1, max_size=degree + 5, unique=True))
    inner = np.cumsum(
        data.draw(st.lists(st.integers(0, 3), min_size=len(points) - degree, max_size=len(points) - degree))
    )
    if clamped:
        knots = np.concatenate([np.zeros(degree + 1), inner[:-1], np.full(degree + 1, inner[-1] + 1)]).astype(float)
    else:
        knots = np.arange(len(points) + degree + 1, dtype=float)
    weights = data.draw(st.lists(st.sampled_from([0.5, 1, 3]), min_size=len(points), max_size=len(points)))
    weights = np.array(weights) if weighted else np.ones(len(points))

    def draw(msp):
        msp.add_lwpolyline([(-90, -90), (90, -90), (90, 90)])
        spline = msp.add_spline(dxfattribs={"degree": degree})
        spline.control_points = [(*each, 0) for each in points]
        spline.knots, spline.weights = knots, weights if weighted else []

    found = read_dxf(dxf(tmp_path, draw)).outlines()
    x0, _, _, y1 = bounds(found[0].path)
    homogeneous = BSpline(knots, np.column_stack([np.array(points) * weights[:, None], weights]), degree)
    at = homogeneous(np.linspace(knots[degree], knots[-degree - 1], 2000))
    theirs = (at[:, :2] / at[:, 2:] + 90) * [1, -1] + [x0, y1]
    ours = shapely.union_all([lines(each.path, 1e-4) for each in found[1:]])
    assert shapely.distance(ours, shapely.points(theirs)).max() < 0.004
    assert shapely.LineString(theirs).buffer(0.1).covers(ours)
