"""What can be done to the node that is picked on the table, as buttons."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QGridLayout, QPushButton, QWidget

from unkelt.desk.common.theme import font
from unkelt.desk.common.widgets import label
from unkelt.language import tr

EDITS = (
    (
        "take-out",
        tr("Remove"),
        tr("Removes the node and keeps the shape as far as possible"),
    ),
    ("add", tr("Add after"), tr("Adds a node halfway to the next")),
    ("smooth", tr("Smooth"), tr("Puts both its handles on one line")),
    ("corner", tr("Corner"), tr("Points its handles at its neighbours")),
    ("line", tr("Straight"), tr("Makes the next segment a straight line")),
    ("start", tr("Start here"), tr("The tool begins here")),
    ("split", tr("Split"), tr("Opens the line here")),
    ("join", tr("Join"), tr("Joins two open ends that are picked")),
    ("reverse", tr("Turn round"), tr("The tool runs the other way")),
)


class NodeBar(QWidget):
    """`asked` with the word of an edit."""

    asked = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(6)
        words = tr("Click a node, then drag it or its handles. Shift selects more nodes, Alt drags without snapping:")
        grid.addWidget(label(words, 9.5, role="muted", wrap=True), 0, 0, 1, 2)
        for index, (word, title, tip) in enumerate(EDITS):
            button = QPushButton(title)
            button.setFont(font(9.5))
            button.setToolTip(tip)
            button.clicked.connect(lambda _=False, word=word: self.asked.emit(word))
            grid.addWidget(button, 1 + index // 2, index % 2)
