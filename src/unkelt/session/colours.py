"""What each colour on a sheet is for, and which material it is of: the plain tables behind a ticket's key and
materials.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from unkelt.job.ticket import Ticket, parse_ticket, with_key, with_materials
from unkelt.messages import say
from unkelt.sheet.appearance import Operation
from unkelt.sheet.model import Lettering, Outline, Sheet


@dataclass(frozen=True, slots=True)
class Colour:
    """A colour, how many items are painted with it, what the key says it is for (None: nothing), and the name of its
    material (empty: it is one of its own).
    """

    value: str
    items: int
    meaning: Operation | None
    material: str = ""


def colours_of(sheet: Sheet, ticket: Ticket) -> list[Colour]:
    """The colours on the sheet, and those of the key that aren't, each with what it is for."""
    counts = dict.fromkeys([*ticket.key, *ticket.materials], 0)
    for item in sheet.walk():
        looks = (
            [item.look]
            if isinstance(item, Outline)
            else [run.look for run in item.runs]
            if isinstance(item, Lettering)
            else []
        )
        for look in looks:
            paints = [paint.colour for paint in (look.fill_paint, look.stroke_paint) if paint is not None]
            for colour in dict.fromkeys([*([look.colour] if look.colour else []), *paints]):
                counts[colour] = counts.get(colour, 0) + 1
    return [
        Colour(colour, count, ticket.key.get(colour), ticket.materials.get(colour, ""))
        for colour, count in sorted(counts.items())
    ]


@dataclass(frozen=True, slots=True)
class Named:
    """A colour to choose, with what it is for: `operation` is the key's, None where the key doesn't know it."""

    value: str
    words: str
    operation: Operation | None


def to_choose(sheet: Sheet, ticket: Ticket) -> list[Named]:
    """The key's colours first, each with its operation, then the others that are on the sheet."""
    keyed = [
        Named(colour, say("{operation} · {colour}", operation=meaning, colour=colour), meaning)
        for colour, meaning in ticket.key.items()
    ]
    return keyed + [
        Named(each.value, each.value, None)
        for each in colours_of(sheet, ticket)
        if each.items and each.value not in ticket.key
    ]


def ticket_with(ticket: Ticket, said: Mapping[str, tuple[Operation | None, str]]) -> Ticket:
    """The ticket with what was said of each colour: what it is for, and its material. A colour without the one is in no
    key, one without the other a material of its own. Raises InputError where a material can't be called so.
    """
    keyed = with_key(ticket, {colour: meaning for colour, (meaning, _) in said.items() if meaning is not None})
    materials = {colour: " ".join(name.split()) for colour, (_, name) in said.items() if name.strip()}
    return parse_ticket(with_materials(keyed, materials).source, "the ticket")
