"""`overlap.items`"""

from __future__ import annotations

from collections.abc import Iterator

import shapely

from unkelt.geometry.region import clusters
from unkelt.sheet.appearance import Operation
from unkelt.sheet.counters import counters_apart
from unkelt.sheet.model import Outline, Sheet
from unkelt.sheet.repeats import copies
from unkelt.survey.areas import box_of, filled_area
from unkelt.survey.check import Workshop, check
from unkelt.survey.finding import Finding, Level

TWICE = {Operation.ENGRAVE: "engraves it twice, or leaves it blank", Operation.SCORE: "scores across the letters"}


@check("overlap.items")
def overlap_items(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """Two outlines of one operation overlap: the tool cuts straight through where they join."""
    ticket = workshop.ticket
    filled = (outline for outline in sheet.outlines() if outline.look.fill is not None)
    for operation, outlines in ticket.by_operation(filled).items():
        if operation is Operation.LEAVE:
            continue
        # Copies are a matter of path.duplicate; but where what they repeat is welded, they are welded with it.
        again = copies(outlines, ticket.tolerance.same_shape_mm)
        outlines = [outline for outline in outlines if outline.id not in again]
        shapes = [filled_area(outline, ticket) for outline in outlines]
        apart = counters_apart(outlines, ticket)  # a matter of compound.counter-apart
        held = {each.id for body in apart for each in (*body.counters, *body.islands)}
        for cluster in clusters(shapes):
            if len(cluster) < 2:
                continue
            yield from _overlaps(
                [outlines[i] for i in cluster], [shapes[i] for i in cluster], held, again, operation, workshop
            )


def _overlaps(
    outlines: list[Outline],
    shapes: list[shapely.Geometry],
    held: set[str],
    again: dict[str, str],
    operation: Operation | None,
    workshop: Workshop,
) -> Iterator[Finding]:
    graze = workshop.ticket.tolerance.graze_mm2  # binding needs rings that don't cross at all
    first, second = shapely.STRtree(shapes).query(shapes, predicate="intersects")
    joints: list[shapely.Geometry] = []
    members: set[int] = set()
    for i, j in sorted(zip(first.tolist(), second.tolist(), strict=True)):
        if i >= j:
            continue
        if {outlines[i].id, outlines[j].id} & held and (shapes[i].within(shapes[j]) or shapes[j].within(shapes[i])):
            continue
        common = shapely.intersection(shapes[i], shapes[j])
        if common.area > graze:
            joints.append(common)
            members |= {i, j}
    if not joints:
        return
    area = float(shapely.area(joints).sum())
    named = [outlines[i].id for i in sorted(members)]
    named += [copy for copy, first in again.items() if first in set(named)]
    yield Finding(
        code="overlap.items",
        level=Level.HOLD,
        items=tuple(named),
        box=box_of(
            shapely.multipolygons([p for j in joints for p in shapely.get_parts(j) if p.geom_type == "Polygon"])
        ),
        value=area,
        unit="mm²",
        headline=f"Outlines overlap at {len(joints)} {'joint' if len(joints) == 1 else 'joints'}",
        detail=f"{area:.{1 if area >= 0.1 else 4}f} mm² lie under two outlines",
        message=f"The tool follows every outline, so it {TWICE.get(operation, 'cuts across the letters')} where they "  # type: ignore[arg-type]
        f"join: {area:.{1 if area >= 0.1 else 4}f} mm² lie under two.",
        steps=("weld",),
        marks=tuple(box_of(joint) for joint in joints),
    )
