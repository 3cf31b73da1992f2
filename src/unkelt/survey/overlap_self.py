"""`overlap.self`"""

from __future__ import annotations

from collections.abc import Iterator

import shapely

from unkelt.geometry.distance import repeated_subpaths
from unkelt.geometry.measure import Box, bounds
from unkelt.geometry.nesting import cross_by_rounding, ring_nesting
from unkelt.geometry.region import region, unlike
from unkelt.sheet.appearance import Operation
from unkelt.sheet.model import Sheet
from unkelt.survey.areas import box_of
from unkelt.survey.check import Workshop, check
from unkelt.survey.finding import Finding, Level


@check("overlap.self")
def overlap_self(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """An outline crosses or covers itself: the tool cuts through its own shape."""
    ticket = workshop.ticket
    chord = ticket.tolerance.chord_mm / 2
    for outline in sheet.outlines():
        if ticket.operation(outline.look) is Operation.LEAVE or outline.look.fill is None:
            continue
        path = outline.path
        if ring_nesting(path, chord)[2] is not None:
            continue
        repeats = {again for _, again, _ in repeated_subpaths(path, ticket.tolerance.same_shape_mm)}
        if repeats:  # copies are a matter of path.duplicate; what is left may still cross
            path = path.select([index for index in range(len(path)) if index not in repeats])
            if ring_nesting(path, chord)[2] is not None:
                continue
        if cross_by_rounding(ring_nesting(path, chord)[0]):
            continue
        by_rule = unlike(region(path, False, chord), region(path, True, chord))
        twice = shapely.symmetric_difference(*by_rule[:2])
        marks = tuple(box_of(part) for part in shapely.get_parts(twice) if part.area > ticket.tolerance.graze_mm2)
        box: Box | None = box_of(twice) if marks else bounds(path)
        yield Finding(
            code="overlap.self",
            level=Level.HOLD,
            items=(outline.id,),
            box=box,
            value=float(twice.area),
            unit="mm²",
            headline="An outline crosses itself",
            detail=f"{twice.area:.1f} mm² depend on the fill rule" if marks else "its lines cross",
            message="The tool follows every line, so it cuts through the shape where it crosses itself, and what is solid there "
            "depends on the fill rule.",
            steps=("weld",),
            marks=marks,
        )
