"""What keeps the window answering: pictures drawn a little at a time, tables asked for what is seen, long steps on
request.
"""

import sys
import time

import pytest
from PySide6.QtCore import QLineF, QPointF, Qt, QTimer
from PySide6.QtGui import QColor, QPainter, QPen
from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget

from tests.builders import moved, outline, ring, sheet, square, workshop
from tests.desk.hands import opened, settle
from unkelt.desk.app import make_application
from unkelt.desk.common import layer, worker
from unkelt.desk.common.canvas import Canvas, blank
from unkelt.desk.common.drawing import AT_ONCE, Drawing, Lens
from unkelt.desk.common.marks import draw_marks
from unkelt.desk.common.proof_box import FigureRows, ProofBox
from unkelt.desk.common.theme import LIGHT
from unkelt.desk.common.worker import AFTER_MS, Bench, after_this_turn
from unkelt.desk.compose.figures import Figures
from unkelt.desk.compose.layers import Layers
from unkelt.desk.faults import tell_faults
from unkelt.desk.views import View
from unkelt.geometry.path import concat
from unkelt.session import entries
from unkelt.session.reading import MM
from unkelt.session.viewport import Viewport
from unkelt.survey.finding import Level, Question


def stroke(painter, at):
    painter.setPen(QPen(QColor("red"), 1.5))
    painter.drawLine(QLineF(5, 3 * at + 5, 190, 3 * at + 9))


def picture(made, view, key, count):
    image = blank(view, 1.0)
    painter = QPainter(image)
    done = made.paint(painter, view, key, count, stroke)
    painter.end()
    return image, done


def test_a_layer_is_drawn_a_little_at_a_time_and_comes_out_whole(qapp, monkeypatch):
    view = Viewport(200, 200)
    monkeypatch.setattr(layer, "SLICE_S", 60.0)
    whole, done = picture(layer.Layer(), view, "a", 60)
    assert done
    monkeypatch.setattr(layer, "SLICE_S", -1.0)
    made = layer.Layer()
    turns = 0
    while True:
        image, done = picture(made, view, "a", 60)
        turns += 1
        if done:
            break
        assert image != whole
    assert turns == 60
    assert image == whole
    less, _ = picture(made, view, "a", 3)  # back in time: drawn anew
    assert less != whole
    moved_on, done = picture(made, view.panned(10, 0), "a", 60)
    assert not done
    assert moved_on != blank(view, 1.0)  # until then the last whole one is shown where its lines now lie


