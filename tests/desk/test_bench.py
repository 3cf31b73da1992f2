"""The bench in the window: nothing happens unasked, every gesture is one step, and all of it goes by keys, too."""

import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from tests.desk.hands import opened, settle
from tests.desk.person import CTRL, LEFT, NONE, PLAIN, Person
from unkelt.desk.beginning import NewSheetDialog
from unkelt.desk.intake.key import KeyDialog
from unkelt.desk.table.trial import Seen
from unkelt.desk.views import View
from unkelt.geometry.measure import bounds
from unkelt.session.colours import Colour
from unkelt.session.reading import MM
from unkelt.session.shop import Shop
from unkelt.sheet.appearance import Operation
from unkelt.steps.steps import STEPS

ART = """<svg xmlns="http://www.w3.org/2000/svg" width="300mm" height="200mm" viewBox="0 0 300 200">
<rect id="frame" x="20" y="20" width="260" height="160" fill="none" stroke="#000000" stroke-width="0.2"/>
<path id="plate" d="M60 60h80v50h-80z" fill="#000000"/><path id="loose" d="M200 60L240 90L200 120" fill="none" stroke="#0000ff"/>
<text id="name" x="150" y="160" font-family="Barlow" font-size="24">Tern</text></svg>"""


@pytest.fixture
def person(qtbot, desk, tmp_path):
    desk.resize(1280, 800)
    (tmp_path / "art.svg").write_text(ART)
    opened(qtbot, desk, tmp_path / "art.svg")
    desk.turn_to(View.COMPOSE)
    settle(qtbot, desk)
    return Person(qtbot, desk)


def taken(person):
    return [stage.call.name for stage in person.desk.state.job.stages]


def box(person, item):
    return bounds(person.desk.state.job.sheet.find(item).path)


def test_choosing_and_applying_try_nothing(person):
    for item in ("plate", "loose", "name"):
        person.compose.layers.pick([item], more=False)
        person.done()
        assert person.desk.state.preview is None
        assert person.compose.table.trying.trial is None
    person.compose.layers.pick(["plate"], more=False)
    person.step("Add a backing")
    assert person.compose.table.trying.trial is not None
    dimensions = person.compose.table.drawing.ink
    assert person.compose.table.trying.ink[0] < dimensions[0] or person.compose.table.trying.ink == dimensions
    person.apply()
    assert person.compose.table.trying.trial is None
    assert not person.compose.setting
    assert taken(person) == ["backing"]


def test_a_trial_is_flipped_by_a_key_and_left_by_another(person):
    person.compose.layers.pick(["plate"], more=False)
    person.step("Make bolder or thinner")
    trying = person.compose.table.trying
    person.desk.room.compose.table.setFocus()
    for seen in (Seen.NOW, Seen.THEN, Seen.BOTH):
        person.key(Qt.Key.Key_B)
        assert trying.seen is seen
    person.key(Qt.Key.Key_Escape)
    assert trying.trial is None
    assert taken(person) == []


def test_a_refusal_stands_beside_the_buttons_with_what_would_help(person, qtbot, tmp_path):
    filled_but_open = '<path id="flag" d="M120 70h60v30h-60zM200 30h30v20h-30" fill="#000000"/></svg>'
    (tmp_path / "flag.svg").write_text(ART.replace("</svg>", filled_but_open))
    opened(qtbot, person.desk, tmp_path / "flag.svg")
    person.desk.turn_to(View.COMPOSE)
    settle(qtbot, person.desk)
    person.compose.layers.pick_all(["plate", "flag"])
    person.step("Weld")
    card = person.compose.card
    assert card.refusal.isVisible()
    assert not card.apply.isEnabled()
    assert card.out.text() == STEPS["close-subpath"].title
    person.click(card.out)
    assert card.name == "close-subpath"
    person.apply()
    assert taken(person) == ["close-subpath"]


def test_dragged_by_its_inside_its_corner_and_its_ring_each_is_one_step(person):
    person.desk.room.composer.gripping.snapping = False
    person.at(100, 80)
    assert [entry.id for entry in person.compose.chosen()] == ["plate"]
    person.drag((100, 80), (120, 90))
    person.drag(person.grip("bottom-right"), person.grip("bottom-right") + QPoint(60, 20))
    person.drag(person.grip("turn"), person.grip("turn") + QPoint(80, 30))
    assert taken(person) == ["move", "scale", "rotate"]
    person.key(Qt.Key.Key_Z, CTRL)
    x0, y0, x1, y1 = box(person, "plate")
    assert (x1 - x0) / (y1 - y0) == pytest.approx(80 / 50, abs=1e-3)
    assert (x0, y0) == pytest.approx((80, 70), abs=0.6)
    assert box(person, "frame") == pytest.approx((20, 20, 280, 180))  # its neighbours stay


