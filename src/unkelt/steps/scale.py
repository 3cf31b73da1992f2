"""`scale`: what is chosen made larger or smaller, evenly or not, and nothing else."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Annotated, Literal

from fontTools.misc.transform import Identity, Transform

from unkelt.account.changes import moving
from unkelt.errors import NothingToDo, StepRefused
from unkelt.geometry.measure import Box
from unkelt.job.workshop import Workshop
from unkelt.messages import say
from unkelt.sheet.change import transformed
from unkelt.sheet.model import Sheet
from unkelt.steps.evidence import Evidence
from unkelt.steps.place import check_items, ink_box
from unkelt.steps.step import Field, On, Outcome, Purpose, step

Fixed = Literal["centre", "left", "right", "top", "bottom", "top-left", "top-right", "bottom-left", "bottom-right"]

AS_WANTED_MM = 1e-6
"""How far a size, measured again on the exact curves, may be off the wanted one."""


@dataclass(frozen=True, kw_only=True)
class Scaled(Evidence):
    """The factors across and down, and the size of the ink (mm) before and after."""

    across: float
    down: float
    width_before_mm: float
    width_after_mm: float
    height_before_mm: float
    height_after_mm: float

    def caption(self) -> str:
        return say(
            "{w0:.2f} × {h0:.2f} → {w1:.2f} × {h1:.2f} mm",
            w0=self.width_before_mm,
            h0=self.height_before_mm,
            w1=self.width_after_mm,
            h1=self.height_after_mm,
        )


@step("scale", "Scale", on=On.ITEMS, purpose=Purpose.LAYOUT)
def scale(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    width: Annotated[float | None, "wanted width of the ink", Field("Width", first=True)] = None,
    height: Annotated[float | None, "wanted height of the ink", Field("Height", first=True)] = None,
    by: Annotated[
        float, "how many times as large, where no size is given; 2 is twice", "number", Field("Times", first=True)
    ] = 1.0,
    uneven: Annotated[
        bool, "a size that isn't given stays, so that the shape is stretched", Field("Stretch one side alone")
    ] = False,
    fixed: Annotated[Fixed, "which point of the ink stays in place", Field("Keep in place")] = "centre",
    strokes: Annotated[bool, "scale the widths of strokes too", Field("Scale strokes too")] = False,
) -> Outcome:
    """Scales the named items, or all items, and nothing else. Proportions stay unless you give width and height, or
    stretch one side alone.

    Proven: the size, measured again on the exact curves.
    """
    check_items("scale", sheet, items)
    box = ink_box(sheet, items, workshop)
    if box is None:
        raise StepRefused("scale", "there is nothing here")
    across, down = _factors(box, width, height, by, uneven=uneven)
    if across == down == 1:
        raise NothingToDo("scale", "it has that size already")
    matrix = scaling(box, fixed, across, down)
    after = transformed(sheet, matrix, strokes=strokes, items=items or None)
    now = ink_box(after, items, workshop) or box
    for got, wanted in ((now[2] - now[0], (box[2] - box[0]) * across), (now[3] - now[1], (box[3] - box[1]) * down)):
        if abs(got - wanted) > AS_WANTED_MM * max(1.0, wanted):
            raise StepRefused("scale", say("it would be {got:.3f} mm, not {wanted:.3f}", got=got, wanted=wanted))
    evidence = Scaled(
        across=round(across, 9),
        down=round(down, 9),
        width_before_mm=round(box[2] - box[0], 4),
        width_after_mm=round(now[2] - now[0], 4),
        height_before_mm=round(box[3] - box[1], 4),
        height_after_mm=round(now[3] - now[1], 4),
    )
    worked = items or tuple(item.id for item in sheet.items)
    return Outcome(after, worked, evidence, moves=moving(sheet, items, matrix, strokes=strokes))


def fixed_point(box: Box, fixed: str) -> tuple[float, float]:
    """A point of a box by its name: a corner, the middle of a side, or the centre."""
    x0, y0, x1, y1 = box
    x = x0 if "left" in fixed else x1 if "right" in fixed else (x0 + x1) / 2
    y = y0 if "top" in fixed else y1 if "bottom" in fixed else (y0 + y1) / 2
    return x, y


def _factors(box: Box, width: float | None, height: float | None, by: float, *, uneven: bool) -> tuple[float, float]:
    """How many times as wide and as high. Raises StepRefused."""
    size = box[2] - box[0], box[3] - box[1]
    wanted = [
        value / own if value is not None and own > 0 else None for value, own in zip((width, height), size, strict=True)
    ]
    if any(value is not None and not own > 0 for value, own in zip((width, height), size, strict=True)):
        raise StepRefused("scale", "it has no extent that way")
    across, down = wanted
    if across is None and down is None:
        across = down = by
    elif across is None or down is None:
        given = across if across is not None else down
        assert given is not None
        across = across if across is not None else 1.0 if uneven else given
        down = down if down is not None else 1.0 if uneven else given
    if not (across > 0 and down > 0 and math.isfinite(across + down)):
        raise StepRefused("scale", "a size must be greater than zero")
    return across, down


def scaling(box: Box, fixed: str, across: float, down: float) -> Transform:
    """How a box is scaled about one of its points."""
    x, y = fixed_point(box, fixed)
    return Identity.translate(x, y).scale(across, down).translate(-x, -y)
