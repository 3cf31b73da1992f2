"""`set-colour`: any colour for what is chosen, for one letter too."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Literal

from unkelt.account.changes import Reason
from unkelt.errors import NothingToDo
from unkelt.job.workshop import Workshop
from unkelt.lettering.letters import with_look
from unkelt.messages import say, say_count
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.change import leaves
from unkelt.sheet.model import Item, Lettering, Outline, Sheet
from unkelt.steps.evidence import Worked
from unkelt.steps.lettering import OnlyLetters, named_letters
from unkelt.steps.paint import plain
from unkelt.steps.place import check_items
from unkelt.steps.step import Field, On, Outcome, Pictured, Purpose, step

Paints = Literal["as now", "fill", "line", "both"]


class Coloured(Worked):
    """Items in another colour."""

    def caption(self) -> str:
        return say_count("Coloured {count} item", "Coloured {count} items", self.items)


@step(
    "set-colour",
    "Set the colour",
    on=On.ITEMS,
    purpose=Purpose.LAYERS,
    redraws=Reason.REPAINTED,
)
def set_colour(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    colour: Annotated[str, "such as #0b5d4c", Pictured("colours"), Field("Colour", first=True)] = "",
    paint: Annotated[
        Paints, "what gets the colour; “as now” recolours what is painted now", Field("Paint", first=True)
    ] = "as now",
    letters: OnlyLetters = "",
) -> Outcome:
    """Paints the named items, or all items, in one colour. Paths, and how wide lines are, stay as they are.

    A colour is a material and, by the ticket's key, an operation: the step says which operation it is then.
    """
    wanted = plain("set-colour", colour)
    check_items("set-colour", sheet, items)
    chosen = leaves(sheet, items) if items else {item.id for item in sheet.walk()}
    changes: dict[str, tuple[Item, ...]] = {}
    for item in sheet.walk():
        if item.id not in chosen:
            continue
        new = _painted(item, wanted, paint, letters, workshop)
        if new != item:
            changes[item.id] = (new,)
    if not changes:
        raise NothingToDo("set-colour", say("these are {colour} already", colour=wanted))
    return Outcome(sheet.replaced(changes), tuple(changes), Coloured(items=len(changes), max_deviation_mm=0.0))


def _painted(item: Item, colour: str, paint: Paints, letters: str, workshop: Workshop) -> Item:
    hairline = workshop.ticket.machine.hairline_mm
    match item:
        case Outline():
            return replace(item, look=_look(item.look, colour, paint, hairline))
        case Lettering():
            which = named_letters("set-colour", item, letters)
            return with_look(item, which, lambda look: _look(look, colour, paint, hairline))
    return item


def _look(look: Appearance, colour: str, paint: Paints, hairline_mm: float) -> Appearance:
    """The look in another colour. What becomes a line only now is a hairline."""
    match paint:
        case "fill":
            return replace(look, fill=colour, stroke=None)
        case "line":
            width = look.stroke_width_mm if look.stroke else hairline_mm
            return replace(look, fill=None, stroke=colour, stroke_width_mm=width)
        case "both":
            width = look.stroke_width_mm if look.stroke else hairline_mm
            return replace(look, fill=colour, stroke=colour, stroke_width_mm=width)
    if look.fill is None and look.stroke is None:
        return replace(look, fill=colour)
    return replace(look, fill=look.fill and colour, stroke=look.stroke and colour)
