"""What rings that cross themselves enclose, against identities that hold of any closed polyline."""

import numpy as np
import pytest
import shapely
from fontTools.misc.transform import Transform
from hypothesis import assume, given
from hypothesis import strategies as st

from unkelt.formats.svg.pathdata import parse_path_data
from unkelt.geometry import cells as module
from unkelt.geometry.cells import winding_numbers, wound_cells
from unkelt.geometry.region import region

PLACES = st.tuples(st.integers(0, 40), st.integers(0, 40))


@given(st.lists(st.lists(PLACES, min_size=3, max_size=12), min_size=1, max_size=3))
def test_faces_times_their_winding_numbers_are_the_signed_area(corners):
    """The integral of the winding number over the plane is the shoelace sum (Green's theorem)."""
    rings = [np.array([*places, places[0]], float) for places in corners]
    signed = sum(((r[1:, 0] * r[:-1, 1] - r[:-1, 0] * r[1:, 1]).sum()) / 2 for r in rings)  # positive as seen, y down
    found, winding = wound_cells(rings)
    assert float((shapely.area(found) * winding).sum()) == pytest.approx(signed, abs=1e-6)


@given(st.lists(PLACES, min_size=3, max_size=20))
def test_odd_faces_are_what_the_second_engine_makes_valid(places):
    """GEOS's own repair by linework, where no line runs along another: of such it keeps some and drops some."""
    ring = np.array([*places, places[0]], float)
    edges = shapely.linestrings(np.stack([ring[:-1], ring[1:]], axis=1))
    assume(shapely.union_all(edges).length == pytest.approx(shapely.length(edges).sum(), abs=1e-6))
    found, winding = wound_cells([ring])
    area = float(shapely.area(found[winding % 2 == 1]).sum())
    assert area == pytest.approx(shapely.make_valid(shapely.Polygon(ring)).area, abs=1e-6)


def test_many_points_are_looked_at_in_parts(monkeypatch):
    ring = np.array([[0, 0], [10, 0], [10, 10], [0, 10], [0, 0]], float)
    points = np.random.default_rng(5).uniform(-5, 15, (100, 2))
    whole = winding_numbers([ring, ring], points)
    assert set(whole.tolist()) == {-2, 0}
    monkeypatch.setattr(module, "AT_ONCE", 7)
    assert winding_numbers([ring, ring], points).tolist() == whole.tolist()
    monkeypatch.setattr(module, "BAND", 9)
    assert winding_numbers([ring, ring], points).tolist() == whole.tolist()


@given(st.lists(st.lists(PLACES, min_size=3, max_size=9), min_size=1, max_size=3), st.integers(1, 40))
def test_the_winding_number_is_that_of_the_angle_run_through(corners, band):
    """Seen from a point, a closed polyline turns by whole turns (the definition of the winding number)."""
    rings = [np.array([*places, places[0]], float) for places in corners]
    points = np.random.default_rng(7).uniform(-2, 42, (60, 2)) + 0.123  # on no edge between whole numbers
    turns = np.zeros(len(points))
    for ring in rings:
        seen = ring[None] - points[:, None]
        angle = np.arctan2(seen[..., 1], seen[..., 0])
        turns -= ((np.diff(angle, axis=1) + np.pi) % (2 * np.pi) - np.pi).sum(axis=1) / (2 * np.pi)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(module, "BAND", band)
        assert winding_numbers(rings, points).tolist() == np.round(turns).astype(int).tolist()


@given(st.integers(0, 10_000))
def test_edges_that_run_on_each_other_lose_no_face(seed):
    """A stone whose base line is drawn there, beyond and back, its points off by rounding, as converters leave it."""
    random = np.random.default_rng(seed)
    along = np.concatenate([np.linspace(50, 8, 9), np.linspace(8, 90, 23), np.linspace(90, 50, 17)])
    base = np.column_stack([along, 112 + random.choice([0.0, 1e-14, 3e-14, 1e-12], len(along))])
    bend = np.linspace(0, np.pi, 60)
    top = np.column_stack([50 + 52 * np.cos(bend), 112 - 32 * np.sin(bend)])
    ring = np.concatenate([base, top[top[:, 0] > 50][::-1] if seed % 2 else top, base[:1]])
    found, winding = wound_cells([ring])
    x, y = (ring - ring[0]).T
    signed = float((x[1:] * y[:-1] - x[:-1] * y[1:]).sum()) / 2
    assert float((shapely.area(found) * winding).sum()) == pytest.approx(signed, abs=1e-5)


def test_a_stone_of_a_cairn_is_not_lost():
    """Its last curve runs back along its base, whose noding at full precision missed an edge: the stone had no area."""
    d = "M6.28 14C5.56 14 1 13.89 1 12.91C1 11.46 2.16 11.07 3.2 10.81C4.36 10.51 13.18 9.77 13.76 10.07C14.46 10.43 13.52 12.49 12.44 12.77C11.28 13.07 10.21 14 8.48 14C7.05 14 9.69 14 6.28 14Z"
    path = parse_path_data(d).path.transformed(Transform(8, 0, 0, 8, 0, 0))
    for chord in (0.05, 0.02, 0.01, 0.005, 0.0025):
        assert region(path, False, chord).area == pytest.approx(2563.05, abs=2)
