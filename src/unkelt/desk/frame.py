"""The window as those see it who work in it: what they may ask of it, and no more."""

from __future__ import annotations

from pathlib import Path
from typing import Any, Protocol

from PySide6.QtGui import QAction
from PySide6.QtWidgets import QMainWindow

from unkelt.app.desktop import Desktop
from unkelt.desk.common.bars import MessageBar
from unkelt.desk.views import View
from unkelt.session.settings import Settings


class Frame(Protocol):
    """`itself` is what dialogs stand before."""

    state: Desktop
    actions_by_id: dict[str, QAction]
    settings: Settings
    log: Path | None

    @property
    def itself(self) -> QMainWindow:
        """The window, for dialogs to lie over."""

    @property
    def message(self) -> MessageBar:
        """The bar at its foot."""

    @property
    def view(self) -> View:
        """The view that is looked at."""
        ...

    def do(self, action: str) -> None:
        """Does an action of the table, by its id."""
        ...

    def turn_to(self, view: View) -> None:
        """Shows a view, and what it has to show."""
        ...

    def remember(self, **chosen: Any) -> None:
        """Settings for all jobs, kept."""
        ...
