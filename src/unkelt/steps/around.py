"""What is made around lettering: the outline of a step's new item, and the outlines it is made from."""

from __future__ import annotations

from unkelt.errors import GeometryRefused, StepRefused
from unkelt.geometry.boolean.engine import Operand
from unkelt.geometry.boolean.touching import touching
from unkelt.geometry.boolean.weld import weld
from unkelt.geometry.path import Path, concat
from unkelt.job.workshop import Workshop
from unkelt.messages import say
from unkelt.sheet.appearance import Appearance, Operation
from unkelt.sheet.change import leaves
from unkelt.sheet.model import Outline, Sheet
from unkelt.steps.step import targets


def chosen_outlines(name: str, sheet: Sheet, items: tuple[str, ...]) -> list[Outline]:
    """The outlines named that enclose something, groups with all they hold; all where none is named.

    Raises StepRefused where there is none, and where one that is named has an open subpath: it encloses nothing for
    certain.
    """
    named = tuple(leaves(sheet, items)) if items else ()
    if items and not named:
        raise StepRefused(name, "the named items hold no outline")
    found: list[Outline] = targets(name, sheet, named, Outline)
    left_open = [outline for outline in found if not outline.path.closed.all()]
    if items and left_open:
        called = left_open[0].label or left_open[0].letters or left_open[0].id
        raise StepRefused(
            name, say("“{called}” has an open subpath; join or close its ends first, or leave it out", called=called)
        )
    closed = [outline for outline in found if outline.path.closed.all()]
    if not closed:
        raise StepRefused(name, "there is no closed outline to work on")
    return closed


def as_one(name: str, outlines: list[Outline], workshop: Workshop) -> Path:
    """All outlines welded where they touch, as one path. Raises StepRefused."""
    operands = [Operand(outline.path, outline.look.even_odd or outline.look.fill is None) for outline in outlines]
    tolerance = workshop.ticket.tolerance
    try:
        return concat(
            [weld([operands[i] for i in group], tolerance, guard=False)[0] for group in touching(operands, tolerance)]
        )
    except GeometryRefused as problem:
        raise StepRefused(name, str(problem)) from problem


def cut_line(workshop: Workshop) -> Appearance:
    """A hairline in the key's colour for cutting; black without a key."""
    colour = _colour(workshop, Operation.CUT)
    return Appearance(fill=None, stroke=colour, stroke_width_mm=workshop.ticket.machine.hairline_mm)


def engraving(workshop: Workshop) -> Appearance:
    """A fill in the key's colour for engraving; black without a key."""
    return Appearance(fill=_colour(workshop, Operation.ENGRAVE))


def _colour(workshop: Workshop, wanted: Operation) -> str:
    return next((colour for colour, operation in workshop.ticket.key.items() if operation is wanted), "#000000")
