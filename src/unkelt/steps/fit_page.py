"""`fit-page`"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from unkelt.account.changes import Moves
from unkelt.errors import StepRefused
from unkelt.job.workshop import Workshop
from unkelt.messages import say
from unkelt.sheet.change import on_own_page
from unkelt.sheet.model import Sheet
from unkelt.steps.evidence import Evidence
from unkelt.steps.grip import outward
from unkelt.steps.place import ink_box
from unkelt.steps.step import Field, On, Outcome, Purpose, step


@dataclass(frozen=True, kw_only=True)
class Fitted(Evidence):
    """The page that fits, and how far everything moved on it (mm)."""

    page_width_mm: float
    page_height_mm: float
    moved_x_mm: float
    moved_y_mm: float

    def caption(self) -> str:
        return say("{width:.0f} × {height:.0f} mm", width=self.page_width_mm, height=self.page_height_mm)


@step(
    "fit-page",
    "Fit the page",
    on=On.SHEET,
    purpose=Purpose.LAYOUT,
    grip=outward("margin", "the room around the drawing"),
    likely=On.SHEET,
)
def fit_page(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    margin: Annotated[float, "margin around the drawing on all sides", Field("Margin", first=True)] = 5.0,
) -> Outcome:
    """Gives the page the size of the drawing plus a margin, and moves the drawing onto it. Nothing is scaled or
    turned.

    Strokes count with their full width, live text with its ink. Refused on an empty sheet, or with a negative margin.
    """
    texts = tuple(text.id for text in sheet.letterings())
    text = ink_box(sheet, texts, workshop) if texts else None
    if sheet.drawn_box() is None and text is None:
        raise StepRefused("fit-page", "there is nothing to fit to")
    if margin < 0:
        raise StepRefused("fit-page", "the margin can't be below zero")
    fitted, matrix = on_own_page(sheet, margin, text)
    page = fitted.page_mm
    evidence = Fitted(
        page_width_mm=round(page[0], 4),
        page_height_mm=round(page[1], 4),
        moved_x_mm=round(matrix.dx, 4),
        moved_y_mm=round(matrix.dy, 4),
    )
    return Outcome(fitted, tuple(item.id for item in sheet.walk()), evidence, moves=Moves(matrix))
