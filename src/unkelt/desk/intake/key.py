"""A small dialog: what each colour on the sheet is for, and which colours are one material."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtGui import QColor, QPixmap
from PySide6.QtWidgets import QComboBox, QDialog, QDialogButtonBox, QGridLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

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


def ask_meanings(parent: QWidget, colours: Sequence[Colour]) -> Said | None:
    """What each colour is for and of which material, as the person says; None where nothing is to change."""
    dialog = QDialog(parent)
    dialog.setWindowTitle(tr("What each colour is for"))
    layout = QVBoxLayout(dialog)
    layout.setContentsMargins(24, 20, 24, 18)
    layout.setSpacing(12)
    layout.addWidget(label(tr("What each colour is for"), 13, 600))
    words = tr(
        "Every shop has its own colour key. Colours with the same material are cut from one sheet and can be welded "
        "together. A colour without a material name is a material of its own. The ticket stores both; you can save it."
    )
    layout.addWidget(label(words, 10, role="muted", wrap=True))
    grid = QGridLayout()
    grid.setHorizontalSpacing(14)
    for column, heading in ((3, tr("what for")), (4, tr("material"))):
        grid.addWidget(label(heading, 9.5, role="muted"), 0, column)
    choices: dict[str, QComboBox] = {}
    materials: dict[str, QLineEdit] = {}
    for row, colour in enumerate(colours, 1):
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
        material = materials[colour.value] = QLineEdit(colour.material)
        material.setFont(font(10))
        material.setPlaceholderText(tr("its own"))
        material.setAccessibleName(tr("Material of {value}").format(value=colour.value))
        grid.addWidget(material, row, 4)
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
    return {value: (Operation(m) if m else None, materials[value].text()) for value, m in chosen.items()}
