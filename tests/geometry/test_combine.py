"""Difference, intersection, exclusion: closed forms, inclusion and exclusion of areas, and the second engine."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import circle, glyph_paths, moved, ring, square
from unkelt.geometry.boolean.combine import combine
from unkelt.geometry.boolean.engine import Operand
from unkelt.geometry.boolean.weld import weld
from unkelt.geometry.measure import signed_areas
from unkelt.geometry.path import concat
from unkelt.tolerance import STANDARD


def area(path):
    return float(signed_areas(path).sum()) if len(path) else 0.0


@given(st.floats(2, 18))
def test_lens_and_lune_of_two_circles(apart):
    """Circular segments: 2 r² acos(d / 2r) - d/2 √(4 r² - d²) (any handbook; H. Bronstein, "Kreisabschnitt")."""
    a, b = Operand(circle(10, 20, 20, arcs=24)), Operand(circle(10, 20 + apart, 20, arcs=24))
    lens = 2 * 100 * math.acos(apart / 20) - apart / 2 * math.sqrt(400 - apart * apart)
    assert area(combine("intersection", [a], [b], STANDARD)[0]) == pytest.approx(lens, abs=1e-3)
    assert area(combine("difference", [a], [b], STANDARD)[0]) == pytest.approx(math.pi * 100 - lens, abs=1e-3)


@given(st.sampled_from("aeg8BR"), st.sampled_from("oQS%"), st.floats(-15, 15), st.floats(-15, 15))
def test_areas_add_up_whatever_the_letters(one, other, dx, dy):
    a = Operand(concat(glyph_paths(one, "Arvo", 60)))
    b = Operand(moved(concat(glyph_paths(other, "Alfa Slab One", 60)), dx, dy))
    both, _ = combine("intersection", [a], [b], STANDARD)
    only_a, proof = combine("difference", [a], [b], STANDARD)
    only_b, _ = combine("difference", [b], [a], STANDARD)
    either, _ = combine("exclusion", [a], [b], STANDARD)
    assert area(only_a) + area(both) == pytest.approx(abs(area(a.path)), abs=0.02)
    assert area(only_b) + area(both) == pytest.approx(abs(area(b.path)), abs=0.02)
    assert area(either) == pytest.approx(area(only_a) + area(only_b), abs=0.02)
    assert proof.max_deviation_mm <= STANDARD.chord_mm


def test_what_is_untouched_keeps_its_numbers_and_nothing_left_is_empty():
    far = Operand(square(5, 100, 100))
    kept, proof = combine("difference", [Operand(ring(20, 10, 30, 30))], [far], STANDARD)
    assert {tuple(p) for p in kept.points[:, 0].tolist()} == {
        tuple(p) for p in ring(20, 10, 30, 30).points[:, 0].tolist()
    }
    assert (proof.pieces, proof.counters) == (1, 1)
    nothing, proof = combine("difference", [far], [Operand(square(50, 90, 90))], STANDARD)
    assert len(nothing) == 0
    assert proof.pieces == 0
    assert len(combine("intersection", [far], [Operand(circle(3))], STANDARD)[0]) == 0


def test_a_hole_is_knocked_out_and_put_back():
    plate, tool = Operand(square(40, 10, 10)), Operand(circle(8, 30, 30))
    holed, proof = combine("difference", [plate], [tool], STANDARD)
    assert (proof.pieces, proof.counters, len(holed)) == (1, 1, 2)
    whole, _ = weld([Operand(holed), tool], STANDARD, guard=False)
    assert area(whole) == pytest.approx(1600, abs=0.01)
