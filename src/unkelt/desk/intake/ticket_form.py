"""The ticket as a form: each field is taken as soon as it is left, and refused beside it where it can't be."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QFrame, QGridLayout, QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout

from unkelt.desk.common.theme import PAD, font, px
from unkelt.desk.common.widgets import label, named
from unkelt.job.ticket import Ticket
from unkelt.language import said, tr
from unkelt.session.ticketing import FIELDS, Field, written

OWN = tr("this job's own ticket")


class TicketForm(QFrame):
    """`written` with a field and what was written into it; `shop_chosen` with the name of one of the shop's tickets."""

    written = Signal(object, str)
    shop_chosen = Signal(str)
    keep_asked = Signal()
    colours_asked = Signal()

    def __init__(self) -> None:
        super().__init__()
        named(self, "card")
        self.ticket: Ticket | None = None
        self.inputs: dict[Field, QLineEdit | QComboBox] = {}
        self.shop = QComboBox()
        self.shop.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)  # it is filled after it is shown
        self.shop.setAccessibleName(tr("The shop's tickets"))
        self.shop.activated.connect(self._choose)
        self.keep = QPushButton(tr("Keep for the shop…"))
        self.keep.clicked.connect(self.keep_asked)
        self.colours = QPushButton(tr("What each colour is for…"))
        self.colours.clicked.connect(self.colours_asked)
        self.trouble = label("", 10, 500, "hold", True)
        self.trouble.hide()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, PAD, 20, PAD)
        layout.setSpacing(8)
        head = QHBoxLayout()
        head.addWidget(label(tr("Ticket"), 12.5, 600))
        head.addStretch(1)
        head.addWidget(self.shop)
        layout.addLayout(head)
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(6)
        for number, field in enumerate(FIELDS):
            row, column = (0, 0) if number == 0 else ((number + 1) // 2, 2 * ((number + 1) % 2))
            grid.addWidget(label(field.words, 10, role="muted"), row, column)
            grid.addWidget(self._input(field), row, column + 1, 1, 3 if number == 0 else 1)
        grid.setColumnStretch(1, 1)
        grid.setColumnStretch(3, 1)
        layout.addLayout(grid)
        layout.addWidget(self.trouble)
        foot = QHBoxLayout()
        foot.addWidget(self.colours)
        foot.addStretch(1)
        foot.addWidget(self.keep)
        layout.addLayout(foot)

    def _input(self, field: Field) -> QLineEdit | QComboBox:
        made: QLineEdit | QComboBox
        if field.choices:
            made = QComboBox()
            for value, words in field.choices:
                made.addItem(said(words), value)
            made.activated.connect(lambda _, of=field: self.written.emit(of, self.text(of)))
        else:
            made = QLineEdit()
            made.setPlaceholderText(said(field.example))
            made.editingFinished.connect(lambda of=field: self._leave(of))
        made.setFont(font(10))
        made.setMinimumWidth(px(84))
        made.setAccessibleName(said(field.words).capitalize())
        self.inputs[field] = made
        return made

    def text(self, field: Field) -> str:
        """What stands in a field."""
        of = self.inputs[field]
        return str(of.currentData()) if isinstance(of, QComboBox) else of.text()

    def show_ticket(self, ticket: Ticket, shop: Sequence[str]) -> None:
        """What the ticket says, field by field."""
        self.ticket = ticket
        self.refuse("")
        for field, words in zip(FIELDS, written(ticket).values(), strict=True):
            of = self.inputs[field]
            if isinstance(of, QComboBox):
                of.setCurrentIndex(max(0, of.findData(words)))
            else:
                of.setText(words)
        self.shop.clear()
        self.shop.addItem(OWN)
        self.shop.addItems(list(shop))
        self.shop.setEnabled(bool(shop))
        self.keep.setEnabled(bool(ticket.source))

    def refuse(self, sentence: str) -> None:
        """Says what is wrong with what was written, which stays there to be mended."""
        self.trouble.setText(said(sentence))
        self.trouble.setVisible(bool(sentence))

    def _leave(self, field: Field) -> None:
        if self.ticket is not None and self.text(field).strip() != written(self.ticket)[field.table, field.name]:
            self.written.emit(field, self.text(field))

    def _choose(self, index: int) -> None:
        if index > 0:
            self.shop_chosen.emit(self.shop.itemText(index))
