"""A step that nobody knew before: declared here, listed in the registry, and found everywhere that steps are."""

import importlib.util
import json
from collections import Counter
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Annotated

import pytest
from fontTools.misc.transform import Identity
from PySide6.QtCore import Qt

from tests.desk.hands import found, opened, settle
from unkelt.account.changes import Reason
from unkelt.cli import main
from unkelt.desk.common.bars import Card
from unkelt.desk.views import View
from unkelt.recipe import Call, Recipe, dump_recipe, read_recipe
from unkelt.sheet.change import transformed
from unkelt.sheet.model import Outline
from unkelt.steps.evidence import Evidence
from unkelt.steps.grip import Grip, Handle, Handles, written_mm
from unkelt.steps.step import On, Outcome, Purpose, step, targets
from unkelt.steps.steps import STEPS

ROOT = Path(__file__).parents[2]
ART = """<svg xmlns="http://www.w3.org/2000/svg" width="120mm" height="80mm" viewBox="0 0 120 80">
<path d="M10 10H60V40" fill="#000"/></svg>"""


@dataclass(frozen=True, kw_only=True)
class Swung(Evidence):
    """Outlines that were swung aside, and how far (mm)."""

    outlines: int
    aside_mm: float


def _boom(held):
    return Handles((Handle("boom", held.middle[0] + held["aside"], held.middle[1], "how far it swings"),))


def _swing(held, handle, to, _along):
    return {"aside": written_mm(held["aside"] + to[0] - handle.x)}


@step(
    "swing-aside",
    "Swing it aside",
    on=On.OUTLINES,
    purpose=Purpose.SHAPE,
    redraws=Reason.RESHAPED,
    grip=Grip(_boom, _swing),
    hints=lambda _sheet, chosen: {"aside": f"{len(chosen) + 2} mm"},
)
def swing_aside(sheet, items, workshop, *, aside: Annotated[float, "how far to the right"] = 2.0) -> Outcome:
    """Swings outlines to the right. Made up for a test."""
    ids = tuple(each.id for each in targets("swing-aside", sheet, items, Outline))
    moved = transformed(sheet, Identity.translate(aside, 0), strokes=False, items=ids)
    return Outcome(moved, ids, Swung(outlines=len(ids), aside_mm=aside))


@pytest.fixture
def known(monkeypatch):
    monkeypatch.setitem(STEPS, swing_aside.name, replace(swing_aside, cures=("path.open:apart",)))


@pytest.fixture
def art(tmp_path):
    path = tmp_path / "boom.svg"
    path.write_text(ART)
    return path


def test_it_is_offered_set_dragged_and_taken_in_the_window(qtbot, desk, known, art):
    opened(qtbot, desk, art)
    desk.state.surveying.choose(found(desk).index("path.open"))
    settle(qtbot, desk)
    assert desk.room.inspecting.panel.choice.findData("swing-aside") > 0  # after the step that was there before
    desk.turn_to(View.COMPOSE)
    settle(qtbot, desk)
    compose = desk.room.compose
    compose.choose(0)
    qtbot.keyClicks(compose.steps.search, "swing")
    assert compose.steps.names() == ["swing-aside"]
    qtbot.keyClick(compose.steps.search, Qt.Key.Key_Return)
    settle(qtbot, desk)
    assert compose.options.control("aside").text() == "3 mm"
    (handle,) = compose.table.hand.handles.places
    compose.table.hand.handle_dragged.emit(handle, handle.x + 4, handle.y)
    settle(qtbot, desk)
    assert compose.options.control("aside").text() == "7 mm"
    qtbot.mouseClick(compose.card.apply, Qt.MouseButton.LeftButton)
    settle(qtbot, desk)
    (stage,) = desk.state.job.stages
    assert stage.outcome.evidence == Swung(outlines=1, aside_mm=7.0)
    assert "Swing it aside" in [card.name for card in desk.room.strip.findChildren(Card)]


def test_a_recipe_takes_it_and_the_command_line_says_so(known, art, tmp_path, capsys):
    recipe = tmp_path / "swing.toml"
    recipe.write_text(dump_recipe(Recipe((Call("swing-aside", options={"aside": "5 mm"}),))))
    assert read_recipe(recipe).calls[0].options == {"aside": "5 mm"}
    main(["check", str(art), "--json"])
    assert "swing-aside" in json.loads(capsys.readouterr().out)["files"][0]["findings"][0]["steps"]
    main(["mend", str(art), "--recipe", str(recipe), "-o", str(tmp_path / "out.svg"), "--json"])
    (taken,) = json.loads(capsys.readouterr().out)["steps"]
    assert (taken["step"], taken["evidence"]["aside_mm"]) == ("swing-aside", 5.0)


def test_the_reference_describes_it(known):
    spec = importlib.util.spec_from_file_location("make_reference", ROOT / "docs" / "make_reference.py")
    reference = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(reference)
    assert "## `swing-aside`\n\nSwings outlines to the right." in reference.steps_page()
    assert "| `aside` | length | `2.0` | how far to the right |" in reference.steps_page()
    (row,) = [line for line in reference.findings_page().splitlines() if "`path.open`" in line]
    assert "`swing-aside`" in row


TWINS = {
    "unkelt.steps.align": "both order things by their ink",
    "unkelt.steps.close_ends": "the two ways of closing a line",
    "unkelt.steps.copies": "the same copies, about a centre or in rows",
    "unkelt.steps.drop": "both take items out whole",
    "unkelt.steps.line": "both paint a line as the key wants it",
    "unkelt.steps.operation": "both say what an outline is for",
    "unkelt.steps.organise": "names and groups, no geometry",
    "unkelt.steps.place": "one placing of everything chosen, by four matrices",
    "unkelt.steps.split_text": "each undoes the other",
}
"""Modules of more than one step, and why."""


def test_a_module_holds_one_step_or_twins():
    count = Counter(each.function.__module__ for each in STEPS.values())
    assert {module for module, steps in count.items() if steps > 1} == set(TWINS)


def test_what_a_step_cures_some_check_finds():
    source = {path: path.read_text() for path in (ROOT / "src/unkelt/survey").glob("*.py")}
    for each in STEPS.values():
        for cure in each.cures:
            code, _, case = cure.partition(":")
            assert any(f'"{code}"' in text and f'"{case}"' in text for text in source.values()) or not case, cure
