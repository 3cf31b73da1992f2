"""The frame around what is chosen, what is typed beside it, shapes that are drawn, and jobs that begin with words."""

import math
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import SHELF, outline, sheet, square, workshop
from unkelt.errors import InputError, LengthError, StepRefused
from unkelt.geometry.measure import bounds
from unkelt.job.ticket import parse_ticket
from unkelt.job.workshop import Workshop
from unkelt.recipe import Call, apply
from unkelt.session.frame import INSIDE, OPPOSITE, TURN, Catches, Keys, gesture, grips, nudge
from unkelt.session.job import Job
from unkelt.session.new_sheet import NewSheet, new_job
from unkelt.session.reading import INCH, MM
from unkelt.session.shaping import shaping
from unkelt.session.snapping import GuideLine
from unkelt.session.states import only, registered
from unkelt.session.typing import typed_call
from unkelt.session.writing import begun, corrected
from unkelt.steps.scale import fixed_point

BOX = (10.0, 20.0, 50.0, 40.0)
ON = sheet(outline("a", square(40, 10, 20)), outline("b", square(10, 100, 100)), page=(200, 150))
places = st.tuples(st.floats(-200, 300), st.floats(-200, 300))


def done(found, on=ON, items=("a",)):
    """The step of a gesture, taken: the box of what it worked on."""
    call = found.call(items)
    return bounds(apply(call, on, workshop()).sheet.find(items[0]).path) if call else bounds(on.find(items[0]).path)


@given(st.sampled_from([INSIDE, TURN, *OPPOSITE]), places, places, st.booleans())
def test_what_is_shown_while_one_drags_is_what_the_step_does(grip, start, to, shift):
    box = bounds(ON.find("a").path)
    found = gesture(box, grip, start, to, Keys(shift=shift, loose=True), Catches())
    corners = [found.matrix.transformPoint(p) for p in ((10, 20), (50, 20), (50, 60), (10, 60))]
    shown = (
        min(x for x, _ in corners),
        min(y for _, y in corners),
        max(x for x, _ in corners),
        max(y for _, y in corners),
    )
    assert done(found) == pytest.approx(shown, abs=1e-6)
    if grip in OPPOSITE:
        fixed = OPPOSITE[grip]
        assert found.matrix.transformPoint(fixed_point(box, fixed)) == pytest.approx(fixed_point(box, fixed), abs=1e-6)


def test_corners_keep_proportions_sides_stretch_and_shift_turns_that_round():
    def size(grip, to, **keys):
        x0, y0, x1, y1 = done(
            gesture((10, 20, 50, 60), grip, grips((10, 20, 50, 60))[grip], to, Keys(**keys), Catches())
        )
        return round(x1 - x0, 3), round(y1 - y0, 3)

    assert size("bottom-right", (90, 100)) == (80, 80)
    assert size("bottom-right", (90, 70), shift=True) == (80, 50)
    assert size("right", (90, 0)) == (80, 40)
    assert size("right", (90, 0), shift=True) == (80, 80)
    assert size("top", (0, 40)) == (40, 20)
    assert size("left", (500, 0)) == (0.4, 40)  # never nothing, never turned over


def test_what_is_dragged_is_caught_by_edges_middles_guides_and_page():
    catches = Catches.of([(100, 100, 110, 110)], (200, 150), [GuideLine("y", 77.0)], 2.0)
    found = gesture((10, 20, 50, 60), INSIDE, (20, 30), (69.2, 46.5), Keys(), catches)
    assert found.options == {"right": "50 mm", "down": "17 mm"}  # to the other's edge; onto the guide line
    assert {(line.axis, line.mm) for line in found.caught} == {("x", 100.0), ("y", 77.0)}
    loose = gesture((10, 20, 50, 60), INSIDE, (20, 30), (69.2, 46.5), Keys(loose=True), catches)
    assert loose.options == {"right": "49.2 mm", "down": "16.5 mm"}
    copy = gesture((10, 20, 50, 60), INSIDE, (20, 30), (80, 30), Keys(copy=True), Catches())
    assert (copy.step, copy.options) == ("duplicate", {"right": "60 mm", "down": "0 mm"})
    assert gesture(BOX, TURN, (30, 0), (50, 30), Keys(shift=True), Catches()).options["angle"] % 15 == 0


def test_nudges_in_a_row_are_one_step_and_none_where_they_end_where_they_began():
    first, joins = nudge(1, 0, None, ("a",))
    assert (first.options, joins) == ({"right": "1 mm"}, False)
    second, joins = nudge(0, -0.1, first, ("a",))
    assert (second.options, joins) == ({"right": "1 mm", "down": "-0.1 mm"}, True)
    assert nudge(-1, 0.1, second, ("a",)) == (None, True)
    assert nudge(1, 0, first, ("b",))[1] is False


@pytest.mark.parametrize(
    ("field", "text", "unit", "call"),
    [
        ("x", "12", MM, ("move", {"right": "2 mm"})),
        ("y", "1 in", MM, ("move", {"down": "5.4 mm"})),
        ("x", "10", MM, None),
        ("w", "3 in", MM, ("scale", {"width": "3 in", "fixed": "top-left"})),
        ("h", "2", INCH, ("scale", {"height": "50.8 mm", "fixed": "top-left"})),
        ("turn", "−7,5°", MM, ("rotate", {"angle": -7.5})),
        ("turn", "360", MM, None),
    ],
)
def test_what_is_typed_beside_the_frame(field, text, unit, call):
    found = typed_call(field, text, BOX, unit, ("a",), keep=True)
    assert (found and (found.name, dict(found.options))) == call


