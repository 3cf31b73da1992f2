"""`overlap.self`"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely

from unkelt.anatomy.crossings import SHORT_MM, is_cut_line
from unkelt.geometry.distance import repeated_subpaths
from unkelt.geometry.flatten import flatten, lines
from unkelt.geometry.measure import Box, bounds, join_boxes
from unkelt.geometry.near import nearest
from unkelt.geometry.nesting import ring_nesting, rings_cross
from unkelt.geometry.path import Path
from unkelt.geometry.region import region, unlike
from unkelt.job.workshop import Workshop
from unkelt.messages import say, say_count
from unkelt.sheet.appearance import Operation
from unkelt.sheet.model import Outline, Sheet
from unkelt.survey.areas import box_of
from unkelt.survey.check import check
from unkelt.survey.finding import Finding, Level
from unkelt.tolerance import Tolerance


@check("overlap.self")
def overlap_self(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """An outline crosses or covers itself. The tool cuts through its own shape."""
    ticket = workshop.ticket
    for outline in sheet.outlines():
        if ticket.operation(outline.look) is Operation.LEAVE:
            continue
        if outline.look.fill is not None:
            yield from _filled(outline, workshop)
        elif is_cut_line(outline, ticket):
            yield from _line(outline, workshop)


def _filled(outline: Outline, workshop: Workshop) -> Iterator[Finding]:
    tolerance = workshop.ticket.tolerance
    chord = tolerance.chord_mm / 2
    path = _without_repeats(outline.path, tolerance)
    if not rings_cross(path, chord):
        return
    by_rule = unlike(region(path, False, chord), region(path, True, chord))
    twice = shapely.symmetric_difference(*by_rule[:2])
    marks = tuple(box_of(part) for part in shapely.get_parts(twice) if part.area > tolerance.graze_mm2)
    box: Box | None = box_of(twice) if marks else bounds(path)
    yield Finding(
        code="overlap.self",
        level=Level.HOLD,
        items=(outline.id,),
        box=box,
        value=float(twice.area),
        unit="mm²",
        case="area",
        headline="An outline crosses itself",
        detail=say("{area:.1f} mm² depend on the fill rule", area=twice.area) if marks else "its lines cross",
        message="The tool follows every line, so it cuts through the shape where it crosses itself. What is solid "
        "there depends on the fill rule.",
        marks=marks,
    )


def _line(outline: Outline, workshop: Workshop) -> Iterator[Finding]:
    """A line without a fill says nothing of what is solid: whether its inner lines are meant, a person knows."""
    tolerance = workshop.ticket.tolerance
    chord = tolerance.chord_mm / 2
    path = _without_repeats(outline.path, tolerance)
    drawn = lines(path, chord)
    if drawn.is_simple or (path.closed.all() and not rings_cross(path, chord)):
        return
    places = _own_crossings(path, chord)
    if not places:
        return
    yield Finding(
        code="overlap.self",
        level=Level.HOLD,
        items=(outline.id,),
        box=join_boxes(places),
        value=float(len(places)),
        unit="places",
        headline=say_count(
            "A cut line crosses itself at {count} place", "A cut line crosses itself at {count} places", len(places)
        ),
        detail="are the inner lines intended?",
        message="The tool follows every line, so it cuts through the shape where the line crosses itself. Weld it if "
        "it encloses one shape.",
        case="line" if path.closed.any() else "open",
        marks=tuple(places),
        choice=True,
    )


def _without_repeats(path: Path, tolerance: Tolerance) -> Path:
    """Copies are a matter of path.duplicate; what is left may still cross."""
    if ring_nesting(path, tolerance.chord_mm / 2).nesting is not None:
        return path
    repeats = {again for _, again, _ in repeated_subpaths(path, tolerance.same_shape_mm)}
    return path.select([index for index in range(len(path)) if index not in repeats]) if repeats else path


def _own_crossings(path: Path, chord_mm: float) -> list[Box]:
    """Where a path's lines meet further from the ends of open ones than rounding."""
    vertices, owner = flatten(path, chord_mm)
    same = owner[1:] == owner[:-1]
    edges = shapely.linestrings(np.stack([vertices[:-1][same], vertices[1:][same]], axis=1))
    first, second = shapely.STRtree(edges).query(edges, predicate="crosses")
    first, second = first[first < second], second[first < second]
    points = shapely.get_coordinates(shapely.intersection(edges[first], edges[second]))
    opened = path.select(~path.closed)
    ends = np.concatenate([opened.points[opened.starts, 0], opened.points[opened.stops - 1, 3]])
    if len(ends) and len(points):
        points = points[nearest(points, ends)[0] > SHORT_MM]
    return [(float(x), float(y), float(x), float(y)) for x, y in points]
