"""How a check is declared, and what it may consult."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

from unkelt.lettering.faces import Shelf
from unkelt.lettering.shelves import standard_shelf
from unkelt.sheet.model import Sheet
from unkelt.sheet.ticket import Ticket
from unkelt.survey.finding import Finding
from unkelt.tolerance import Tolerance


@dataclass(frozen=True)
class Workshop:
    """What checks and steps consult beside the sheet: what the job asks for, the faces at hand, and how much of the chord tolerance
    a step may use; all of it where nothing is said.
    """

    ticket: Ticket
    shelf: Shelf
    may_move_mm: float | None = None

    @property
    def tolerance(self) -> Tolerance:
        """The ticket's tolerance, with what a step may still move a line as its chord."""
        tolerance = self.ticket.tolerance
        return tolerance if self.may_move_mm is None else replace(tolerance, chord_mm=self.may_move_mm)


def standard_workshop(ticket: Ticket | None = None) -> Workshop:
    """With the bundled and installed faces."""
    return Workshop(ticket or Ticket(), standard_shelf())


Look = Callable[[Sheet, Workshop], Iterator[Finding]]


@dataclass(frozen=True, slots=True)
class Check:
    """One check: the codes it may report, and the function that looks."""

    codes: tuple[str, ...]
    look: Look

    @property
    def what(self) -> str:
        """What it finds and why that matters: the first line of its docstring."""
        return (self.look.__doc__ or "").strip().splitlines()[0]


def check(*codes: str) -> Callable[[Look], Check]:
    """Declares a check. A check only reads, imports no other check, and yields its findings in sheet order."""
    return lambda look: Check(codes, look)