def test_what_can_not_be_read_beside_the_frame_is_said():
    with pytest.raises(LengthError):
        typed_call("w", "wide", BOX, MM, ("a",), keep=True)
    with pytest.raises(ValueError, match="no angle"):
        typed_call("turn", "left", BOX, MM, ("a",), keep=True)
    with pytest.raises(ValueError, match="greater than zero"):
        typed_call("w", "-3", BOX, MM, ("a",), keep=True)
    assert typed_call("w", "80", BOX, MM, ("a",), keep=False).options["uneven"]


@pytest.mark.parametrize("shape", ["circle", "ellipse", "rectangle", "line", "freehand"])
@given(st.lists(places, min_size=2, max_size=40))
def test_a_shape_is_added_where_it_was_drawn(shape, hand):
    found = shaping(shape, hand, even=False)
    if found is None:
        assert shape in ("freehand", "line") or min(abs(a - b) for a, b in zip(hand[0], hand[-1], strict=True)) < 1
        return
    added = apply(Call("add-shape", options=dict(found.options)), ON, workshop()).sheet.items[-1]
    if shape != "freehand":
        assert bounds(added.path) == pytest.approx(bounds(found.path), abs=0.03)


def test_even_shapes():
    assert shaping("ellipse", [(0, 0), (10, 4)], even=True).options["height"] == "10 mm"
    x, y = shaping("line", [(0, 0), (10, 9)], even=True).options["points"].split()[1].split(",")
    assert float(x) == pytest.approx(float(y))
    assert shaping("circle", [(5, 5), (5, 5.01)], even=False) is None
    assert math.dist((0, 0), (1, 1))


# jobs that begin with words


def test_a_new_sheet_is_made_of_words_named_after_them_and_fitted(tmp_path):
    job = new_job(NewSheet(words="Sea Thrift: 12/3", family="Pacifico", width="240 mm"), workshop(), tmp_path)
    assert job.path == tmp_path / "Sea Thrift 12 3.svg"
    assert [stage.call.name for stage in job.stages] == ["add-lettering", "fit-page"]
    assert job.sheet.page_mm[0] == pytest.approx(260)
    assert job.own_file is None
    assert job.case.data == b""
    again = new_job(NewSheet(words="Sea Thrift: 12/3", family="Pacifico"), workshop(), tmp_path, [job.path])
    assert again.path.name == "Sea Thrift 12 3 2.svg"


def test_a_new_sheet_takes_its_size_from_the_ticket_and_refuses_in_a_sentence(tmp_path):
    asked = Workshop(parse_ticket('[size]\nheight = "3 in"\n[key]\ncut = ["#ff0000"]'), SHELF)
    job = new_job(NewSheet(words="HOLLIN", family="Barlow", page=("300 mm", "12 in")), asked, tmp_path)
    (stage,) = job.stages
    assert stage.outcome.evidence.height_mm == pytest.approx(76.2)
    assert stage.call.options["colour"] == "#ff0000"
    assert job.sheet.page_mm == pytest.approx((300, 304.8))
    with pytest.raises(StepRefused, match="Nowhere is not here"):
        new_job(NewSheet(words="Tern", family="Nowhere"), workshop(), tmp_path)
    with pytest.raises(InputError, match="greater than zero"):
        new_job(NewSheet(page=("0 mm", "10 mm")), workshop(), tmp_path)
    assert new_job(NewSheet(page=("90 mm", "60 mm")), workshop(), tmp_path).sheet.page_mm == (90, 60)


def test_typed_words_stand_beneath_what_is_there_in_its_face():
    blank = begun(sheet(page=(200, 100)), workshop())
    assert blank.options["family"] == "Barlow"
    added = apply(blank.at(30, 40).call("Tern"), sheet(page=(200, 100)), workshop()).sheet
    x0, _, _, y1 = next(iter(added.letterings())).place
    assert (x0, y1) == pytest.approx((30, 40))
    more = begun(added, workshop())
    assert more.options["of"] == "em"
    assert float(more.options["y"].removesuffix(" mm")) > 40
    assert corrected(added, workshop(), "lettering").call("Quay").name == "set-text"
    assert corrected(ON, workshop(), "a") is None


# states for one purpose


def made(*calls):
    job = Job(Path("a.svg"), ON, workshop())
    for call in calls:
        job = job.with_step(call, apply(call, job.sheet, workshop()))
    return job


def test_what_is_compared_with_is_registered():
    job = made(
        Call("resize", options={"width": "200 mm"}),
        Call("move", ("a", "b"), options={"right": "3 mm"}),
        Call("fit-page", options={"margin": "7 mm"}),
    )
    assert [bounds(o.path) for o in registered(job).outlines()] == [
        pytest.approx(bounds(o.path), abs=1e-9) for o in job.sheet.outlines()
    ]


def test_a_part_of_a_job_is_handed_over_with_everything_else_declared_as_deleted():
    job = made(Call("move", ("a",), options={"right": "3 mm"}))
    part = only(job, ["a"])
    assert [o.id for o in part.sheet.outlines()] == ["a"]
    assert part.stages[-1].call == Call("drop-item", ("b",))
    assert only(job, ["a", "b"]) is job
