"""The two rows at the top: the job with its verdict; what one does most, the views, the lamps."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QAction, QResizeEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QMenu, QToolButton, QWidget

from unkelt.desk.common.bars import Lamps, VerdictPill
from unkelt.desk.common.switch import Switch
from unkelt.desk.common.theme import GAP, PAD, font, px, text_is_large
from unkelt.desk.common.widgets import label, named
from unkelt.desk.menus import keys_of
from unkelt.language import said, tr

MOST_USED = ("new_sheet", "open_file", "open_ticket", "save_as", "undo", "redo")


class JobRow(QWidget):
    """Which job is in front, its ticket in a line, and the verdict."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("header")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.title = named(QToolButton(), "title")
        self.title.setFont(font(15, 600))
        self.title.setAccessibleName(tr("Open files"))
        self.ticket_line = label("", 10.5, role="muted")
        self._title, self._ticket, self._several = "", "", False
        self.verdict = VerdictPill()
        row = QHBoxLayout(self)
        row.setContentsMargins(PAD - 6, GAP, PAD, GAP)
        row.addWidget(self.title)
        row.addWidget(self.ticket_line)
        row.addStretch(1)
        row.addWidget(self.verdict)

    def show_job(self, title: str, ticket: str, files: QMenu | None) -> None:
        """The menu of open files is there when there is more than one."""
        self._title, self._ticket, self._several = title, said(ticket), files is not None
        self.title.setMenu(files)  # type: ignore[arg-type]  # None takes it away
        mode = QToolButton.ToolButtonPopupMode
        self.title.setPopupMode(mode.InstantPopup if files else mode.DelayedPopup)
        self.title.setToolTip(title)
        self.ticket_line.setToolTip(self._ticket)
        self._fit()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        """Title and ticket as far as there is room for them: a long name never makes the window wider."""
        room = max(self.width(), 600) - (self.verdict.sizeHint().width() if self.verdict.verdict.words else 0) - 6 * PAD
        arrow = "  ▾" if self._several else ""
        title = _cut(self.title, self._title, int(room * 0.6))
        self.title.setText(f"{title}{arrow}")
        used = self.title.sizeHint().width()
        self.ticket_line.setText(_cut(self.ticket_line, self._ticket, max(60, room - used)))


class ActionRow(QWidget):
    """The actions used most, the switch of views, and the six lamps."""

    def __init__(self, actions: dict[str, QAction], views: Sequence[tuple[str, str, str]]) -> None:
        super().__init__()
        self.setObjectName("bar")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        row = QHBoxLayout(self)
        row.setContentsMargins(PAD - 8, 2, PAD, 8)
        row.setSpacing(2)
        for name in MOST_USED:
            action = actions[name]
            if name == "undo":
                row.addWidget(_upright())
            row.addWidget(_button(action))
        self.views = Switch("views", views, "view_inspect")
        self.lamps = Lamps()
        row.addStretch(1)
        row.addWidget(self.views)
        row.addStretch(2)
        row.addWidget(self.lamps)


LARGE_ICON = 20
"""With large text, so that the row fits a narrow window."""


def _cut(widget: QWidget, text: str, width: int) -> str:
    return widget.fontMetrics().elidedText(text, Qt.TextElideMode.ElideMiddle, width)


def _button(action: QAction) -> QToolButton:
    button = QToolButton()
    button.setDefaultAction(action)
    if action.objectName() == "open_file" and not text_is_large():
        button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
    button.setToolTip(f"{action.text()} ({keys_of(action)})")
    button.setFont(font(10.5))
    side = LARGE_ICON if text_is_large() else px(18)
    button.setIconSize(QSize(side, side))
    button.setAccessibleName(action.text())
    return button


def _upright() -> QWidget:
    line = named(QFrame(), "rule")
    line.setFixedSize(1, 20)
    return line
