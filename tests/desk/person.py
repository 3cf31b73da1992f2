"""A person at the bench, who sees the window and has two hands: every movement is counted.

A click, a key and a drag are one movement each; a field that is filled, or something chosen from a list, are two. What
isn't to be seen can't be used.
"""

from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QListView, QMenu

from tests.desk.hands import settle
from unkelt.desk.table.ruling import RULER
from unkelt.geometry.region import region

LEFT, NONE = Qt.MouseButton.LeftButton, Qt.MouseButton.NoButton
PLAIN, CTRL = Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ControlModifier


class Person:
    """`moves` is how many movements it took so far."""

    def __init__(self, qtbot, desk):
        self.qtbot, self.desk, self.moves = qtbot, desk, 0
        self.compose = desk.room.compose

    def done(self, count=1):
        self.moves += count
        settle(self.qtbot, self.desk)

    def said(self):
        """What the window says: of the step that is set, in the message bar, and what is on hold."""
        tried, message = self.desk.state.preview, self.desk.message
        held = [str(each.headline) for each in self.desk.state.findings or () if each.level == "hold"]
        return tried.refusal if tried else None, message.words.text() if message.isVisible() else None, held

    def key(self, key, keys=PLAIN):
        QTest.keyClick(self.desk.focusWidget() or self.desk, key, keys)
        self.done()

    def click(self, widget, at=None, count=1, keys=PLAIN):
        assert widget.isVisible(), widget
        assert widget.isEnabled(), (widget, self.said())
        QTest.mouseClick(widget, LEFT, keys, at or widget.rect().center())
        self.done(count)

    def fill(self, field, text):
        """A field, and Return."""
        assert field.isVisible(), field
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, text)
        QTest.keyClick(field, Qt.Key.Key_Return)
        self.done(2)

    def row(self, view, row):
        view.scrollTo(view.model().index(row, 0))
        at = view.visualRect(view.model().index(row, 0)).center()
        self.click(view.viewport(), at)

    def listed(self, box, words):
        """Something chosen from a list by what it says."""
        assert isinstance(box, QComboBox)
        assert box.isVisible(), box
        at = next(row for row in range(box.count()) if words in box.itemText(row))
        box.setCurrentIndex(at)
        box.activated.emit(at)
        self.done(2)

    # the bench

    def step(self, title):
        """A step by its title, in a group that is opened first if need be."""
        shown = self.compose.steps.list
        if (row := self._row_of(title)) is None:
            group = next(
                offer.purpose.value for offer in self.desk.room.composer._offers_now()[0] if offer.title == title
            )
            self.row(shown, self._row_of(group))
            row = self._row_of(title)
        self.row(shown, row)

    def _row_of(self, words):
        shown = self.compose.steps.list
        return next((row for row in range(shown.count()) if shown.item(row).text() == words), None)

    def apply(self):
        self.click(self.compose.card.apply)

    def option(self, name):
        widget = self.compose.options.control(name)
        assert widget.isVisible(), name
        return widget

    def segment(self, name, word):
        self.click(self.option(name).buttons[word])

    def picture(self, strip, words):
        """A picture in a strip by its caption, or by its place."""
        assert isinstance(strip, QListView)
        row = (
            words if isinstance(words, int) else next(i for i in range(strip.count()) if strip.item(i).text() == words)
        )
        self.row(strip, row)

    def colour(self, button, words):
        """A colour of the menu that a button opens."""
        self.click(button)
        menu = next(each for each in self.compose.findChildren(QMenu) if each.objectName() == "colours")
        action = next(each for each in menu.actions() if words in each.text())
        menu.hide()
        menu.triggered.emit(action)
        menu.deleteLater()
        self.done()

    # the table

    def px(self, x, y):
        table = self.compose.table
        at = QPoint(*(round(v + RULER) for v in table.view.to_px(x, y)))
        assert table.rect().contains(at), (x, y)
        return at

    def at(self, x, y, keys=PLAIN):
        self.click(self.compose.table, self.px(x, y), keys=keys)

    def on(self, name, keys=PLAIN):
        """A click on the ink of something, by its name in the list."""
        self.at(*self.ink_of(name), keys)

    def ink_of(self, name):
        entry = next(each for each in self.compose.entries if name in each.name)
        place = region(entry.path, False, 0.05).representative_point()
        return place.x, place.y

    def drag(self, start, end, keys=PLAIN):
        table = self.compose.table
        a, b = (self.px(*place) if isinstance(place, tuple) else place for place in (start, end))
        QTest.mousePress(table, LEFT, keys, a)
        for share in (0.2, 0.6, 1.0):
            at = a + (b - a) * share
            move = QMouseEvent(QEvent.Type.MouseMove, QPointF(at), QPointF(table.mapToGlobal(at)), NONE, LEFT, keys)
            QApplication.sendEvent(table, move)
        QTest.mouseRelease(table, LEFT, keys, b)
        self.done()

    def grip(self, name):
        """Where a handle of the frame stands, in pixels of the table."""
        framed = self.compose.table.hand.framed
        return (framed._places(self.compose.table.view)[name] + QPointF(RULER, RULER)).toPoint()

    # the ways

    def mend(self):
        self.key(Qt.Key.Key_M, CTRL)

    def to_the_bench(self):
        self.key(Qt.Key.Key_3, CTRL)

    def release(self):
        self.key(Qt.Key.Key_R, CTRL)
        self.click(self.desk.room.releasing.release)
        self.qtbot.waitUntil(lambda: not self.desk.bench.is_busy(), timeout=60_000)
