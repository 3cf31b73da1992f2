"""Paths put together from parts, and segments as cubics."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import circle, moved, outline, sheet, square, workshop
from unkelt.errors import NothingToDo
from unkelt.formats.svg.pathdata import parse_path_data
from unkelt.geometry.alike import shape_keys
from unkelt.geometry.path import Path, concat, raised
from unkelt.recipe import Call, apply


def test_segments_of_any_degree_are_raised_to_the_same_curve():
    quad = parse_path_data("M0 0Q3 9 12 0").path
    [cubic] = raised(quad.points, quad.degrees)
    t = np.linspace(0, 1, 9)[:, None]
    p0, p1, p2 = quad.points[0, [0, 1, 3]]
    as_quad = (1 - t) ** 2 * p0 + 2 * t * (1 - t) * p1 + t**2 * p2
    c0, c1, c2, c3 = cubic
    assert np.allclose(
        (1 - t) ** 3 * c0 + 3 * t * (1 - t) ** 2 * c1 + 3 * t**2 * (1 - t) * c2 + t**3 * c3, as_quad, atol=1e-12
    )


@given(st.lists(st.integers(0, 3), min_size=1, max_size=6))
def test_parts_put_together_again_are_the_whole(counts):
    whole = concat([moved(circle(1), 5 * k) for k in range(max(sum(counts), 1))])
    parts = whole.select(range(sum(counts))).split(counts)
    again = concat(parts)
    assert again == concat([Path(each.points, each.degrees, each.starts, each.closed) for each in parts])
    if len(parts) > 1:
        turned = concat(parts[::-1])
        assert turned == concat([Path(each.points, each.degrees, each.starts, each.closed) for each in parts[::-1]])


def test_equal_paths_have_one_hash_and_stay_what_they_are():
    """Of two copies each is known for what it is; no answer about one stands for the other's place."""
    a, b = circle(10), circle(10)
    assert a == b
    assert hash(a) == hash(b)
    assert len({a, b, circle(11)}) == 2
    assert shape_keys([a, b, moved(a, 5)], 5)[0] == shape_keys([b], 5)[0]
    on = sheet(outline("a", square(20)), outline("b", square(20, 30)), outline("c", square(20)))
    with pytest.raises(NothingToDo):
        apply(Call("reduce-nodes"), on, workshop())
