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
from unkelt.sheet.naming import name_of
from unkelt.steps.paint import plain
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
        raise StepRefused(
            name,
            say(
                "“{called}” has an open subpath; join or close its ends first, or leave it out",
                called=name_of(left_open[0]),
            ),
            way_out="close-subpath",
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


GUIDE = "#9a9a9a"
"""The colour of a guide where the ticket's key has none for what is left alone."""


def line_in(step: str, operation: Operation, colour: str, workshop: Workshop) -> Appearance:
    """A hairline for an operation: in this colour, else in the key's; what is left alone in one that is no operation.

    Raises StepRefused where the key has no colour to score with, or the colour is none.
    """
    key, hairline = workshop.ticket.key, workshop.ticket.machine.hairline_mm
    known = next((each for each, meaning in key.items() if meaning is operation), None)
    if colour.strip():
        return Appearance(fill=None, stroke=plain(step, colour), stroke_width_mm=hairline)
    if operation is Operation.SCORE and known is None:
        raise StepRefused(
            step, say("the ticket's key has no colour for {operation}", operation=operation), way_out="set_colours"
        )
    return Appearance(
        fill=None,
        stroke=known or (GUIDE if operation is Operation.LEAVE else "#000000"),
        stroke_width_mm=hairline,
    )


def engraving(workshop: Workshop) -> Appearance:
    """A fill in the key's colour for engraving; black without a key."""
    return Appearance(fill=_colour(workshop, Operation.ENGRAVE))


def _colour(workshop: Workshop, wanted: Operation) -> str:
    return next((colour for colour, operation in workshop.ticket.key.items() if operation is wanted), "#000000")
