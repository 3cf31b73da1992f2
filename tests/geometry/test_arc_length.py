"""Places along a path by length, against closed forms."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import circle, square
from unkelt.formats.svg.pathdata import parse_path_data
from unkelt.geometry.arc_length import Along


@given(st.floats(0, 1))
def test_along_a_circle_the_angle_grows_with_the_length(share):
    along = Along.of(circle(50, arcs=32))
    x, y, tangent = along.at(share * along.length)
    assert math.hypot(x, y) == pytest.approx(50, abs=1e-3)
    angle = 2 * math.pi * share
    assert (x, y) == pytest.approx((50 * math.cos(angle), 50 * math.sin(angle)), abs=2e-3)
    assert math.cos(tangent - angle - math.pi / 2) == pytest.approx(1, abs=1e-6)


def test_along_lines_places_are_exact_and_there_is_an_end():
    along = Along.of(square(10))
    assert along.length == pytest.approx(40)
    assert along.at(25) == pytest.approx((5, 10, math.pi))
    assert along.at(-0.1) is None
    assert along.at(40.1) is None


def test_length_of_a_parabola():
    """y = x² from 0 to 1: √5/2 + asinh(2)/4."""
    along = Along.of(parse_path_data("M0 0Q.5 0 1 1").path)
    assert along.length == pytest.approx(math.sqrt(5) / 2 + math.asinh(2) / 4, rel=1e-5)
