"""A small dialog: what each colour on the sheet is for."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtGui import QColor, QPixmap
from PySide6.QtWidgets import QComboBox, QDialog, QDialogButtonBox, QGridLayout, QLabel, QVBoxLayout, QWidget

from unkelt.desk.parts import label
from unkelt.desk.theme import font
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


def ask_meanings(parent: QWidget, colours: Sequence[Colour]) -> dict[str, Operation | None] | None:
    """What each colour is for, as the person says; None where nothing is to change."""
    dialog = QDialog(parent)
    dialog.setWindowTitle(tr("What each colour is for"))
    layout = QVBoxLayout(dialog)
    layout.setContentsMargins(24, 20, 24, 18)
    layout.setSpacing(12)
    layout.addWidget(label(tr("What each colour is for"), 13, 600))
    words = tr("Every shop has its own key. It is kept with the ticket, which can be saved.")
    layout.addWidget(label(words, 10, role="muted", wrap=True))
    grid = QGridLayout()
    grid.setHorizontalSpacing(14)
    choices: dict[str, QComboBox] = {}
    for row, colour in enumerate(colours):
        patch = QPixmap(34, 18)
        patch.fill(QColor(colour.value))
        swatch = QLabel()
        swatch.setPixmap(patch)
        grid.addWidget(swatch, row, 0)
        grid.addWidget(label(colour.value, 10), row, 1)
        grid.addWidget(
            label(
                tr_count("{count} item", "{count} items", colour.items),
                10,
                role="muted",
            ),
            row,
            2,
        )
        choice = choices[colour.value] = QComboBox()
        choice.setFont(font(10))
        choice.setAccessibleName(tr("What {value} is for").format(value=colour.value))
        for name, meaning in MEANINGS:
            choice.addItem(said(name), meaning)
        choice.setCurrentIndex([meaning for _, meaning in MEANINGS].index(colour.meaning))
        grid.addWidget(choice, row, 3)
    layout.addLayout(grid)
    buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
    buttons.button(QDialogButtonBox.StandardButton.Ok).setText(tr("Take this key"))
    buttons.button(QDialogButtonBox.StandardButton.Ok).setProperty("role", "primary")
    buttons.accepted.connect(dialog.accept)
    buttons.rejected.connect(dialog.reject)
    layout.addWidget(buttons)
    if dialog.exec() != QDialog.DialogCode.Accepted:
        return None
    chosen = {value: choice.currentData() for value, choice in choices.items()}
    return {value: Operation(meaning) if meaning else None for value, meaning in chosen.items()}
