"""The command list: everything that can be done, found by a few letters of it and done by Enter."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PySide6.QtCore import QEvent, QObject, QRectF, QSize, Qt
from PySide6.QtGui import QFontMetricsF, QKeyEvent, QPainter
from PySide6.QtWidgets import (
    QDialog,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from unkelt.desk.common.theme import Coloured, colour, font, px
from unkelt.desk.common.widgets import Index, label
from unkelt.language import tr

ROW = 34


@dataclass(frozen=True)
class Command:
    """What it is called, where it belongs, its key, whether it can be done now, and what does it."""

    words: str
    place: str
    keys: str
    enabled: bool
    run: Callable[[], object]


class CommandList(QDialog):
    """Closes with the command that was chosen in `chosen`, or None."""

    def __init__(self, window: QWidget, commands: Sequence[Command]) -> None:
        super().__init__(window)
        self.setWindowTitle(tr("Commands"))
        self.resize(620, 460)
        self.commands = sorted(commands, key=lambda command: not command.enabled)
        self.chosen: Command | None = None
        self.wanted = QLineEdit()
        self.wanted.setPlaceholderText(tr("type a few letters of a command"))
        self.wanted.setAccessibleName(tr("What to do"))
        self.wanted.setFont(font(12))
        self.wanted.textChanged.connect(self._show)
        self.wanted.installEventFilter(self)
        self.list = QListWidget()
        self._painter = _Painter()
        self.list.setItemDelegate(self._painter)
        self.list.setUniformItemSizes(True)
        self.list.setAccessibleName(tr("Commands"))
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.itemActivated.connect(self._take)
        self.list.itemClicked.connect(self._take)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 16, 16, 12)
        layout.addWidget(self.wanted)
        layout.addWidget(self.list, 1)
        layout.addWidget(label(tr("Enter: run · ↑ ↓: choose · Esc: close"), 9.5, role="muted"))
        self._show("")

    def _show(self, text: str) -> None:
        self.list.clear()
        for command in matching(self.commands, text):
            item = QListWidgetItem()
            item.setData(Qt.ItemDataRole.UserRole, command)
            item.setData(Qt.ItemDataRole.AccessibleTextRole, f"{command.words}, {command.place} {command.keys}")
            if not command.enabled:
                item.setFlags(Qt.ItemFlag.NoItemFlags)
            self.list.addItem(item)
        self.list.setCurrentRow(0)

    def _take(self, item: QListWidgetItem | None) -> None:
        command = item.data(Qt.ItemDataRole.UserRole) if item else None
        if command is not None and command.enabled:
            self.chosen = command
            self.accept()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Keys that choose go to the list while one writes."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._take(self.list.currentItem())
                return True
            moves = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1, Qt.Key.Key_PageDown: 10, Qt.Key.Key_PageUp: -10}
            if event.key() in moves and self.list.count():
                row = self.list.currentRow() + moves[Qt.Key(event.key())]
                self.list.setCurrentRow(min(max(row, 0), self.list.count() - 1))
                return True
        return super().eventFilter(watched, event)


def matching(commands: Sequence[Command], text: str) -> list[Command]:
    """Those that have every word asked for in their name or place, the ones that begin with it first."""
    asked = text.casefold().split()
    found = [c for c in commands if all(word in f"{c.words} {c.place}".casefold() for word in asked)]
    return sorted(found, key=lambda c: (not c.enabled, not c.words.casefold().startswith(" ".join(asked))))


class _Painter(Coloured, QStyledItemDelegate):
    """A row says what is done, where that belongs, and its key; a widget for each would take longer than one waits for
    a letter.
    """

    def __init__(self) -> None:
        super().__init__()

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:  # noqa: ARG002
        return QSize(200, px(ROW))

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        super().paint(painter, option, index)  # the ground, chosen or not
        command: Command = index.data(Qt.ItemDataRole.UserRole)
        plain = self.colours.text if command.enabled else self.colours.muted
        painter.save()
        area = QRectF(option.rect).adjusted(10, 0, -12, 0)
        for text, face, value, side in (
            (command.keys, font(10, 600), plain, Qt.AlignmentFlag.AlignRight),
            (command.words, font(10.5, 500), plain, Qt.AlignmentFlag.AlignLeft),
            (command.place, font(9.5), self.colours.muted, Qt.AlignmentFlag.AlignLeft),
        ):
            painter.setFont(face)
            painter.setPen(colour(value))
            measured = QFontMetricsF(face)
            short = measured.elidedText(text, Qt.TextElideMode.ElideRight, area.width())
            painter.drawText(area, side | Qt.AlignmentFlag.AlignVCenter, short)
            room = measured.horizontalAdvance(short) + 6
            area = (
                area.adjusted(0, 0, -room, 0) if side is Qt.AlignmentFlag.AlignRight else area.adjusted(room, 0, 0, 0)
            )
        painter.restore()
