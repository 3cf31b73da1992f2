"""What several commands are asked and say: the ticket, the faces, findings, JSON."""

from __future__ import annotations

import json
import sys
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from unkelt.facts import Facts
from unkelt.job.beside import Beside, ticket_beside
from unkelt.job.ticket import Ticket, read_ticket
from unkelt.job.workshop import Workshop
from unkelt.lettering.shelves import shelf_when_asked


@dataclass(frozen=True, kw_only=True)
class OnFiles:
    """What every command on files is asked."""

    ticket: Path | None = None
    no_ticket: bool = False
    page: int = 1
    json: bool = False
    faces: Sequence[Path] = ()

    def ticket_for(self, path: Path) -> Beside:
        """The ticket that was named, or the one that lies beside the file. Raises InputError."""
        if self.ticket or self.no_ticket:
            return Beside(read_ticket(self.ticket) if self.ticket else Ticket(), self.ticket)
        beside = ticket_beside(path)
        if beside.words:
            print(f"unkelt: {path}: {beside.words}", file=sys.stderr)
        return beside

    def ticket_for_all(self) -> Ticket | None:
        """The ticket that was named for all files; None where each has its own. Raises InputError."""
        return read_ticket(self.ticket) if self.ticket else Ticket() if self.no_ticket else None

    def workshop(self, ticket: Ticket) -> Workshop:
        """The ticket, and the shelf with the faces that were named."""
        return Workshop(ticket, shelf_when_asked(tuple(self.faces)))


def endings(parted_by_commas: str) -> tuple[str, ...]:
    """ "svg, dxf" → (".svg", ".dxf")"""
    return tuple(f".{ending.strip().lstrip('.')}" for ending in parted_by_commas.split(",") if ending.strip())


def say_json(report: Facts) -> None:
    """One object, and nothing else."""
    print(json.dumps(report, ensure_ascii=False, indent=1))
