"""`unbind`"""

from __future__ import annotations

from dataclasses import dataclass, replace

from unkelt.errors import NothingToDo, StepRefused
from unkelt.geometry.nesting import piece_paths
from unkelt.job.workshop import Workshop
from unkelt.language import grouped
from unkelt.messages import say
from unkelt.sheet.model import Group, Item, Outline, Sheet
from unkelt.sheet.naming import name_of
from unkelt.steps.evidence import Evidence
from unkelt.steps.step import On, Outcome, Purpose, step, targets


@dataclass(frozen=True, kw_only=True)
class Unbound(Evidence):
    """Compound paths that became outlines of a piece each."""

    outlines_before: int
    outlines_after: int
    counters_after: int

    def caption(self) -> str:
        return say(
            "{outlines_before} → {outlines_after} outlines",
            outlines_before=grouped(self.outlines_before),
            outlines_after=grouped(self.outlines_after),
        )


@step("unbind", "Unbind into pieces", on=On.OUTLINES, purpose=Purpose.LAYERS, lines="closed")
def unbind(sheet: Sheet, items: tuple[str, ...], workshop: Workshop) -> Outcome:
    """Makes an outline of each piece of a compound path, with its own counters. Nothing moves.

    Refused where rings cross, because then a counter can't be assigned to a piece.
    """
    taken = {item.id for item in sheet.walk()}
    changes: dict[str, tuple[Item, ...]] = {}
    counters = made = 0
    for outline in targets("unbind", sheet, items, Outline):
        parts = piece_paths(outline.path, workshop.ticket.tolerance.chord_mm / 10)
        if parts is None:
            raise StepRefused(
                "unbind", say("the rings of “{id}” cross; weld it first", id=name_of(outline)), way_out="weld"
            )
        if len(parts) < 2:
            continue
        outlines = []
        for number, path in enumerate(parts, 1):
            name = f"{outline.id}-{number}"
            while name in taken:
                name += "x"
            taken.add(name)
            outlines.append(replace(outline, id=name, path=path, label=None, letters=""))
        changes[outline.id] = (Group(outline.id, tuple(outlines), outline.label),)
        made += len(outlines)
        counters += sum(len(path) - 1 for path in parts)
    if not changes:
        raise NothingToDo("unbind", "none of these has more than one piece")
    evidence = Unbound(
        outlines_before=len(changes),
        outlines_after=made,
        counters_after=counters,
        max_deviation_mm=0.0,
    )
    return Outcome(sheet.replaced(changes), tuple(changes), evidence)
