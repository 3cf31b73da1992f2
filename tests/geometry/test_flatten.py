"""Polylines of curves: within their chord error, and the same whichever way a curve is run."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from unkelt.geometry.flatten import flatten, piece_counts
from unkelt.geometry.path import CUBIC, LINE, QUAD, Path

COORDINATES = st.integers(-40_000, 40_000).map(lambda units: 1146 + units * 20 / 1000)  # em units at a size in mm


@st.composite
def curves(draw):
    """A closed path of curves with round coordinates, as glyphs placed on a sheet have them."""
    count = draw(st.integers(1, 12))
    points = np.array([[draw(COORDINATES), draw(COORDINATES)] for _ in range(3 * count)]).reshape(count, 3, 2)
    points = np.concatenate([np.roll(points[:, 2:], 1, axis=0), points], axis=1)
    degrees = np.array([draw(st.sampled_from([LINE, QUAD, CUBIC])) for _ in range(count)], np.uint8)
    line, quad = degrees == LINE, degrees == QUAD
    points[line, 1], points[line, 2] = points[line, 0], points[line, 3]
    points[quad, 2] = points[quad, 1]
    return Path(points, degrees, np.zeros(1, np.intp), np.ones(1, bool))


@given(curves(), st.sampled_from([0.0005, 0.001, 0.005, 0.01, 0.04, 0.1]))
def test_a_curve_run_backwards_is_drawn_by_the_same_places(path, chord):
    assert piece_counts(path.reversed(), chord).tolist() == piece_counts(path, chord)[::-1].tolist()
    there, back = flatten(path, chord)[0], flatten(path.reversed(), chord)[0]
    assert np.abs(there - back[::-1]).max() < 1e-9


@given(curves(), st.integers(2, 30))
def test_a_whole_number_of_steps_stays_that_by_rounding(path, steps):
    """Where the second differences of a cubic are such that so many steps are just enough (Wang's formula)."""
    bend = np.array([3.0, 4.0]) * steps**2 / 7.5  # hypot(3, 4) · 6/8 = 3.75
    at = path.points[0, 0]
    points = np.array([[at, at + 100, at + 200 + bend, at + 300 + 3 * bend]])
    points[0, 3] = 2 * points[0, 2] - points[0, 1] + bend
    cubic = Path(points, np.array([CUBIC], np.uint8), np.zeros(1, np.intp), np.zeros(1, bool))
    assert piece_counts(cubic, 0.5).tolist() == [steps] == piece_counts(cubic.reversed(), 0.5).tolist()
