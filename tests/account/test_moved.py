"""What was moved is known by its shape in the account of a job, however often and with whatever else it was moved."""

from dataclasses import dataclass, replace

import numpy as np
import pytest
from fontTools.misc.transform import Identity, Transform
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.builders import circle, outline, sheet, square, workshop
from unkelt.account.changes import STILL, Change, Moves, moving
from unkelt.account.whole import gathered, lost
from unkelt.formats.formats import read_sheet
from unkelt.formats.svg.write import write_svg
from unkelt.recipe import Call, Recipe, apply, run
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import Group, Sheet
from unkelt.verdict.case import Case
from unkelt.verdict.lost import ink_lost
from unkelt.verdict.painted import pictures_of

RED, BLUE = Appearance(fill="#cc2200"), Appearance(fill="#0033aa")
ART = sheet(
    replace(outline("a", square(30, 10, 10)), look=RED),
    replace(outline("b", circle(20, 60, 60)), look=BLUE),
    Group("pair", (outline("c", square(20, 70, 70)), replace(outline("d", square(8, 76, 76)), look=RED))),
    page=(200, 200),
)


@dataclass(frozen=True)
class Step:
    sheet: Sheet
    changes: tuple[Change, ...] = ()
    moves: Moves = STILL


def taken(*calls, on=ART):
    steps, now = [], on
    for call in calls:
        outcome = apply(call, now, workshop())
        now = outcome.sheet
        steps.append(Step(now, outcome.changes, outcome.moves))
    return steps


def missing(*steps):
    tools = workshop()
    return lost(ART, steps, tools.ticket, tools.shelf)


def move(*items, right=0.0, down=0.0):
    return Call("move", items, options={"right": f"{right} mm", "down": f"{down} mm"})


LENGTHS = st.integers(1, 60)


@given(
    st.lists(
        st.tuples(st.sets(st.sampled_from(["a", "b", "c", "d", "pair"]), min_size=1), LENGTHS, LENGTHS), max_size=5
    )
)
@settings(max_examples=25, deadline=None)
def test_whatever_is_moved_together_and_in_turn_balances_without_a_declared_change(ways):
    steps = taken(move("a", right=1), *(move(*sorted(items), right=x, down=-y) for items, x, y in ways))
    assert missing(*steps) == ()
    tools = workshop()
    assert gathered(ART, steps, tools.ticket, tools.shelf).changes == ()


def test_what_is_dropped_or_repainted_after_it_was_moved_is_missed():
    (moved,) = taken(move("a", right=80))
    dropped = Step(moved.sheet.replaced({"a": ()}))
    assert [each.material for each in missing(moved, dropped)] == ["#cc2200"]
    there = moved.sheet.find("a")
    repainted = Step(moved.sheet.replaced({"a": (replace(there, look=BLUE),)}))
    assert {each.material for each in missing(moved, repainted)} == {"#cc2200", "#0033aa"}


def test_what_was_changed_before_it_was_moved_balances_too():
    steps = taken(
        Call("thicken", ("b",), options={"amount": "1 mm"}),
        move("b", right=35, down=10),
        Call("rotate", ("b",), options={"angle": 30}),
    )
    assert missing(*steps) == ()


@pytest.mark.parametrize("turned", [0, 30])
def test_pictures_know_what_was_moved_by_itself(tmp_path, turned):
    path = tmp_path / "art.svg"
    path.write_bytes(write_svg(ART))
    tools, received = workshop(), read_sheet(path)
    calls = [
        Call("resize", options={"width": "150 mm"}),
        move("c", "a", right=40, down=5),
        *([Call("rotate", ("b",), options={"angle": turned})] if turned else []),
        move("a", down=30),
        Call("set-colour", ("a",), options={"colour": "#007755"}),
        Call("fit-page"),
    ]
    stages = run(Recipe(tuple(calls)), received, tools)
    assert [stage.skipped for stage in stages if stage.skipped] == []
    case = Case(path, received, tools, tuple(stages))
    assert ink_lost(case) == ()
    assert pictures_of(case).lost == ()


LINES = Appearance(fill="#cc2200", stroke="#000000", stroke_width_mm=3)


@pytest.mark.parametrize("width", ["30 mm", "700 mm"])
def test_strokes_that_keep_their_width_and_what_was_declared_before_are_no_loss(tmp_path, width):
    art = sheet(
        replace(outline("a", circle(30, 70, 70)), look=BLUE),
        replace(outline("b", circle(25, 90, 70)), look=LINES),
        page=(140.3, 140.3),
    )
    path, tools = tmp_path / "art.svg", workshop()
    path.write_bytes(write_svg(art))
    received = read_sheet(path)
    calls = [
        Call("set-colour", ("a", "b"), options={"colour": "#ff00aa"}),
        Call("resize", options={"width": width}),
        Call("fit-page"),
    ]
    case = Case(path, received, tools, tuple(run(Recipe(tuple(calls)), received, tools)))
    assert len(case.done) == 3
    assert (ink_lost(case), pictures_of(case).lost) == ((), ())


def test_what_is_moved_after_the_order_changed_is_no_loss():
    steps = taken(Call("stack", ("a",), options={"place": "front"}), move("a", right=40, down=40), move("b", right=9))
    assert missing(*steps) == ()


@pytest.mark.parametrize("side", [9.3, 20, 76.667])
def test_a_page_that_is_no_whole_number_of_pixels_is_painted_at_true_size(tmp_path, side):
    art = sheet(outline("a", square(side * 0.3, side * 0.69, side * 0.69)), page=(side, side))
    path, tools = tmp_path / "art.svg", workshop()
    path.write_bytes(write_svg(art))
    received = read_sheet(path)
    case = Case(path, received, tools, tuple(run(Recipe((Call("fit-page"),)), received, tools)))
    found = pictures_of(case)
    assert found.lost == ()
    edge = case.sheet.drawn_box()[3] / found.px_mm
    rows = np.nonzero((found.written[:, found.written.shape[1] // 2] < 128).any(axis=1))[0]
    assert rows[-1] + 1 == pytest.approx(edge, abs=1)


def test_all_of_a_sheet_by_name_is_everything():
    by = Transform(1, 0, 0, 1, 5, 0)
    assert moving(ART, ("a", "b", "pair"), by) == Moves(by)
    assert moving(ART, ("a", "b", "c"), by).everything == Identity
    assert moving(ART, ("pair",), by).items == {"c": by, "d": by}
