"""`hairline` and `unify-colours`: each line says what it is for."""

from __future__ import annotations

from dataclasses import dataclass, replace

from unkelt.account.changes import Reason
from unkelt.errors import NothingToDo, StepRefused
from unkelt.job.workshop import Workshop
from unkelt.messages import say_count
from unkelt.sheet.appearance import Appearance, Operation
from unkelt.sheet.model import Item, Outline, Sheet
from unkelt.sheet.near_colour import nearest_colour
from unkelt.steps.evidence import Evidence
from unkelt.steps.operation import Recoloured
from unkelt.steps.step import On, Outcome, Purpose, step, targets


@dataclass(frozen=True, kw_only=True)
class Narrowed(Evidence):
    """Lines of one width (mm), the widest of them before."""

    lines: int
    width_before_mm: float
    width_after_mm: float

    def caption(self) -> str:
        return say_count("{count} line", "{count} lines", self.lines)


@step(
    "hairline",
    "Make a hairline",
    on=On.OUTLINES,
    purpose=Purpose.LAYERS,
    safe=True,
    redraws=Reason.WIDTH,
    by_length=True,
)
def hairline(sheet: Sheet, items: tuple[str, ...], workshop: Workshop) -> Outcome:
    """Gives cut lines the ticket's hairline and no fill. The path and its colour stay as they are.

    Without items, the step takes every outline that the ticket's key calls cut.
    """
    ticket = workshop.ticket
    changes: dict[str, tuple[Item, ...]] = {}
    widest = 0.0
    for outline in targets("hairline", sheet, items, Outline):
        look = outline.look
        if ticket.operation(look) is not Operation.CUT or (not items and not ticket.key):
            continue
        line = replace(
            look,
            fill=None,
            stroke=look.stroke or look.fill,
            stroke_width_mm=ticket.machine.hairline_mm,
            dashes_mm=(),
            pen=None,
        )
        if line != look:
            widest = max(widest, look.stroke_width_mm if look.stroke else 0.0)
            changes[outline.id] = (replace(outline, look=line),)
    if not changes:
        raise NothingToDo("hairline", "none of these is a cut line that is too wide or filled")
    evidence = Narrowed(
        lines=len(changes),
        width_before_mm=round(widest, 4),
        width_after_mm=round(ticket.machine.hairline_mm, 4),
        max_deviation_mm=0.0,
    )
    return Outcome(sheet.replaced(changes), tuple(changes), evidence)


@step(
    "unify-colours",
    "Use the key's colour",
    on=On.OUTLINES,
    purpose=Purpose.LAYERS,
    safe=True,
    redraws=Reason.REPAINTED,
)
def unify_colours(sheet: Sheet, items: tuple[str, ...], workshop: Workshop) -> Outcome:
    """Replaces colours that are almost a colour of the ticket's key by that colour. Paths stay as they are.

    A colour that is almost two colours of the key stays; a person must choose. Refused without a key.
    """
    key = workshop.ticket.key
    if not key:
        raise StepRefused("unify-colours", "the ticket has no key of colours")

    def meant(paint: str | None) -> str | None:
        return paint if paint is None or paint in key else nearest_colour(paint, key) or paint

    changes: dict[str, tuple[Item, ...]] = {}
    for outline in targets("unify-colours", sheet, items, Outline):
        look: Appearance = replace(outline.look, fill=meant(outline.look.fill), stroke=meant(outline.look.stroke))
        if look != outline.look:
            changes[outline.id] = (replace(outline, look=look),)
    if not changes:
        raise NothingToDo("unify-colours", "no colour here is almost one of the key's")
    return Outcome(sheet.replaced(changes), tuple(changes), Recoloured(outlines=len(changes), max_deviation_mm=0.0))
