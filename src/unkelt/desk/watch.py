"""A folder that is watched: files that appear there and are written to their end are told of, each once."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QFileSystemWatcher, QObject, QTimer, Signal

from unkelt.formats.formats import READERS

CALM_MS = 600
"""A file whose size and time stay the same for so long has been written."""


class Watcher(QObject):
    """`arrived` with the files that are ready to be read."""

    arrived = Signal(list)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.folder: Path | None = None
        self._watcher = QFileSystemWatcher(self)
        self._watcher.directoryChanged.connect(self._look)
        self._known: set[Path] = set()
        self._growing: dict[Path, tuple[int, int]] = {}
        self._timer = QTimer(self)
        self._timer.setInterval(CALM_MS)
        self._timer.timeout.connect(self._settle)

    def watch(self, folder: Path | None) -> None:
        """Watches this folder from now on, and no other; what lies in it already counts as new."""
        if self.folder is not None:
            self._watcher.removePath(str(self.folder))
        self.folder, self._growing = folder, {}
        self._timer.stop()
        if folder is not None:
            self._known = set()
            self._watcher.addPath(str(folder))
            self._look()

    def _look(self) -> None:
        """Something changed in the folder."""
        for path in self._files():
            if path not in self._known and path not in self._growing:
                self._growing[path] = (-1, 0)
        if self._growing:
            self._timer.start()

    def _settle(self) -> None:
        ready = []
        for path, before in list(self._growing.items()):
            try:
                facts = path.stat()
            except OSError:  # it went again
                del self._growing[path]
                continue
            now = (facts.st_size, facts.st_mtime_ns)
            if now == before and facts.st_size:
                ready.append(path)
                self._known.add(path)
                del self._growing[path]
            else:
                self._growing[path] = now
        if not self._growing:
            self._timer.stop()
        if ready:
            self.arrived.emit(ready)

    def _files(self) -> list[Path]:
        if self.folder is None or not self.folder.is_dir():
            return []
        return sorted(path for path in self.folder.iterdir() if path.suffix.lower() in READERS and path.is_file())
