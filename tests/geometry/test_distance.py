"""Distances between lines, and repeated subpaths, against closed forms and known traps."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import circle, moved, rolled, square
from unkelt.geometry.arcs import QUARTER_ERROR, arc_to_cubics, pieces_for
from unkelt.geometry.distance import at_most, departure, distances, line_distance, repeated_subpaths
from unkelt.geometry.flatten import lines
from unkelt.geometry.measure import evaluate
from unkelt.geometry.path import concat, polygon


def test_vertices_alone_would_miss_the_middle_of_long_edges():
    """The JTS trap: (130,0)(0,0)(0,150) against (10,10)(10,150)(130,10): 14.1421 by vertices, 74.56 in truth
    (computed).
    """
    a, b = (shapely.LineString(points) for points in ([(130, 0), (0, 0), (0, 150)], [(10, 10), (10, 150), (130, 10)]))
    assert shapely.hausdorff_distance(a, b) == pytest.approx(14.1421, abs=1e-3)
    # Measured at vertices at most 1 mm apart, so that the truth may be missed by half of that.
    assert line_distance(a, b) == pytest.approx(74.56, abs=0.5)


@given(st.floats(1, 50), st.floats(0.001, 5))
def test_concentric_circles_are_their_difference_apart(radius, gap):
    chord = gap / 100
    a, b = lines(circle(radius, arcs=16), chord), lines(circle(radius + gap, arcs=16), chord)
    assert line_distance(a, b) == pytest.approx(gap, abs=2.1 * chord + 1e-5 * radius)


def test_distance_is_two_sided_and_departure_one_sided():
    long, short = polygon((0, 0), (100, 0), closed=False), polygon((0, 1), (10, 1), closed=False)
    a, b = lines(long, 0.01), lines(short, 0.01)
    assert line_distance(a, b) == line_distance(b, a) == pytest.approx(math.hypot(90, 1), rel=1e-6)
    assert departure(b, a) == pytest.approx(1)
    assert departure(a, b) == pytest.approx(math.hypot(90, 1), rel=1e-6)


@given(st.integers(0, 2**32 - 1), st.integers(1, 40), st.integers(1, 30))
def test_the_quick_bound_never_says_less_than_geos_and_the_exact_one_says_the_same(seed, points, edges):
    random = np.random.default_rng(seed)
    starts, ends, asked = (random.uniform(-9, 9, (count, 2)) for count in (edges, edges, points))
    whole = shapely.multilinestrings(shapely.linestrings(np.stack([starts, ends], axis=1)))
    truth = shapely.distance(shapely.points(asked), whole)
    assert (at_most(asked, starts, ends) >= truth - 1e-9).all()
    assert distances(asked, starts, ends) == pytest.approx(truth, abs=1e-9)
    if points > 1:
        assert departure(shapely.linestrings(asked), whole) >= truth.max() - 1e-9


def test_nothing_is_infinitely_far_from_something():
    empty = shapely.MultiLineString()
    assert line_distance(empty, empty) == 0
    assert line_distance(empty, lines(square(), 0.1)) == math.inf


@given(st.integers(0, 3), st.booleans(), st.floats(-0.004, 0.004), st.floats(-0.004, 0.004))
def test_a_copy_is_a_copy_whatever_its_start_direction_and_shift(by, backwards, dx, dy):
    again = moved(rolled(square(20), by), dx, dy)
    path = concat([square(20), again.reversed() if backwards else again])
    found = repeated_subpaths(path, 0.01)
    assert [(first, second) for first, second, _ in found] == [(0, 1)]
    assert found[0][2] <= math.hypot(dx, dy) + 1e-5


def test_each_copy_is_named_once_with_the_earliest():
    path = concat([circle(5), circle(9), circle(5), circle(5), circle(9)])
    assert [(first, second) for first, second, _ in repeated_subpaths(path, 0.01)] == [(0, 2), (0, 3), (1, 4)]


@given(st.floats(0.1, 1000), st.floats(1e-4, 0.1))
def test_arcs_keep_their_error_at_any_radius(radius, error):
    """Radial error of an arc of cubics: 2.7253e-4 r for a quarter, falling with the sixth power of the angle."""
    cubics = arc_to_cubics(radius, 0, radius, radius, 0, True, True, 0, -radius, error)
    points = np.array([[radius, 0], *[c[4:] for c in cubics]], float)
    curves = np.array([[points[i], c[0:2], c[2:4], c[4:6]] for i, c in enumerate(cubics)])
    dense = evaluate(curves, np.tile(np.linspace(0, 1, 50), (len(curves), 1))).reshape(-1, 2)
    assert np.abs(np.linalg.norm(dense, axis=1) - radius).max() <= error + 1e-9 * radius
    assert len(cubics) == pieces_for(1.5 * math.pi, radius, error)


def test_a_quarter_of_four_is_one_piece_while_its_error_allows():
    assert pieces_for(math.pi / 2, 1, QUARTER_ERROR * 1.001) == 1
    assert pieces_for(math.pi / 2, 1, QUARTER_ERROR * 0.9) == 2
