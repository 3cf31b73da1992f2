"""What is dragged lies where it was put: for each step with handles, the options that a drag writes lead back to the
place.
"""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.builders import circle, lettering, outline, sheet, square, workshop
from unkelt.geometry.edit.edit import edited, node_places
from unkelt.geometry.measure import bounds
from unkelt.recipe import Call, apply
from unkelt.session.handles import aligned, dragged, encircled, handles
from unkelt.session.sentences import given_value
from unkelt.steps.grip import written_mm
from unkelt.steps.steps import STEPS

ROUNDED = 0.0051
"""Options are written to a hundredth of a millimetre."""

PLACES = st.tuples(st.floats(-400, 400), st.floats(-400, 400))

ON = sheet(outline("a", square(20, 10, 20)), outline("o", circle(15, 90, 60)), lettering("Tern", "Arvo", 30))
CALLS = {
    "move": Call("move", ("a",)),
    "move, already moved": Call("move", ("a",), options={"right": "1 in", "down": "-3 mm"}),
    "hang-ring": Call("hang-ring", ("a",)),
    "spokes centre": Call("spokes", ("a",), options={"count": 5}),
    "rotate": Call("rotate", ("a", "o"), options={"angle": 30}),
    "set-on-guide centre": Call("set-on-guide", ("name",), options={"radius": "80 mm", "x": "100 mm", "y": "120 mm"}),
    "set-letters": Call("set-letters", ("name",), options={"letters": "2", "shift": "1 mm"}),
    "edit-nodes": Call("edit-nodes", ("o",)),
    "edit-nodes, after edits": Call("edit-nodes", ("a",), options={"edits": "move 1:2 33 44; add 1:1"}),
}


def written(call, put):
    """The call with what a drag wrote into the form, as the form reads it."""
    known = {parameter.name: parameter for parameter in STEPS[call.name].parameters}
    read = {name: given_value(known[name], text) for name, text in put.items()}
    return Call(call.name, call.items, options={**call.options, **read})


def lying(places):
    return np.array([(place.x, place.y) for place in places])


@pytest.mark.parametrize("name", CALLS)
@settings(max_examples=20)
@given(place=PLACES, which=st.integers(0, 9))
def test_a_handle_lies_where_it_was_dragged(name, place, which):
    call, tools = CALLS[name], workshop()
    found = handles(call, ON, tools).places
    handle = found[0] if "centre" in name else found[which % len(found)]
    put = dragged(call, handle, place, ON, tools)
    again = written(call, put)
    moved = next(each for each in handles(again, ON, tools).places if each.name == handle.name)
    assert (moved.x, moved.y) == pytest.approx(place, abs=ROUNDED)
    still = written(again, dragged(again, moved, (moved.x, moved.y), ON, tools))
    assert lying(handles(still, ON, tools).places) == pytest.approx(
        lying(handles(again, ON, tools).places), abs=ROUNDED
    )


@given(turn=st.floats(0, 359.9), radius=st.floats(20, 300))
def test_the_rim_of_a_guide_says_radius_and_place_at_once(turn, radius):
    call, tools = CALLS["set-on-guide centre"], workshop()
    _, rim, _ = handles(call, ON, tools).places
    to = (100 + radius * math.sin(math.radians(turn)), 120 - radius * math.cos(math.radians(turn)))
    put = dragged(call, rim, to, ON, tools)
    again = handles(written(call, put), ON, tools)
    # The angle is written to a tenth of a degree, which at this radius is so far along the rim.
    assert (again.places[1].x, again.places[1].y) == pytest.approx(to, abs=0.02 + radius * math.radians(0.06))
    box = bounds(again.line)
    assert (box[2] - box[0]) / 2 == pytest.approx(radius, abs=0.02)


@given(st.integers(2, 90), st.integers(2, 90))
@settings(max_examples=20, deadline=None)
def test_the_next_copy_about_a_centre_says_how_many_there_are(count, other):
    on = sheet(outline("a", square(20, 140, 10)), page=(300, 300))

    def handle(call, name):
        return next(place for place in handles(call, on, workshop()).places if place.name == name)

    there = handle(Call("spokes", ("a",), options={"count": count}), "count")
    call = Call("spokes", ("a",), options={"count": other})
    assert dragged(call, there, (there.x, there.y), on, workshop()) == {"count": str(count)}
    away = {"distance": written_mm(25)}
    assert dragged(call, handle(call, "distance"), (150, 125), on, workshop()) == away


