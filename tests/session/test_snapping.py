"""Guide lines, and what catches a dragged place."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import circle, outline, sheet, square
from unkelt.errors import UnkeltError
from unkelt.job.ticket import Ticket
from unkelt.job.workshop import standard_workshop
from unkelt.session.picking import items_within
from unkelt.session.snapping import GuideLine, caught, parse_guide

ON = sheet(outline("a", square(20, 10, 20)), outline("o", circle(5, 60, 60)))


@pytest.mark.parametrize(
    ("words", "axis", "mm"),
    [("x 40", "x", 40), ("Y: 12.5 mm", "y", 12.5), (" x = 1.5in", "x", 38.1), ("y -3", "y", -3)],
)
def test_guide_lines_are_written_as_people_write_lengths(words, axis, mm):
    assert parse_guide(words) == GuideLine(axis, pytest.approx(mm))


@pytest.mark.parametrize("words", ["", "40", "z 40", "x", "x forty", "x 1e999"])
def test_other_words_are_refused_in_a_sentence(words):
    with pytest.raises((ValueError, UnkeltError)):
        parse_guide(words)


@given(st.floats(-20, 120), st.floats(-20, 120), st.floats(0.01, 5), st.floats(0, 3))
def test_nothing_is_moved_further_than_its_reach(x, y, reach, grid):
    guides = [GuideLine("x", 33.3), GuideLine("y", 7.7)]
    to = caught(x, y, reach, ON, ON.page_mm, guides, grid)
    assert max(abs(to[0] - x), abs(to[1] - y)) <= reach + 1e-9
    assert caught(*to, reach, ON, ON.page_mm, guides, grid) == pytest.approx(to, abs=reach)


def test_nodes_come_before_guide_lines_and_those_before_the_page_and_the_grid():
    guides = [GuideLine("x", 10.3), GuideLine("x", 0.4)]
    assert caught(10.2, 20.1, 0.5, ON, ON.page_mm, guides) == (10, 20)
    assert caught(10.2, 20.1, 0.5, None, ON.page_mm, guides) == (10.3, 20.1)
    assert caught(0.3, 0.3, 0.5, None, ON.page_mm, guides, 0.25) == (0.4, 0)
    assert caught(3.3, 3.3, 0.1, None, ON.page_mm, guides, 0.25) == (3.25, 3.25)


def test_a_lasso_takes_what_lies_wholly_in_it():
    where = standard_workshop(Ticket())
    assert items_within(ON, where, [(0, 0), (50, 0), (50, 50), (0, 50)]) == ["a"]
    assert items_within(ON, where, [(0, 0), (99, 0), (99, 99), (0, 99)]) == ["a", "o"]
    # A triangle whose box holds the circle, but whose side cuts it.
    assert items_within(ON, where, [(40, 40), (72, 40), (40, 72)]) == []
    assert items_within(ON, where, [(0, 0), (9, 9)]) == []
