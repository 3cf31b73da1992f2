"""The first page, when no file is open: how to begin, what was left open, what was open last, and jobs to try it on."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from unkelt.desk.common.theme import PAD
from unkelt.desk.common.widgets import empty, label, named, scrolling
from unkelt.language import tr
from unkelt.session.kept_jobs import Kept
from unkelt.session.sentences import left_words


class StartView(QWidget):
    """`chosen` with a file to open; `taken_up` and `thrown_away` with what was left open."""

    open_asked = Signal()
    new_asked = Signal()
    demo_asked = Signal()
    chosen = Signal(object)
    taken_up = Signal(object)
    thrown_away = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName(tr("Start"))
        inside = named(QWidget(), "intake")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(scrolling(inside))
        outer = QHBoxLayout(inside)
        outer.setContentsMargins(32, 44, 32, 28)
        column = named(QWidget(), "column")
        column.setMaximumWidth(880)
        self._column = QVBoxLayout(column)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(20)
        outer.addStretch(1)
        outer.addWidget(column, 8)
        outer.addStretch(1)

    def show_start(self, left: Sequence[Kept], recent: Sequence[Path], together: Sequence[Path] = ()) -> None:
        """What can be begun with."""
        empty(self._column)
        if left:
            self._column.addWidget(self._left_card(left))
        self._column.addWidget(self._begin_card())
        pair = QWidget()
        named(pair, "column")
        row = QGridLayout(pair)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(20)
        row.addWidget(self._recent_card(recent, together), 0, 0)
        row.addWidget(self._demo_card(), 0, 1)
        row.setColumnStretch(0, 1)
        row.setColumnStretch(1, 1)
        self._column.addWidget(pair)
        self._column.addStretch(1)

    def _card(self, title: str, points: float = 12.5) -> tuple[QFrame, QVBoxLayout]:
        card = named(QFrame(), "card")
        layout = QVBoxLayout(card)
        layout.setContentsMargins(24, PAD + 4, 24, PAD + 4)
        layout.setSpacing(8)
        layout.addWidget(label(title, points, 600))
        return card, layout

    def _begin_card(self) -> QFrame:
        card, layout = self._card(
            tr("Will this import clean, at the right size, and cut once along the right line?"), 15
        )
        layout.addWidget(
            label(
                tr(
                    "Drop a lettering file (SVG, PDF or DXF) anywhere in this window, or open one. Unkelt checks it "
                    "at once, shows what would go wrong at the machine, and proves each repair. It never changes the "
                    "original."
                ),
                10.5,
                role="muted",
                wrap=True,
            )
        )
        button = _button(tr("Open a file…"), primary=True)
        button.clicked.connect(self.open_asked)
        layout.addSpacing(4)
        new = _button(tr("New sheet…"))
        new.clicked.connect(self.new_asked)
        row = QHBoxLayout()
        row.addWidget(button)
        row.addWidget(new)
        row.addStretch(1)
        layout.addLayout(row)
        return card

    def _left_card(self, left: Sequence[Kept]) -> QFrame:
        card, layout = self._card(tr("Still open when Unkelt ended unexpectedly"))
        for kept in left[:6]:
            name, words = left_words(kept)
            layout.addLayout(_named_row(name, words))
        row = QHBoxLayout()
        take, throw = (
            _button(tr("Restore") if len(left) == 1 else tr("Restore all"), primary=True),
            _button(tr("Discard")),
        )
        take.clicked.connect(lambda: self.taken_up.emit(tuple(left)))
        throw.clicked.connect(lambda: self.thrown_away.emit(tuple(left)))
        row.addWidget(take)
        row.addWidget(throw)
        row.addStretch(1)
        layout.addSpacing(4)
        layout.addLayout(row)
        return card

    def _recent_card(self, recent: Sequence[Path], together: Sequence[Path]) -> QFrame:
        card, layout = self._card(tr("Recent files"))
        layout.setSpacing(2)
        if not recent:
            layout.addWidget(label(tr("Nothing yet."), 10, role="muted"))
        for path in recent[:8]:
            button = QPushButton(path.name)
            button.setProperty("role", "link")
            button.setToolTip(str(path))
            button.setAccessibleName(tr("Open {name} again").format(name=path.name))
            button.clicked.connect(lambda _=False, chosen=path: self.chosen.emit([chosen]))
            layout.addWidget(button, 0, Qt.AlignmentFlag.AlignLeft)
        if len(together) > 1:
            again = _button(tr("Open the last {count} files").format(count=len(together)))
            again.clicked.connect(lambda: self.chosen.emit(list(together)))
            layout.addSpacing(6)
            layout.addWidget(again, 0, Qt.AlignmentFlag.AlignLeft)
        layout.addStretch(1)
        return card

    def _demo_card(self) -> QFrame:
        card, layout = self._card(tr("Try it"))
        layout.addWidget(
            label(
                tr(
                    "Twelve jobs of Hollin Quay, an invented boatyard: transom names in script, a port name on an "
                    "arc, berth tags to cut and engrave, a steel fascia. Together they show every fault that Unkelt "
                    "finds."
                ),
                10,
                role="muted",
                wrap=True,
            )
        )
        button = _button(tr("Open the jobs of Hollin Quay"))
        button.clicked.connect(self.demo_asked)
        layout.addSpacing(4)
        layout.addWidget(button, 0, Qt.AlignmentFlag.AlignLeft)
        layout.addStretch(1)
        return card


def _button(words: str, *, primary: bool = False) -> QPushButton:
    button = QPushButton(words)
    button.setProperty("role", "primary" if primary else "")
    return button


def _named_row(name: str, words: str) -> QHBoxLayout:
    row = QHBoxLayout()
    row.setSpacing(10)
    row.addWidget(label(name, 10.5, 500))
    row.addWidget(label(words, 10, role="muted"), 1)
    return row
