"""What the program is, its version, and what is inside with its licences."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QDialog,
    QDialogButtonBox,
    QHeaderView,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from unkelt import __version__
from unkelt.app.inside import parts
from unkelt.desk.common.theme import px
from unkelt.desk.common.widgets import label
from unkelt.language import tr


class About(QDialog):
    """Closes on Esc or Enter."""

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self.setWindowTitle(tr("About Unkelt"))
        self.resize(px(620), px(520))
        inside = parts()
        self.table = QTableWidget(len(inside), 3)
        self.table.setHorizontalHeaderLabels([tr("Part"), tr("Version"), tr("Licence")])
        self.table.setAccessibleName(tr("What is inside, with its licences"))
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setShowGrid(False)
        self.table.verticalHeader().hide()
        for row, part in enumerate(inside):
            for column, words in enumerate((part.name, part.version, part.licence)):
                self.table.setItem(row, column, QTableWidgetItem(words))
        head = self.table.horizontalHeader()
        head.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        head.setSectionResizeMode(0, QHeaderView.ResizeMode.ResizeToContents)
        head.setSectionResizeMode(1, QHeaderView.ResizeMode.ResizeToContents)
        head.setStretchLastSection(True)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 18, 20, 14)
        layout.setSpacing(8)
        layout.addWidget(label(f"Unkelt {__version__}", 16, 600))
        layout.addWidget(label(tr("Checks, repairs and proves lettering files before they are cut."), 10.5))
        layout.addWidget(label(tr("This is what is inside, and the licence of each part:"), 9.5, role="muted"))
        layout.addWidget(self.table, 1)
        layout.addWidget(buttons)
