"""Views are laid out and drawn once unseen, while no file is open yet: the first time takes longest."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QStackedWidget

WARM_MS = 150
"""Views are made ready one after another, so long apart."""


class Warming(QTimer):
    """Ends by itself, when all views are warm or there is something else to do."""

    def __init__(self, pages: QStackedWidget, busy: Callable[[], bool]) -> None:
        super().__init__(pages)
        self._pages, self._busy = pages, busy
        self._cold = [pages.widget(at) for at in range(pages.count())]
        self.setInterval(WARM_MS)
        self.timeout.connect(self._warm)
        self.start()

    def _warm(self) -> None:
        if self._busy():
            self._cold.clear()
        if self._cold:
            page = self._cold.pop()
            if page is not None and not page.isVisible():
                page.resize(self._pages.size())
                page.grab()
        if not self._cold:
            self.stop()
