"""What has been done of a folder, so that work that was stopped goes on where it was."""

from __future__ import annotations

import json
import os
from pathlib import Path

from unkelt.batch.folder import Row
from unkelt.facts import Facts
from unkelt.job.beside import place_beside

NAME = ".unkelt-journal.jsonl"


class Journal:
    """Lines of JSON, one a file, each flushed to the disk before the next is begun. `mark` tells whose orders they
    were.
    """

    def __init__(self, folder: Path, mark: str) -> None:
        self.path, self.mark = folder / NAME, mark
        self._known: dict[str, Facts] = {}
        try:
            lines = self.path.read_text(encoding="utf-8").splitlines()
        except OSError:
            lines = []
        for line in lines:
            try:
                said = json.loads(line)
                if said["mark"] == mark:
                    self._known[said["row"]["source"]] = said
            except (ValueError, KeyError, TypeError):
                continue  # a line that a kill cut short

    def done(self, source: str, facts: object) -> Row | None:
        """What came of something, if it is as it was then, by these facts, and its result is still there."""
        said = self._known.get(source)
        try:
            if said is None or said["facts"] != facts:
                return None
            row = Row.from_json(said["row"])
            return row if row.output is not None and Path(row.output).exists() else None
        except (OSError, KeyError, TypeError):
            return None

    def add(self, row: Row, facts: object) -> None:
        """Writes one row, whole, with the facts that it depends on."""
        said = {"mark": self.mark, "facts": facts, "row": row.as_json()}
        self.path.parent.mkdir(parents=True, exist_ok=True)
        with self.path.open("a", encoding="utf-8") as file:
            file.write(json.dumps(said, ensure_ascii=False) + "\n")
            file.flush()
            os.fsync(file.fileno())


def facts_of(source: Path) -> list[int]:
    """What tells whether a file, or the ticket beside it, was changed. Raises OSError."""
    facts = source.stat()
    beside = place_beside(source)
    ticket = beside.stat() if beside.is_file() else None
    return [facts.st_size, facts.st_mtime_ns, *([ticket.st_size, ticket.st_mtime_ns] if ticket else [])]
