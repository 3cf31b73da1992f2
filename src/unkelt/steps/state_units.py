"""`state-units`"""

from __future__ import annotations

import typing
from dataclasses import replace
from typing import Annotated, Literal

from fontTools.misc.transform import Transform

from unkelt.account.changes import Moves
from unkelt.errors import StepRefused
from unkelt.job.workshop import Workshop
from unkelt.messages import say
from unkelt.sheet.change import transformed
from unkelt.sheet.model import Scale, Sheet
from unkelt.steps.resize import Resized
from unkelt.steps.step import Field, On, Outcome, Purpose, step

Units = Literal["96 to the inch", "90 to the inch", "72 to the inch", "mm", "cm", "in", "m", "ft", "thou"]
_MM = {"mm": 1.0, "cm": 10.0, "in": 25.4, "m": 1000.0, "ft": 304.8, "thou": 0.0254}

UNITS: tuple[str, ...] = typing.get_args(Units)


def unit_factor(units: str, kind: str) -> float | None:
    """By how much a sheet grows when its file's unit is `units`; None where that makes no sense for its kind."""
    if units.endswith("inch"):
        return 96 / float(units.split()[0]) if kind == "SVG" else None
    assumed = 25.4 / 96 if kind == "SVG" else 1.0  # how reading took one unit, in mm
    return _MM[units] / assumed


@step("state-units", "State the units", on=On.SHEET, purpose=Purpose.LAYOUT, cures=("size.units",))
def state_units(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    units: Annotated[Units, "what one unit of the file is", Field("One unit is", first=True)] = "96 to the inch",
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
