"""What goes into a file: live text that no SVG text can look like goes out as outlines, and its name is told."""

from __future__ import annotations

from unkelt.errors import StepRefused
from unkelt.formats.svg.unsayable import unsayable
from unkelt.job.workshop import Workshop
from unkelt.lettering.frames import laid_out
from unkelt.messages import say
from unkelt.sheet.change import leaves
from unkelt.sheet.model import Lettering, Sheet
from unkelt.sheet.naming import called
from unkelt.steps.expand_stroke import expand_stroke
from unkelt.steps.outline_text import outline_text
from unkelt.steps.step import Step
from unkelt.steps.weld import weld


def outgoing(sheet: Sheet, workshop: Workshop) -> Sheet:
    """The sheet as it can be written: text in a frame line by line, which every reader sets alike, and text outlined
    that SVG has no words for. Text that can't be outlined stays, and whoever writes it says why it can't be written.
    """
    framed = {text.id: (laid_out(text, workshop.shelf),) for text in sheet.letterings() if text.frame is not None}
    sheet = sheet.replaced(framed) if framed else sheet
    for text in _without_words(sheet):
        sheet = _taken(outline_text, (text.id,), sheet, workshop)
        if any(outline.look.stroke_side != "centre" for outline in sheet.outlines()):
            sheet = _taken(weld, tuple(leaves(sheet, (text.id,))), sheet, workshop)  # so that no line runs through it
    one_sided = tuple(o.id for o in sheet.outlines() if o.look.stroke and o.look.stroke_side != "centre")
    return _taken(expand_stroke, one_sided, sheet, workshop) if one_sided else sheet


def _taken(step: Step, items: tuple[str, ...], sheet: Sheet, workshop: Workshop) -> Sheet:
    """The sheet after a step, or as it is where the step can't be taken."""
    try:
        return step.function(sheet, items, workshop).sheet
    except StepRefused:
        return sheet


def outlined_to_save(sheet: Sheet) -> tuple[str, ...]:
    """A sentence for each text that is saved as outlines, with the reason."""
    return tuple(
        say("{name} was saved as outlines: {reason}", name=called(text), reason=unsayable(text))
        for text in _without_words(sheet)
    )


def _without_words(sheet: Sheet) -> list[Lettering]:
    return [text for text in sheet.letterings() if unsayable(text)]