def test_what_is_not_chosen_yet_is_dragged_at_once_and_ctrl_leaves_a_copy(person):
    person.desk.room.composer.gripping.snapping = False
    person.drag((100, 80), (130, 80))
    assert taken(person) == ["move"]
    # Qt's test tools don't hold keys during moves: the application is asked which are down
    assert len(person.desk.state.job.sheet.outlines()) == 3
    person.key(Qt.Key.Key_D, CTRL)
    assert len(person.desk.state.job.sheet.outlines()) == 4
    assert [entry.id for entry in person.compose.chosen()] == ["plate-2"]


def test_escape_ends_a_drag_as_if_it_had_not_begun(person):
    table = person.compose.table
    person.at(100, 80)
    a, b = person.px(100, 80), person.px(130, 100)
    QTest.mousePress(table, LEFT, PLAIN, a)
    for at in (a + QPoint(20, 0), b):
        QApplication.sendEvent(
            table, QMouseEvent(QEvent.Type.MouseMove, QPointF(at), QPointF(table.mapToGlobal(at)), NONE, LEFT, PLAIN)
        )
    assert table.hand.framed.held is not None
    QTest.keyClick(table, Qt.Key.Key_Escape)
    QTest.mouseRelease(table, LEFT, PLAIN, b)
    person.done()
    assert table.hand.framed.held is None
    assert taken(person) == []


def test_arrows_nudge_in_one_step_and_back_again_in_none(person):
    person.at(100, 80)
    for key, keys in (
        (Qt.Key.Key_Right, PLAIN),
        (Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier),
        (Qt.Key.Key_Left, CTRL),
    ):
        person.key(key, keys)
    (stage,) = person.desk.state.job.stages
    assert stage.call.options == {"right": "0.9 mm", "down": "10 mm"}


def test_words_are_typed_on_the_table_and_corrected_there(person):
    person.key(Qt.Key.Key_T)
    field = person.desk.room.writing.field
    assert field.isVisible()
    QTest.keyClicks(field, "Quay")
    person.qtbot.waitUntil(lambda: person.compose.table.trying.trial is not None)
    QTest.keyClick(field, Qt.Key.Key_Return)
    person.done()
    assert [text.text for text in person.desk.state.job.sheet.letterings()] == ["Tern", "Quay"]
    person.desk.room.writing.correct("name")
    assert field.text() == "Tern"
    QTest.keyClicks(field, "Terns")
    QTest.keyClick(field, Qt.Key.Key_Return)
    person.done()
    assert taken(person) == ["add-lettering", "set-text"]
    person.key(Qt.Key.Key_T)
    QTest.keyClicks(field, "x")
    QTest.keyClick(field, Qt.Key.Key_Escape)
    person.done()
    assert not field.isVisible()
    assert taken(person) == ["add-lettering", "set-text"]


def test_a_shape_is_drawn_on_the_table(person):
    person.desk.room.hands.begin_shape("circle")
    person.drag((220, 150), (220, 165))
    (stage,) = person.desk.state.job.stages
    assert stage.call.name == "add-shape"
    x0, _, x1, _ = box(person, "circle")
    assert x1 - x0 == pytest.approx(30, abs=1)
    assert not person.compose.table.hand.drawing


def test_a_second_target_is_clicked_on_the_table(person):
    person.at(100, 80)
    person.step("Knock out of another outline")
    assert person.compose.hint.isVisible()
    person.at(20, 100)
    assert person.compose.options.written("out_of") == "frame"
    assert not person.compose.hint.isVisible()
    assert [entry.id for entry in person.compose.chosen()] == ["plate"]


def test_colour_and_operation_of_many_at_once(person):
    person.key(Qt.Key.Key_A, CTRL)
    person.colour(person.compose.box.paint, "#0000ff")
    assert {o.look.colour for o in person.desk.state.job.sheet.outlines()} == {"#0000ff"}
    assert taken(person) == ["set-colour"]


def test_rows_are_ordered_renamed_hidden_and_shown_alone(person):
    layers = person.compose.layers
    person.compose.layers.pick(["frame"], more=False)
    layers.moved.emit(["frame"], "plate", "")
    person.done()
    assert [o.id for o in person.desk.state.job.sheet.outlines()] == ["plate", "frame", "loose"]
    layers.renamed.emit("plate", "Deck")
    person.done()
    assert person.desk.state.job.sheet.find("plate").label == "Deck"
    layers.pick(["frame"], more=False)
    person.key(Qt.Key.Key_I)
    assert layers.hidden == {"plate", "loose", "name"}
    assert [o.id for o in person.compose.table.drawing.sheet.outlines()] == ["frame"]


