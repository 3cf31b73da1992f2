"""Where two pictures differ, beside SciPy's filters over all pixels (scipy.ndimage)."""

import numpy as np
import scipy
import shapely
from hypothesis import given
from hypothesis import strategies as st

from unkelt.proof.pixels import APART, _mask, _outside


@given(st.integers(0, 999), st.integers(1, 4), st.tuples(st.integers(14, 60), st.integers(14, 60)))
def test_a_pixel_is_apart_where_it_lies_outside_of_all_around(seed, around, shape):
    random = np.random.default_rng(seed)
    one = (random.integers(0, 4, (*shape, 3)) * 80).astype(np.uint8)
    other = np.where(random.random((*shape, 1)) < 0.2, random.integers(0, 256, (*shape, 3)), one).astype(np.uint8)
    size = (2 * around + 1, 2 * around + 1, 1)
    expected = np.zeros(shape, bool)
    for a, b in ((one, other), (other, one)):
        low, high = (f(b, size).astype(int) for f in (scipy.ndimage.minimum_filter, scipy.ndimage.maximum_filter))
        expected |= ((a - high > APART) | (low - a > APART)).any(axis=-1)
    inner = expected[around:-around, around:-around]
    rows, columns = np.nonzero(random.random(inner.shape) < 0.5)
    assert (_outside(one, other, rows, columns, around, APART) == inner[rows, columns]).all()


@given(st.integers(0, 5), st.floats(3, 15), st.floats(10, 30), st.floats(10, 30))
def test_a_mask_grows_on_all_sides(grow, radius, x, y):
    area = shapely.Point(x, y).buffer(radius)
    plain = _mask([area], (40, 50), 1.0, 0)
    square = np.ones((2 * grow + 1, 2 * grow + 1))
    assert (_mask([area], (40, 50), 1.0, grow) == scipy.ndimage.binary_dilation(plain, square)).all()
