"""A small dialog: what each colour on the sheet is for, and which colours are one material."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QPixmap
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QGridLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from unkelt.desk.common.swatches import asked_colour
from unkelt.desk.common.theme import font
from unkelt.desk.common.widgets import label
from unkelt.language import said, tr, tr_count
from unkelt.session.colours import Colour
from unkelt.sheet.appearance import Operation

MEANINGS: tuple[tuple[str, Operation | None], ...] = (
    (tr("not in the key"), None),
    ("cut", Operation.CUT),
    ("score", Operation.SCORE),
    ("engrave", Operation.ENGRAVE),
    ("leave", Operation.LEAVE),
)


Said = dict[str, tuple[Operation | None, str]]
"""Of each colour, what it is for and the name of its material."""


class KeyDialog(QDialog):
    """The colours on the sheet and in the key, and any other that is added; `said` is what was said of each."""

    def __init__(self, parent: QWidget, colours: Sequence[Colour]) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("What each colour is for"))
        self.choices: dict[str, QComboBox] = {}
        self.materials: dict[str, QLineEdit] = {}
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(14)
        for column, heading in ((3, tr("what for")), (4, tr("material"))):
            self._grid.addWidget(label(heading, 9.5, role="muted"), 0, column)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(24, 20, 24, 18)
        layout.setSpacing(12)
        layout.addWidget(label(tr("What each colour is for"), 13, 600))
        words = tr(
            "Every shop has its own colour key. Colours with the same material are cut from one sheet and can be "
            "welded together. A colour without a material name is a material of its own. The ticket stores both; you "
            "can save it."
        )
        layout.addWidget(label(words, 10, role="muted", wrap=True))
        layout.addLayout(self._grid)
        for colour in colours:
            self._add_row(colour)
        self.add = QPushButton(tr("Add a colour…"))
        self.add.setFont(font(10))
        self.add.clicked.connect(self._ask_colour)
        layout.addWidget(self.add, 0, Qt.AlignmentFlag.AlignLeft)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.button(QDialogButtonBox.StandardButton.Ok).setText(tr("Take this key"))
        buttons.button(QDialogButtonBox.StandardButton.Ok).setProperty("role", "primary")
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        layout.addWidget(buttons)

    def _add_row(self, colour: Colour) -> None:
        row = self._grid.rowCount()
        patch = QPixmap(34, 18)
        patch.fill(QColor(colour.value))
        swatch = QLabel()
        swatch.setPixmap(patch)
        self._grid.addWidget(swatch, row, 0)
        self._grid.addWidget(label(colour.value, 10), row, 1)
        count = tr_count("{count} item", "{count} items", colour.items)
        self._grid.addWidget(label(count, 10, role="muted"), row, 2)
        choice = self.choices[colour.value] = QComboBox()
        choice.setFont(font(10))
        choice.setAccessibleName(tr("What {value} is for").format(value=colour.value))
        for name, meaning in MEANINGS:
            choice.addItem(said(name), meaning)
        choice.setCurrentIndex([meaning for _, meaning in MEANINGS].index(colour.meaning))
        self._grid.addWidget(choice, row, 3)
        material = self.materials[colour.value] = QLineEdit(colour.material)
        material.setFont(font(10))
        material.setPlaceholderText(tr("its own"))
        material.setAccessibleName(tr("Material of {value}").format(value=colour.value))
        self._grid.addWidget(material, row, 4)

    def _ask_colour(self) -> None:
        value = asked_colour(self, "")
        if value:
            self.add_colour(value)

    def add_colour(self, value: str) -> None:
        """A colour that isn't on the sheet yet, to be given a use; one that is here already gets the focus."""
        if value not in self.choices:
            self._add_row(Colour(value, 0, None))
        self.choices[value].setFocus()

    @property
    def said(self) -> Said:
        """What each colour is for and of which material."""
        chosen = {value: choice.currentData() for value, choice in self.choices.items()}
        return {value: (Operation(m) if m else None, self.materials[value].text()) for value, m in chosen.items()}


def ask_meanings(parent: QWidget, colours: Sequence[Colour]) -> Said | None:
    """What each colour is for and of which material, as the person says; None where nothing is to change."""
    dialog = KeyDialog(parent, colours)
    return dialog.said if dialog.exec() == QDialog.DialogCode.Accepted else None
