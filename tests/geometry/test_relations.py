"""Centre of mass, winding, nearest point, meetings: against closed forms and GEOS."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import circle, glyph_paths, moved, square
from unkelt.geometry.path import EMPTY, concat, polygon
from unkelt.geometry.region import region
from unkelt.geometry.relations import centroid, contains, meetings, nearest, winding


def test_centres_of_mass_in_closed_form():
    """A half disc: 4r/(3π) from its diameter; a triangle: the mean of its corners; an L by parts (any handbook of
    statics).
    """
    assert centroid(polygon((0, 0), (6, 0), (0, 3))) == pytest.approx((2, 1))
    ell = polygon((0, 0), (4, 0), (4, 1), (1, 1), (1, 5), (0, 5))
    assert centroid(ell) == pytest.approx(((4 * 2 + 4 * 0.5) / 8, (4 * 0.5 + 4 * 3) / 8))
    disc = circle(5, 10, 20)
    assert centroid(disc) == pytest.approx((10, 20), abs=1e-9)
    ring = concat([square(30), square(10, 5, 5).reversed()])
    assert centroid(ring) == pytest.approx(((900 * 15 - 100 * 10) / 800,) * 2)
    assert centroid(EMPTY) is None


@pytest.mark.parametrize("text", ["e", "B", "&"])
def test_letters_against_geos(text):
    (path,) = glyph_paths(text, "Pacifico")[:1]
    area = region(path, False, 0.001)
    assert centroid(path) == pytest.approx((area.centroid.x, area.centroid.y), abs=1e-3)
    rng = np.random.default_rng(3)
    x0, y0, x1, y1 = area.bounds
    points = rng.uniform((x0, y0), (x1, y1), (300, 2))
    assert (winding(path, points) != 0).tolist() == shapely.contains_xy(area, *points.T).tolist()
    line = shapely.boundary(area)
    for x, y in points[:40]:
        found = nearest(path, float(x), float(y))
        assert found.distance_mm == pytest.approx(line.distance(shapely.Point(x, y)), abs=2e-3)
        assert math.hypot(found.x - x, found.y - y) == pytest.approx(found.distance_mm, abs=1e-12)


def test_winding_counts_turns_and_rules_differ():
    twice = concat([square(10), square(10)])
    assert winding(twice, np.array([[5.0, 5.0], [20.0, 5.0]])).tolist() in ([2, 0], [-2, 0])
    assert contains(twice, 5, 5)
    assert not contains(twice, 5, 5, even_odd=True)


@given(st.floats(0.3, 1.9), st.floats(0, 6.2))
def test_two_circles_meet_where_the_lens_has_its_points(distance, turn):
    """Circles of radius 1 at a distance d meet at d/2 along and √(1 - d²/4) across. Cubics of a circle stray by less
    than 2.8e-4 of the radius, so arcs of sixty-four are taken, which stray by 1e-14.
    """
    a, b = circle(1, arcs=64), moved(circle(1, arcs=64), distance * math.cos(turn), distance * math.sin(turn))
    found = meetings(a, b)
    way, across = complex(math.cos(turn), math.sin(turn)), math.sqrt(1 - distance**2 / 4)
    wanted = sorted([way * complex(distance / 2, s * across) for s in (-1, 1)], key=lambda z: (z.real, z.imag))
    got = sorted([complex(m.x, m.y) for m in found], key=lambda z: (z.real, z.imag))
    assert len(got) == 2
    assert (
        min(abs(got[0] - wanted[0]) + abs(got[1] - wanted[1]), abs(got[0] - wanted[1]) + abs(got[1] - wanted[0])) < 1e-8
    )


def test_lines_that_cross_touch_and_end_on_each_other():
    (crossing,) = meetings(polygon((0, 0), (10, 10), closed=False), polygon((0, 10), (10, 0), closed=False))
    assert (crossing.x, crossing.y) == pytest.approx((5, 5), abs=1e-9)
    assert len(meetings(square(10), moved(square(10), 5, 5))) == 2
    touching = meetings(circle(5, arcs=64), polygon((-9, 5), (9, 5), closed=False))
    assert len(touching) == 1
    assert (touching[0].x, touching[0].y) == pytest.approx((0, 5), abs=1e-4)  # a gap of 1e-9 leaves that open
    tee = meetings(polygon((0, 0), (10, 0), closed=False), polygon((4, 0), (4, 7), closed=False))
    assert (tee[0].x, tee[0].y) == pytest.approx((4, 0), abs=1e-9)
    assert len(tee) == 1
    assert meetings(square(3), moved(square(3), 9, 9)) == []


def test_letters_meet_as_often_as_geos_says():
    one, other = glyph_paths("ab", "Pacifico")[:2]
    shapes = [shapely.boundary(region(path, False, 0.0005)) for path in (one, other)]
    crossings = shapely.get_parts(shapes[0].intersection(shapes[1]))
    found = meetings(one, other)
    assert len(found) == len(crossings)
    for meeting in found:
        assert min(shapely.Point(meeting.x, meeting.y).distance(c) for c in crossings) < 0.02
