"""Engines and steps that lie: for each refusal in a judge there is a lie that nothing else stops.

With the refusal turned off, the test of it fails: the lie goes through.
"""

import re
from dataclasses import replace

import numpy as np
import pytest
import shapely
from fontTools.misc.transform import Transform

from tests.builders import circle, glyph_paths, moved, outline, ring, sheet, square, workshop
from unkelt.account.balance import Account, unexplained
from unkelt.account.changes import Change, Reason
from unkelt.account.declare import going
from unkelt.errors import GeometryRefused, StepRefused
from unkelt.formats.svg.write import write_svg
from unkelt.geometry.boolean import redrawing
from unkelt.geometry.boolean.engine import Operand
from unkelt.geometry.boolean.judge import Second, judged
from unkelt.geometry.boolean.weld import weld
from unkelt.geometry.cache import Cache, use
from unkelt.geometry.nesting import ring_nesting
from unkelt.geometry.offset import offset
from unkelt.geometry.offset.offset import offset_path, stroke_path
from unkelt.geometry.offset.pen import Pen
from unkelt.geometry.orient import orient_rings
from unkelt.geometry.path import concat, polygon
from unkelt.geometry.reduce import merge, reduce
from unkelt.geometry.reduce.reduce import reduce_nodes
from unkelt.geometry.region import region
from unkelt.mending import mend
from unkelt.recipe import Call, Stage, apply
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import FaceQuery, Lettering, Outline, Picture, Run
from unkelt.steps.evidence import Evidence
from unkelt.steps.step import Outcome
from unkelt.steps.steps import STEPS
from unkelt.tolerance import STANDARD
from unkelt.verdict.case import Case
from unkelt.verdict.judge import against, findings_of
from unkelt.verdict.painted import held_by, pictures_of


def rect(width, height, x=0.0, y=0.0):
    return polygon((x, y), (x + width, y), (x + width, y + height), (x, y + height))


CUT_CORNER = polygon((0.4, 0), (20, 0), (20, 20), (0, 20), (0, 0.4))
"""A square that lost 0.08 mm²: less than what rounding along its edges may come to, and far more than the chord
tolerance.
"""


@pytest.mark.parametrize(("made", "words"), [
    (square(20.5), "two engines disagree on the area"),
    (concat([rect(12, 20), rect(12, 20, 8)]), "depends on the fill rule"),
    (concat([rect(9.999, 20), rect(9.999, 20, 10.001)]), "pieces"),
    (CUT_CORNER, "the outline would move"),
])  # fmt: skip
def test_a_weld_engine_that_lies_is_refused(made, words):
    whole = square(20)
    sources, second = [ring_nesting(whole, 0.001)], Second.of([region(whole, False, 0.001)], STANDARD.sliver_mm2)

    def judge(result):
        return judged([ring_nesting(result, 0.001)], second, [sources], STANDARD)[0]

    assert judge(whole).deviation_mm <= STANDARD.chord_mm
    assert isinstance(judge(made), GeometryRefused)
    assert re.search(words, str(judge(made)))


def test_an_engine_that_changes_a_line_which_nothing_comes_near_is_asked_again_with_all_curves(monkeypatch):
    monkeypatch.setattr(
        "unkelt.geometry.boolean.chords.Chorded.restored", lambda _, made, *__, **___: [None] * len(made)
    )
    path, proof = weld([Operand(circle(20, 30, 30)), Operand(circle(20, 50, 30))], STANDARD)
    assert proof.area_mm2 == pytest.approx(region(path, False, 0.001).area, rel=1e-4)


def test_a_second_engine_that_lies_is_refused_by_the_winding():
    whole = circle(20, 30, 30)
    meant = [Operand(whole)]
    area = region(whole, False, 0.001)

    def wanted(places):
        return shapely.contains_xy(area, *places.T)

    assert len(redrawing.redrawn_along(area, meant, wanted, 0.001)) == 1
    with pytest.raises(GeometryRefused, match="follows no line"):
        redrawing.redrawn_along(region(circle(15, 30, 30), False, 0.001), meant, wanted, 0.001)
    with pytest.raises(GeometryRefused, match="fills other places"):
        redrawing.redrawn_along(area, meant, lambda places: ~wanted(places), 0.001)


@pytest.mark.parametrize(("lie", "words"), [
    (lambda path: path.select([0]), "the offset has"),
    (lambda path: moved(path, 1.0), "from the second engine's"),
    (lambda path: moved(path, 0.05), "would be out by"),
])  # fmt: skip
def test_an_offset_that_lies_is_refused(monkeypatch, lie, words):
    shape = ring(20, 12, 30, 30)
    honest, told = offset.trace, offset_path(shape, 3.0, STANDARD)
    assert told[1].max_deviation_mm <= STANDARD.chord_mm

    def lying(*given):
        found = honest(*given)
        path = lie(found.path)
        return replace(found, path=path, true=found.true[: len(path.points)])

    monkeypatch.setattr(offset, "trace", lying)
    with pytest.raises(GeometryRefused, match=words):
        offset_path(shape, 3.0, STANDARD)
    if words == "would be out by":
        with pytest.raises(GeometryRefused):
            stroke_path(circle(20, 30, 30), Pen(2.0), STANDARD)


