"""Each step of the registry, taken once and shown wherever steps are shown."""

import datetime
import json
from pathlib import Path

import pytest

from tests.builders import circle, glyph_paths, lettering, moved, outline, ring, sheet, square, workshop
from unkelt.geometry.path import concat, polygon
from unkelt.recipe import Call, Stage, apply
from unkelt.release.inspection import content
from unkelt.release.record import Record
from unkelt.report import mend_report
from unkelt.session.preview import preview
from unkelt.session.sentences import stage_caption
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import Group, Outline, Scale, Sheet, Source
from unkelt.steps.steps import STEPS
from unkelt.verdict.case import Case

PLAIN = {"bridge", "drop-guide", "expand-stroke", "join-ends", "close-subpath", "drop-shared-edge"}
"""Steps on lines of no colour that a key could know."""

KEYED = '[key]\ncut = ["#ff0000"]\nengrave = ["#000000"]\n'


def line(name, path, width=0.1, stroke="#000000"):
    return Outline(name, path, Appearance(fill=None, stroke=stroke, stroke_width_mm=width))


def opened(*corners):
    return polygon(*corners, closed=False)


def word(text="ab", family="Pacifico"):
    return [outline(f"l{n}", path) for n, path in enumerate(glyph_paths(text, family))]


TEXT = sheet(lettering("Sea"))
SQUARES = sheet(outline("a", square(20, 10, 10)), outline("b", square(20, 60, 12)))
ART = {
    "drop-guide": (sheet(*word("Seaquay", "Arvo"), line("guide", opened((10, 150), (600, 150)))), Call("drop-guide", ("guide",))),
    "drop-scraps": (sheet(outline("a", concat([square(20, 10, 10), square(0.05, 60, 10)]))), Call("drop-scraps")),
    "drop-duplicate": (sheet(outline("a", square()), outline("b", square())), Call("drop-duplicate")),
    "unify-colours": (sheet(outline("a", square(), "#fe0101")), Call("unify-colours")),
    "outline-text": (TEXT, Call("outline-text")),
    "restore-counters": (sheet(outline("a", circle(20, 50, 50)), outline("hole", circle(8, 50, 50))), Call("restore-counters", ("a", "hole"))),
    "orient-rings": (sheet(Outline("a", concat([circle(20, 50, 50), circle(8, 50, 50)]), Appearance(fill="#000000", even_odd=True))), Call("orient-rings")),
    "weld": (sheet(outline("a", square(20, 10, 10)), outline("b", square(20, 20, 20))), Call("weld")),
    "expand-stroke": (sheet(line("a", opened((10, 10), (50, 30)), 4)), Call("expand-stroke")),
    "join-ends": (sheet(line("a", opened((10, 10), (50, 30), (90, 10), (10.05, 10)))), Call("join-ends")),
    "bind": (sheet(*word("Sea", "Arvo")), Call("bind")),
    "resize": (SQUARES, Call("resize", options={"width": "100 mm"})),
    "reduce-nodes": (sheet(outline("a", circle(20, 60, 60, arcs=48))), Call("reduce-nodes")),
    "merge-nodes": (sheet(outline("a", polygon((0, 0), (20, 0), (20.002, 0.002), (20, 20), (0, 20)))), Call("merge-nodes")),
    "hairline": (sheet(line("a", square(), 0.2, "#ff0000")), Call("hairline")),
    "close-subpath": (sheet(line("a", opened((10, 10), (50, 30), (90, 10)))), Call("close-subpath")),
    "state-units": (Sheet((300, 200), SQUARES.items, Source(scale=Scale(False, 96))), Call("state-units", options={"units": "72 to the inch"})),
    "thicken": (sheet(outline("a", ring(20, 10, 50, 50))), Call("thicken", options={"amount": "1 mm"})),
    "fit-page": (SQUARES, Call("fit-page")),
    "add-lettering": (TEXT, Call("add-lettering", options={"text": "Thrift", "family": "Barlow"})),
    "add-shape": (SQUARES, Call("add-shape", options={"x": "20 mm", "y": "20 mm"})),
    "scale": (SQUARES, Call("scale", ("a",), options={"by": 2.0})),
    "duplicate": (SQUARES, Call("duplicate", ("a",))),
    "set-colour": (SQUARES, Call("set-colour", ("a",), options={"colour": "#ff0000"})),
    "set-stroke": (TEXT, Call("set-stroke", options={"width": "1 mm", "side": "inside", "colour": "#ff0000"})),
    "set-text": (TEXT, Call("set-text", options={"text": "Thrift"})),
    "set-face": (TEXT, Call("set-face", options={"height": "40 mm"})),
    "set-spacing": (TEXT, Call("set-spacing", options={"letters": "2 mm"})),
    "set-letters": (TEXT, Call("set-letters", options={"letters": "1", "lift": "2 mm"})),
    "stretch-text": (TEXT, Call("stretch-text", options={"letters": "1", "slant": 12.0})),
    "set-paragraph": (TEXT, Call("set-paragraph", options={"width": "200 mm", "align": "centre"})),
    "split-text": (TEXT, Call("split-text", options={"by": "letters"})),
    "join-text": (apply(Call("split-text", options={"by": "letters"}), TEXT, workshop()).sheet, Call("join-text")),
    "recover-text": (sheet(*word("Sea")), Call("recover-text")),
    "set-on-guide": (TEXT, Call("set-on-guide", options={"radius": "200 mm"})),
    "blunt-spikes": (sheet(outline("a", polygon((0, 0), (60, 1), (0, 2)))), Call("blunt-spikes")),
    "ease-corners": (sheet(outline("a", square(20))), Call("ease-corners", options={"radius": "2 mm"})),
    "edit-nodes": (sheet(outline("a", square(20))), Call("edit-nodes", ("a",), options={"edits": "move 1:1 22 0"})),
    "close-joint": (sheet(Group("w", (outline("a", square(20, 10, 10)), outline("b", square(18, 30.1, 11))))), Call("close-joint", options={"width": "2 mm"})),
    "drop-item": (SQUARES, Call("drop-item", ("a",))),
    "drop-shared-edge": (sheet(line("a", square(20)), line("b", square(20, 20))), Call("drop-shared-edge")),
    "unbind": (sheet(outline("a", concat([square(10), square(10, 30)]))), Call("unbind")),
    "set-operation": (SQUARES, Call("set-operation", ("a",), options={"operation": "cut"})),
    "reveal": (sheet(Outline("a", square(), Appearance(fill="#000000", visible=False))), Call("reveal")),
    "move": (SQUARES, Call("move", ("a",), options={"right": "1 mm"})),
    "rotate": (SQUARES, Call("rotate", ("a",), options={"angle": 30})),
    "shear": (SQUARES, Call("shear", ("a",), options={"angle": 10})),
    "mirror": (SQUARES, Call("mirror")),
    "align": (SQUARES, Call("align", ("a", "b"), options={"across": "middle"})),
    "stack": (SQUARES, Call("stack", ("a",), options={"place": "front"})),
    "rename": (SQUARES, Call("rename", ("a",), options={"name": "Bow"})),
    "group": (SQUARES, Call("group", ("a", "b"))),
    "ungroup": (sheet(Group("w", SQUARES.items)), Call("ungroup", ("w",))),
    "backing": (SQUARES, Call("backing", options={"distance": "3 mm"})),
    "border": (SQUARES, Call("border")),
    "knock-out": (sheet(outline("a", square(60)), outline("b", square(20, 10, 10))), Call("knock-out", ("b",), options={"out_of": "a"})),
    "let-in": (sheet(outline("plate", square(100, 0, 0)), outline("a", moved(glyph_paths("H", "Barlow", 60)[0], 0, -60))), Call("let-in", ("a",), options={"frame": "plate", "loose": True})),
    "bridge": (sheet(outline("a", ring(30, 20, 60, 60)), outline("b", circle(8, 60, 60))), Call("bridge")),
    "hang-ring": (sheet(outline("a", square(60, 60, 60))), Call("hang-ring", ("a",))),
    "spokes": (SQUARES, Call("spokes", ("a",), options={"count": 3})),
    "grid": (SQUARES, Call("grid")),
}  # fmt: skip


def test_all_steps_are_here():
    assert set(ART) == set(STEPS)


@pytest.mark.parametrize("name", ART)
def test_a_step_says_what_it_did_wherever_it_is_shown(name):
    on, call = ART[name]
    shop = workshop("" if name in PLAIN else KEYED)
    outcome = apply(call, on, shop)
    evidence = outcome.evidence
    assert type(evidence).__doc__
    stage = Stage(call, outcome.sheet, outcome)
    assert stage_caption(stage)
    shown = preview(call, on, shop)
    assert shown.refusal is None
    assert shown.proof == evidence.proof_lines()
    case = Case(Path("a.svg"), on, shop, (stage,))
    (said,) = json.loads(json.dumps(mend_report(case, "out.svg", (), (), ())))["steps"]
    assert said["evidence"] == json.loads(json.dumps(evidence.figures()))
    record = Record("a.svg", shop, on, outcome.sheet, (stage,), (), (), datetime.datetime(2026, 1, 1))
    done = next(table for table in content(record).tables if table.title == "What was done")
    ((title, words),) = done.rows
    assert title == STEPS[name].title
    assert words
    assert not any("None" in line for line in (words, stage_caption(stage), *evidence.proof_lines()))
