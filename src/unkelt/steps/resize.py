"""`resize`"""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated

from fontTools.misc.transform import Transform

from unkelt.errors import StepRefused
from unkelt.geometry.measure import Box
from unkelt.sheet.change import transformed
from unkelt.sheet.extent import measured_box
from unkelt.sheet.model import Sheet
from unkelt.steps.step import Outcome, step
from unkelt.survey.check import Workshop


@step("resize", "Resize to the ticket", cures=("size.off-ticket",), safe=True)
def resize(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    width: Annotated[float | None, "wanted width; without width and height, the ticket's"] = None,
    height: Annotated[float | None, "wanted height"] = None,
) -> Outcome:
    """Scales the whole drawing, proportions kept, so that what the ticket measures has the wanted size.

    The centre stays where it was, unless the drawing would leave the page and fits on it. The page keeps its size and
    strokes their width. Proven: the size, measured again on the exact curves. Refused when width and height are both
    asked for and can't both be had.
    """
    ticket = workshop.ticket
    if width is None and height is None:
        width, height = ticket.width_mm, ticket.height_mm
    box = measured_box(sheet, ticket)
    if box is None or (width is None and height is None):
        raise StepRefused("resize", "there is nothing to measure" if box is None else "no size is asked for")
    size = (box[2] - box[0], box[3] - box[1])
    wanted = (width, height)
    axis = 0 if width is not None else 1
    grow = _stroke_room(sheet, workshop, box)[axis]
    target = wanted[axis]
    if size[axis] - grow <= 0 or target is None or target - grow <= 0:
        raise StepRefused("resize", "the drawing has no extent to scale")
    factor = (target - grow) / (size[axis] - grow)
    changed = transformed(sheet, _scaling(factor, box, sheet.page_mm), strokes=False)
    new = measured_box(changed, ticket)
    assert new is not None
    result = (new[2] - new[0], new[3] - new[1])
    for value, asked, word in zip(result, wanted, ("wide", "high"), strict=True):
        if asked is not None and abs(value - asked) > ticket.size_tolerance_mm:
            raise StepRefused("resize", f"with proportions kept it would be {value:.2f} mm {word}, not {asked:.2f}")
    evidence = {
        "factor": round(factor, 9),
        "width_before_mm": round(size[0], 4),
        "width_after_mm": round(result[0], 4),
        "height_before_mm": round(size[1], 4),
        "height_after_mm": round(result[1], 4),
    }
    return Outcome(changed, tuple(outline.id for outline in sheet.outlines()), evidence)


def _stroke_room(sheet: Sheet, workshop: Workshop, box: Box) -> tuple[float, float]:
    """The part of the measured size that is thickness of strokes, which doesn't scale."""
    if workshop.ticket.size_of != "visible":
        return 0.0, 0.0
    bare = measured_box(sheet, replace(workshop.ticket, size_of="ink"))
    return (box[2] - box[0] - (bare[2] - bare[0]), box[3] - box[1] - (bare[3] - bare[1])) if bare else (0.0, 0.0)


def _scaling(factor: float, box: Box, page: tuple[float, float]) -> Transform:
    """Scales about the centre of `box`, then shifts it onto the page where that is possible."""
    shift = []
    for low, high, room in ((box[0], box[2], page[0]), (box[1], box[3], page[1])):
        centre, half = (low + high) / 2, (high - low) / 2 * factor
        if 2 * half <= room:
            centre = min(max(centre, half), room - half)
        shift.append(centre - factor * (low + high) / 2)
    return Transform(factor, 0, 0, factor, *shift)