def test_a_reduction_that_changes_what_lies_in_what_is_not_taken(monkeypatch):
    """A counter that is put outside its letter lies within its own certificate; only its place among the others says
    otherwise.
    """
    letter = concat([circle(20, 30, 30, arcs=48), circle(8, 30, 30, arcs=48).reversed()])
    assert reduce_nodes(letter, 0.02).path.node_count < 40
    honest = reduce._placed
    for lie in (lambda path: moved(path, 60), lambda path: path.reversed(), lambda path: moved(path, 16)):

        def lying(shape, part, lie=lie):
            made = honest(shape, part)
            return lie(made) if abs(region(made, False, 0.01).area) < 300 else made

        monkeypatch.setattr(reduce, "_placed", lying)
        use(Cache())
        found = reduce_nodes(letter, 0.02).path
        assert region(found, False, 0.01).area == pytest.approx(region(letter, False, 0.01).area, rel=1e-3)
        monkeypatch.setattr(reduce, "_placed", honest)
    use(Cache())


def test_a_reduction_that_flattens_one_ring_and_opens_another_is_not_taken(monkeypatch):
    """As many rings as before, in the same nesting: only which subpaths they are of says otherwise."""
    flat = polygon((80, 30), (90, 30))
    path = concat([circle(20, 30, 30, arcs=48), flat])
    monkeypatch.setattr(reduce, "_placed", lambda _, part: circle(5, 85, 30) if len(part.points) < 5 else flat)
    use(Cache())
    assert reduce_nodes(path, 0.02).path == path
    use(Cache())


def test_a_merge_that_crosses_a_neighbour_leaves_what_was(monkeypatch):
    """Two rings 5 µm apart: each may move by more than that, and must not cross the other."""
    pair = concat([rect(20, 20), rect(20, 20, 20.005)])
    monkeypatch.setattr(
        merge,
        "merge_micro",
        lambda path, _: (
            moved(path, 0.008)
            if len(path) == 1 and path.points[0, 0, 0] < 1
            else concat([moved(path.subpath(0), 0.008), path.subpath(1)])
            if len(path) == 2
            else path
        ),
    )
    found = merge.merged(pair, 0.05, 0.02)
    assert region(found.path, False, 0.001).area == pytest.approx(800, abs=1e-6)
    assert not shapely.intersection(*(region(part, False, 0.001) for part in found.path.subpaths())).area


LETTER = glyph_paths("e", "Arvo", 60)[0]
ART = sheet(
    Outline("below", rect(40, 30, 10, 10), Appearance(fill="#ff0000")),
    Outline("above", rect(40, 30, 30, 25), Appearance(fill="#0000ff")),
    Outline("pale", circle(10, 90, 20), Appearance(fill="#000000", fill_opacity=0.25)),
    Outline("wide", circle(12, 130, 30), Appearance(fill="#ffcc00", stroke="#000000", stroke_width_mm=2)),
    Outline("open", polygon((10, 100), (60, 120), (80, 90), closed=False), Appearance(fill=None, stroke="#00aa00", stroke_width_mm=0.1)),
    outline("letter", moved(LETTER, 100, 0)),
    outline("half", concat([square(20, 230, 10), polygon((230, 40), (260, 45), closed=False)])),
    Outline("line", rect(20, 20, 180, 20), Appearance(fill=None, stroke="#ff0000", stroke_width_mm=0.1)),
)  # fmt: skip


def changed(name, **what):
    return lambda on: on.replaced({name: (replace(on.find(name), **what),)})


def look(name, **what):
    return lambda on: on.replaced({name: (replace(on.find(name), look=replace(on.find(name).look, **what)),)})