def test_what_is_dragged_is_what_the_step_then_does():
    tools = workshop()
    (handle,) = handles(CALLS["move"], ON, tools).places
    put = dragged(CALLS["move"], handle, (77, 55), ON, tools)
    box = bounds(apply(Call("move", ("a",), options=put), ON, tools).sheet.find("a").path)
    assert ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2) == pytest.approx((77, 55))
    letter = handles(CALLS["set-letters"], ON, tools).places[0]
    put = dragged(CALLS["set-letters"], letter, (letter.x + 3, letter.y - 4), ON, tools)
    assert put == {"shift": "4 mm", "lift": "4 mm"}


def test_nodes_that_are_picked_move_along_by_the_same_way():
    tools, call = workshop(), CALLS["edit-nodes"]
    places = handles(call, ON, tools).places
    held, *others = places[:3]
    put = dragged(call, held, (held.x + 2, held.y + 5), ON, tools, along=[held, *others])
    path = ON.find("o").path
    for edit in put["edits"].split(";"):
        path = edited(path, edit)
    now = {name: (x, y) for name, x, y in node_places(path)}
    for place in places:
        by = (2, 5) if place in (held, *others) else (0, 0)
        assert now[place.name] == pytest.approx((place.x + by[0], place.y + by[1]), abs=1e-3)


def test_the_arms_of_a_picked_node_are_there_and_are_dragged_alone():
    tools, call = workshop(), CALLS["edit-nodes"]
    picked = handles(call, ON, tools).places[1].name
    found = handles(call, ON, tools, picked).places
    arms = [place for place in found if place.stem is not None]
    node = next(place for place in found if place.name == picked and place.node)
    assert [arm.stem for arm in arms] == [(node.x, node.y)] * len(arms)
    assert {arm.name.split()[0] for arm in arms} == {"in", "out"}
    put = dragged(call, arms[0], (5, 6), ON, tools)
    again = Call(call.name, call.items, options=put)
    moved = handles(again, ON, tools, picked).places
    assert next((p.x, p.y) for p in moved if p.name == arms[0].name) == pytest.approx((5, 6))
    assert lying(p for p in moved if p.node) == pytest.approx(lying(p for p in found if p.node))


@pytest.mark.parametrize(
    "call",
    [
        None,
        Call("move", ("none",)),
        Call("move", ("a",), options={"right": "five"}),
        Call("edit-nodes", ("a",), options={"edits": "move 9:9 1 1"}),
        Call("edit-nodes", ("a",), options={"edits": "sing"}),
        Call("set-on-guide", ("name",), options={"radius": "0 mm"}),
        Call("set-letters", ("name",), options={"letters": "99"}),
    ],
)
def test_what_can_not_be_has_no_handle(call):
    assert handles(call, ON, workshop()).places == ()


@given(PLACES, st.floats(0, 30), st.lists(st.integers(0, 3), max_size=3))
def test_falling_in_line_moves_no_further_than_its_reach_and_only_onto_nodes_that_stay(place, reach, moving):
    places = handles(Call("edit-nodes", ("a",)), ON, workshop()).places
    names = [places[index].name for index in moving]
    x, y = aligned(places, names, *place, reach)
    assert abs(x - place[0]) <= reach
    assert abs(y - place[1]) <= reach
    stay = [p for p in places if p.name not in names]
    assert x == place[0] or x in [p.x for p in stay]
    assert y == place[1] or y in [p.y for p in stay]


def frame(one, other):
    return [one, (other[0], one[1]), other, (one[0], other[1])]


@given(PLACES, PLACES)
def test_a_frame_holds_its_nodes_whichever_corner_it_was_drawn_from(one, other):
    places = handles(Call("edit-nodes", ("o",)), ON, workshop()).places
    inside = set(encircled(places, frame(one, other)))
    low, high = np.minimum(one, other), np.maximum(one, other)
    for place in places:
        assert (place.name in inside) == bool((low <= (place.x, place.y)).all() and ((place.x, place.y) <= high).all())
    assert inside == set(encircled(places, frame(other, one)))
