"""The ticket as a form: its fields as people fill them in, and the ticket that comes of what they wrote."""

from __future__ import annotations

from dataclasses import dataclass

import tomlkit

from unkelt.errors import InputError
from unkelt.job.machine import STANDARD_PROFILE, profiles
from unkelt.job.ticket import Ticket, parse_ticket
from unkelt.messages import say


@dataclass(frozen=True, slots=True)
class Field:
    """One field: its table and name in the TOML, what it is called, an example, and its choices where it has any."""

    table: str
    name: str
    words: str
    example: str = ""
    choices: tuple[tuple[str, str], ...] = ()
    """Value and words; the first value is what an absent field means."""


FIELDS = (
    Field("job", "name", "job", "Kittiwake transom"),
    Field("size", "width", "width", "900 mm"),
    Field("size", "height", "height", "3 1/2 in"),
    Field("size", "tolerance", "give or take", say("{value:g} mm", value=0.5)),
    Field(
        "size",
        "of",
        "measured on",
        choices=(("ink", "the ink"), ("cut", "the cut lines"), ("visible", "all that shows")),
    ),
    Field(
        "machine",
        "profile",
        "machine",
        choices=tuple(
            (name, name.replace("-", " ")) for name in sorted(profiles(), key=lambda n: n != STANDARD_PROFILE)
        ),
    ),
    Field("machine", "bed", "bed", "600 mm, 5 m"),
    Field("machine", "chord", "chord tolerance", say("{value:g} mm", value=0.02)),
    Field("machine", "hairline", "hairline", say("{value:g} mm", value=0.26)),
    Field("machine", "smallest_stroke", "smallest stroke", "1 mm"),
    Field("machine", "smallest_gap", "smallest gap", say("{value:g} mm", value=0.5)),
    Field("job", "mirrored", "cut from behind", choices=(("", "not said"), ("true", "yes, mirrored"), ("false", "no"))),
    Field("job", "pieces", "pieces", "1"),
    Field("job", "sheet_stays", "sheet stays whole", choices=(("", "not said"), ("true", "yes, as a stencil"))),
)


def written(ticket: Ticket) -> dict[tuple[str, str], str]:
    """What the ticket says, field by field, as a person wrote it; a field that it doesn't have is empty."""
    document = tomlkit.parse(ticket.source).unwrap() if ticket.source else {}
    found: dict[tuple[str, str], str] = {}
    for field in FIELDS:
        value = document.get(field.table, {}).get(field.name, "")
        if isinstance(value, bool):
            value = str(value).lower()
        found[field.table, field.name] = ", ".join(map(str, value)) if isinstance(value, list) else str(value)
    return found


def filled_in(ticket: Ticket, field: Field, text: str) -> Ticket:
    """The ticket with one field as it was written, or without it where nothing was; all else in its text stays as it
    is.

    Raises InputError naming the field.
    """
    document = tomlkit.parse(ticket.source) if ticket.source else tomlkit.document()
    text = text.strip()
    if field.choices and text == field.choices[0][0] and field.name not in document.get(field.table, {}):
        return ticket
    if field.table not in document:
        document[field.table] = tomlkit.table()
    table = document[field.table]
    if not text:
        if field.name in table:
            del table[field.name]
    else:
        value: object = text
        if field.name == "bed":
            value = [part.strip() for part in text.replace("×", ",").replace(" x ", ",").split(",")]
        elif field.name in ("mirrored", "sheet_stays"):
            value = text == "true"
        elif field.name == "pieces" and text.isdecimal():
            value = int(text)
        table[field.name] = value
    if not document[field.table]:
        del document[field.table]
    try:
        return parse_ticket(tomlkit.dumps(document), "the ticket")
    except InputError as problem:
        raise InputError(field.words, problem.reason) from problem
