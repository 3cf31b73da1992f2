"""Welding against closed forms, against GEOS, and against its own promises."""

import itertools
import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import circle, glyph_paths, moved, ring, square
from unkelt.errors import GeometryRefused
from unkelt.geometry.boolean.engine import Operand
from unkelt.geometry.boolean.touching import touching
from unkelt.geometry.boolean.weld import weld
from unkelt.geometry.boolean.weld_many import weld_clusters
from unkelt.geometry.measure import lengths, signed_areas
from unkelt.geometry.path import CUBIC, Path, concat
from unkelt.geometry.region import region
from unkelt.tolerance import STANDARD

FACES = ("Pacifico", "Dancing Script", "Sacramento", "Alfa Slab One")


def welded(*paths: Path) -> Path:
    return weld([Operand(path) for path in paths], STANDARD)[0]


def test_two_circles_one_radius_apart():
    """Union of two circles r = 10, d = 10: 505.481561 (closed form), here of circles that are four cubics each."""
    path = welded(circle(10, arcs=16), circle(10, 10, arcs=16))
    assert signed_areas(path).sum() == pytest.approx(505.481561, abs=1e-3)
    assert (path.degrees == CUBIC).all()


def test_untouched_segments_stay_as_they_were_to_the_last_bit():
    a, b = moved(circle(10), 123.456789, 1 / 3), moved(square(10), 127.1, 0.7)
    kept = {segment.tobytes() for segment in np.concatenate([a.points, b.points])}
    kept |= {segment[::-1].tobytes() for segment in np.concatenate([a.points, b.points])}
    result = welded(a, b)
    assert sum(np.ascontiguousarray(s).tobytes() in kept for s in result.points) >= 4
    intersections = 2
    assert result.node_count <= a.node_count + b.node_count + intersections


@pytest.mark.parametrize(("family", "word"), list(itertools.product(FACES, ("Kittiwake", "Sea Thrift", "Bobolink"))))
def test_words_against_geos(family, word):
    """Area within what the chord error of GEOS's polygons may hide; the same number of counters, and none lost."""
    operands = [Operand(path) for path in glyph_paths(word, family, 250)]
    chord = 0.0005
    for cluster in touching(operands, STANDARD):
        path, proof = weld([operands[i] for i in cluster], STANDARD)
        second = shapely.unary_union([region(operands[i].path, False, chord) for i in cluster])
        bound = lengths(path).sum() * chord + 1e-3
        assert abs(signed_areas(path).sum() - second.area) <= bound
        assert proof.counters >= proof.counters_before
        assert region(path, True, chord).area == pytest.approx(region(path, False, chord).area, abs=1e-6)


@given(st.lists(st.tuples(st.floats(-9, 9), st.floats(-9, 9), st.floats(10, 16)), min_size=2, max_size=4), st.randoms())
def test_welding_is_the_same_in_any_order_and_twice(circles, random):
    """All circles hold the origin, so that they are one cluster; those inside another are refused, which is a
    promise.
    """
    paths = [circle(r, x, y) for x, y, r in circles]
    shuffled = random.sample(paths, len(paths))
    try:
        once = welded(*paths)
    except GeometryRefused:
        with pytest.raises(GeometryRefused):
            welded(*shuffled)
        return
    assert signed_areas(welded(*shuffled)).sum() == pytest.approx(signed_areas(once).sum(), rel=1e-6)
    assert signed_areas(welded(once)).sum() == pytest.approx(signed_areas(once).sum(), rel=1e-6)


def test_inclusion_and_exclusion_of_areas():
    a, b = circle(10), square(12, 2, 2)
    both = region(a, False, 1e-4).intersection(region(b, False, 1e-4)).area
    sum_of_parts = abs(signed_areas(a)[0]) + abs(signed_areas(b)[0])
    assert signed_areas(welded(a, b)).sum() + both == pytest.approx(sum_of_parts, abs=0.01)


def test_counters_are_never_swallowed():
    with pytest.raises(GeometryRefused, match="inside another"):
        welded(circle(10), circle(4).reversed())  # a counter taken apart: a solid inside a solid
    with pytest.raises(GeometryRefused, match="1 of 1 counters"):
        welded(ring(10, 3), square(8, -4, -4))


def test_a_counter_that_is_only_narrowed_stays():
    path, proof = weld([Operand(ring(20, 10)), Operand(square(15, 5, -7.5))], STANDARD)
    assert proof.counters == proof.counters_before == 1
    assert len(path) == 2


def test_far_from_the_origin_it_is_as_exact():
    """The engine works in 32-bit floats; 1 km away, unshifted, they would be 0.06 mm apart."""
    near = signed_areas(welded(circle(10), circle(10, 10))).sum()
    far = signed_areas(welded(moved(circle(10), 1e6, 1e6), moved(circle(10, 10), 1e6, 1e6))).sum()
    assert far == pytest.approx(near, rel=1e-6)


def test_letters_that_share_an_edge_become_one():
    path = welded(square(10), square(10, 10))
    assert signed_areas(path).sum() == pytest.approx(200)
    assert math.isclose(lengths(path).sum(), 60, rel_tol=1e-9)


@pytest.mark.parametrize("company", [[], [moved(circle(3), 100)]], ids=["by itself", "in company"])
@pytest.mark.parametrize(
    ("other", "rings"),
    [(square(10, 10, 0), 1), (square(4, 10, 3), 1), (square(10, 11, 0), 2)],
    ids=["a whole edge", "a part of an edge", "nothing"],
)
def test_rings_of_one_outline_that_have_an_edge_in_common_are_one(company, other, rings):
    both = concat([square(10), other])
    [(result, proof), *_] = weld_clusters([[Operand(path)] for path in [both, *company]], STANDARD)
    assert len(result) == rings
    assert proof.area_mm2 == pytest.approx(float(np.abs(signed_areas(both)).sum()))
