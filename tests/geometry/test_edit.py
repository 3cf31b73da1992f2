"""Corners eased and nodes edited by hand."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import glyph_paths, outline, sheet, workshop
from unkelt.errors import StepRefused
from unkelt.geometry.distance import line_distance
from unkelt.geometry.edit.edit import EDITS, edited, handle_places, node_places
from unkelt.geometry.edit.fillet import corners, ease
from unkelt.geometry.flatten import lines
from unkelt.geometry.measure import lengths, signed_areas
from unkelt.geometry.path import concat, polygon
from unkelt.recipe import Call, Recipe, apply, dump_recipe, parse_recipe
from unkelt.sheet.model import Sheet

SQUARE = polygon((0, 0), (40, 0), (40, 40), (0, 40))


@given(st.floats(15, 165), st.floats(0.2, 3))
def test_a_corner_of_two_lines_against_the_closed_form(angle, radius):
    """A fillet of radius r in a corner of angle a cuts r / tan(a/2) from each side, and its point lies r (1/sin(a/2) -
    1) from the arc (any textbook of plane geometry).
    """
    turn = math.radians(angle)
    far = 60.0
    corner = polygon((far, 0), (0, 0), (far * math.cos(turn), far * math.sin(turn)), closed=False)
    made = ease(corner, np.array([False, True]), radius)
    assert (made.eased, made.left) == (1, 0)
    back = radius / math.tan(turn / 2)
    assert made.path.points[0, 3] == pytest.approx([back, 0], abs=1e-6)
    assert made.cut_mm == pytest.approx(radius * (1 / math.sin(turn / 2) - 1), abs=1e-6)
    assert lengths(made.path)[0] == pytest.approx(2 * (far - back) + radius * (math.pi - turn), abs=1e-3)


def test_a_square_becomes_a_rounded_square():
    """Area a² - (4 - π) r²."""
    made = ease(SQUARE, corners(SQUARE, 135), 5.0)
    assert made.eased == 4
    assert abs(signed_areas(made.path)[0]) == pytest.approx(1600 - (4 - math.pi) * 25, abs=1e-2)
    none = ease(SQUARE, corners(SQUARE, 135), 25.0)  # every side would have to give more than it has
    assert none.eased < 4
    assert none.left > 0


def test_letters_keep_their_curves_where_nothing_is_cut():
    (path,) = glyph_paths("L", "Alfa Slab One")
    sharp = corners(path, 135)
    assert sharp.sum() > 5
    made = ease(path, sharp, 1.0)
    assert (made.eased, made.left) == (sharp.sum(), 0)
    kept = [cubic for cubic in path.points.tolist() if cubic in made.path.points.tolist()]
    assert len(kept) == len(path.points) - np.count_nonzero(sharp | np.roll(sharp, -1))
    result = apply(Call("ease-corners", options={"radius": "1 mm"}), sheet(outline("e", path)), workshop())
    assert result.evidence.corners == sharp.sum()
    first = f"1:{np.flatnonzero(sharp)[0] + 1}"
    one = apply(Call("ease-corners", options={"nodes": first, "radius": "1 mm"}), sheet(outline("e", path)), workshop())
    assert one.evidence.corners == 1
    for options, reason in (({"radius": "90 mm"}, "room for an arc"), ({"nodes": "9:1"}, "no subpath 9")):
        with pytest.raises(StepRefused, match=reason):
            apply(Call("ease-corners", options=options), sheet(outline("e", path)), workshop())


def test_a_node_taken_out_of_a_curve_cut_in_two_gives_the_curve_back():
    (path,) = glyph_paths("S", "Pacifico")[:1]
    name = "1:3"
    two = edited(path, f"add {name} 0.37")
    assert two.node_count == path.node_count + 1
    back = edited(two, "take-out 1:4")
    assert line_distance(lines(path, 0.001), lines(back, 0.001)) < 0.02
    assert np.array_equal(np.delete(back.points, 2, axis=0), np.delete(path.points, 2, axis=0))  # the rest, bit for bit


def test_edits_do_what_they_say_and_nothing_else():
    moved = edited(SQUARE, "move 1:2 50 -3")
    assert moved.points[0, 3].tolist() == moved.points[1, 0].tolist() == [50, -3]
    assert edited(moved, "move 1:2 40 0") == SQUARE
    assert edited(SQUARE, "start 1:3").points[0, 0].tolist() == [40, 40]
    assert signed_areas(edited(SQUARE, "reverse 1"))[0] == -signed_areas(SQUARE)[0]
    opened = edited(SQUARE, "split 1:2")
    assert (opened.closed.tolist(), opened.points[0, 0].tolist()) == ([False], [40, 0])
    assert edited(opened, "join 1:1 1:5").closed.tolist() == [True]
    halves = edited(opened, "split 1:3")
    assert len(halves) == 2
    assert lengths(edited(halves, "join 1:3 2:1")).sum() == pytest.approx(160)
    (curved,) = glyph_paths("o", "Barlow")[:1]
    assert (edited(curved, "line 1:1").degrees[0], edited(curved, "line 1:1").degrees[1]) == (1, curved.degrees[1])
    bent = edited(curved, "corner 1:2")
    smooth = edited(bent, "smooth 1:2")
    way_in, way_out = (np.array(place[1:]) for place in handle_places(smooth, "1:2"))
    node = np.array(node_places(smooth)[1][1:])
    a, b = node - way_in, way_out - node
    assert a[0] * b[1] - a[1] * b[0] == pytest.approx(0, abs=1e-9)
    turned = edited(smooth, f"out 1:2 {node[0] + 5} {node[1] + 5}")
    assert np.array(handle_places(turned, "1:2")[0][1:]) == pytest.approx(node - np.hypot(*a) / math.sqrt(2), abs=1e-6)


@given(st.lists(st.tuples(st.sampled_from([*EDITS, "melt"]), st.integers(0, 12), st.integers(0, 3)), max_size=6))
def test_any_edits_give_a_path_or_a_sentence(edits):
    path = concat([glyph_paths("e", "Sacramento")[0], polygon((0, 0), (9, 1), (3, 7), closed=False)])
    sentences: list[str] = []
    for name, node, subpath in edits:
        words = {"move": "3 4", "in": "1 2", "out": "9 9", "join": f"{subpath}:1"}.get(name, "")
        edit = f"{name} {subpath}" if name == "reverse" else f"{name} {subpath}:{node} {words}"
        try:
            path = edited(path, edit)
        except ValueError as problem:
            sentences.append(str(problem))
            continue
        joints = path.points[:-1, 3] - path.points[1:, 0]
        inside = np.delete(np.arange(len(path.points) - 1), path.stops[:-1] - 1)
        assert not joints[inside].any()
        assert not path.end_gaps_mm()[path.closed].any()
    assert all(sentences)


def test_edits_are_a_step_of_the_recipe():
    call = Call("edit-nodes", ("e",), options={"edits": "move 1:2 50 -3; add 1:1; take-out 1:4"})
    before = sheet(outline("e", SQUARE))
    result = apply(parse_recipe(dump_recipe(Recipe((call,)))).calls[0], before, workshop())
    assert (result.evidence.edits, result.evidence.nodes_after) == (3, 4)
    assert result.evidence.max_deviation_mm > 10
    for edits, reason in (("", "nothing is edited"), ("melt 1:1", "no edit"), ("move 1:9 0 0", "no node 9")):
        with pytest.raises(StepRefused, match=reason):
            apply(Call("edit-nodes", ("e",), options={"edits": edits}), before, workshop())
    with pytest.raises(StepRefused, match="one outline"):
        apply(
            call.__class__("edit-nodes", (), options=call.options),
            Sheet((90, 90), (*before.items, outline("f", SQUARE))),
            workshop(),
        )
