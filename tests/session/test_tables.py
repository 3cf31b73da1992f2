"""Handles, offers, measuring, picking: what the tables in the window ask, without a window."""

import math

import pytest

from tests.builders import SHELF, lettering, outline, sheet, square, workshop
from unkelt.geometry.path import concat
from unkelt.recipe import Call, apply
from unkelt.session.handles import aligned, dragged, encircled, handles
from unkelt.session.measuring import Place, around, between, snapped
from unkelt.session.offers import offers
from unkelt.session.picking import items_at, without
from unkelt.session.sentences import nudged
from unkelt.sheet.model import Group
from unkelt.steps.edit_nodes import edits_of, with_edit
from unkelt.steps.steps import STEPS


def test_a_guide_is_dragged_to_where_it_is_put():
    on = sheet(lettering("Tern", "Arvo", 30))
    call = Call("set-on-guide", ("name",), options={"radius": "80 mm", "x": "100 mm", "y": "120 mm"})
    centre, rim, _ = handles(call, on, workshop()).places
    assert (rim.x, rim.y) == pytest.approx((100, 40))
    assert dragged(call, centre, (90, 110), on, workshop()) == {"x": "90 mm", "y": "110 mm"}
    put = dragged(call, rim, (160, 120), on, workshop())
    assert (put["radius"], put["around"]) == ("60 mm", "90")
    assert handles(Call("set-on-guide", ("name",), options={"radius": "x"}), on, workshop()).places == ()
    assert handles(Call("weld", ("name",)), on, workshop()).places == ()


@pytest.mark.parametrize(
    ("name", "to"), [("move", {"right": "5 mm", "down": "-2 mm"}), ("hang-ring", {"x": "25 mm", "y": "18 mm"})]
)
def test_places_are_dragged(name, to):
    on = sheet(outline("a", square(20, 10, 20)))
    call = Call(name, ("a",))
    (handle,) = handles(call, on, workshop()).places
    assert dragged(call, handle, (handle.x + 5, handle.y - 2), on, workshop()) == to
    moved = apply(Call(name, ("a",), options=to), on, workshop())
    assert moved.sheet != on


def test_edits_that_follow_each_other_on_one_node_are_one():
    assert with_edit("move 1:2 3 4", "move 1:2 5 6") == "move 1:2 5 6"
    assert with_edit("move 1:2 3 4; move 1:3 5 6", "move 1:2 0 0", "move 1:3 1 1") == "move 1:2 0 0; move 1:3 1 1"
    assert edits_of("take-out", ["1:2", "1:10", "2:1"]) == ["take-out 2:1", "take-out 1:10", "take-out 1:2"]
    assert edits_of("join", ["1:1", "2:5"]) == ["join 1:1 2:5"]
    assert edits_of("join", ["1:1"]) == []
    assert with_edit("move 1:2 3 4", "take-out 1:2") == "move 1:2 3 4; take-out 1:2"


@pytest.mark.parametrize(
    ("text", "way", "keys", "after"),
    [
        ("", 1, {}, "0.1 mm"),
        ("2 in", -1, {"coarse": True}, "1 in"),
        ("1,5 mm", 1, {"fine": True}, "1.51 mm"),
        ("a", 1, {}, None),
    ],
)
def test_fields_are_nudged_in_the_unit_they_are_written_in(text, way, keys, after):
    parameter = next(p for p in STEPS["set-spacing"].parameters if p.name == "letters")
    assert nudged(parameter, text, way, **({"coarse": False, "fine": False} | keys)) == after


def test_faces_are_offered_with_the_word_in_each_and_the_change_of_width():
    text = lettering("Tern", "Arvo", 30)
    offered = offers(sheet(text), ["name"], workshop())
    assert offered.faces[0].family == "Arvo"
    assert offered.specimen(offered.faces[0]).words.endswith("+0 %")
    assert {offered.specimen(face).lacks for face in SHELF.faces} == {""}
    assert [choice.value for choice in offered.letters()] == ["1", "2", "3", "4"]
    missing = offers(sheet(lettering("漢", "Quayside Pacifico", 30)), ["name"], workshop())
    assert missing.faces[0].family == "Pacifico"  # the one whose name is nearest
    assert missing.specimen(missing.faces[0]).lacks == "漢"


def test_nodes_in_a_frame_move_along():
    on = sheet(outline("a", square(20, 10, 20)))
    call = Call("edit-nodes", ("a",))
    shown = handles(call, on, workshop()).places
    assert aligned(shown, ["1:1"], 29.6, 38, 1) == (30, 38)
    picked = encircled(shown, [(35, 15), (5, 15), (5, 25), (35, 25)])
    assert picked == ("1:1", "1:2")
    along = [handle for handle in shown if handle.name in picked]
    put = dragged(call, along[0], (along[0].x + 1, along[0].y - 3), on, workshop(), along)
    after = apply(Call("edit-nodes", ("a",), options=put), on, workshop()).sheet.find("a")
    assert after.path.points[:, 0].tolist() == [[11, 17], [31, 17], [30, 40], [10, 40]]


def test_measuring_snaps_to_nodes_before_lines_and_tells_thickness_and_gap():
    ring = outline("ring", concat([square(30, 10, 10), square(20, 15, 15).reversed()]))
    on = sheet(ring)
    assert snapped(on, 10.2, 10.3, 1) == Place(10, 10, "node")
    assert snapped(on, 25, 10.4, 1) == Place(25, 10, "line")
    assert snapped(on, 25, 25, 1) == Place(25, 25, "")
    assert between(Place(0, 0), Place(3, -4))[0] == "5.000 mm"
    assert f"{math.degrees(math.atan2(4, 3)):.1f}°" in between(Place(0, 0), Place(3, -4))[1]
    assert around(on, workshop(), Place(12, 25)) == ["material 5.000 mm", "nearest edge 2.000 mm"]
    assert around(on, workshop(), Place(25, 20))[0] == "gap 20.000 mm"


def test_picking_goes_through_stacks_and_hidden_things_are_not_there():
    low, high = outline("low", square(20, 10, 10)), outline("high", square(10, 15, 15))
    on = sheet(Group("g", (low, high)))
    assert items_at(on, workshop(), 20, 20, 1) == ["high", "low"]
    assert items_at(on, workshop(), 11, 11, 1) == ["low"]
    assert items_at(on, workshop(), 9.5, 20, 1) == ["low"]
    assert items_at(without(on, {"high"}), workshop(), 20, 20, 1) == ["low"]
    assert without(on, set()) is on


def test_items_are_named_put_together_and_taken_apart():
    on = sheet(outline("a", square(10)), outline("b", square(10, 20, 0)))
    grouped = apply(Call("group", ("a", "b"), options={"name": "Pair"}), on, workshop()).sheet
    (pair,) = grouped.items
    assert (pair.label, [item.id for item in pair.items]) == ("Pair", ["a", "b"])
    assert apply(Call("ungroup", (pair.id,)), grouped, workshop()).sheet == on
    named = apply(Call("rename", ("b",), options={"name": "Berth"}), on, workshop()).sheet
    assert named.find("b").label == "Berth"
