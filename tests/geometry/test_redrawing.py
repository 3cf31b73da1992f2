"""The fallback of booleans, by itself: drawn along the sources, judged by winding, the same as the first engine's
answer.
"""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import circle, glyph_paths, moved, ring, square
from unkelt.errors import GeometryRefused
from unkelt.geometry.boolean import weld as welding
from unkelt.geometry.boolean.engine import Operand
from unkelt.geometry.boolean.redrawing import fills, redrawn_along
from unkelt.geometry.boolean.touching import touching
from unkelt.geometry.boolean.weld import weld
from unkelt.geometry.measure import signed_areas
from unkelt.geometry.path import CUBIC, LINE, QUAD, Path, PathBuilder
from unkelt.geometry.region import region
from unkelt.tolerance import STANDARD

CHORD = 0.002


def redrawn(*paths: Path) -> Path:
    operands = [Operand(path) for path in paths]
    union = shapely.unary_union([region(path, False, CHORD) for path in paths])
    return redrawn_along(union, operands, fills(operands), CHORD)


def test_two_circles_one_radius_apart_meet_where_they_do():
    """Union of two circles r = 10, d = 10: 505.481561, meeting at (5, ±√75) (closed forms), of sixteen cubics each."""
    path = redrawn(circle(10, arcs=16), circle(10, 10, arcs=16))
    assert abs(signed_areas(path).sum()) == pytest.approx(505.481561, abs=1e-3)
    for y in (math.sqrt(75), -math.sqrt(75)):
        assert np.linalg.norm(path.points[:, 0] - (5, y), axis=1).min() < 1e-6
    assert len(path.points) == 2 * 12  # of each circle, ten arcs whole and one cut at either end


def test_what_is_not_cut_stays_to_the_last_bit():
    quads = PathBuilder()
    quads.move_to(60, 0)
    quads.quad_to(70, 1 / 3, 70, 10)
    quads.line_to(60, 10)
    quads.close()
    a, b, c = moved(circle(10), 123.456789, 1 / 3), moved(square(10), 127.1, 0.7), quads.path()
    result = redrawn(a, b, c)
    sources = np.concatenate([a.points, b.points, c.points])
    kept = {each.tobytes() for each in sources} | {each[::-1].tobytes() for each in sources}
    assert sum(np.ascontiguousarray(each).tobytes() in kept for each in result.points) >= 4 + 3
    assert {LINE, QUAD, CUBIC} == set(result.degrees.tolist())


@pytest.mark.parametrize("word", ["Kittiwake", "Bobolink"])
def test_a_script_word_comes_out_as_the_first_engine_has_it(word):
    operands = [Operand(path) for path in glyph_paths(word, "Pacifico", 250)]
    for cluster in touching(operands, STANDARD):
        ours, proof = weld([operands[i] for i in cluster], STANDARD)
        again = redrawn(*(operands[i].path for i in cluster))
        assert abs(signed_areas(again).sum()) == pytest.approx(proof.area_mm2, abs=1e-2)
        assert len(again) == len(ours)
        assert abs(len(again.points) - len(ours.points)) <= 4


@given(st.lists(st.tuples(st.floats(-9, 9), st.floats(-9, 9), st.floats(4, 16)), min_size=2, max_size=4))
def test_circles_against_the_first_engine_or_refused(circles):
    paths = [circle(r, x, y) for x, y, r in circles]
    try:
        path = redrawn(*paths)
    except GeometryRefused:  # circles that graze or all but cover each other
        return
    union = shapely.unary_union([region(each, False, CHORD) for each in paths])
    assert region(path, False, CHORD).symmetric_difference(union).area < union.length * CHORD


def test_an_answer_that_fills_other_places_is_refused():
    a = Operand(square(10))
    with pytest.raises(GeometryRefused, match="other places"):
        redrawn_along(region(a.path, False, CHORD), [a], lambda places: np.zeros(len(places), bool), CHORD)
    with pytest.raises(GeometryRefused, match="follows no line"):
        redrawn_along(shapely.box(2, 2, 8, 8), [a], fills([a]), CHORD)


def test_welding_goes_on_where_the_first_engine_gives_up(monkeypatch):
    def gives_up(*_):
        raise GeometryRefused("the engine gave up")

    monkeypatch.setattr(welding, "unions", gives_up)
    path, proof = weld([Operand(ring(10, 5)), Operand(ring(10, 5, 14))], STANDARD)
    assert proof.counters == proof.counters_before == 2
    assert proof.max_deviation_mm <= STANDARD.chord_mm
    assert abs(signed_areas(path).sum()) == pytest.approx(proof.area_second_mm2, abs=0.1)
