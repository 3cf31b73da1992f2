"""What a step changes, in figures, and what it proves: shown wherever a step is offered."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QGridLayout, QVBoxLayout, QWidget

from unkelt.desk.parts import empty, label
from unkelt.desk.theme import px
from unkelt.language import tr
from unkelt.session.preview import Preview


class FigureRows(QWidget):
    """Rows of a name and two figures, now and after; the first row may be a heading."""

    def __init__(self) -> None:
        super().__init__()
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setSpacing(0)
        self._grid.setColumnStretch(0, 1)

    def show_preview(self, preview: Preview) -> None:
        self.show_rows([("", "now", "after"), *((row.name, row.now, row.after) for row in preview.rows)])

    def show_rows(self, rows: list[tuple[str, str, str]]) -> None:
        empty(self._grid)
        for number, (name, now, after) in enumerate(rows):
            head = number == 0 and not name
            changed = now != after and not head and bool(now)
            weight, role = (600 if changed or not now else 400), ("muted" if head else "accent" if changed else "")
            cells = (
                (label(name, 9.5, 400, "muted"), Qt.AlignmentFlag.AlignLeft),
                (label(now, 9.5 if head else 10, 400, "muted" if head else ""), Qt.AlignmentFlag.AlignRight),
                (label(after, 9.5 if head else 10, weight, role), Qt.AlignmentFlag.AlignRight),
            )
            for column, (cell, side) in enumerate(cells):
                cell.setMinimumHeight(px(21))
                if column:
                    cell.setMinimumWidth(px(82))
                cell.setAlignment(side | Qt.AlignmentFlag.AlignVCenter)
                self._grid.addWidget(cell, 2 * number, column)
            if number < len(rows) - 1:
                line = QFrame()
                line.setFixedHeight(1)
                line.setObjectName("rule")
                self._grid.addWidget(line, 2 * number + 1, 0, 1, 3)
        self.show()


class ProofBox(QFrame):
    """A few lines under a coloured edge: what is proven, or why nothing was done."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("proofbox")
        self._lines = QVBoxLayout(self)
        self._lines.setContentsMargins(12, 9, 12, 9)
        self._lines.setSpacing(2)

    def show_preview(self, preview: Preview) -> None:
        if preview.refusal:
            self.say("hold", [tr("Not done, nothing changes"), f"{preview.refusal[0].upper()}{preview.refusal[1:]}."])
        else:
            self.say("clean", list(preview.proof))

    def say(self, state: str, lines: list[str]) -> None:
        empty(self._lines)
        self.setProperty("verdict", state)
        self.style().unpolish(self)
        self.style().polish(self)
        for number, line in enumerate(lines):
            role = "hold" if state == "hold" else "accent"
            self._lines.addWidget(label(line, 10, 600 if number == 0 else 400, role, True))
        self.setVisible(bool(lines))
