"""Bounds, areas and lengths against closed forms.

Values marked M in the notes below were computed there from the closed form named; sources are named where one exists.
"""

import math

import numpy as np
import pytest
import shapely
from fontTools.misc.transform import Transform
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import circle, rolled, square
from unkelt.formats.svg.pathdata import parse_path_data
from unkelt.geometry.flatten import flatten, polylines
from unkelt.geometry.measure import bounds, evaluate, lengths, signed_areas, subpath_bounds
from unkelt.geometry.path import CUBIC, LINE, QUAD, Path

coordinate = st.floats(-1000, 1000, allow_nan=False).map(lambda v: round(v, 3))


@st.composite
def closed_paths(draw: st.DrawFn) -> Path:
    """One closed subpath of any mixture of segments."""
    count = draw(st.integers(1, 6))
    points = np.array(draw(st.lists(coordinate, min_size=8 * count, max_size=8 * count))).reshape(count, 4, 2)
    degrees = np.array(draw(st.lists(st.sampled_from([LINE, QUAD, CUBIC]), min_size=count, max_size=count)), np.uint8)
    points[:, 3] = np.roll(points[:, 0], -1, axis=0)
    points[degrees == QUAD, 2] = points[degrees == QUAD, 1]
    points[degrees == LINE, 1], points[degrees == LINE, 2] = points[degrees == LINE, 0], points[degrees == LINE, 3]
    return Path(points, degrees, np.zeros(1, np.intp), np.array([True]))


def area_of(d: str) -> float:
    return float(signed_areas(parse_path_data(d, 1e-7).path).sum())


def test_circle_of_four_cubics_errs_as_its_construction_does():
    """κ = 0.5522847498: area +2.800e-4, length +1.403e-4, radius 0 to +2.7253e-4 (closed form, computed)."""
    path = circle(20)
    assert abs(signed_areas(path)[0]) / (math.pi * 400) - 1 == pytest.approx(2.800e-4, abs=1e-7)
    assert lengths(path)[0] / (40 * math.pi) - 1 == pytest.approx(1.403e-4, abs=1e-7)
    radius = np.linalg.norm(evaluate(path.cubics(), np.tile(np.linspace(0, 1, 400), (4, 1))), axis=2)
    assert radius.min() / 20 - 1 == pytest.approx(0, abs=1e-9)
    assert radius.max() / 20 - 1 == pytest.approx(2.7253e-4, abs=1e-7)


@pytest.mark.parametrize(
    ("d", "area", "length"),
    [
        # Figures of the arc commands in SVG 1.1, section 8.3.8; area and length from the closed form of the sector.
        ("M300,200h-150a150,150 0 1,0 150,-150z", 53014.376, 1006.858),
        ("M275,175v-150a150,150 0 0,0 -150,150z", 17671.459, 535.619),
        ("M0 0C0 10 10 10 10 0Z", 60, None),  # 3/5 of the control polygon's area
        ("M0 0Q1 2 2 0Z", 4 / 3, None),  # a parabola: 2/3 of base times height
        ("M10 0H90a10 10 0 0 1 10 10V40a10 10 0 0 1 -10 10H10a10 10 0 0 1 -10 -10V10a10 10 0 0 1 10 -10Z", 4914.159265, 282.831853),
        ("M-3 0A3 2 0 0 1 3 0A3 2 0 0 1 -3 0Z", 18.8495559, 15.8654396),  # ellipse 3 by 2
    ],
)  # fmt: skip
def test_areas_and_lengths_of_known_figures(d, area, length):
    path = parse_path_data(d, 1e-7).path
    assert abs(signed_areas(path).sum()) == pytest.approx(area, abs=2e-3 if area > 1000 else 1e-6)
    if length:
        assert lengths(path).sum() == pytest.approx(length, abs=2e-3 if length > 200 else 1e-5)


def test_green_along_one_cubic():
    """½∮(x dy - y dx) along (1,2)(4,7)(9,-3)(11,5) and its chord is 7.8 (closed form); ours counts the other way."""
    assert area_of("M1 2C4 7 9 -3 11 5Z") == pytest.approx(-7.8)


def test_length_of_a_parabola_to_nine_digits():
    """y = x² from 0 to 1: √5/2 + asinh(2)/4."""
    length = lengths(parse_path_data("M0 0Q.5 0 1 1").path)[0]
    assert length == pytest.approx(math.sqrt(5) / 2 + math.asinh(2) / 4, rel=1e-11)


def test_length_with_a_cusp_converges():
    """x = t³, y = t² reaches (1, 1) after (13√13 - 8)/27 (semicubical parabola)."""
    assert lengths(parse_path_data("M0 0C0 0 0 .33333333333333333 1 1").path)[0] == pytest.approx(
        (13 * math.sqrt(13) - 8) / 27, rel=1e-9
    )


def test_extrema_come_from_the_curve_not_from_its_handles():
    """M0 0C0 10 10 10 10 0 reaches 7.5."""
    assert bounds(parse_path_data("M0 0C0 10 10 10 10 0").path) == pytest.approx((0, 0, 10, 7.5), abs=1e-12)


def test_counter_clockwise_as_seen_is_positive():
    assert signed_areas(square())[0] == -100  # right, down, left, up: clockwise with y down
    assert signed_areas(square().reversed())[0] == 100


@given(closed_paths(), st.integers(0, 5))
def test_measures_do_not_depend_on_start_or_direction(path, by):
    other = rolled(path, by % len(path.points)).reversed()
    scale = 1 + np.abs(path.points).max() ** 2
    assert signed_areas(other)[0] == pytest.approx(-signed_areas(path)[0], abs=1e-10 * scale)
    assert lengths(other)[0] == pytest.approx(lengths(path)[0], rel=1e-9, abs=1e-9)
    assert bounds(other) == pytest.approx(bounds(path), abs=1e-9)


@given(closed_paths(), st.floats(1e-3, 1e3), st.floats(0, 6.3))
def test_measures_follow_scale_and_rotation(path, scale, angle):
    turned = path.transformed(Transform().rotate(angle).scale(scale))
    size = 1 + np.abs(path.points).max()
    assert signed_areas(turned)[0] == pytest.approx(scale**2 * signed_areas(path)[0], abs=1e-9 * (scale * size) ** 2)
    assert lengths(turned)[0] == pytest.approx(scale * lengths(path)[0], rel=1e-8, abs=1e-9 * scale)


@given(closed_paths(), st.floats(1e-3, 1))
def test_flattening_keeps_its_chord_error_and_the_nodes(path, chord):
    vertices, owner = flatten(path, chord)
    assert set(map(tuple, path.points[:, 0])) <= set(map(tuple, vertices))
    assert (owner == 0).all()
    dense = evaluate(path.cubics(), np.tile(np.linspace(0, 1, 200), (len(path.points), 1))).reshape(-1, 2)
    line = shapely.linestrings(polylines(path, chord)[0])
    assert shapely.distance(line, shapely.points(dense)).max() <= chord * (1 + 1e-6) + 1e-9


def test_bounds_of_many_subpaths_at_once():
    path = parse_path_data("M0 0H10V10ZM20 20C20 30 30 30 30 20Z").path
    assert subpath_bounds(path) == pytest.approx(np.array([[0, 0, 10, 10], [20, 20, 30, 27.5]]))
