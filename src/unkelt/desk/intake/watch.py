"""A folder that is watched from the window: files that appear there and are written to their end are told of."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QFileSystemWatcher, QObject, QTimer, Signal

from unkelt.batch.arrivals import Arrivals

CALM_MS = 600
"""A file whose size and time stay the same for so long has been written."""


class Watcher(QObject):
    """`arrived` with the files that are ready to be read."""

    arrived = Signal(list)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.folder: Path | None = None
        self._arrivals: Arrivals | None = None
        self._watcher = QFileSystemWatcher(self)
        self._watcher.directoryChanged.connect(self._look)
        self._timer = QTimer(self)
        self._timer.setInterval(CALM_MS)
        self._timer.timeout.connect(self._look)

    def watch(self, folder: Path | None) -> None:
        """Watches this folder from now on, and no other; what lies in it already counts as new."""
        if self.folder is not None:
            self._watcher.removePath(str(self.folder))
        self.folder, self._arrivals = folder, Arrivals(folder) if folder else None
        self._timer.stop()
        if folder is not None:
            self._watcher.addPath(str(folder))
            self._look()

    def _look(self) -> None:
        """Something changed in the folder, or what had come has had time to grow."""
        if self._arrivals is None:
            return
        ready = self._arrivals.look()
        self._timer.start() if self._arrivals.expecting else self._timer.stop()
        if ready:
            self.arrived.emit(ready)
