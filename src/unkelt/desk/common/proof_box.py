"""What a step changes, in figures, and what it proves: shown wherever a step is offered."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QGridLayout, QLabel, QVBoxLayout, QWidget

from unkelt.desk.common.theme import px
from unkelt.desk.common.widgets import drop, label, named, relabel, restyle
from unkelt.language import length_said, tr
from unkelt.messages import sentence
from unkelt.session.preview import Preview


class FigureRows(QWidget):
    """Rows of a name and two figures, now and after; the first row may be a heading."""

    def __init__(self) -> None:
        super().__init__()
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setSpacing(0)
        self._grid.setColumnStretch(0, 1)
        self._rows: list[list[QLabel]] = []
        self._rules: list[QFrame | None] = []  # above each row but the first

    def show_preview(self, preview: Preview) -> None:
        """Figures before and after a step."""
        self.show_rows([("", "now", "after"), *((row.name, row.now, row.after) for row in preview.rows)])

    def show_rows(self, rows: list[tuple[str, str, str]]) -> None:
        """Rows that are there already get other words: only those beyond are made, or go."""
        rows = [_in_unit(*row) for row in rows]
        self._make_rows(len(rows))
        for number, (cells, (name, now, after)) in enumerate(zip(self._rows, rows, strict=True)):
            head = number == 0 and not name
            changed = now != after and not head and bool(now)
            weight, role = (600 if changed or not now else 400), ("muted" if head else "accent" if changed else "")
            relabel(cells[0], name, 9.5, 400, "muted")
            relabel(cells[1], now, 9.5 if head else 10, 400, "muted" if head else "")
            relabel(cells[2], after, 9.5 if head else 10, weight, role)
            for column, cell in enumerate(cells):
                cell.setMinimumSize(px(82) if column else 0, px(21))
        self.show()

    def _make_rows(self, count: int) -> None:
        for row, rule in zip(self._rows[count:], self._rules[count:], strict=True):
            drop(*row, *([rule] if rule else []))
        del self._rows[count:], self._rules[count:]
        for number in range(len(self._rows), count):
            line = None
            if number:
                line = named(QFrame(), "rule")
                line.setFixedHeight(1)
                self._grid.addWidget(line, 2 * number - 1, 0, 1, 3)
            cells = []
            for column in range(3):
                cell = label()
                side = Qt.AlignmentFlag.AlignRight if column else Qt.AlignmentFlag.AlignLeft
                cell.setAlignment(side | Qt.AlignmentFlag.AlignVCenter)
                self._grid.addWidget(cell, 2 * number, column)
                cells.append(cell)
            self._rows.append(cells)
            self._rules.append(line)


def _in_unit(name: str, now: str, after: str) -> tuple[str, str, str]:
    return length_said(name, now)[0], length_said(name, now)[1], length_said(name, after)[1]


class ProofBox(QFrame):
    """A few lines under a coloured edge: what is proven, or why nothing was done."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("proofbox")
        self._lines = QVBoxLayout(self)
        self._lines.setContentsMargins(12, 9, 12, 9)
        self._lines.setSpacing(2)
        self._labels: list[QLabel] = []

    def show_preview(self, preview: Preview) -> None:
        """What is proven of a step, or why it is refused."""
        if preview.refusal:
            self.say("hold", [tr("Nothing was changed"), sentence(preview.refusal)])
        else:
            self.say("clean", list(preview.proof))

    def say(self, state: str, lines: list[str]) -> None:
        """Lines in the colour of a level."""
        restyle(self, "verdict", state)
        drop(*self._labels[len(lines) :])
        del self._labels[len(lines) :]
        role = {"hold": "hold", "unknown": "muted"}.get(state, "accent")
        for number, line in enumerate(lines):
            if number == len(self._labels):
                self._labels.append(label(wrap=True))
                self._lines.addWidget(self._labels[number])
            relabel(self._labels[number], line, 10, 600 if number == 0 else 400, role)
        self.setVisible(bool(lines))
