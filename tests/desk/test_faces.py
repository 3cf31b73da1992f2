"""The list of faces in the window: families opened, marked, looked for, picked; sliders; faces installed meanwhile."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QApplication

from tests.desk.hands import opened, settle
from tests.lettering.faces import shelf_of_many
from tests.lettering.test_shelf import variable
from unkelt.desk.common.face_list import BUTTON, ROW, Shelved
from unkelt.desk.common.theme import px
from unkelt.desk.views import View
from unkelt.lettering.faces import Shelf
from unkelt.lettering.index import faces_in
from unkelt.session.face_list import FaceBook

WORDS = """<svg xmlns="http://www.w3.org/2000/svg" width="300mm" height="200mm" viewBox="0 0 300 200">
<text id="t" x="60" y="100" font-family="Barlow" font-size="30">Tern</text></svg>"""


@pytest.fixture
def options(desk, qtbot, tmp_path, monkeypatch):
    monkeypatch.setattr(Shelved, "book", FaceBook())
    path = tmp_path / "tern.svg"
    path.write_text(WORDS)
    opened(qtbot, desk, path)
    desk.state.on_desk.use_shelf(shelf_of_many())
    desk.turn_to(View.COMPOSE)
    settle(qtbot, desk)
    desk.room.compose.layers.pick(["t"], more=False)
    desk.room.composer.set_step("set-face")
    settle(qtbot, desk)
    return desk.room.compose.options


def names(faces):
    model = faces.list.model()
    return [model.index(row, 0).data() for row in range(model.rowCount())]


def press(qtbot, faces, row, button=None):
    """A row, or one of the buttons at its right."""
    rect = faces.list.visualRect(faces.list.model().index(row, 0))
    places = {None: rect.center(), "mark": QPoint(rect.right() - px(BUTTON) // 2 - 6, rect.top() + px(BUTTON) // 2 + 5)}
    places["turn"] = QPoint(rect.right() - px(BUTTON) // 2 - 6, rect.bottom() - px(BUTTON) // 2)
    qtbot.mouseClick(faces.list.viewport(), Qt.MouseButton.LeftButton, pos=places[button])
    qtbot.wait(20)


def test_the_family_that_is_set_shows_its_faces_and_others_open_by_hand_and_by_key(options, qtbot, desk):
    faces = options.faces
    assert names(faces)[:4] == ["Barlow", "Medium", "SemiBold", "Bold"]
    assert faces.list.sizeHintForRow(0) == px(ROW)
    row = names(faces).index("Dancing Script")
    faces.list.scrollTo(faces.list.model().index(row, 0))
    press(qtbot, faces, row, "turn")
    assert names(faces)[row + 1] == "Bold"
    faces.list.setCurrentIndex(faces.list.model().index(row, 0))
    qtbot.keyClick(faces.list, Qt.Key.Key_Left)
    assert "Bold" not in names(faces)[row + 1 :][:1]
    press(qtbot, faces, names(faces).index("Dancing Script"), None)
    settle(qtbot, desk)
    assert options.written("family") == "Dancing Script"
    assert desk.state.preview.refusal is None


def test_marked_and_used_families_come_first_and_filters_narrow_the_list(options, qtbot):
    faces = options.faces
    row = names(faces).index("Vollkorn")
    faces.list.scrollTo(faces.list.model().index(row, 0))
    press(qtbot, faces, row, "mark")
    assert names(faces)[0] == "Vollkorn"
    assert Shelved.book.marked == ("Vollkorn",)
    script = next(action for action in faces.narrow.menu().actions() if action.text() == "Script")
    script.trigger()
    assert {"Pacifico", "Sacramento"} <= set(names(faces))
    assert "Vollkorn" not in names(faces)
    assert faces.narrow.text() == "1"
    qtbot.keyClicks(faces.filter, "saCra")
    assert names(faces) == ["Sacramento"]
    press(qtbot, faces, 0)
    assert options.written("family") == "Sacramento"
    assert Shelved.book.recent[0] == "Sacramento"


def test_a_face_installed_meanwhile_appears_and_its_axes_have_sliders(options, qtbot, desk, tmp_path):
    variable(tmp_path / "tidewrack.ttf")
    desk.state.opening.reshelved.emit(Shelf([*shelf_of_many().faces, *faces_in(tmp_path / "tidewrack.ttf")]))
    desk.state.on_desk.use_shelf(Shelf([*shelf_of_many().faces, *faces_in(tmp_path / "tidewrack.ttf")]))
    qtbot.keyClicks(options.faces.filter, "tide")
    assert names(options.faces)[0].startswith("Tidewrack")
    press(qtbot, options.faces, 0)
    settle(qtbot, desk)
    options._turn_fold()
    QApplication.processEvents()
    (slider,) = options.axes.sliders.values()
    assert (slider.minimum(), slider.maximum(), slider.accessibleName()) == (400, 700, "Weight")
    slider.setValue(550)
    assert options.written("axes") == "wght 550"
