"""Lettering handled in the window: faces and forms chosen by their pictures, the guide dragged, a name put right."""

from PySide6.QtCore import QEvent, QPoint, QPointF, Qt, QTimer
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QApplication, QComboBox, QDialog

from tests.desk.hands import found, opened, settle
from unkelt.desk.table.sight import ROOM_PX
from unkelt.desk.views import View
from unkelt.job.ticket import read_ticket
from unkelt.lettering.setting import set_lettering
from unkelt.sheet.model import Lettering

MISSING = """<svg xmlns="http://www.w3.org/2000/svg" width="200mm" height="80mm" viewBox="0 0 200 80">
<text x="20" y="50" font-family="Quayside Script" font-size="24">Tern</text></svg>"""


def choose(desk, step):
    desk.room.composer.set_step(step)


def pick(desk, *ids):
    """Chooses these items in the ledger and nothing else."""
    desk.room.compose.items.clearSelection()
    for row, entry in enumerate(desk.room.compose.entries):
        if entry.id in ids:
            desk.room.compose.choose(row)


def click(qtbot, view, row):
    view.scrollTo(view.model().index(row, 0))
    at = view.visualRect(view.model().index(row, 0)).center()
    qtbot.mouseClick(view.viewport(), Qt.MouseButton.LeftButton, pos=at)


def drag(widget, to):
    """A move with the button held, which Qt's own test tools leave out."""
    left, none = Qt.MouseButton.LeftButton, Qt.MouseButton.NoButton
    at, there = QPointF(to), QPointF(widget.mapToGlobal(to))
    move = QMouseEvent(QEvent.Type.MouseMove, at, there, none, left, Qt.KeyboardModifier.NoModifier)
    QApplication.sendEvent(widget, move)


def text_on(desk) -> Lettering:
    (text,) = desk.state.job.sheet.letterings()
    return text


def test_a_missing_face_is_chosen_from_pictures_of_the_word(desk, qtbot, tmp_path):
    source = tmp_path / "tern.svg"
    source.write_text(MISSING)
    opened(qtbot, desk, source)
    desk.state.surveying.choose(found(desk).index("text.font-missing"))
    settle(qtbot, desk)
    assert "yours to choose" in desk.state.preview.refusal
    faces = desk.room.inspecting.panel.options.faces
    qtbot.keyClicks(faces.filter, "pacif")
    assert faces.list.model().rowCount() == 1
    click(qtbot, faces.list, 0)
    settle(qtbot, desk)
    assert desk.room.inspecting.panel.options.control("family").text() == "Pacifico"
    qtbot.mouseClick(desk.room.inspecting.panel.here, Qt.MouseButton.LeftButton)
    settle(qtbot, desk)
    assert "text.font-missing" not in found(desk)
    assert text_on(desk).runs[0].face.families == ("Pacifico",)


