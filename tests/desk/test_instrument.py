"""The window as one instrument: keys for everything, names for screen readers, contrast, units."""

import dataclasses
import itertools
import re
from contextlib import suppress

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, QRect, Qt, QTimer
from PySide6.QtGui import QAccessible, QColor, QImage, QMouseEvent, QPainter
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QApplication,
    QComboBox,
    QInputDialog,
    QLineEdit,
    QPushButton,
    QSlider,
)
from pytestqt.wait_signal import SignalEmittedError

from tests.builders import outline, ring, sheet, square, workshop
from tests.desk.hands import drawn, found, opened, settle
from unkelt import __version__
from unkelt.app.inside import parts
from unkelt.desk.app import make_application
from unkelt.desk.common.bars import Card
from unkelt.desk.common.canvas import LARGE
from unkelt.desk.common.drawing import Drawing, Lens
from unkelt.desk.common.loupe import LEAST, Loupe
from unkelt.desk.common.theme import DARK, LIGHT, THEME, set_text_size
from unkelt.desk.help.handbook import FOLDER
from unkelt.desk.table.ruling import RULER
from unkelt.desk.table.table import LightTable
from unkelt.desk.views import View
from unkelt.desk.window import Desk
from unkelt.formats.svg.write import write_svg
from unkelt.recipe import Call
from unkelt.session.actions import ACTIONS
from unkelt.session.dimensions import dimensions
from unkelt.session.settings import read_settings, text_step
from unkelt.session.snapping import GuideLine
from unkelt.session.viewport import Viewport
from unkelt.session.working_file import open_working, save_working
from unkelt.survey.checks import CHECKS


def test_every_action_can_be_done_by_key_or_from_the_command_list(desk, qtbot, quay):
    opened(qtbot, desk, quay / "kittiwake.svg")
    assert set(desk.actions_by_id) == {action.id for action in ACTIONS}
    keys = [key.toString() for action in desk.actions_by_id.values() for key in action.shortcuts()]
    assert len(keys) == len(set(keys)), "a key that means two things does neither"

    def choose():
        listed = QApplication.activeModalWidget()
        qtbot.keyClicks(listed.wanted, "rec rem")
        assert [
            listed.list.item(row).data(Qt.ItemDataRole.AccessibleTextRole) for row in range(listed.list.count())
        ] == ["Remove the step, Recipe Ctrl+Backspace"]
        qtbot.keyClick(listed.wanted, Qt.Key.Key_Return)  # there is no step yet: nothing is done
        assert listed.isVisible()
        listed.wanted.clear()
        qtbot.keyClicks(listed.wanted, "thicken")
        qtbot.keyClick(listed.wanted, Qt.Key.Key_Return)

    QTimer.singleShot(0, choose)
    qtbot.keyClick(desk, Qt.Key.Key_J, Qt.KeyboardModifier.ControlModifier)
    assert desk.view.name == "COMPOSE"
    settle(qtbot, desk)


CONTROLS = (QAbstractButton, QLineEdit, QComboBox, QAbstractItemView, QSlider, LightTable, Loupe)


@pytest.mark.parametrize("view", ["intake", "inspect", "compose", "proof", "release"])
def test_a_screen_reader_is_told_what_every_control_is(qtbot, desk, quay, view):
    """By Qt's own accessibility interface."""
    opened(qtbot, desk, quay / "kittiwake.svg")
    desk.turn_to(View[view.upper()])
    settle(qtbot, desk)
    shown = [w for kind in CONTROLS for w in desk.findChildren(kind) if w.isVisible()]
    assert len(shown) > 8
    for widget in shown:
        if isinstance(widget.parent(), QComboBox | QAbstractItemView) or widget.objectName().startswith("qt_"):
            continue  # a part of a control
        told = QAccessible.queryAccessibleInterface(widget)
        assert told.text(QAccessible.Text.Name).strip(), (type(widget).__name__, widget.objectName(), widget.toolTip())


