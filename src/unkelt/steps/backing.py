"""`backing`: the line that is cut around lettering."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Literal

import numpy as np

from unkelt.account.changes import Reason
from unkelt.errors import GeometryRefused, StepRefused
from unkelt.geometry.measure import bounds, join_boxes, signed_areas
from unkelt.geometry.offset.offset import offset_path
from unkelt.geometry.path import Path
from unkelt.geometry.reduce.reduce import reduce_nodes
from unkelt.job.workshop import Workshop
from unkelt.messages import say, say_count
from unkelt.sheet.appearance import Appearance, Operation
from unkelt.sheet.model import Item, Outline, Sheet
from unkelt.sheet.naming import fresh_label
from unkelt.steps.around import as_one, chosen_outlines, line_in
from unkelt.steps.evidence import Renoded
from unkelt.steps.grip import outward, written_mm
from unkelt.steps.step import Field, On, Outcome, Pictured, Purpose, step

TITLE = "Backing"


@dataclass(frozen=True, kw_only=True)
class Backed(Renoded):
    """Lines around an outline, and the pieces of the outermost."""

    lines: int
    pieces_after: int

    def caption(self) -> str:
        return say_count("{count} line", "{count} lines", self.lines)


USUAL_MM = 3.175
"""1/8 in (common practice for film, no source)."""


def _one_further(sheet: Sheet, chosen: Sequence[Item]) -> dict[str, str]:
    """Around what has backings already, the next one lies as far beyond the last."""
    boxes = [bounds(item.path) for item in chosen if isinstance(item, Outline)]
    ink = join_boxes([box for box in boxes if box])
    if ink is None:
        return {}
    lefts = [
        ink[0] - box[0]
        for item in sheet.outlines()
        if (item.label or "").startswith(TITLE) and (box := bounds(item.path)) and box[0] < ink[0]
    ]
    return {"distance": written_mm(max(lefts) + USUAL_MM)} if lefts else {}


@step(
    "backing",
    "Add a backing",
    on=On.OUTLINES,
    purpose=Purpose.SHAPE,
    lines="closed",
    grip=outward("distance", "how far the line runs from the outlines", 0.01),
    likely=On.OUTLINES,
    hints=_one_further,
    redraws=Reason.MADE,
)
def backing(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    distance: Annotated[
        float, "how far the line runs outside; common practice for film is 1/8 in", Field("Distance", first=True)
    ] = USUAL_MM,
    corners: Annotated[
        Literal["round", "sharp"], "sharp ones reach up to four times the distance", Field("Corners")
    ] = "round",
    holes: Annotated[float, "holes smaller than this across are filled", Field("Fill holes up to")] = 1000.0,
    count: Annotated[int, "number of lines, each at the distance from the one before", Field("Lines")] = 1,
    side: Annotated[Literal["outside", "inside", "both"], "where the line runs", Field("Side", first=True)] = "outside",
    colour: Annotated[
        str, "its colour; without it, the key's for cutting", Pictured("colours"), Field("Colour", first=True)
    ] = "",
    area: Annotated[bool, "paint it as an area, as a layer of material looks", Field("Paint the area")] = False,
) -> Outcome:
    """Draws a cut line, or an area, at a distance around or inside outlines, below them. Lines that touch are welded.
    The outlines stay as they are.

    Proven: every edge lies at that distance, within the chord tolerance. Curves stay curves.
    """
    if distance <= 0 or not 1 <= count <= 20:
        raise StepRefused("backing", "the distance must be greater than zero, and the count from 1 to 20")
    outlines = chosen_outlines("backing", sheet, items)
    tolerance = workshop.ticket.tolerance
    source = as_one("backing", outlines, workshop)
    made: list[Outline] = []
    look = line_in("backing", Operation.CUT, colour, workshop)
    look = Appearance(fill=look.stroke) if area else look
    after, worst, path = sheet, 0.0, source
    ways = {"outside": [1], "inside": [-1], "both": [1, -1]}[side]
    for way, number in itertools.product(ways, range(count)):
        path = source if number == 0 else path
        try:
            path, proof = offset_path(path, way * distance, tolerance, "round" if corners == "round" else "miter", 4.0)
        except GeometryRefused as problem:
            raise StepRefused("backing", str(problem)) from problem
        if not len(path):
            raise StepRefused(
                "backing",
                say("nothing of these outlines is {distance:g} mm wide", distance=2 * distance * (number + 1)),
            )
        path = _without_small_holes(path, holes) if way > 0 else path
        fewer = reduce_nodes(path, tolerance.chord_mm / 2)
        path, worst = fewer.path, max(worst, proof.max_deviation_mm + fewer.bound_mm)
        made.append(Outline(after.fresh_id("backing"), path, look, fresh_label(after, TITLE)))
        after = replace(after, items=(made[-1], *after.items))
    evidence = Backed(
        lines=len(made),
        pieces_after=int((signed_areas(path) > 0).sum()),
        nodes_before=source.node_count,
        nodes_after=made[-1].path.node_count,
        max_deviation_mm=round(worst, 5),
    )
    return Outcome(after, tuple(outline.id for outline in outlines), evidence)


def _without_small_holes(path: Path, across_mm: float) -> Path:
    areas = signed_areas(path)
    size = np.array([np.ptp(part.points, axis=(0, 1)).max() for part in path.subpaths()])
    return path.select((areas > 0) | (size >= across_mm))
