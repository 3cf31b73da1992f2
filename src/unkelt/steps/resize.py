"""`resize`"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated, Literal

from fontTools.misc.transform import Transform

from unkelt.account.changes import Moves
from unkelt.errors import StaleTarget, StepRefused
from unkelt.geometry.measure import Box
from unkelt.job.extent import measured_box
from unkelt.job.ticket import Ticket
from unkelt.job.workshop import Workshop
from unkelt.messages import say
from unkelt.sheet.change import leaves, transformed
from unkelt.sheet.model import Sheet
from unkelt.steps.evidence import Evidence
from unkelt.steps.step import Field, On, Outcome, Purpose, step

Of = Literal["ticket", "ink", "cut", "visible"]


@dataclass(frozen=True, kw_only=True)
class Resized(Evidence):
    """The factor, and the size (mm) before and after."""

    factor: float
    width_before_mm: float
    width_after_mm: float
    height_before_mm: float | None = None
    height_after_mm: float | None = None

    def caption(self) -> str:
        return say(
            "{width_before_mm:.2f} → {width_after_mm:.2f} mm",
            width_before_mm=self.width_before_mm,
            width_after_mm=self.width_after_mm,
        )

    def proof_lines(self) -> tuple[str, ...]:
        return (
            *super().proof_lines(),
            say("Scaled by {factor:.5f}", factor=self.factor),
            "proportions kept, measured again on the curves",
        )


@step(
    "resize",
    "Resize to the ticket",
    on=On.SHEET,
    purpose=Purpose.LAYOUT,
    likely=On.SHEET,
    safe=True,
    by_length=True,
)
def resize(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    width: Annotated[
        float | None, "wanted width; without width and height, the ticket decides", Field("Width", first=True)
    ] = None,
    height: Annotated[float | None, "wanted height", Field("Height", first=True)] = None,
    longest: Annotated[float | None, "wanted size of the longer side", Field("Longer side")] = None,
    of: Annotated[
        Of, "what to measure: the ink, the cut lines, or everything visible with strokes", Field("Measure")
    ] = "ticket",
    strokes: Annotated[bool, "scale the strokes, too", Field("Scale strokes too")] = False,
) -> Outcome:
    """Scales the whole drawing in proportion until the measured part has the wanted size. The measured part is the
    whole drawing, or the named items.

    The centre stays in place, unless the drawing would leave a page that it fits on. The page keeps its size, and
    strokes keep their width. Proven: the size, measured again on the exact curves. Refused if width and height are
    both given and can't both be reached.
    """
    ticket = workshop.ticket if of == "ticket" else replace(workshop.ticket, size_of=of)
    if width is None and height is None and longest is None:
        width, height = ticket.width_mm, ticket.height_mm
    only = leaves(sheet, items) if items else None
    if items and not only:
        raise StaleTarget("resize", say("“{items}” is no longer on the sheet", items=items[0]))
    box = measured_box(sheet, ticket, only)
    if longest is not None and box is not None:
        wide = box[2] - box[0] >= box[3] - box[1]
        width, height = (longest, height) if wide else (width, longest)
    if box is None or (width is None and height is None):
        raise StepRefused("resize", "there is nothing to measure" if box is None else "no size is asked for")
    size = (box[2] - box[0], box[3] - box[1])
    wanted = (width, height)
    axis = 0 if width is not None else 1
    grow = 0.0 if strokes else _stroke_room(sheet, ticket, box, only)[axis]
    target = wanted[axis]
    if size[axis] - grow <= 0 or target is None or target - grow <= 0:
        raise StepRefused("resize", "the drawing has no extent to scale")
    factor = (target - grow) / (size[axis] - grow)
    matrix = _scaling(factor, box, sheet.page_mm)
    changed = transformed(sheet, matrix, strokes=strokes)
    new = measured_box(changed, ticket, only)
    assert new is not None
    result = (new[2] - new[0], new[3] - new[1])
    _refuse_other_size(result, wanted, ticket.size_tolerance_mm)
    evidence = Resized(
        factor=round(factor, 9),
        width_before_mm=round(size[0], 4),
        width_after_mm=round(result[0], 4),
        height_before_mm=round(size[1], 4),
        height_after_mm=round(result[1], 4),
    )
    moves = Moves(matrix, strokes=strokes)
    return Outcome(changed, tuple(outline.id for outline in sheet.outlines()), evidence, moves=moves)


def _refuse_other_size(size: tuple[float, float], wanted: tuple[float | None, float | None], within_mm: float) -> None:
    """Raises StepRefused where a size isn't the wanted one, as far as one is asked for."""
    for value, asked, word in zip(size, wanted, ("wide", "high"), strict=True):
        if asked is not None and abs(value - asked) > within_mm:
            words = "with proportions kept it would be {value:.2f} mm {word}, not {asked:.2f}"
            raise StepRefused("resize", say(words, value=value, word=word, asked=asked))


def _stroke_room(sheet: Sheet, ticket: Ticket, box: Box, only: set[str] | None) -> tuple[float, float]:
    """The part of the measured size that is thickness of strokes, which doesn't scale."""
    if ticket.size_of != "visible":
        return 0.0, 0.0
    bare = measured_box(sheet, replace(ticket, size_of="ink"), only)
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
