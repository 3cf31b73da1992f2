"""Which outlines overlap or touch, found from few of their segments, against GEOS on all that they fill."""

import itertools

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import circle, glyph_paths, moved
from unkelt.formats.svg.pathdata import parse_path_data
from unkelt.geometry.boolean.engine import Operand
from unkelt.geometry.boolean.touching import touching
from unkelt.geometry.path import EMPTY, concat, polygon
from unkelt.geometry.region import connected, region
from unkelt.tolerance import STANDARD

SQUARE = polygon((0, 0), (10, 0), (10, 10), (0, 10))
FRAME = concat([circle(20), circle(15)])


def drawn(data: str) -> Operand:
    return Operand(parse_path_data(data).path)


def by_geos(operands):
    areas = [region(each.path, each.even_odd, STANDARD.chord_mm / 10) for each in operands]
    meet = [(i, j) for i, j in itertools.combinations(range(len(areas)), 2) if shapely.intersects(areas[i], areas[j])]
    return connected(len(areas), meet)


letters = st.builds(
    lambda face, word, closer, even_odd: [
        Operand(moved(path, -closer * place), even_odd) for place, path in enumerate(glyph_paths(word, face, 40))
    ],
    st.sampled_from(["Pacifico", "Sacramento", "Alfa Slab One"]),
    st.sampled_from(["Bq", "aS8", "gsi", "Qi"]),
    st.floats(-5, 30),
    st.booleans(),
)


@given(letters)
def test_letters_by_few_of_their_segments(operands):
    assert touching(operands, STANDARD) == by_geos(operands)


@pytest.mark.parametrize(
    ("others", "together"),
    [
        ([Operand(moved(circle(3), 2, 2))], True),  # in the middle of it
        ([Operand(moved(circle(3), 40, 2))], False),
        ([Operand(moved(SQUARE, 10, 0))], True),  # an edge in common
        ([Operand(moved(SQUARE, 10, 10))], True),  # a corner in common
        ([Operand(moved(SQUARE, 10.001, 0))], False),
        ([Operand(concat([moved(circle(1), 50, 50), moved(circle(1), 5, 5)]))], True),  # one ring of two
        ([drawn("M-5 5 L5 5")], False),  # a line fills nothing
        ([drawn("M-5 5 L5 5 L-5 5 Z")], False),
        ([drawn("M-5 4 L5 6 L5 4 L-5 6 Z")], True),  # whose two halves cancel each other's area
        ([drawn("M-5 -5 L5 15 L-5 15")], True),  # open, closed by filling
        ([Operand(EMPTY)], False),
    ],
)
def test_with_a_square(others, together):
    operands = [Operand(SQUARE), *others]
    assert touching(operands, STANDARD) == ([[0, 1]] if together else [[0], [1]]) == by_geos(operands)


def test_what_lies_in_a_counter_touches_nothing():
    operands = [Operand(FRAME, even_odd=True), Operand(circle(10)), Operand(circle(15))]
    assert touching(operands, STANDARD) == [
        [0, 1, 2]
    ]  # the third shares the counter's line, the second lies in the third
    assert touching(operands[:2], STANDARD) == [[0], [1]]
    assert touching([Operand(FRAME), Operand(circle(10))], STANDARD) == by_geos([Operand(FRAME), Operand(circle(10))])


def test_nothing_touches_nothing():
    assert touching([], STANDARD) == []


def test_groups_stand_in_the_order_of_their_first_member():
    assert connected(6, [(5, 1), (3, 4), (1, 2)]) == [[0], [1, 2, 5], [3, 4]]
    assert connected(2, np.zeros((0, 2), np.intp)) == [[0], [1]]
