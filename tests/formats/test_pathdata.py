"""Path data against the grammar of SVG, its worked examples, and a general-purpose reader."""

import numpy as np
import pytest
import svgelements
from hypothesis import given
from hypothesis import strategies as st

from unkelt.formats.limits import FARTHEST
from unkelt.formats.svg import pathdata
from unkelt.formats.svg.pathdata import format_path_data, parse_path_data
from unkelt.geometry.measure import bounds
from unkelt.geometry.path import Path


def nodes(d: str) -> list[list[float]]:
    path = parse_path_data(d).path
    return [path.points[0, 0].tolist(), *path.points[:, 3].tolist()]


@pytest.mark.parametrize(
    ("d", "same"),
    [
        ("M.5.5-3-4L1e1-2", "M 0.5,0.5 L -3,-4 L 10,-2"),  # the grammar of SVG 1.1, section 8.3.9
        ("M0 0a25,25 0 1125,25", "M0 0a25,25 0 1,1 25,25"),  # W3C paths-data-20
        ("M0 0H40 60", "M0 0H40 H60"),  # W3C paths-data-19
        ("M0 0h10v10z", "M0 0h10v10Z"),  # W3C paths-data-17
        ("m10 10 5 5", "M10 10L15 15"),  # an initial m is absolute, further pairs are lines
        ("M1 1h9v9zl3 3", "M1 1L10 1L10 10ZM1 1L4 4"),  # after z the current point is the subpath's start
        ("M0 0S10 10 20 0", "M0 0C0 0 10 10 20 0"),  # no cubic before: the handle is the current point
        ("M0 0C0 5 5 10 10 10S20 5 20 0", "M0 0C0 5 5 10 10 10C15 10 20 5 20 0"),
        ("M0 0Q5 10 10 0T20 0", "M0 0Q5 10 10 0Q15 -10 20 0"),
        ("M0 0A0 5 0 0 0 10 0", "M0 0L10 0"),  # a radius of zero is a line
        ("M0 0A5 5 0 0 0 0 0L5 5", "M0 0L5 5"),  # equal ends: no arc
        ("M0 0A-5 -5 0 0 1 10 0", "M0 0A5 5 0 0 1 10 0"),  # the sign of a radius is ignored
    ],
)  # fmt: skip
def test_two_ways_to_write_the_same(d, same):
    assert parse_path_data(d).problem is None
    assert parse_path_data(d).path == parse_path_data(same).path


@pytest.mark.parametrize(
    ("d", "kept", "words"),
    [
        ("M0 0L10 10L20 X", [[0, 0], [10, 10]], "too few numbers"),  # SVG 1.1, appendix F.2: up to the last valid segment
        ("M0 0L10 10 20,", [[0, 0], [10, 10]], "too few numbers"),
        ("M0 0L10 10,", [[0, 0], [10, 10]], "too few numbers"),
        ("M0 0,,L10 10", [[0, 0], [0, 0]], "too few"),
        ("M0 0L10 10 # note", [[0, 0], [10, 10]], "“#” at character"),
        ("M0 0L1_0 10", [[0, 0], [0, 0]], "too few"),
        ("M0 0L5 5Lnan 1", [[0, 0], [5, 5]], "“L” has too few"),
        ("M0 0A5 5 0 2 1 10 0", [[0, 0], [0, 0]], "too few"),
        ("M0 0L5 5M9 9L1e999 0", [[0, 0], [5, 5]], "beyond"),
    ],
)  # fmt: skip
def test_faulty_data_keeps_what_came_before_and_says_where(d, kept, words):
    data = parse_path_data(d)
    assert words in (data.problem or "")
    assert [data.path.points[0, 0].tolist(), *data.path.points[:, 3].tolist()] == kept


def test_data_that_does_not_begin_with_a_move_draws_nothing():
    assert len(parse_path_data("L10 10").path) == 0
    assert "not with a move" in (parse_path_data("L10 10").problem or "")


def test_radii_too_small_are_scaled_up():
    """A1 1 from (0,0) to (10,0) becomes a half circle of r = 5 (SVG 1.1, F.6.6)."""
    assert bounds(parse_path_data("M0 0A1 1 0 0 1 10 0").path) == pytest.approx((0, -5, 10, 0), abs=2e-3)


def test_a_lone_point_is_not_lost():
    path = parse_path_data("M5 5M0 0L1 1").path
    assert len(path) == 2
    assert nodes("M5 5M0 0L1 1")[:2] == [[5, 5], [5, 5]]


number = st.floats(-1e4, 1e4, allow_nan=False).map(lambda v: f"{v:.4f}")


@st.composite
def path_data(draw: st.DrawFn) -> str:
    """Valid data with every command, absolute and relative."""
    parts = [f"M{draw(number)} {draw(number)}"]
    for letter in draw(st.lists(st.sampled_from("LlHhVvCcSsQqTtAaZzMm"), max_size=12)):
        count = pathdata.ARGUMENTS[letter.upper()]
        values = [draw(number) for _ in range(count)]
        if count == 7:
            values[3:5] = [draw(st.sampled_from("01")), draw(st.sampled_from("01"))]
            values[0], values[1] = values[0].lstrip("-"), values[1].lstrip("-")
        parts.append(letter + draw(st.sampled_from([" ", ","])).join(values))
    return "".join(parts)


@given(path_data())
def test_both_tokenisers_agree(d):
    strict = pathdata._StrictSteps(d)
    assert pathdata._interpret(pathdata._plain_steps(d), 1e-3) == pathdata._interpret(iter(strict), 1e-3)
    assert strict.problem is None


@given(path_data())
def test_a_general_purpose_reader_agrees_on_the_box(d):
    ours = bounds(parse_path_data(d, 1e-6).path)
    theirs = svgelements.Path(d)
    last = parse_path_data(d).path.points[-1, 3]
    end = theirs.current_point
    scale = 1 + np.abs(np.array(ours)).max()
    assert np.hypot(last[0] - end.x, last[1] - end.y) <= 1e-6 * scale


@given(st.text("MmLlHhVvCcSsQqTtAaZz0123456789.,-+eE \n#x", max_size=60))
def test_any_text_gives_a_path_and_no_exception(text):
    path = parse_path_data(text).path
    assert np.isfinite(path.points).all()
    assert not len(path.points) or np.abs(path.points).max() <= FARTHEST


@given(path_data())
def test_written_and_read_again_it_is_the_same(d):
    path = parse_path_data(d).path
    again = parse_path_data(format_path_data(path)).path
    assert format_path_data(again) == format_path_data(path)
    assert isinstance(again, Path)
    assert len(again) == len(path)
    assert np.abs(again.points - path.points).max(initial=0) <= 1e-5  # some say nothing at all
