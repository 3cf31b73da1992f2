"""A small dialog: one destination of the ticket."""

from __future__ import annotations

from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QGridLayout,
    QLineEdit,
    QVBoxLayout,
    QWidget,
)

from unkelt.desk.common.theme import font
from unkelt.desk.common.widgets import label
from unkelt.errors import UnkeltError
from unkelt.job.ticket import Ticket
from unkelt.language import said, tr
from unkelt.messages import sentence
from unkelt.session.destinations import (
    EACH_WORDS,
    FORMAT_WORDS,
    Wanted,
    reads_words,
    wanted,
    with_destination,
    without_destination,
)


class DestinationDialog(QDialog):
    """A new destination, or one that the ticket has: `ticket` is what comes of it."""

    def __init__(self, parent: QWidget, ticket: Ticket, name: str = "") -> None:
        super().__init__(parent)
        self.ticket, self._name = ticket, name
        now = wanted(ticket, name) if name else Wanted()
        self.setWindowTitle(tr("Destination"))
        self.name = QLineEdit(now.name)
        self.name.setPlaceholderText(tr("sign shop"))
        self.name.setAccessibleName(tr("Name"))
        self.format, self.reads = QComboBox(), QComboBox()
        for box, choices, chosen, words in (
            (self.format, FORMAT_WORDS, now.format, tr("Format")),
            (self.reads, reads_words(), now.reads, tr("Reads")),
        ):
            for value, shown in choices.items():
                box.addItem(said(shown), value)
            box.setCurrentIndex(max(0, box.findData(chosen)))
            box.setAccessibleName(words)
        self.each = {kind: QCheckBox(said(words)) for kind, words in EACH_WORDS.items()}
        for kind, tick in self.each.items():
            tick.setChecked(kind in now.each)
        self.marks = QCheckBox(tr("registration marks on every material's page"))
        self.marks.setChecked(now.marks)
        self.mirrored = QLineEdit(now.mirrored)
        self.mirrored.setPlaceholderText(tr("materials, parted by commas"))
        self.mirrored.setAccessibleName(tr("Cut from behind"))
        self.trouble = label("", 10, 500, "hold", True)
        self.trouble.hide()
        self._lay_out()

    def _lay_out(self) -> None:
        layout = QVBoxLayout(self)
        layout.setContentsMargins(24, 20, 24, 18)
        layout.setSpacing(12)
        layout.addWidget(label(self._name or tr("A new destination"), 13, 600))
        words = tr(
            "The files are written for how this importer reads, read back as it does, and held where anything arrives "
            "otherwise."
        )
        layout.addWidget(label(words, 10, role="muted", wrap=True))
        grid = QGridLayout()
        grid.setHorizontalSpacing(14)
        grid.setVerticalSpacing(8)
        grid.setColumnStretch(1, 1)
        rows = (
            (tr("name"), self.name),
            (tr("format"), self.format),
            (tr("reads"), self.reads),
            (tr("a file for"), self.each["material"]),
            ("", self.each["operation"]),
            ("", self.each["group"]),
            ("", self.marks),
            (tr("cut from behind"), self.mirrored),
        )
        for row, (name, field) in enumerate(rows):
            grid.addWidget(label(name, 10, role="muted"), row, 0)
            field.setFont(font(10))
            grid.addWidget(field, row, 1)
        layout.addLayout(grid)
        layout.addWidget(self.trouble)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.button(QDialogButtonBox.StandardButton.Ok).setText(tr("Save destination"))
        buttons.button(QDialogButtonBox.StandardButton.Ok).setProperty("role", "primary")
        if self._name:
            out = buttons.addButton(tr("Remove destination"), QDialogButtonBox.ButtonRole.DestructiveRole)
            out.clicked.connect(self._take_out)
        buttons.accepted.connect(self._take)
        buttons.rejected.connect(self.reject)
        layout.addWidget(buttons)
        self.setMinimumWidth(440)

    def _take(self) -> None:
        """Takes what is filled in, or says what is wrong with it, which stays to be mended."""
        made = Wanted(
            self.name.text(),
            str(self.format.currentData()),
            str(self.reads.currentData()),
            tuple(kind for kind, tick in self.each.items() if tick.isChecked()),
            self.marks.isChecked(),
            self.mirrored.text(),
        )
        try:
            self.ticket = with_destination(self.ticket, made, self._name)
        except UnkeltError as problem:
            self.trouble.setText(said(sentence(str(problem))))
            self.trouble.show()
            return
        self.accept()

    def _take_out(self) -> None:
        self.ticket = without_destination(self.ticket, self._name)
        self.accept()
