"""A switch between a few views or lenses: one is always on."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QButtonGroup, QFrame, QHBoxLayout, QToolButton, QWidget

from unkelt.desk.common.theme import font, text_is_large
from unkelt.language import said


class Switch(QFrame):
    """Buttons side by side, told apart by a key; `name` is what the style sheet knows it by."""

    switched = Signal(str)

    def __init__(
        self, name: str, entries: Sequence[tuple[str, str, str]], on: str, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.setObjectName(name)
        row = QHBoxLayout(self)
        row.setContentsMargins(4, 3, 4, 3)
        row.setSpacing(2)
        self._group = QButtonGroup(self)
        self._buttons: dict[str, QToolButton] = {}
        for key, words, tip in entries:
            button = QToolButton()
            button.setText(said(words))
            button.setFont(font(9 if text_is_large() else 10, 500))
            button.setCheckable(True)
            button.setToolTip(said(tip))
            button.clicked.connect(lambda _=False, chosen=key: self.switched.emit(chosen))
            self._group.addButton(button)
            self._buttons[key] = button
            row.addWidget(button)
        self.turn_to(on)

    def turn_to(self, key: str) -> None:
        """Shows a choice as the one that holds, and tells nobody."""
        self._buttons[key].setChecked(True)