def test_a_letter_is_swapped_by_its_picture_and_nudged_by_key(desk, qtbot, quay):
    opened(qtbot, desk, quay / "sea-thrift.svg")
    desk.turn_to(View.COMPOSE)
    settle(qtbot, desk)
    choose(desk, "set-letters")
    before = [glyph.glyph for glyph in set_lettering(text_on(desk), desk.state.job.workshop.shelf).glyphs]
    options = desk.room.compose.options
    click(qtbot, options.letters, 5)  # r, the seventh character
    assert options.control("letters").text() == "7"
    captions = [options.forms.item(row).text() for row in range(options.forms.count())]
    assert captions[0] == "as it is"
    click(qtbot, options.forms, captions.index("final form"))
    field = options.control("lift")
    qtbot.keyClick(field, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    qtbot.keyClick(field, Qt.Key.Key_Up)
    qtbot.keyClick(field, Qt.Key.Key_Down, Qt.KeyboardModifier.ControlModifier)
    assert field.text() == "1.09 mm"
    settle(qtbot, desk)
    qtbot.mouseClick(desk.room.compose.card.apply, Qt.MouseButton.LeftButton)
    settle(qtbot, desk)
    (stage,) = desk.state.job.stages
    assert stage.call.options == {"letters": "7", "features": "fina", "lift": "1.09 mm"}
    after = [glyph.glyph for glyph in set_lettering(text_on(desk), desk.state.job.workshop.shelf).glyphs]
    assert [a != b for a, b in zip(before, after, strict=True)] == [at == 6 for at in range(len(before))]


def test_a_name_on_an_arc_typed_set_dragged_outlined_welded_and_put_right(desk, qtbot, quay):
    """The guide is dragged on the table; outlined and welded, the name is taken back, corrected, and all is taken
    again.
    """
    opened(qtbot, desk, quay / "kittiwake.svg")
    desk.turn_to(View.COMPOSE)
    settle(qtbot, desk)
    desk.room.compose.items.clearSelection()
    choose(desk, "add-lettering")
    desk.room.compose.options.put({"text": "Sandpeiper", "family": "Pacifico", "height": "60 mm"})
    settle(qtbot, desk)
    qtbot.mouseClick(desk.room.compose.card.apply, Qt.MouseButton.LeftButton)
    settle(qtbot, desk)
    name = text_on(desk).id
    pick(desk, name)
    choose(desk, "set-on-guide")
    desk.room.compose.options.put({"radius": "500 mm"})
    settle(qtbot, desk)
    table = desk.room.compose.table
    rim = next(handle for handle in table.hand.handles.places if handle.name == "rim")
    start = QPoint(*(round(v + 26) for v in table.view.to_px(rim.x, rim.y)))
    qtbot.mousePress(table, Qt.MouseButton.LeftButton, pos=start)
    for step in range(1, 5):
        drag(table, start + QPoint(0, -12 * step))
    end = start + QPoint(0, -48)
    qtbot.mouseRelease(table, Qt.MouseButton.LeftButton, pos=end)
    radius = float(desk.room.compose.options.control("radius").text().removesuffix(" mm"))
    assert abs(radius - 500 - 48 / table.view.scale) < 1 / table.view.scale
    rim = next(handle for handle in table.hand.handles.places if handle.name == "rim")
    assert abs(table.view.to_px(rim.x, rim.y)[1] + 26 - end.y()) <= 1.5
    settle(qtbot, desk)
    for step in ("", "outline-text", "weld", "bind"):
        if step:
            pick(desk, *[e.id for e in desk.room.compose.entries if e.what == "live text" or e.origin])
            choose(desk, step)
        settle(qtbot, desk)
        assert desk.state.preview.refusal is None
        qtbot.mouseClick(desk.room.compose.card.apply, Qt.MouseButton.LeftButton)
        settle(qtbot, desk)
    assert [stage.call.name for stage in desk.state.job.stages] == [
        "add-lettering",
        "set-on-guide",
        "outline-text",
        "weld",
        "bind",
    ]
    (welded,) = [item for item in desk.state.job.sheet.outlines() if item.origin]
    pick(desk, welded.id)
    qtbot.mouseClick(desk.room.compose.back, Qt.MouseButton.LeftButton)
    settle(qtbot, desk)
    assert desk.state.job.looking_at == 2
    assert desk.room.compose.card.name == "set-text"
    desk.room.compose.options.put({"text": "Sandpiper"})
    settle(qtbot, desk)
    qtbot.mouseClick(desk.room.compose.card.apply, Qt.MouseButton.LeftButton)
    settle(qtbot, desk)
    again = [item for item in desk.state.job.sheet.outlines() if item.origin]
    assert [stage.call.name for stage in desk.state.job.stages][2:] == ["set-text", "outline-text", "weld", "bind"]
    assert [item.letters for item in again] == ["Sandpiper"]
    assert all(stage.outcome for stage in desk.state.job.stages)


def test_what_a_colour_is_for_is_said_once_and_saved_with_the_ticket(desk, qtbot, quay, tmp_path, monkeypatch):
    opened(qtbot, desk, quay / "tags.svg")
    assert "line.colour-unknown" in found(desk)
    saved = tmp_path / "key.toml"
    monkeypatch.setattr("unkelt.desk.filing.QFileDialog.getSaveFileName", lambda *_: (str(saved), ""))

    def answer():
        dialog = desk.findChild(QDialog)
        boxes = {box.accessibleName(): box for box in dialog.findChildren(QComboBox)}
        box = boxes["What #c03a8f is for"]
        box.setCurrentText("score")
        dialog.accept()

    QTimer.singleShot(200, answer)
    desk.room.filing.set_colours()
    settle(qtbot, desk)
    ticket = desk.state.job.ticket
    assert ticket.key["#c03a8f"] == "score"
    assert len([f for f in desk.state.findings if f.code == "line.colour-unknown"]) == 0
    desk.room.filing.save_ticket()
    assert read_ticket(saved).key == ticket.key
    assert read_ticket(saved).name == "Berth tags"


def test_a_recipe_is_run_from_the_window_and_what_is_no_recipe_is_said(qtbot, desk, quay, monkeypatch):
    opened(qtbot, desk, quay / "film-name.svg")
    monkeypatch.setattr("unkelt.desk.filing.QFileDialog.getOpenFileName", lambda *_: (str(quay / "film-name.toml"), ""))
    desk.actions_by_id["run_recipe"].trigger()
    settle(qtbot, desk)
    assert not desk.state.job.stages
    assert "film-name.toml" in desk.message.words.text()
    starts = []

    def chosen(_window, _title, start, _kinds):
        starts.append(start)
        return start, ""

    monkeypatch.setattr("unkelt.desk.filing.QFileDialog.getOpenFileName", chosen)
    qtbot.keyClick(desk, Qt.Key.Key_R, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    settle(qtbot, desk)
    assert starts == [str(quay / "film-name-recipe.toml")]  # the one that lies beside the job
    names = [stage.call.name for stage in desk.state.job.stages]
    assert names[0] == "set-text"
    assert {"backing", "mirror", "fit-page"} <= set(names)
    sight = desk.room.inspecting.table.sight  # the page is another one now, and is shown as a whole
    assert sight.view == sight.view.fitted(sight.everything, ROOM_PX, sight.foot)
    sight.zoom(2.0)
    closer = sight.view
    qtbot.keyClick(desk, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    settle(qtbot, desk)
    assert [stage.call.name for stage in desk.state.job.stages] == names[:-1]
    assert sight.view == closer  # somebody looks there