LIES = {
    "an outline is gone": lambda on: on.replaced({"above": ()}),
    "an outline is another colour": look("above", fill="#00aa00"),
    "a counter is filled": changed("letter", path=moved(LETTER, 100, 0).select([0])),
    "a counter is turned": lambda on: on.replaced({"letter": (replace(on.find("letter"), path=moved(concat([p.reversed() if n else p for n, p in enumerate(LETTER.subpaths())]), 100, 0)),)}),
    "an outline has moved": changed("below", path=rect(40, 30, 10.5, 10)),
    "an outline is larger": changed("above", path=rect(40.3, 30, 30, 25)),
    "the order is another": lambda on: replace(on, items=(on.items[1], on.items[0], *on.items[2:])),
    "what is pale is opaque": look("pale", fill_opacity=1.0),
    "a stroke is gone": look("wide", stroke=None),
    "a stroke is thinner": look("wide", stroke_width_mm=1.7),
    "a fill is gone": look("wide", fill=None),
    "an open line is gone": lambda on: on.replaced({"open": ()}),
    "an open line is shorter": changed("open", path=polygon((10, 100), (60, 120), closed=False)),
    "an open line is closed": changed("open", path=polygon((10, 100), (60, 120), (80, 90))),
    "a hairline is gone": lambda on: on.replaced({"line": ()}),
    "a hairline is another colour": look("line", stroke="#0000ff"),
    "a line is there twice as large": changed("line", path=rect(40, 40, 180, 20)),
    "something is new": lambda on: replace(on, items=(*on.items, outline("new", square(5, 250, 150)))),
    "an open line without ink is gone": changed("half", path=square(20, 230, 10)),
    "a shape is slit, too narrow to see": changed("below", path=concat([rect(25, 30, 10, 10), rect(15 - 1e-4, 30, 35 + 1e-4, 10)])),
    "all of it is white": lambda on: on.mapped(lambda item: replace(item, look=replace(item.look, fill="#ffffff")) if isinstance(item, Outline) and item.look.fill else item),
}  # fmt: skip


@pytest.mark.parametrize("lie", LIES)
def test_a_step_that_lies_changes_nothing_and_is_named(lie, monkeypatch):
    """Balanced step by step; and where even that were off, the whole is, and the pictures are."""
    wrong = LIES[lie](ART)
    outcome = Outcome(wrong, tuple(item.id for item in ART.outlines()), Evidence(max_deviation_mm=0.0))
    monkeypatch.setitem(STEPS, "bind", replace(STEPS["bind"], function=lambda *_, **__: outcome))
    with pytest.raises(StepRefused, match="nothing was changed"):
        apply(Call("bind"), ART, workshop())
    case = Case(None, ART, workshop(), (Stage(Call("bind"), wrong, outcome),))
    assert "ink.lost" in {finding.code for finding in findings_of(case)}
    assert any(hold.startswith("ink.lost") for hold in against(findings_of(case), ()))


@pytest.mark.parametrize(("left_mm", "told"), [(0.0, 0), (0.15, 0), (0.5, 1)])
def test_what_is_left_of_a_declared_cut_counts_by_its_length(left_mm, told):
    """An edge of a tenth of a millimetre is no cut, and neither is what a declared one leaves at its end."""
    before = sheet(outline("a", concat([rect(10.1, 20, 20, 20), rect(10, 20, 30, 20)])))
    after = sheet(outline("a", concat([rect(9.999, 20, 20, 20), rect(10, 20, 30, 20)])))
    shop = workshop()
    where = shapely.box(29, 19, 31, 40 - left_mm - 0.024)
    said = Change(Reason.SLIT, where, (), 1.0, "mm²")
    left = unexplained(before, after, Account(shop.ticket, shop.shelf, shop.ticket.tolerance.chord_mm), (said,))
    assert len([each for each in left if each.unit == "mm"]) == told


@pytest.mark.parametrize("stem_mm", [0.5, 0.9, 3.0])
def test_a_cut_across_a_stem_is_seen_however_short(stem_mm):
    """Both ends of it lie on edges that were there before; only its middle is far from all of them."""
    before = sheet(outline("a", rect(stem_mm, 10, 20, 20)))
    after = sheet(outline("a", concat([rect(stem_mm, 5, 20, 20), rect(stem_mm, 5 - 0.002, 20, 25.002)])))
    shop = workshop()
    left = unexplained(before, after, Account(shop.ticket, shop.shelf, shop.ticket.tolerance.chord_mm))
    assert [(each.unit, each.lost) for each in left] == [("mm", False)]


@pytest.mark.parametrize(
    "lie", [name for name in LIES if not any(word in name for word in ("turned", "line", "thinner", "slit"))]
)
def test_a_picture_of_somebody_else_shows_the_lie(lie, tmp_path):
    wrong = LIES[lie](ART)
    outcome = Outcome(wrong, (), Evidence())
    case = Case(tmp_path / "a.svg", ART, workshop(), (Stage(Call("bind"), wrong, outcome),), received=write_svg(ART))
    assert held_by(pictures_of(case))


SAID = Lettering(
    "said", (Run("Tern", FaceQuery(("Barlow",)), 20.0, Appearance(fill="#000000")),), Transform(1, 0, 0, 1, 20, 60)
)
"""Live text, which no step may change unasked either."""


