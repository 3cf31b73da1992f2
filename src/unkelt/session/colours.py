"""What each colour on a sheet is for: the plain table behind a ticket's key."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from unkelt.sheet.appearance import Operation
from unkelt.sheet.model import Lettering, Outline, Sheet
from unkelt.sheet.ticket import Ticket, with_key


@dataclass(frozen=True, slots=True)
class Colour:
    """A colour, how many items are painted with it, and what the key says it is for (None: nothing)."""

    value: str
    items: int
    meaning: Operation | None


def colours_of(sheet: Sheet, ticket: Ticket) -> list[Colour]:
    """The colours on the sheet, and those of the key that aren't, each with what it is for."""
    counts = dict.fromkeys(ticket.key, 0)
    for item in sheet.walk():
        looks = [item.look] if isinstance(item, Outline) else [run.look for run in item.runs] if isinstance(item, Lettering) else []  # fmt: skip
        for look in looks:
            if look.colour is not None:
                counts[look.colour] = counts.get(look.colour, 0) + 1
    return [Colour(colour, count, ticket.key.get(colour)) for colour, count in sorted(counts.items())]


def ticket_with(ticket: Ticket, meanings: Mapping[str, Operation | None]) -> Ticket:
    """The ticket with what was chosen for each colour; a colour without a meaning is in no key."""
    return with_key(ticket, {colour: meaning for colour, meaning in meanings.items() if meaning is not None})
