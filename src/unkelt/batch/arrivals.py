"""Files that arrive in a folder: told of once each, and not before they are written to their end."""

from __future__ import annotations

from pathlib import Path

from unkelt.formats.formats import READERS


class Arrivals:
    """Looked at again and again: a file whose size and time were the same at the look before has been written."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._known: dict[Path, tuple[int, int]] = {}
        self._growing: dict[Path, tuple[int, int]] = {}

    @property
    def expecting(self) -> bool:
        """Whether something has come that may still grow."""
        return bool(self._growing)

    def look(self) -> list[Path]:
        """What is ready since the last look. A file that came again, changed, counts as new."""
        growing: dict[Path, tuple[int, int]] = {}
        ready = []
        for path in self._files():
            try:
                facts = path.stat()
            except OSError:  # it went again
                continue
            now = (facts.st_size, facts.st_mtime_ns)
            if self._known.get(path) == now:
                continue
            if facts.st_size and self._growing.get(path) == now:
                ready.append(path)
                self._known[path] = now
            else:
                growing[path] = now
        self._growing = growing
        return ready

    def _files(self) -> list[Path]:
        try:
            return sorted(path for path in self.folder.iterdir() if path.suffix.lower() in READERS and path.is_file())
        except OSError:  # the folder is gone; it may come again
            return []