@pytest.mark.parametrize(
    "wrong",
    [
        replace(SAID, runs=(replace(SAID.runs[0], text="Bern"),)),
        replace(SAID, runs=(replace(SAID.runs[0], size_mm=21.0),)),
        replace(SAID, runs=(replace(SAID.runs[0], look=Appearance(fill="#ff0000")),)),
        replace(SAID, placement=Transform(1, 0, 0, 1, 21, 60)),
        replace(SAID, placement=Transform(-1, 0, 0, 1, 90, 60)),
    ],
    ids=["other words", "larger", "another colour", "moved", "mirrored"],
)
def test_live_text_is_never_changed_unasked(wrong, monkeypatch):
    _refused(SAID, wrong, monkeypatch)


@pytest.mark.parametrize("drawn", [(), (("T", square(12)),), (("T", square(10)), ("e", square(10, 20)))])
def test_curves_that_text_came_with_are_never_changed_unasked(drawn, monkeypatch):
    came = replace(SAID, drawn=(("T", square(10)),))
    _refused(came, replace(came, drawn=drawn), monkeypatch)


@pytest.mark.parametrize(
    "wrong",
    [
        {"reference": "other.png"},
        {"placement": Transform(1, 0, 0, 1, 11, 10)},
        {"placement": Transform(-1, 0, 0, 1, 60, 10)},
        {"opacity": 0.5},
        {"visible": False},
        {"fit": "none"},
    ],
)
def test_a_picture_on_the_sheet_is_never_changed_unasked(wrong, monkeypatch):
    shown = Picture("shown", (50.0, 30.0), Transform(1, 0, 0, 1, 10, 10), "photo.png")
    _refused(shown, replace(shown, **wrong), monkeypatch)


def _refused(text, wrong, monkeypatch):
    outcome = Outcome(sheet(wrong, page=(200, 100)), (text.id,), Evidence(max_deviation_mm=0.0))
    monkeypatch.setitem(STEPS, "bind", replace(STEPS["bind"], function=lambda *_, **__: outcome))
    with pytest.raises(StepRefused, match="nothing was changed"):
        apply(Call("bind"), sheet(text, page=(200, 100)), workshop())


def test_a_thing_declared_explains_no_more_than_itself(monkeypatch):
    """A step that says what it takes out, and takes something else as well."""
    shop = workshop()
    said = going(Reason.COPY, [ART.find("above")], shop.ticket, shop.shelf)
    wrong = ART.replaced({"above": (), "letter": ()})
    outcome = Outcome(wrong, ("above",), Evidence(max_deviation_mm=0.0), said)
    monkeypatch.setitem(STEPS, "bind", replace(STEPS["bind"], function=lambda *_, **__: outcome))
    with pytest.raises(StepRefused, match="#000000 would be lost"):
        apply(Call("bind"), ART, shop)


def test_rings_that_cross_are_not_turned():
    crossing = concat([square(20), square(20, 10, 10)])
    with pytest.raises(GeometryRefused, match="rings cross"):
        orient_rings(crossing, 0.01)


@pytest.fixture
def acute(monkeypatch):
    """Two outlines whose edges leave each other at an acute angle, and a reducer that moves each of them a little."""
    x = np.linspace(0, 40, 200).tolist()
    plain = {"a": [(0, 0), (40, 0), (40, 10), (0, 10)], "b": [(0, 2.6), (40, -2.6), (40, -12), (0, -12)]}
    moved = {"a": [(0, 0.017), (40, 0.017), (40, 10), (0, 10)], "b": [(0, 2.583), (40, -2.617), (40, -12), (0, -12)]}

    def reduce(on, items, *_, **__):
        new = {name: (replace(on.find(name), path=polygon(*moved[name])),) for name in items}
        return Outcome(on.replaced(new), items, Evidence(max_deviation_mm=0.017))

    def refuse(*_, **__):
        raise StepRefused("weld", "not today")

    monkeypatch.setitem(STEPS, "reduce-nodes", replace(STEPS["reduce-nodes"], function=reduce))
    monkeypatch.setitem(STEPS, "weld", replace(STEPS["weld"], function=refuse))
    edges = {"a": [(x, 0.0) for x in x], "b": [(x, 2.6 - 0.13 * x) for x in x]}
    return sheet(*(outline(name, polygon(*edges[name], *plain[name][2:])) for name in plain))


def test_two_steps_that_only_together_move_too_much_are_not_both_taken(acute):
    """The tip of the paper between them may go so far when either is moved; not twice as far when both are."""
    stages = mend(acute, workshop())
    [taken] = [stage.call.items for stage in stages if stage.outcome]
    refused = {
        stage.call.items: stage.skipped for stage in stages if stage.call.name == "reduce-nodes" and stage.skipped
    }
    assert {*taken, *(name for items in refused for name in items)} == {"a", "b"}
    assert [reason for reason in refused.values() if "with what other steps moved" in reason]
    case = Case(None, acute, workshop(), tuple(stages))
    assert "ink.lost" not in {finding.code for finding in findings_of(case)}