def test_lengths_are_read_in_inches_by_choice_and_that_is_remembered(qtbot, desk, quay, tmp_path):
    desk.settings_path = tmp_path / "unkelt" / "settings.toml"
    opened(qtbot, desk, quay / "kittiwake.svg")
    qtbot.keyClick(desk, Qt.Key.Key_U)
    ink = dimensions(desk.room.inspecting.table.drawing.ink, desk.state.job.ticket, desk.room.inspecting.table.unit)
    assert [line.label for line in ink][:2] == ["ink 34.045 in", "ticket 35.433 in"]  # 864.75 and 900 mm
    qtbot.mouseMove(desk.room.inspecting.table, QPoint(300, 300))
    assert desk.room.inspecting.place.text().endswith(" in")
    again = Desk(None, desk.settings_path)
    qtbot.addWidget(again)
    assert again.room.inspecting.table.unit.name == "in"
    desk.settings_path.write_text("unit = 'ell'")
    assert Desk(None, desk.settings_path).settings.unit == "mm"


def count(image, value, left=0.0, right=1.0):
    """How many pixels of a colour lie between two shares of the width."""
    wanted = QColor(value).rgb()
    xs = range(round(left * image.width()), round(right * image.width()))
    return sum(image.pixel(x, y) == wanted for x in xs for y in range(image.height()))


def unlike(one, other):
    """The share of pixels that differ by more than rounding."""
    same = [image.convertToFormat(QImage.Format.Format_RGB32) for image in (one, other)]  # kept while they are read
    a, b = (np.frombuffer(image.constBits(), np.uint8).astype(int) for image in same)
    return float((np.abs(a - b) > 4).mean())


def test_the_original_is_compared_behind_a_line_in_turn_and_as_a_difference(qtbot, desk, tmp_path):
    path = tmp_path / "two.svg"
    path.write_bytes(
        write_svg(sheet(outline("a", square(60, 10, 60)), outline("b", square(60, 150, 60)), page=(220, 180)))
    )
    opened(qtbot, desk, path)
    desk.room.looking.lens_ink()
    desk.state.stepping.apply(Call("move", ("a",), options={"right": "20 mm"}))
    settle(qtbot, desk)
    desk.state.stepping.apply(Call("drop-item", ("b",)))
    settle(qtbot, desk)
    table = desk.room.inspecting.table
    right = table.grab().toImage()
    assert not count(right, "#000000", 0.6)
    qtbot.keyClick(desk, Qt.Key.Key_W)  # wipe: nothing of the original to the right of the line
    assert not count(table.grab().toImage(), "#000000", 0.6)
    at = QPoint(round(table.comparison.share * table.view.width_px) + RULER, 300)
    qtbot.mousePress(table, Qt.MouseButton.LeftButton, pos=at)
    move = QMouseEvent(
        QEvent.Type.MouseMove,
        QPointF(600, 300),
        QPointF(table.mapToGlobal(QPoint(600, 300))),
        Qt.MouseButton.NoButton,
        Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
    )
    QApplication.sendEvent(table, move)
    qtbot.mouseRelease(table, Qt.MouseButton.LeftButton, pos=QPoint(600, 300))
    assert count(table.grab().toImage(), "#000000", 0.6), "b is there again, behind the line"
    qtbot.keyClick(desk, Qt.Key.Key_W)  # in turn
    first = table.grab().toImage()
    qtbot.waitUntil(lambda: table.grab().toImage() != first, timeout=5000)
    qtbot.keyClick(desk, Qt.Key.Key_W)  # the difference: b and a strip of a are gone, a strip of a is new
    image = table.grab().toImage()
    gone, new = count(image, THEME.palette.hold), count(image, THEME.palette.accent)
    assert gone / new == pytest.approx((60 * 60 + 20 * 60) / (20 * 60), rel=0.15)
    qtbot.keyClick(desk, Qt.Key.Key_W)
    assert table.grab().toImage() == right


