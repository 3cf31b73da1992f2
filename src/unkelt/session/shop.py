"""The shop's own tickets: kept in the user's settings, by name, for jobs that come again and again."""

from __future__ import annotations

from pathlib import Path

from unkelt.errors import InputError
from unkelt.formats.files import write_whole
from unkelt.job.ticket import Ticket, read_ticket
from unkelt.messages import say


class Shop:
    """A folder of tickets."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def names(self) -> list[str]:
        """What is there, in order."""
        return sorted(path.stem for path in self.folder.glob("*.toml")) if self.folder.is_dir() else []

    def paths(self) -> list[Path]:
        """Their files, in order."""
        return [self._path(name) for name in self.names()]

    def ticket(self, name: str) -> Ticket:
        """Raises InputError."""
        return read_ticket(self._path(name))

    def keep(self, name: str, ticket: Ticket) -> None:
        """Keeps a ticket under a name, in place of one that has it. Raises InputError."""
        path = self._path(name)
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
        except OSError as problem:
            raise InputError(str(self.folder), say("can't be made: {strerror}", strerror=problem.strerror)) from problem
        write_whole(path, ticket.source.encode())

    def _path(self, name: str) -> Path:
        if not name.strip() or name.startswith(".") or "/" in name or "\0" in name:
            raise InputError(name, "is no name for a ticket: it may hold no slash and not begin with a dot")
        return self.folder / f"{name.strip()}.toml"
