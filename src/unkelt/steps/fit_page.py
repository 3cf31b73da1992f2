"""`fit-page`"""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated

from fontTools.misc.transform import Transform

from unkelt.account.changes import Moves
from unkelt.errors import StepRefused
from unkelt.sheet.change import transformed
from unkelt.sheet.model import Sheet
from unkelt.steps.step import Outcome, step
from unkelt.survey.check import Workshop


@step("fit-page", "Fit the page", cures=("place.off-page", "place.page-loose"))
def fit_page(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    margin: Annotated[float, "room around the drawing on all sides"] = 5.0,
) -> Outcome:
    """Gives the page the size of the drawing and a margin, and moves the drawing onto it. Nothing is scaled or turned.

    Strokes count by their full width. Refused on an empty sheet, or with a margin below zero.
    """
    box = sheet.drawn_box()
    if box is None or margin < 0:
        raise StepRefused("fit-page", "there is nothing to fit to" if box is None else "the margin can't be below zero")
    strokes = [outline.look.stroke_width_mm / 2 for outline in sheet.outlines() if outline.look.stroke]
    room = margin + max(strokes, default=0.0)
    x0, y0, x1, y1 = box
    matrix = Transform(1, 0, 0, 1, room - x0, room - y0)
    moved = transformed(sheet, matrix, strokes=False)
    page = (x1 - x0 + 2 * room, y1 - y0 + 2 * room)
    evidence = {
        "page_width_mm": round(page[0], 4),
        "page_height_mm": round(page[1], 4),
        "moved_x_mm": round(room - x0, 4),
        "moved_y_mm": round(room - y0, 4),
    }
    fitted = replace(moved, page_mm=page)
    return Outcome(fitted, tuple(item.id for item in sheet.walk()), evidence, moves=Moves(matrix))
