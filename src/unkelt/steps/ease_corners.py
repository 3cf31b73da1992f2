"""`ease-corners`"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated

import numpy as np

from unkelt.account.changes import Reason
from unkelt.errors import StepRefused
from unkelt.geometry.edit.edit import nodes_named
from unkelt.geometry.edit.fillet import corners, ease
from unkelt.geometry.measure import signed_areas
from unkelt.job.workshop import Workshop
from unkelt.messages import say, say_count
from unkelt.sheet.figures import figures
from unkelt.sheet.model import Item, Outline, Sheet
from unkelt.sheet.naming import name_of
from unkelt.steps.evidence import Evidence
from unkelt.steps.step import Field, On, Outcome, Purpose, step, targets


@dataclass(frozen=True, kw_only=True)
class Eased(Evidence):
    """Corners that were rounded, and those without room; the change of area."""

    corners: int
    corners_without_room: int
    area_change_mm2: float

    def caption(self) -> str:
        return say_count("{count} corner rounded", "{count} corners rounded", self.corners)


@step("ease-corners", "Ease the corners", on=On.OUTLINES, purpose=Purpose.SHAPE, redraws=Reason.RESHAPED)
def ease_corners(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    radius: Annotated[float, "radius of the arc", Field("Radius", first=True)] = 0.5,
    sharper: Annotated[float, "eases all corners below this angle", "angle", Field("Corners below")] = 135.0,
    nodes: Annotated[
        str, "only these nodes, as subpath and node, counted from 1: “1:4, 2:7”", Field("Only at nodes")
    ] = "",
) -> Outcome:
    """Rounds corners with an arc that touches both sides. The rest stays on its curve.

    A corner without room for the arc stays, and is counted. Proven: the number of pieces and counters stays. The
    evidence gives the distance from each corner's point to its arc, and the change of area.
    """
    if radius <= 0:
        raise StepRefused("ease-corners", "the radius must be greater than zero")
    tolerance = workshop.ticket.tolerance
    changes: dict[str, tuple[Item, ...]] = {}
    eased, left, cut, area = 0, 0, 0.0, 0.0
    for outline in targets("ease-corners", sheet, items, Outline):
        chosen = corners(outline.path, sharper)
        if nodes.strip():
            try:
                named = nodes_named(outline.path, nodes)
            except ValueError as problem:
                raise StepRefused(
                    "ease-corners", say("“{name}”: {problem}", name=name_of(outline), problem=problem)
                ) from problem
            chosen = corners(outline.path, 179.0) & np.isin(np.arange(len(chosen)), named)
        if not chosen.any():
            continue
        made = ease(outline.path, chosen, radius)
        left += made.left
        if not made.eased:
            continue
        new = replace(outline, path=made.path)
        before, after = (figures([each], tolerance) for each in (outline, new))
        if (before.pieces, before.counters) != (after.pieces, after.counters):
            raise StepRefused(
                "ease-corners", say("“{id}”: arcs this large would part it or close a counter", id=name_of(outline))
            )
        changes[outline.id] = (new,)
        eased, cut = eased + made.eased, max(cut, made.cut_mm)
        area += abs(float(signed_areas(made.path).sum())) - abs(float(signed_areas(outline.path).sum()))
    if not changes:
        raise StepRefused(
            "ease-corners",
            say("none of {left} corners has room for an arc of {radius:g} mm", left=left, radius=radius)
            if left
            else "there is no such corner here",
        )
    evidence = Eased(
        corners=eased,
        corners_without_room=left,
        max_deviation_mm=round(cut, 4),
        area_change_mm2=round(area, 4),
    )
    return Outcome(sheet.replaced(changes), tuple(changes), evidence)
