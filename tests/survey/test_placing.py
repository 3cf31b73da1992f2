"""Steps that place, order, repaint and take apart: against SVG's own matrices and what can be read off."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import SHELF, circle, glyph_paths, lettering, outline, ring, sheet, square, workshop
from unkelt.errors import StaleTarget, StepRefused
from unkelt.formats.svg.values import parse_transform
from unkelt.geometry.measure import bounds
from unkelt.geometry.path import concat
from unkelt.geometry.region import region
from unkelt.recipe import Call, apply
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import Group, Outline
from unkelt.sheet.ticket import parse_ticket
from unkelt.survey.check import Workshop
from unkelt.survey.checks import find_code


def step(name, on, *items, shop=None, **options):
    return apply(Call(name, items, options=options), on, shop or workshop())


def box(on, item_id):
    return bounds(on.find(item_id).path)


@pytest.mark.parametrize(
    ("name", "options", "svg"),
    # SVG 1.1, section 7.6: angles run clockwise on a y-down sheet.
    [
        ("move", {"right": "5 mm", "down": "-3 mm"}, "translate(5,-3)"),
        ("rotate", {"angle": 30.0, "x": "10 mm", "y": "20 mm"}, "rotate(30,10,20)"),
        ("rotate", {"angle": 90.0}, "rotate(90,25,25)"),
        ("shear", {"angle": 20.0}, "translate(20,30) skewX(-20) translate(-20,-30)"),
        ("mirror", {}, "translate(50,0) scale(-1,1)"),
        ("mirror", {"axis": "top-bottom"}, "translate(0,50) scale(1,-1)"),
    ],
)
def test_placing_is_what_svg_says_of_the_same_transform(name, options, svg):
    on = sheet(outline("a", square(10, 20, 20)), outline("b", circle(5, 80, 80)))
    after = step(name, on, "a", **options).sheet
    expected = on.find("a").path.transformed(parse_transform(svg))
    assert after.find("a").path.points == pytest.approx(expected.points)
    assert after.find("b") == on.find("b")


def test_a_group_goes_with_all_it_holds_and_text_with_its_letters():
    on = sheet(Group("g", (outline("a", square(10)), Group("h", (lettering("Hi", "Arvo", 20),)))))
    after = step("move", on, "g", right="7 mm").sheet
    assert box(after, "a")[0] == 7
    assert after.find("name").placement.dx == 7
    with pytest.raises(StaleTarget):
        step("move", on, "gone", right="7 mm")


@given(st.lists(st.tuples(st.floats(0, 200), st.floats(0, 200), st.floats(2, 30)), min_size=2, max_size=5))
def test_aligned_by_ink(places):
    on = sheet(*[outline(f"o{i}", circle(r, x, y)) for i, (x, y, r) in enumerate(places)], page=(400, 300))
    names = tuple(f"o{i}" for i in range(len(places)))
    try:
        after = step("align", on, *names, across="middle", upright="bottom", to="page").sheet
    except StepRefused:
        return
    for name in names:
        x0, _, x1, y1 = box(after, name)
        assert (x0 + x1) / 2 == pytest.approx(200)
        assert y1 == pytest.approx(300)


def test_spread_leaves_equal_room():
    on = sheet(*[outline(f"o{i}", square(size, x, 10)) for i, (size, x) in enumerate([(10, 0), (20, 15), (5, 95)])])
    after = step("align", on, "o0", "o1", "o2", across="spread").sheet
    boxes = [box(after, f"o{i}") for i in range(3)]
    assert boxes[1][0] - boxes[0][2] == pytest.approx(boxes[2][0] - boxes[1][2])
    assert (boxes[0][0], boxes[2][2]) == (0, 100)


def test_stacking_changes_the_order_and_nothing_else():
    on = sheet(*[outline(name, square(3)) for name in "abc"])
    assert [o.id for o in step("stack", on, "a").sheet.outlines()] == ["b", "c", "a"]
    assert [o.id for o in step("stack", on, "c", place="back").sheet.outlines()] == ["c", "a", "b"]
    with pytest.raises(StepRefused):
        step("stack", on, "c")


def test_operations_by_the_key():
    shop = Workshop(
        parse_ticket('[machine]\nhairline = "0.1 mm"\n[key]\ncut = ["#0b5d4c"]\nengrave = ["#20262b"]'), SHELF
    )
    on = sheet(outline("a", square(10, 5, 5), fill="#ff0000"))
    assert find_code("line.colour-unknown", on, shop)
    cut = step("set-operation", on, "a", shop=shop).sheet.find("a").look
    assert (cut.fill, cut.stroke, cut.stroke_width_mm) == (None, "#0b5d4c", 0.1)
    engraved = step("set-operation", on, "a", shop=shop, operation="engrave").sheet.find("a").look
    assert (engraved.fill, engraved.stroke) == ("#20262b", None)
    with pytest.raises(StepRefused, match="no colour for score"):
        step("set-operation", on, "a", shop=shop, operation="score")


def test_hidden_things_are_shown_or_taken_out():
    hidden = [Outline("off", square(5), Appearance(visible=False)), Outline("bare", square(5), Appearance(fill=None)), Outline("clear", square(5), Appearance(opacity=0))]  # fmt: skip
    (found,) = find_code("content.hidden", sheet(*hidden), workshop())
    assert set(found.steps) == {"drop-item", "reveal"}
    assert not find_code("content.hidden", step("reveal", sheet(*hidden)).sheet, workshop())
    assert step("drop-item", sheet(*hidden), *found.items).sheet.items == ()


def test_taken_apart_each_piece_keeps_its_counters_and_binding_puts_it_together_again():
    word = outline("word", concat(glyph_paths("Bob8i", "Arvo", 60)))
    apart = step("unbind", sheet(word))
    pieces = apart.sheet.outlines()
    assert [len(o.path) for o in pieces] == [3, 2, 2, 3, 1, 1]
    again = step("bind", apart.sheet, by="all").sheet.outlines()
    assert len(again) == 1
    whole = region(word.path, False, 0.01).symmetric_difference(region(again[0].path, False, 0.01))
    assert whole.area == pytest.approx(0, abs=1e-6)
    with pytest.raises(StepRefused, match="more than one piece"):
        step("unbind", sheet(outline("o", ring())))
    assert math.isclose(sum(len(o.path) for o in pieces), len(word.path))
