"""What rings that cross themselves enclose, against identities that hold of any closed polyline."""

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from unkelt.geometry import faces as module
from unkelt.geometry.faces import winding_numbers, wound_faces

PLACES = st.tuples(st.integers(0, 40), st.integers(0, 40))


@given(st.lists(st.lists(PLACES, min_size=3, max_size=12), min_size=1, max_size=3))
def test_faces_times_their_winding_numbers_are_the_signed_area(corners):
    """The integral of the winding number over the plane is the shoelace sum (Green's theorem)."""
    rings = [np.array([*places, places[0]], float) for places in corners]
    signed = sum(((r[1:, 0] * r[:-1, 1] - r[:-1, 0] * r[1:, 1]).sum()) / 2 for r in rings)  # positive as seen, y down
    found, winding = wound_faces(rings)
    assert float((shapely.area(found) * winding).sum()) == pytest.approx(signed, abs=1e-6)


@given(st.lists(PLACES, min_size=3, max_size=20))
def test_odd_faces_are_what_the_second_engine_makes_valid(places):
    """GEOS's own repair by linework keeps what an even number of lines doesn't hide."""
    ring = np.array([*places, places[0]], float)
    found, winding = wound_faces([ring])
    area = float(shapely.area(found[winding % 2 == 1]).sum())
    assert area == pytest.approx(shapely.make_valid(shapely.Polygon(ring)).area, abs=1e-6)


def test_many_points_are_looked_at_in_parts(monkeypatch):
    ring = np.array([[0, 0], [10, 0], [10, 10], [0, 10], [0, 0]], float)
    points = np.random.default_rng(5).uniform(-5, 15, (100, 2))
    whole = winding_numbers([ring, ring], points)
    assert set(whole.tolist()) == {-2, 0}
    monkeypatch.setattr(module, "AT_ONCE", 7)
    assert winding_numbers([ring, ring], points).tolist() == whole.tolist()
