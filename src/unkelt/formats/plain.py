"""What every format but SVG carries: outlines with an operation. What it can't carry is refused, never dropped."""

from __future__ import annotations

from unkelt.errors import InputError
from unkelt.job.ticket import Ticket
from unkelt.messages import say
from unkelt.sheet.model import Lettering, Outline, Picture, Sheet
from unkelt.sheet.naming import called


def outlines_only(sheet: Sheet, kind: str) -> list[Outline]:
    """The outlines that are painted, in order. Raises InputError where the sheet holds what the format can't carry."""
    for item in sheet.walk():
        if isinstance(item, Lettering):
            raise InputError(
                called(item), say("is live text, which {kind} can't carry as it looks; outline it first", kind=kind)
            )
        if isinstance(item, Picture):
            raise InputError(called(item), say("is a picture, which {kind} can't carry; take it out first", kind=kind))
    return [outline for outline in sheet.outlines() if outline.look.shown]


def refuse_one_sided(outline: Outline) -> None:
    """Raises InputError where a stroke lies on one side of its line: no format has it, and on both it is another."""
    if outline.look.stroke and outline.look.stroke_side != "centre":
        raise InputError(
            called(outline),
            say("has a stroke on one side of its line, which no file can have; outline it first"),
        )


def layer_of(outline: Outline, ticket: Ticket) -> str:
    """The layer an outline goes on: its operation, or its colour where the ticket's key doesn't know that."""
    operation = ticket.operation(outline.look)
    return operation.value if operation is not None else f"colour {(outline.look.colour or '#000000')[1:]}"