def test_a_job_goes_by_keys_alone(person):
    """Chosen, moved, a step found, its field filled, applied, undone: without a pointer."""
    person.compose.items.setFocus()
    person.key(Qt.Key.Key_Down)
    person.key(Qt.Key.Key_Up)
    assert [entry.id for entry in person.compose.chosen()] == ["name"]
    person.key(Qt.Key.Key_Slash)
    QTest.keyClicks(person.desk.focusWidget(), "outlines curves")
    person.key(Qt.Key.Key_Return)
    assert person.compose.card.name == "outline-text"
    QTest.keyClick(person.compose.card.apply, Qt.Key.Key_Space)
    person.done()
    assert taken(person) == ["outline-text"]
    person.key(Qt.Key.Key_A, CTRL)
    person.key(Qt.Key.Key_Slash)
    QTest.keyClicks(person.desk.focusWidget(), "scale")
    person.key(Qt.Key.Key_Return)
    person.fill(person.option("width"), "200 mm")
    assert taken(person) == ["outline-text", "scale"]
    person.compose.table.setFocus()
    person.key(Qt.Key.Key_Delete)
    assert taken(person)[-1] == "drop-item"
    person.key(Qt.Key.Key_Z, CTRL)
    assert taken(person) == ["outline-text", "scale"]


def test_a_new_sheet_is_asked_for_in_one_dialog(person, tmp_path):
    dialog = NewSheetDialog(person.desk, Shop(tmp_path), MM)
    person.qtbot.addWidget(dialog)
    dialog._make()
    assert dialog.wrong.text() == "Type the words, or give the page a size."
    dialog.words.setText("Hollin Quay")
    dialog.length.setText("3 in")
    dialog._take_face(next(face for face in dialog._shelf.faces if face.name == "Barlow Bold"))
    dialog._make()
    assert (dialog.wanted.family, dialog.wanted.weight, dialog.wanted.height) == ("Barlow", 700, "3 in")
    person.desk.state.opening.begin(dialog.wanted, None, tmp_path)
    person.done()
    assert person.desk.state.job.title == "Hollin Quay"
    assert person.desk.state.job.sheet.letterings()[0].runs[0].face.weight == 700


def test_the_key_takes_any_colour(qtbot):
    dialog = KeyDialog(None, [Colour("#000000", 1, Operation.CUT)])
    qtbot.addWidget(dialog)
    dialog.add_colour("#0000cc")
    dialog.choices["#0000cc"].setCurrentIndex(dialog.choices["#0000cc"].findData(Operation.SCORE))
    assert dialog.said == {"#000000": (Operation.CUT, ""), "#0000cc": (Operation.SCORE, "")}


def test_inches_reach_sentences_and_fields(person):
    person.at(100, 80)
    try:
        person.key(Qt.Key.Key_U)
        assert person.compose.box.fields["w"].text() == "3.15 in"
        person.fill(person.compose.box.fields["w"], "4")
        x0, _, x1, _ = box(person, "plate")
        assert x1 - x0 == pytest.approx(101.6)
    finally:
        person.key(Qt.Key.Key_U)
    assert person.compose.box.fields["w"].text() == "101.6 mm"


def test_letters_are_picked_on_the_table_and_spread_by_a_handle(person):
    person.compose.layers.pick(["name"], more=False)
    person.step("Kern, move or swap letters")
    person.on("Tern")
    first = person.compose.options.written("letters")
    assert first in {"1", "2", "3", "4"}
    person.key(Qt.Key.Key_Escape)
    person.step("Set the spacing")
    (handle,) = person.compose.table.hand.handles.places
    person.desk.room.composer.gripping.drag(handle, handle.x + 9, handle.y)
    person.done()
    person.apply()
    assert person.desk.state.job.sheet.letterings()[0].runs[0].letter_spacing_mm == pytest.approx(3, abs=0.2)
    person.step("Set the spacing")
    assert person.compose.options.written("letters") != ""  # what is so already stays


def test_text_slides_along_a_line_by_its_handle(person):
    person.compose.layers.pick(["name"], more=False)
    person.step("Set on a circle or path")
    person.segment("shape", "path")
    person.at(20, 100)
    handle, tip = person.compose.table.hand.handles.places
    person.desk.room.composer.gripping.snapping = False
    person.desk.room.composer.gripping.drag(handle, 20, 60)
    person.done()
    handle, tip = person.compose.table.hand.handles.places
    assert handle.y == pytest.approx(60, abs=1)
    person.desk.room.composer.gripping.drag(tip, tip.x - 7, tip.y)
    person.done()
    assert abs(float(person.compose.options.written("away").split()[0])) == pytest.approx(7, abs=0.01)
    assert person.desk.state.preview.refusal is None


def test_delete_takes_out_the_node_that_is_picked(person):
    person.compose.layers.pick(["plate"], more=False)
    person.step("Edit the nodes by hand")
    node = person.compose.table.hand.handles.places[1]
    person.at(node.x, node.y)
    person.compose.table.setFocus()
    person.key(Qt.Key.Key_Delete)
    assert person.compose.options.written("edits") == f"take-out {node.name}"
