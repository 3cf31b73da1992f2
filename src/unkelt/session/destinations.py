"""A ticket's destinations as people fill them in: each a few fields, and the ticket that comes of them."""

from __future__ import annotations

from dataclasses import dataclass

import tomlkit

from unkelt.errors import InputError
from unkelt.job.destination import EACH, FORMATS
from unkelt.job.importing import known_habits
from unkelt.job.ticket import Ticket, parse_ticket
from unkelt.messages import say

FORMAT_WORDS = {"svg": "SVG", "dxf": "DXF", "pdf": "PDF", "plt": "HPGL"}
EACH_WORDS = {"material": "each material, on its own page", "operation": "each operation", "group": "each group"}
assert tuple(FORMAT_WORDS) == FORMATS
assert tuple(EACH_WORDS) == EACH


@dataclass(frozen=True, slots=True)
class Wanted:
    """One destination as it is filled in. `mirrored` names materials, with commas between them."""

    name: str = ""
    format: str = "svg"
    reads: str = "plain"
    each: tuple[str, ...] = ()
    marks: bool = False
    mirrored: str = ""


def wanted(ticket: Ticket, name: str) -> Wanted:
    """What the ticket says of one of its destinations."""
    table = tomlkit.parse(ticket.source).unwrap().get("destination", {}).get(name, {}) if ticket.source else {}
    return Wanted(
        name,
        str(table.get("format", "svg")),
        str(table.get("reads", "plain")),
        tuple(table.get("each", ())),
        bool(table.get("marks", False)),
        ", ".join(table.get("mirrored", ())),
    )


def with_destination(ticket: Ticket, made: Wanted, instead_of: str = "") -> Ticket:
    """The ticket with a destination as it was filled in, in the place of one of its own or after the last; what else
    the ticket says of it stays. Raises InputError where it can't be so.
    """
    name = made.name.strip()
    if not name:
        raise InputError("the ticket", "a destination needs a name")
    document = tomlkit.parse(ticket.source) if ticket.source else tomlkit.document()
    old = document.get("destination", {})
    if name in old and name != instead_of:
        raise InputError("the ticket", say("has a destination “{name}” already", name=name))
    fresh = tomlkit.table(is_super_table=True)
    for known, table in [*old.items(), *([] if instead_of in old else [(name, tomlkit.table())])]:
        fresh[name if known == instead_of else known] = _filled(table, made) if known in (instead_of, name) else table
    document["destination"] = fresh
    return parse_ticket(tomlkit.dumps(document), "the ticket")


def without_destination(ticket: Ticket, name: str) -> Ticket:
    """The ticket without one of its destinations."""
    document = tomlkit.parse(ticket.source)
    del document["destination"][name]
    if not document["destination"]:
        del document["destination"]
    return parse_ticket(tomlkit.dumps(document), "the ticket")


def reads_words() -> dict[str, str]:
    """How importers read, by the names that tickets use."""
    return {name: habits.name for name, habits in known_habits().items()}


def _filled(table: tomlkit.items.Table, made: Wanted) -> tomlkit.items.Table:
    mirrored = [name.strip() for name in made.mirrored.split(",") if name.strip()]
    said = {
        "format": made.format,
        "reads": made.reads if made.reads != "plain" else None,
        "each": [kind for kind in EACH if kind in made.each] or None,
        "marks": made.marks or None,
        "mirrored": mirrored or None,
    }
    for field, value in said.items():
        if value is not None:
            table[field] = value
        elif field in table:
            del table[field]
    return table
