"""A few choices side by side, each one click away: one is always on."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Signal
from PySide6.QtGui import QFontMetrics
from PySide6.QtWidgets import QButtonGroup, QFrame, QHBoxLayout, QToolButton

from unkelt.desk.common.theme import font
from unkelt.language import said

MOST, ROOM_PX = 5, 264
"""How many choices, and pixels for their words, stand side by side in a panel."""
ROUND_PX = 18
"""What a choice takes beside its word."""


class Segments(QFrame):
    """`taken` when another choice is on. Choices are told by their words, in the language of the recipe."""

    taken = Signal()

    def __init__(self, words: Sequence[str], on: str) -> None:
        super().__init__()
        self.setObjectName("segments")
        row = QHBoxLayout(self)
        row.setContentsMargins(2, 2, 2, 2)
        row.setSpacing(1)
        self._group = QButtonGroup(self)
        self.buttons: dict[str, QToolButton] = {}
        for word in words:
            button = QToolButton()
            button.setText(said(word))
            button.setFont(font(9.5))
            button.setCheckable(True)
            button.clicked.connect(self.taken)
            self._group.addButton(button)
            self.buttons[word] = button
            row.addWidget(button, 1)
        self.show_word(on)

    @staticmethod
    def have_room(words: Sequence[str]) -> bool:
        """Whether all fit beside each other."""
        return len(words) <= MOST and Segments.width_of(words) <= ROOM_PX

    @staticmethod
    def width_of(words: Sequence[str]) -> int:
        """The pixels that they take beside each other."""
        metrics = QFontMetrics(font(9.5))
        return sum(metrics.horizontalAdvance(said(word)) + ROUND_PX for word in words)

    def word(self) -> str:
        """The choice that is on."""
        return next((word for word, button in self.buttons.items() if button.isChecked()), "")

    def show_word(self, word: str) -> None:
        """Turns a choice on."""
        if word in self.buttons:
            self.buttons[word].setChecked(True)
