"""What checks and steps consult beside the sheet."""

from __future__ import annotations

from dataclasses import dataclass, replace

from unkelt.job.ticket import Ticket
from unkelt.lettering.faces import Shelf
from unkelt.lettering.shelves import standard_shelf
from unkelt.tolerance import Tolerance


@dataclass(frozen=True)
class Workshop:
    """What checks and steps consult beside the sheet: what the job asks for, the faces at hand, and how much of the
    chord tolerance a step may use; all of it where nothing is said.
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