def test_a_large_outline_is_drawn_part_by_part_and_looks_the_same(qapp):
    rings = concat([moved(ring(8, 4), 20 * (k % 8), 20 * (k // 8)) for k in range(64)])
    assert len(rings.points) > AT_ONCE
    drawing = Drawing(sheet(outline("all", rings), page=(170, 170)), workshop())
    assert len(drawing.shapes) == 64
    alone = Drawing(
        sheet(*(outline(f"r{k}", moved(ring(8, 4), 20 * (k % 8), 20 * (k // 8))) for k in range(64)), page=(170, 170)),
        workshop(),
    )
    view = Viewport(340, 340).fitted((-10, -10, 170, 170))
    images = []
    for each in (drawing, alone):
        image = blank(view, 1.0)
        painter = QPainter(image)
        assert each.paint(painter, view, Lens.INK, LIGHT)
        painter.end()
        images.append(image)
    assert images[0] == images[1]


def test_work_begins_once_what_started_it_is_painted_and_not_at_all_when_it_was_stopped(qtbot):
    done = []

    class Asking(QWidget):
        def paintEvent(self, _):  # noqa: N802 - Qt's name
            done.append("painted")

    asking = Asking()
    qtbot.addWidget(asking)
    bench = Bench(asking)
    asking.show()
    qtbot.waitExposed(asking)
    done.clear()
    bench.start("a", "", lambda _: done.append("worked"), lambda _: done.append("told"), pytest.fail)
    bench.start("b", "", lambda _: done.append("in vain"), pytest.fail, pytest.fail)
    bench.stop("b")
    asking.update()
    qtbot.waitUntil(lambda: "told" in done)
    bench.wait()
    assert done == ["painted", "worked", "told"]


def test_work_waits_while_something_large_is_drawn_but_not_for_ever(qtbot, monkeypatch):
    owner, done, drawing = QWidget(), [], [True]
    qtbot.addWidget(owner)
    bench = Bench(owner)
    bench.held = lambda: drawing[0]
    bench.start("a", "", lambda _: "answer", done.append, pytest.fail)
    qtbot.wait(4 * AFTER_MS)
    assert not done
    drawing[0] = False
    qtbot.waitUntil(lambda: done == ["answer"])
    drawing[0] = True
    monkeypatch.setattr(worker, "MOST_TURNS", 3)
    bench.start("b", "", lambda _: "all the same", done.append, pytest.fail)
    qtbot.waitUntil(lambda: "all the same" in done)
    bench.wait()


def test_what_nobody_waits_for_begins_some_turns_later(qtbot):
    owner, done = QWidget(), []
    qtbot.addWidget(owner)
    bench = Bench(owner, later=2)

    def turn():
        done.append("turn")
        if len(done) < 3:
            after_this_turn(owner, turn)

    after_this_turn(owner, turn)
    bench.start("a", "", lambda _: done.append("worked"), lambda _: None, pytest.fail)
    qtbot.waitUntil(lambda: "worked" in done)
    bench.wait()
    assert done == ["turn", "turn", "turn", "worked"]


def test_a_mark_looks_the_same_wherever_it_is_stamped(qapp):
    image = blank(Viewport(200, 100), 2.0)
    painter = QPainter(image)
    draw_marks(painter, Question.ONE_BODY, Level.WARN, [(40, 50), (140.2, 50.3)], 6, LIGHT)
    painter.end()
    one, other = image.copy(60, 80, 40, 40), image.copy(260, 81, 40, 40)
    assert one == other
    assert {one.pixelColor(20, 20).name()} == {LIGHT.warn}
    assert one.pixelColor(0, 0).alpha() == 0


def test_what_goes_out_of_sight_is_given_up_and_drawn_when_it_comes_back(qtbot):
    done, patient = [], [True]

    class Slow:
        def quick(self, *_):
            return False

        def paint(self, *_, unwanted, **__):
            done.append("begun")
            while patient[0] and not unwanted():
                time.sleep(0.001)
            done.append("given up" if unwanted() else "drawn")
            return not unwanted()

        def paint_page(self, *_):
            done.append("page")

    owner, drawing, image = QWidget(), Slow(), blank(Viewport(40, 40), 1.0)
    qtbot.addWidget(owner)
    canvas = Canvas(owner)

    def paint():
        painter = QPainter(image)
        canvas.paint(painter, drawing, Viewport(40, 40), Lens.INK, LIGHT)
        painter.end()

    paint()
    qtbot.waitUntil(lambda: "begun" in done)
    canvas.rest()
    qtbot.waitUntil(lambda: not canvas.busy)
    assert done == ["page", "begun", "given up"]
    patient[0] = False
    paint()
    qtbot.waitUntil(lambda: not canvas.busy)
    assert done[3:] == ["page", "begun", "drawn"]
    paint()
    assert not canvas.busy


def test_rows_and_lines_that_are_there_get_other_words(qtbot):
    make_application()  # with its style sheet, which has a word in fonts
    holder = QWidget()
    qtbot.addWidget(holder)
    layout, rows, box = QVBoxLayout(holder), FigureRows(), ProofBox()
    layout.addWidget(rows)
    layout.addWidget(box)
    holder.show()

    def said(widget):
        qtbot.wait(1)  # what was added is shown with the next turn
        return [each.text() for each in widget.findChildren(QLabel) if not each.isHidden() and each.text()]

    rows.show_rows([("", "now", "after"), ("nodes", "12", "8"), ("subpaths", "2", "2")])
    kept = rows.findChildren(QLabel)
    rows.show_rows([("width", "3.0", "4.0")])
    assert said(rows) == ["width", "3.0", "4.0"]
    rows.show_rows([("", "now", "after"), ("height", "5.0", "6.0")])
    assert said(rows) == ["now", "after", "height", "5.0", "6.0"]
    assert set(kept[:3]) < set(rows.findChildren(QLabel))
    assert kept[2].property("role") == "muted"

    def bold():
        qtbot.wait(1)
        return [
            each.text() for each in rows.findChildren(QLabel) if each.font().weight() == 600 and not each.isHidden()
        ]

    rows.show_rows([("", "now", "after"), ("counters", "3", "2"), ("area", "7", "7")])
    assert bold() == ["2"]
    rows.show_rows([("", "now", "after"), ("counters", "3", "3"), ("area", "7", "8")])
    assert bold() == ["8"]
    box.say("hold", ["Not done", "since it is so"])
    box.say("clean", ["Proven"])
    assert said(box) == ["Proven"]
    assert box.property("verdict") == "clean"
    box.say("clean", [])
    assert box.isHidden()


SQUARES = sheet(*(outline(f"s{k}", square(side, 30 * k, 0)) for k, side in enumerate((9, 5, 7, 6, 8, 20))))


@pytest.fixture
def listed(qtbot):
    made = Layers()
    qtbot.addWidget(made)
    made.show_entries(entries.ledger(SQUARES, workshop()))
    return made


def column(made, number):
    model = made.table.model()
    return [model.index(row, number).data() for row in range(model.rowCount())]


def test_figures_are_sorted_and_choose_what_is_on_the_bench(listed, qtbot):
    made = Figures(listed)
    made.show_entries(listed.entries, {"s1"}, MM)
    made.table.sortByColumn(5, Qt.SortOrder.AscendingOrder)
    assert column(made, 5) == ["25", "36", "49", "64", "81", "400"]
    made.table.sortByColumn(5, Qt.SortOrder.DescendingOrder)
    assert column(made, 5)[0] == "400"
    with qtbot.waitSignal(made.chosen) as told:
        made.table.selectRow(0)
    assert told.args == [["s5"]]


def test_what_lies_on_top_comes_first_and_what_the_filter_hides_is_no_longer_chosen(listed, qtbot):
    assert column(listed, 1) == ["s5", "s4", "s3", "s2", "s1", "s0"]
    listed.pick_all(["s0", "s5"])
    assert [entry.id for entry in listed.chosen()] == ["s0", "s5"]  # in the sheet's order
    with qtbot.waitSignal(listed.changed):
        listed.filter.setText("s5")
    assert [entry.id for entry in listed.chosen()] == ["s5"]
    assert listed.table.model().rowCount() == 1
    listed.filter.clear()
    assert listed.table.model().rowCount() == 6


def test_what_is_hidden_or_locked_is_not_picked(listed):
    listed._mark(listed.hidden, {"s0"})
    listed._mark(listed.locked, {"s1"})
    listed.choose_all()
    assert [entry.id for entry in listed.chosen()] == ["s2", "s3", "s4", "s5"]
    listed.pick_all(["s3"])
    listed.isolate()
    assert listed.hidden == {"s0", "s1", "s2", "s4", "s5"}
    listed.isolate()
    assert not listed.hidden


def test_a_step_that_takes_long_is_tried_when_it_is_asked_for(desk, qtbot, quay, monkeypatch):
    monkeypatch.setattr(entries, "TRIED_UNASKED", 10)
    opened(qtbot, desk, quay / "berth-12.svg")
    desk.turn_to(View.COMPOSE)
    settle(qtbot, desk)
    assert desk.focusWidget() is desk.room.compose.table  # so that single keys are commands
    assert desk.room.compose.card.apply.text() == "Apply"  # what is done to the whole sheet only places it
    desk.room.compose.choose(1)
    desk.room.composer.set_step("thicken")
    settle(qtbot, desk)
    assert desk.state.preview is None
    assert desk.room.compose.card.apply.text() == "Try it"
    qtbot.mouseClick(desk.room.compose.card.apply, Qt.MouseButton.LeftButton)
    settle(qtbot, desk)
    assert desk.state.preview is not None
    assert desk.room.compose.card.apply.text() == "Apply"
    steps = len(desk.state.job.stages)
    qtbot.mouseClick(desk.room.compose.card.apply, Qt.MouseButton.LeftButton)
    settle(qtbot, desk)
    assert len(desk.state.job.stages) == steps + 1


def test_frames_and_marks_out_of_view_are_left_out_and_the_others_spread():
    view = Viewport(100, 100, 1.0)
    boxes = [(10.0 * k, 10.0, 10.0 * k + 4, 14.0) for k in range(40)]
    assert len(view.frames(boxes, 5, 200)) == 12  # ten in the window, and those that all but reach into it
    assert view.frames(boxes, 5, 200)[0] == (-5, 5, 14, 14)
    assert len(view.frames(boxes, 5, 4)) == 4
    places = view.middles(boxes, 4)
    assert len(places) == 4
    assert places[0][0] < 20
    assert places[-1][0] > 80
    assert QPointF(*places[0]).y() == 12
    assert view.middles([(1, 1, 2, 2)] * 500, 200) == [(1.5, 1.5)]


def test_a_fault_is_logged_and_told_and_the_window_goes_on(desk, qtbot, quay, monkeypatch, caplog, capsys):
    monkeypatch.setattr(sys, "excepthook", sys.excepthook)  # given back afterwards
    tell_faults(desk.message)

    def fault():
        raise KeyError("outlines_after")

    with caplog.at_level("ERROR", logger="unkelt"):
        QTimer.singleShot(0, fault)
        qtbot.waitUntil(desk.message.isVisible)
    assert "outlines_after" in desk.message.words.text()
    assert "outlines_after" in caplog.text
    assert "Traceback" in capsys.readouterr().err
    desk.state.opening.open_paths([quay / "sea-thrift.svg"])
    qtbot.waitUntil(lambda: desk.state.job is not None)
