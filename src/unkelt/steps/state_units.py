"""`state-units`"""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated

from fontTools.misc.transform import Transform

from unkelt.account.changes import Moves
from unkelt.errors import StepRefused
from unkelt.job.workshop import Workshop
from unkelt.messages import say
from unkelt.sheet.change import transformed
from unkelt.sheet.model import Scale, Sheet
from unkelt.steps.resize import Resized
from unkelt.steps.step import Field, On, Outcome, Purpose, step
from unkelt.units import FileUnit, unit_factor


@step("state-units", "State the units", on=On.SHEET, purpose=Purpose.LAYOUT)
def state_units(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    units: Annotated[FileUnit, "what one unit of the file is", Field("One unit is", first=True)] = "96 to the inch",
) -> Outcome:
    """States the units of the file, and scales the whole sheet and its page accordingly.

    For SVG: units to the inch, or one user unit as a length. For DXF: one drawing unit as a length. Refused if the
    file states its units and nothing contradicts them.
    """
    source = sheet.source
    factor = unit_factor(units, source.kind)
    if factor is None:
        raise StepRefused(
            "state-units", say("a {kind} file has drawing units: choose mm, in or another length", kind=source.kind)
        )
    matrix = Transform(factor, 0, 0, factor, 0, 0)
    changed = transformed(sheet, matrix, strokes=True)
    page = (sheet.page_mm[0] * factor, sheet.page_mm[1] * factor)
    stated = replace(source, units=units, scale=Scale(True, None, "", source.scale.uneven))
    evidence = Resized(
        factor=round(factor, 9),
        width_before_mm=round(sheet.page_mm[0], 4),
        width_after_mm=round(page[0], 4),
    )
    after = replace(changed, page_mm=page, source=stated)
    return Outcome(after, (), evidence, moves=Moves(matrix, strokes=True))
