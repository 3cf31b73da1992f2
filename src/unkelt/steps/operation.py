"""`set-operation` and `reveal`: what an item is for, and whether it is seen."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated, Literal

from unkelt.account.changes import Reason
from unkelt.errors import NothingToDo, StepRefused
from unkelt.job.workshop import Workshop
from unkelt.messages import say, say_count
from unkelt.sheet.appearance import Appearance, Operation
from unkelt.sheet.change import leaves
from unkelt.sheet.model import Item, Outline, Sheet
from unkelt.steps.evidence import Evidence
from unkelt.steps.paint import plain
from unkelt.steps.step import Field, On, Outcome, Pictured, Purpose, step, targets

Wanted = Literal["cut", "score", "engrave", "leave"]


@dataclass(frozen=True, kw_only=True)
class Recoloured(Evidence):
    """Outlines that were given a paint."""

    outlines: int

    def caption(self) -> str:
        return say_count("{count} outline", "{count} outlines", self.outlines)


@step(
    "set-operation",
    "Set the operation",
    on=On.OUTLINES,
    purpose=Purpose.LAYERS,
    redraws=Reason.REPAINTED,
)
def set_operation(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    operation: Annotated[
        Wanted,
        "cut and score are hairlines without fill, engrave is a fill without line",
        Field("Operation", first=True),
    ] = "cut",
    colour: Annotated[
        str, "which of the key's colours for it; without it, the first", Pictured("colours"), Field("Colour")
    ] = "",
) -> Outcome:
    """Paints outlines in the key's colour of an operation. Paths stay as they are.

    Refused if the ticket's key has no colour for the operation. Without a key, only cut and engrave differ, by line
    and fill.
    """
    ticket = workshop.ticket
    wanted = Operation(operation)
    meant = plain("set-operation", colour) if colour.strip() else None
    if meant is not None and ticket.key and ticket.key.get(meant) is not wanted:
        raise StepRefused(
            "set-operation",
            say("the key doesn't know {colour} for {operation}", colour=meant, operation=operation),
            way_out="set_colours",
        )
    paint = meant or next((each for each, meaning in ticket.key.items() if meaning is wanted), None)
    if paint is None and (ticket.key or wanted in (Operation.SCORE, Operation.LEAVE)):
        raise StepRefused(
            "set-operation",
            say("the ticket's key has no colour for {operation}", operation=operation),
            way_out="set_colours",
        )
    changes: dict[str, tuple[Item, ...]] = {}
    chosen = leaves(sheet, items) if items else set()
    for outline in targets("set-operation", sheet, tuple(chosen) or items, Outline):
        look = _painted(outline.look, wanted, paint or outline.look.colour or "#000000", workshop)
        if look != outline.look:
            changes[outline.id] = (replace(outline, look=look),)
    if not changes:
        if not ticket.key and wanted is Operation.ENGRAVE:
            raise StepRefused(
                "set-operation",
                "without a key of colours everything painted is cut; say what each colour is for",
                way_out="set_colours",
            )
        raise NothingToDo("set-operation", say("these are for {operation} already", operation=operation))
    return Outcome(sheet.replaced(changes), tuple(changes), Recoloured(outlines=len(changes), max_deviation_mm=0.0))


def _painted(look: Appearance, operation: Operation, colour: str, workshop: Workshop) -> Appearance:
    plain = replace(
        look,
        visible=True,
        opacity=1.0,
        fill_opacity=1.0,
        stroke_opacity=1.0,
        stroke_below=False,
        dashes_mm=(),
        pen=None,
    )
    if operation in (Operation.CUT, Operation.SCORE):
        return replace(plain, fill=None, stroke=colour, stroke_width_mm=workshop.ticket.machine.hairline_mm)
    return replace(plain, fill=colour, stroke=None)


@step(
    "reveal",
    "Show what is hidden",
    on=On.NOTHING,
    purpose=Purpose.LAYERS,
    redraws=Reason.HIDDEN,
)
def reveal(sheet: Sheet, items: tuple[str, ...], workshop: Workshop) -> Outcome:
    """Makes hidden outlines visible: displayed, opaque, and with a hairline where they have no paint. Paths stay as
    they are.
    """
    hairline = workshop.ticket.machine.hairline_mm
    changes: dict[str, tuple[Item, ...]] = {}
    for outline in targets("reveal", sheet, items, Outline):
        look = replace(outline.look, visible=True, opacity=outline.look.opacity or 1.0)
        if not look.shown and look.colour is not None:
            look = replace(look, fill_opacity=1.0, stroke_opacity=1.0)
        if look.colour is None:
            look = replace(look, stroke="#000000", stroke_width_mm=hairline)
        if look != outline.look:
            changes[outline.id] = (replace(outline, look=look),)
    if not changes:
        raise NothingToDo("reveal", "none of these is hidden")
    return Outcome(sheet.replaced(changes), tuple(changes), Recoloured(outlines=len(changes), max_deviation_mm=0.0))