def test_a_large_sheet_is_drawn_behind_and_comes_out_the_same(qtbot, desk, tmp_path):
    many = sheet(
        *(outline(f"r{k}", ring(9, 5, 12 + 22 * (k % 30), 12 + 22 * (k // 30))) for k in range(900)), page=(670, 670)
    )
    path = tmp_path / "many.svg"
    path.write_bytes(write_svg(many))
    opened(qtbot, desk, path)
    table = desk.room.inspecting.table
    drawing = table.drawing
    assert not drawing.quick(LARGE, table.lens, table.view)
    table.show_findings((), None)
    drawn(qtbot, desk)
    behind = table.grab().toImage()
    whole = QImage(behind.size(), behind.format())
    whole.fill(QColor(THEME.palette.table))
    painter = QPainter(whole)
    painter.translate(RULER, RULER)
    drawing.paint(painter, table.view, table.lens, THEME.palette)
    painter.end()
    inside = QRect(RULER + 2, RULER + 2, 400, 400)
    assert unlike(behind.copy(inside), whole.copy(inside)) < 0.001
    table.sight.pan(40, 25)
    moved = table.grab().toImage()  # at once, before it is drawn anew
    part = QRect(RULER + 60, RULER + 60, 300, 300)
    assert unlike(moved.copy(part.translated(40, 25)), behind.copy(part)) < 0.001
    table.sight.zoom(6)
    drawn(qtbot, desk)
    assert not table.canvas.busy
    assert len(table.view.seen(drawing.boxes)) < 90


@pytest.mark.parametrize("scale", [10, 1000, 5000])
def test_lines_stand_where_they_are_to_a_thousandth_of_a_millimetre(scale, qapp):
    make_application()
    drawing = Drawing(sheet(outline("b", square(300, 450.0013, 300.0017)), page=(900, 900)), workshop())
    view = Viewport(600, 600, scale, 450.0013 - 333 / scale, 300.0017 - 200 / scale)
    image = QImage(600, 600, QImage.Format.Format_RGB32)
    image.fill(QColor("#ffffff"))
    painter = QPainter(image)
    drawing.paint(painter, view, Lens.BLADE, LIGHT, page=False)
    painter.end()
    dark = [
        min(range(600), key=lambda x: image.pixelColor(x, 400).lightness()),
        min(range(600), key=lambda y: image.pixelColor(500, y).lightness()),
    ]
    assert dark == [pytest.approx(333, abs=1), pytest.approx(200, abs=1)]


def test_space_moves_the_sheet_true_size_is_true_and_the_guide_says_what_a_finding_means(qtbot, desk, quay):
    opened(qtbot, desk, quay / "kittiwake.svg")
    qtbot.keyClick(desk, Qt.Key.Key_9)
    assert desk.room.inspecting.table.view.scale == pytest.approx(desk.room.inspecting.table.physicalDpiX() / 25.4)
    before = desk.room.inspecting.table.view
    qtbot.keyPress(desk.room.inspecting.table, Qt.Key.Key_Space)
    qtbot.mousePress(desk.room.inspecting.table, Qt.MouseButton.LeftButton, pos=QPoint(200, 200))
    move = QMouseEvent(
        QEvent.Type.MouseMove,
        QPointF(260, 230),
        QPointF(desk.room.inspecting.table.mapToGlobal(QPoint(260, 230))),
        Qt.MouseButton.NoButton,
        Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
    )
    QApplication.sendEvent(desk.room.inspecting.table, move)
    qtbot.mouseRelease(desk.room.inspecting.table, Qt.MouseButton.LeftButton, pos=QPoint(260, 230))
    qtbot.keyRelease(desk.room.inspecting.table, Qt.Key.Key_Space)
    assert (before.x - desk.room.inspecting.table.view.x) * before.scale == pytest.approx(60)
    qtbot.keyClick(desk, Qt.Key.Key_G)
    assert desk.room.inspecting.table.grid

    desk.state.surveying.choose(found(desk).index("path.open"))
    settle(qtbot, desk)
    qtbot.mouseClick(desk.room.inspecting.panel.explain, Qt.MouseButton.LeftButton)
    guide = desk.room.helping._guide
    assert guide.isVisible()
    assert guide.text.textCursor().block().text() == "path.open"
    assert guide.text.cursorRect().top() < 60
    guide.list.setCurrentRow(0)
    assert guide.text.toPlainText().startswith("The first job, in five minutes")
    qtbot.waitUntil(lambda: not guide.text._coming)  # its pictures come one by one
    assert all(picture.pixelColor(picture.rect().center()).alpha() == 255 for picture in guide.text._pictures.values())
    guide.close()


def test_the_guide_is_searched_for_words(qtbot, desk):
    desk.room.helping.show_guide()
    guide = desk.room.helping._guide
    qtbot.keyClicks(guide.wanted, "life ring")
    shown = [guide.pages[row].stem for row in range(guide.list.count()) if not guide.list.isRowHidden(row)]
    assert "job-life-ring" in shown
    assert "words" not in shown
    first = guide.text.textCursor()
    assert first.selectedText().casefold() == "life ring"
    qtbot.keyClick(guide.wanted, Qt.Key.Key_Return)
    assert guide.text.textCursor().position() != first.position() or guide.text.textCursor() != first
    guide.wanted.setText("no such words")
    assert guide.nowhere.isVisibleTo(guide)
    guide.wanted.clear()
    assert not any(guide.list.isRowHidden(row) for row in range(guide.list.count()))
    guide.close()


def test_what_is_inside_is_told_with_its_licences():
    inside = {part.name: part for part in parts()}
    assert inside["Unkelt"].version == __version__
    assert {"numpy", "shapely", "PySide6_Essentials"} <= set(inside)
    assert all(part.licence for part in inside.values())


def test_the_guide_has_a_page_for_every_code_and_all_its_pictures():
    pages = {page.name: page.read_text(encoding="utf-8") for page in FOLDER.glob("*.md")}
    for check in CHECKS:
        for code in check.codes:
            assert f"### {code}\n" in pages["5-findings.md"]
    for name, text in pages.items():
        for picture in re.findall(r"!\[[^]]*\]\(([^)]+)\)", text):
            assert (FOLDER / picture).resolve().is_file(), (name, picture)


def luminance(colour):
    """Relative luminance, WCAG 2.2, "relative luminance"."""
    parts = [int(colour[at : at + 2], 16) / 255 for at in (1, 3, 5)]
    linear = [part / 12.92 if part <= 0.04045 else ((part + 0.055) / 1.055) ** 2.4 for part in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def contrast(one, other):
    """Contrast ratio, WCAG 2.2."""
    light, dark = sorted((luminance(one), luminance(other)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


def test_the_formula_gives_what_the_standard_says():
    assert contrast("#ffffff", "#000000") == pytest.approx(21)
    assert contrast("#777777", "#ffffff") == pytest.approx(4.48, abs=0.01)  # the published example that just fails


@pytest.mark.parametrize("palette", [LIGHT, DARK], ids=["light", "dark"])
def test_contrast_by_wcag_aa(palette):
    """Text 4.5 to 1 (success criterion 1.4.3), marks and edges of controls 3 to 1 (1.4.11)."""
    grounds = (palette.panel, palette.raised, palette.table)
    for ink, ground in itertools.product((palette.text, palette.muted, palette.accent, palette.hold), grounds):
        assert contrast(ink, ground) >= 4.5, (ink, ground)
    for ink, ground in (
        (palette.on_accent, palette.accent),
        (palette.text, palette.accent_soft),
        (palette.accent, palette.accent_soft),
        (palette.muted, palette.accent_soft),
        (palette.hold, palette.hold_soft),
        (palette.text, palette.hold_soft),
    ):
        assert contrast(ink, ground) >= 4.5, (ink, ground)
    for mark, ground in itertools.product(
        (palette.hold, palette.warn, palette.note, palette.accent, palette.art_line), (*grounds, palette.page)
    ):
        assert contrast(mark, ground) >= 3, (mark, ground)
    assert all(value.startswith("#") and len(value) == 7 for value in dataclasses.asdict(palette).values())


@pytest.mark.parametrize("view", ["intake", "inspect", "compose", "proof", "release"])
def test_every_view_fits_a_small_screen_whatever_the_name(qtbot, desk, quay, tmp_path, view):
    path = tmp_path / f"{'a name that nobody should have given to a file ' * 4}.svg"
    path.write_bytes((quay / "kittiwake.svg").read_bytes())
    opened(qtbot, desk, path)
    desk.turn_to(View[view.upper()])
    settle(qtbot, desk)
    desk.resize(1024, 700)
    assert (desk.width(), desk.height()) == (1024, 700)
    assert desk.room.head.title.toolTip() == path.stem
    assert desk.room.bar.lamps.geometry().right() <= 1024


def test_a_fault_while_drawing_is_logged_and_nobody_waits_for_ever(qtbot, desk, tmp_path, monkeypatch, caplog):
    many = sheet(
        *(outline(f"r{k}", ring(9, 5, 12 + 22 * (k % 30), 12 + 22 * (k // 30))) for k in range(900)), page=(670, 670)
    )
    (tmp_path / "many.svg").write_bytes(write_svg(many))
    tried = []

    def paint(*given, **named):
        tried.append(given)
        raise MemoryError("no ink")

    monkeypatch.setattr(Drawing, "paint", paint)
    desk.state.opening.open_paths([tmp_path / "many.svg"])
    settle(qtbot, desk)
    desk.room.inspecting.table.grab()
    qtbot.waitUntil(lambda: bool(tried) and not desk.room.inspecting.table.canvas.busy, timeout=20_000)
    count = len([given for given in tried if given[2] == desk.room.inspecting.table.view])
    desk.room.inspecting.table.grab()
    qtbot.wait(100)
    assert len([given for given in tried if given[2] == desk.room.inspecting.table.view]) == count, (
        "it is not tried again and again"
    )
    assert "a fault while drawing" in caplog.text
    monkeypatch.undo()


def test_a_finding_that_is_chosen_takes_nothing_from_what_is_tried_in_compose(qtbot, desk, quay):
    """As when the survey ends after the trial: it chooses the first finding."""
    opened(qtbot, desk, quay / "kittiwake.svg")
    desk.turn_to(View.COMPOSE)
    settle(qtbot, desk)
    compose = desk.room.compose
    compose.choose(0)
    desk.room.composer.set_step("thicken")
    settle(qtbot, desk)
    desk.state.surveying.choose(2)
    settle(qtbot, desk)
    qtbot.mouseClick(compose.card.apply, Qt.MouseButton.LeftButton)
    settle(qtbot, desk)
    assert [stage.call.name for stage in desk.state.job.stages] == ["thicken"]


def test_escape_takes_back_what_is_being_dragged(qtbot, desk, quay):
    opened(qtbot, desk, quay / "kittiwake.svg")
    desk.turn_to(View.COMPOSE)
    settle(qtbot, desk)
    compose, table = desk.room.compose, desk.room.compose.table
    desk.state.on_desk.lay_guides((GuideLine("x", 150.0),))
    compose.choose(0)
    desk.room.composer.set_step("move")
    settle(qtbot, desk)
    left = Qt.MouseButton.LeftButton

    def begin(start, *places):
        table.mousePressEvent(
            QMouseEvent(
                QEvent.Type.MouseButtonPress,
                start,
                table.mapToGlobal(start),
                left,
                left,
                Qt.KeyboardModifier.NoModifier,
            )
        )
        for place in places:
            table.mouseMoveEvent(
                QMouseEvent(
                    QEvent.Type.MouseMove, place, table.mapToGlobal(place), left, left, Qt.KeyboardModifier.NoModifier
                )
            )

    def px(x, y):
        across, down = table.view.to_px(x, y)
        return QPointF(across + RULER, down + RULER)

    (handle,) = table.hand.handles.places
    begin(px(handle.x, handle.y), px(handle.x + 40, handle.y + 25))
    settle(qtbot, desk)
    assert compose.options.values()
    qtbot.keyClick(table, Qt.Key.Key_Escape)
    settle(qtbot, desk)
    (again,) = table.hand.handles.places
    assert (again.x, again.y) == pytest.approx((handle.x, handle.y), abs=0.01)
    begin(px(150, 380), px(170, 380))
    qtbot.keyClick(table, Qt.Key.Key_Escape)
    assert desk.state.job.guides == (GuideLine("x", 150.0),)
    was = table.view
    begin(px(400, 390), px(400, 390) + QPointF(60, 30))
    assert table.view != was
    qtbot.keyClick(table, Qt.Key.Key_Escape)
    assert table.view == was
    assert table.hand.gesture is None


def test_guide_lines_come_out_of_the_rulers_and_go_back_into_them(qtbot, desk, quay):
    opened(qtbot, desk, quay / "kittiwake.svg")
    table = desk.room.inspecting.table
    press, move, release = (table.mousePressEvent, table.mouseMoveEvent, table.mouseReleaseEvent)

    def drag(*places, keys=Qt.KeyboardModifier.NoModifier):
        kinds = (
            QEvent.Type.MouseButtonPress,
            *[QEvent.Type.MouseMove] * (len(places) - 2),
            QEvent.Type.MouseButtonRelease,
        )
        for kind, place, do in zip(kinds, places, (press, *[move] * (len(places) - 2), release), strict=True):
            left = Qt.MouseButton.LeftButton
            do(QMouseEvent(kind, place, table.mapToGlobal(place), left, left, keys))

    drag(QPointF(300, 10), QPointF(300, 150), QPointF(300, 200))
    (guide,) = desk.state.job.guides
    assert guide.axis == "y"
    assert guide.mm == pytest.approx(table.view.to_mm(0, 150 - RULER)[1], abs=0.5)
    drag(QPointF(10, 300), QPointF(200, 300), QPointF(200, 300))
    assert [each.axis for each in desk.state.job.guides] == ["y", "x"]
    assert desk.room.compose.table.hand.guides == desk.state.job.guides
    drag(QPointF(200, 400), QPointF(100, 400), QPointF(10, 400))  # back into the ruler
    assert [each.axis for each in desk.state.job.guides] == ["y"]
    desk.room.laying.clear_guides()
    assert desk.state.job.guides == table.hand.guides == ()
    was = table.view.scale
    drag(QPointF(200, 200), QPointF(260, 240), QPointF(260, 240), keys=Qt.KeyboardModifier.ShiftModifier)
    assert table.view.scale > was  # a frame is looked at closely


def test_guide_lines_are_kept_in_the_working_file_and_can_be_typed(qtbot, desk, quay, tmp_path, monkeypatch):
    opened(qtbot, desk, quay / "kittiwake.svg")
    said = iter([("x 12.5 mm", True), ("sideways", True), ("y 1 in", False)])
    monkeypatch.setattr(QInputDialog, "getText", lambda *_given, **_named: next(said))
    for _ in range(3):
        desk.room.laying.add_guide()
    assert desk.state.job.guides == (GuideLine("x", 12.5),)
    assert "x or y" in desk.message.words.text()
    save_working(desk.state.job, tmp_path / "a.unkelt")
    assert open_working(tmp_path / "a.unkelt", desk.state.job.workshop.shelf)[0].guides == (GuideLine("x", 12.5),)


def test_what_is_dragged_is_caught_by_a_guide_line_unless_snapping_is_off(qtbot, desk, quay):
    opened(qtbot, desk, quay / "kittiwake.svg")
    desk.turn_to(View.COMPOSE)
    settle(qtbot, desk)
    view, table = desk.room.compose, desk.room.compose.table
    desk.state.on_desk.lay_guides((GuideLine("x", 150.0),))
    view.choose(0)
    desk.room.composer.set_step("move")
    settle(qtbot, desk)
    (handle,) = table.hand.handles.places
    table.hand.handle_dragged.emit(handle, 150.0 + table.sight.reach_mm / 2, 3.21)
    settle(qtbot, desk)
    assert table.hand.handles.places[0].x == pytest.approx(150, abs=0.01)
    desk.room.laying.look_snap()
    table.hand.handle_dragged.emit(table.hand.handles.places[0], 150.0 + table.sight.reach_mm / 2, 3.21)
    settle(qtbot, desk)
    assert table.hand.handles.places[0].x == pytest.approx(150 + table.sight.reach_mm / 2, abs=0.01)


def test_a_frame_in_the_composing_view_chooses_what_lies_in_it(qtbot, desk, quay):
    opened(qtbot, desk, quay / "kittiwake.svg")
    desk.turn_to(View.COMPOSE)
    settle(qtbot, desk)
    width, height = desk.state.job.shown.page_mm
    desk.room.compose.table.hand.encircled.emit([(0, 0), (width, 0), (width, height), (0, height)])
    everything = len(desk.room.compose.chosen())
    assert everything > 3
    first = desk.room.compose.entries[0].box
    desk.room.compose.table.hand.encircled.emit(
        [
            (first[0] - 1, first[1] - 1),
            (first[2] + 1, first[1] - 1),
            (first[2] + 1, first[3] + 1),
            (first[0] - 1, first[3] + 1),
        ]
    )
    assert 0 < len(desk.room.compose.chosen()) < everything


def test_text_grows_by_key_and_stays_within_its_parts(qtbot, quay, tmp_path):
    desk = Desk(settings_path=tmp_path / "settings.toml")
    qtbot.addWidget(desk)
    desk.show()
    opened(qtbot, desk, quay / "kittiwake.svg")
    small = desk.room.inspecting.docket.mend.font().pointSizeF()
    try:
        desk.actions_by_id["text_larger"].trigger()
        desk.actions_by_id["text_larger"].trigger()
        qtbot.waitUntil(lambda: not desk.is_furnished)
        desk.actions_by_id["lens_nodes"].trigger()  # asked for while nobody is there to do it
        settle(qtbot, desk)
        assert desk.room.inspecting.table.lens is Lens.NODES
        assert desk.room.inspecting.docket.mend.font().pointSizeF() == pytest.approx(1.3 * small, abs=0.1)
        for view in ("inspect", "intake", "compose"):
            desk.turn_to(View[view.upper()])
            settle(qtbot, desk)
            assert desk.width() == 1280
            for button in desk.findChildren(QPushButton):
                if button.isVisible() and not isinstance(button, Card):
                    assert button.fontMetrics().horizontalAdvance(button.text()) <= button.width(), button.text()
        assert read_settings(tmp_path / "settings.toml").text == "130"
    finally:
        set_text_size(1.0)


def comes_to_rest(qtbot, signal):
    """Waits until a signal is silent for a while, however long a busy machine takes to get there."""
    for _ in range(40):
        with suppress(SignalEmittedError), qtbot.assertNotEmitted(signal, wait=60):
            return
    raise AssertionError("it goes to and fro")


def test_the_proof_stands_above_the_buttons_wherever_there_is_room_for_it(desk, qtbot, quay):
    desk.resize(1280, 800)
    opened(qtbot, desk, quay / "kittiwake.svg")
    desk.state.surveying.choose([each.code for each in desk.state.findings].index("overlap.items"))
    settle(qtbot, desk)
    panel = desk.room.inspecting.panel
    bar, shown = panel.area.verticalScrollBar(), panel.area.viewport().rect()
    assert panel.proofbox.isVisible()
    assert not bar.isVisible()
    assert panel.proofbox.mapTo(panel.area.viewport(), panel.proofbox.rect().bottomRight()).y() < shown.bottom()
    assert LEAST <= panel.now.height() < panel.now.width()  # for which the pictures gave way
    desk.resize(1280, 700)
    settle(qtbot, desk)
    qtbot.waitUntil(bar.isVisible)
    assert panel.now.height() == LEAST
    desk.resize(1280, 1000)
    settle(qtbot, desk)
    qtbot.waitUntil(lambda: panel.now.height() >= panel.now.width() - 1)
    assert not bar.isVisible()
    for height in (760, 787, 820, 822, 826, 830, 841):  # nothing goes to and fro
        desk.resize(1280, height)
        comes_to_rest(qtbot, panel.inside.asks)


def test_the_next_size_of_text_is_counted_from_the_systems_own():
    assert text_step("system", 1.1, 1) == "130"
    assert text_step("system", 1.0, -1) == "100"
    assert text_step("200", 1.0, 1) == "200"


def test_true_size_is_true_once_a_ruler_was_held_against_the_screen(desk, qtbot, quay, tmp_path):
    desk.settings_path = tmp_path / "settings.toml"
    opened(qtbot, desk, quay / "sea-thrift.svg")

    def read_the_ruler():
        dialog = QApplication.activeModalWidget()
        dialog.field.setText("3 mm")
        qtbot.keyClick(dialog.field, Qt.Key.Key_Return)
        assert dialog.isVisible()
        assert "on any screen" in dialog.wrong.text()
        dialog.field.setText("100 mm")
        qtbot.keyClick(dialog.field, Qt.Key.Key_Return)

    QTimer.singleShot(200, read_the_ruler)
    desk.actions_by_id["measure_screen"].trigger()
    assert desk.room.inspecting.table.view.scale == pytest.approx(4.0)  # a line of 400 pixels is 100 mm long
    desk.room.inspecting.table.sight.zoom(3)
    desk.actions_by_id["zoom_true"].trigger()
    assert desk.room.inspecting.table.view.scale == pytest.approx(4.0)
    assert list(read_settings(desk.settings_path).screens.values()) == [4.0]
