"""The Intake view: the tray of jobs, what came in and how it was understood, what was left out, and the ticket."""

from __future__ import annotations

from collections.abc import Callable, Hashable

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import (
    QBoxLayout,
    QComboBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from unkelt.app.received import Intake
from unkelt.desk.common.theme import PAD, px
from unkelt.desk.common.widgets import drop, label, named, scrolling
from unkelt.desk.intake.ticket_form import TicketForm
from unkelt.desk.intake.tray import Tray
from unkelt.language import said, tr, tr_count
from unkelt.messages import sentence
from unkelt.recipe import Call

FACTS_PX = 400
"""The facts of a file and the margins need so much beside the ticket, at 100 % text."""


class IntakeView(QWidget):
    """The tray beside five cards: the file, what is in it, its ticket, the faces it names, and what was left out and
    why.
    """

    step_asked = Signal(object)
    inspect_asked = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("intake")
        self.setAccessibleName(tr("Intake"))
        self.tray, inside = Tray(), named(QWidget(), "intake")
        outer = QHBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(0)
        outer.addWidget(self.tray)
        outer.addWidget(scrolling(inside), 1)
        self._columns = columns = QHBoxLayout(inside)
        columns.setContentsMargins(24, 20, 24, 20)
        columns.setSpacing(18)
        self._left, right = QVBoxLayout(), QVBoxLayout()
        self._right = QVBoxLayout()
        columns.addLayout(self._left, 4)
        columns.addLayout(right, 5)
        for column in (self._left, self._right, right):
            column.setSpacing(18)
        for column in (self._left, self._right):
            column.addStretch(1)  # below the cards
        self._cards: dict[tuple[QVBoxLayout, int], tuple[Hashable, QFrame]] = {}
        self.form = TicketForm()
        right.addWidget(self.form)
        right.addLayout(self._right)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Where there is no room for the facts and the ticket side by side, as with large text, they stand one above
        the other.
        """
        super().resizeEvent(event)
        room = event.size().width() - self.tray.minimumWidth()
        beside = room >= self.form.sizeHint().width() + px(FACTS_PX)
        self._columns.setDirection(QBoxLayout.Direction.LeftToRight if beside else QBoxLayout.Direction.TopToBottom)

    def show_intake(self, found: Intake, name: str) -> None:
        """Shows the facts of one file. A card that says the same stays."""
        facts = (name, found.file, found.sure, found.units, found.likely)
        self._show_card(self._left, 0, facts, lambda: self._file_card(found, name))
        self._show_card(self._left, 1, found.contents, lambda: self._rows_card(tr("Contents"), found.contents))
        self._show_card(self._right, 0, found.faces, lambda: self._faces_card(found))
        self._show_card(self._right, 1, found.remarks, lambda: self._remarks_card(found))

    def _show_card(self, column: QVBoxLayout, place: int, says: Hashable, make: Callable[[], QFrame]) -> None:
        known = self._cards.get((column, place))
        if known is not None and known[0] == says:
            return
        if known is not None:
            column.removeWidget(known[1])
            drop(known[1])
        card = make()
        column.insertWidget(place, card)
        self._cards[column, place] = says, card

    def _card(self, title: str) -> tuple[QFrame, QVBoxLayout]:
        card = named(QFrame(), "card")
        layout = QVBoxLayout(card)
        layout.setContentsMargins(20, PAD, 20, PAD)
        layout.setSpacing(8)
        head = label(title, 12.5, 600, wrap=True)
        head.setMinimumWidth(1)  # a long name doesn't make the card wider
        layout.addWidget(head)
        return card, layout

    def _rows(self, rows: tuple[tuple[str, str], ...]) -> QGridLayout:
        grid = QGridLayout()
        grid.setColumnStretch(1, 1)
        grid.setColumnMinimumWidth(0, px(112))  # of all cards alike
        grid.setHorizontalSpacing(20)
        grid.setVerticalSpacing(7)
        for row, (name, value) in enumerate(rows):
            grid.addWidget(label(name, 10, role="muted"), row, 0, Qt.AlignmentFlag.AlignTop)
            grid.addWidget(label(value, 10.5, 500, wrap=True), row, 1)
        return grid

    def _rows_card(self, title: str, rows: tuple[tuple[str, str], ...]) -> QFrame:
        card, layout = self._card(title)
        layout.addLayout(self._rows(rows))
        layout.addStretch(1)
        return card

    def _file_card(self, found: Intake, name: str) -> QFrame:
        card, layout = self._card(name)
        layout.addLayout(self._rows(found.file))
        if not found.sure:
            layout.addWidget(
                label(tr("The physical size is not certain. What is one unit of this file?"), 10.5, 500, "hold", True)
            )
            self.units = QComboBox()
            for units, words in found.units:
                self.units.addItem(said(words), units)
            self.units.setCurrentIndex(self.units.findData(found.likely))
            self.units.setAccessibleName(tr("Units of the file"))
            state = QPushButton(tr("State the units"))
            state.clicked.connect(self._state)
            row = QHBoxLayout()
            row.addWidget(self.units, 1)
            row.addWidget(state)
            layout.addLayout(row)
        layout.addStretch(1)
        go = QPushButton(tr("Inspect"))
        go.setProperty("role", "primary")
        go.clicked.connect(self.inspect_asked)
        layout.addWidget(go, 0, Qt.AlignmentFlag.AlignLeft)
        return card

    def _state(self) -> None:
        self.step_asked.emit(Call("state-units", options={"units": self.units.currentData()}))

    def _faces_card(self, found: Intake) -> QFrame:
        card, layout = self._card(tr("Faces in the file"))
        if not found.faces:
            layout.addWidget(label(tr("None: there is no live text."), 10, role="muted"))
        for face in found.faces:
            texts = tr_count("{count} text", "{count} texts", face.texts)
            layout.addWidget(label(f"{face.name} · {texts}", 10.5, 500))
            words, role = (
                (tr("found: {found}").format(found=face.found), "accent")
                if face.found
                else (tr("not here; nothing is put in its place"), "hold")
            )
            layout.addWidget(label(words, 10, role=role))
        layout.addStretch(1)
        return card

    def _remarks_card(self, found: Intake) -> QFrame:
        card, layout = self._card(tr("Left out or guessed"))
        if not found.remarks:
            layout.addWidget(label(tr("Nothing: Unkelt understood the whole file."), 10, role="muted"))
        for words in found.remarks[:60]:
            layout.addWidget(label(sentence(words), 10, wrap=True))
        if len(found.remarks) > 60:
            layout.addWidget(
                label(
                    tr("… and {value} more; “unkelt check” lists all.").format(value=len(found.remarks) - 60),
                    10,
                    role="muted",
                )
            )
        layout.addStretch(1)
        return card
