"""Filled areas by both rules, nesting and winding."""

import numpy as np
import pytest
import shapely
from fontTools.misc.transform import Transform
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import circle, moved, ring, square
from unkelt.errors import GeometryRefused
from unkelt.formats.svg.pathdata import parse_path_data
from unkelt.geometry import region as regions
from unkelt.geometry.cells import winding_numbers, wound_cells
from unkelt.geometry.nesting import ring_nesting
from unkelt.geometry.orient import orient_rings
from unkelt.geometry.path import concat, polygon
from unkelt.geometry.region import apart_mm2, clusters, counters, pieces, region, together


@pytest.mark.parametrize(
    ("d", "nonzero", "even_odd"),
    [
        # The star of SVG 1.1's fill-rule figure; areas from the closed form of the crossing points.
        ("M250,75L323,301 131,161 369,161 177,301Z", 17523.231, 12108.462),
        ("M0 0H30V30H0ZM10 10H20V20H10Z", 900, 800),  # both run alike: a hole only by even-odd
        ("M0 0H30V30H0ZM10 10V20H20V10Z", 800, 800),
        ("M0 0H20V20H0ZM10 10H30V30H10Z", 700, 600),  # crossing squares
        ("M0 0L10 10V0L0 10Z", 50, 50),  # a bow-tie keeps both halves
    ],
)
def test_area_by_both_rules(d, nonzero, even_odd):
    path = parse_path_data(d).path
    assert region(path, False, 0.01).area == pytest.approx(nonzero, abs=1e-3)
    assert region(path, True, 0.01).area == pytest.approx(even_odd, abs=1e-3)


def test_islands_in_counters():
    path = concat([square(50), square(40, 5, 5).reversed(), square(20, 15, 15), square(10, 20, 20).reversed()])
    for rule in (False, True):
        shape = region(path, rule, 0.01)
        assert (len(pieces(shape, 1e-3)), len(counters(shape, 1e-3))) == (2, 2)
        assert shape.area == 2500 - 1600 + 400 - 100


def test_orienting_makes_both_rules_agree():
    path = concat([square(50), square(40, 5, 5), square(20, 15, 15)])  # all run alike
    assert region(path, False, 0.01).area != region(path, True, 0.01).area
    after = orient_rings(path, 0.01)
    assert region(after, False, 0.01).area == region(after, True, 0.01).area == 2500 - 1600 + 400


def test_orienting_refuses_rings_that_cross():
    with pytest.raises(GeometryRefused, match="fill rule"):
        orient_rings(concat([square(), square(10, 5, 5)]), 0.01)


def test_winding_counts_turns():
    rings = [np.array([[0, 0], [0, 10], [10, 10], [10, 0], [0, 0]], float)] * 2  # counter-clockwise as seen
    assert winding_numbers(rings, np.array([[5.0, 5.0], [15.0, 5.0]])).tolist() == [2, 0]


def test_clusters_join_what_touches():
    shapes = [region(path, False, 0.01) for path in (square(), square(10, 50), square(10, 10), circle(3, 90))]
    assert clusters(shapes) == [[0, 2], [1], [3]]


def test_a_ring_has_one_counter():
    assert len(counters(region(ring(), False, 0.01), 1e-3)) == 1


@given(st.lists(st.sampled_from([0.0, 1e-12, 1e-9, 0.3]), min_size=1, max_size=6), st.integers(0, 6), st.booleans())
def test_what_lies_in_one_area_only_is_what_geos_says(shifts, left_out, turned):
    whole = [
        shapely.Polygon(circle(9 - k).points[:, 0] + [30 * k, 5], [[(30 * k, 5), (30 * k + 1, 5), (30 * k, 6)]])
        for k in range(len(shifts))
    ]
    moved = [shapely.transform(part, lambda p, d=d: p + d) for part, d in zip(whole, shifts, strict=True)][left_out:]
    a, b = together(whole), together([each.reverse() for each in moved] if turned else moved)
    assert apart_mm2(a, b) == pytest.approx(a.symmetric_difference(b).area, abs=1e-6)
    assert apart_mm2(b, a) == pytest.approx(apart_mm2(a, b), abs=1e-6)


def test_rings_beside_one_that_crosses_itself_are_filled_as_by_themselves():
    bow = polygon((-50, 0), (-30, 20), (-30, 0), (-50, 20))
    rings = [moved(ring(8, 4), 20 * k, 0) for k in range(30)]
    for even_odd in (False, True):
        both = region(concat([*rings, bow]), even_odd, 0.01)
        assert both.is_valid
        assert both.area == pytest.approx(region(bow, even_odd, 0.01).area + 30 * region(rings[0], even_odd, 0.01).area)
        assert len(pieces(both, 1e-3)) == 32


@given(
    st.lists(
        st.tuples(st.integers(0, 20), st.integers(0, 20), st.integers(3, 12), st.booleans()), min_size=2, max_size=7
    )
)
def test_rings_that_cross_fill_what_the_faces_between_them_say(wanted):
    """All one way, or not: GEOS unites the faces with the right winding numbers."""
    rings = [circle(size, x, y, arcs=4) for x, y, size, _ in wanted]
    path = concat([one.reversed() if back else one for one, (*_, back) in zip(rings, wanted, strict=True)])
    faces, winding = wound_cells([np.asarray(each.coords) for each in ring_nesting(path, 0.01).rings])
    for even_odd, inside in ((False, winding != 0), (True, winding % 2 == 1)):
        found = region(path, even_odd, 0.01)
        expected = shapely.unary_union(faces[inside])
        assert found.is_valid
        assert found.area == pytest.approx(expected.area, abs=1e-6)
        assert found.symmetric_difference(expected).area < 1e-6


def test_faces_that_rounding_made_overlap_are_united(monkeypatch):
    overlapping = np.array([shapely.box(0, 0, 10, 10), shapely.box(9, 0, 20, 10)])
    monkeypatch.setattr(regions, "wound_cells", lambda _rings: (overlapping, np.array([1, 1])))
    crossing = concat([square(10), moved(square(10), 5, 5).reversed()])
    assert region(crossing, True, 0.0123).area == pytest.approx(200)


def test_forty_rings_turned_against_each_other_are_filled():
    """What took minutes: each edge crosses most others."""
    turned = [circle(30, 0, 0).transformed(Transform().rotate(k * 0.02)) for k in range(40)]
    found = region(concat(turned), False, 0.01)
    assert found.geom_type == "Polygon"
    assert found.area == pytest.approx(np.pi * 900, abs=2)
