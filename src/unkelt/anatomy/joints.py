"""Joints that missed: pieces of one lettering that nearly touch, or touch without overlapping."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from unkelt.geometry.distance import repeated_subpaths
from unkelt.geometry.measure import Box, join_boxes, subpath_bounds
from unkelt.geometry.region import pieces, region
from unkelt.job.ticket import Ticket
from unkelt.sheet.model import Outline

SHARE = 0.012
"""Letters further apart than this share of the word's height are meant to stand apart, however small they are."""


@dataclass(frozen=True, slots=True)
class Missed:
    """Two places that nearly meet (mm), how far apart they are, and on which outlines they lie (one and the same, or
    two).
    """

    start: tuple[float, float]
    end: tuple[float, float]
    gap_mm: float
    items: tuple[str, ...]
    box: Box
    """The whole stretch."""


def missed_joints(outlines: tuple[Outline, ...], ticket: Ticket) -> list[Missed]:
    """The joints that missed among the pieces of one word. Pieces that overlap, or lie in each other, are none."""
    parts, owners = [], []
    for outline in outlines:
        if outline.look.fill is None:
            continue
        path = outline.path
        if again := {index for _, index, _ in repeated_subpaths(path, ticket.tolerance.same_shape_mm)}:
            path = path.select([index for index in range(len(path)) if index not in again])  # a copy misses no joint
        shape = region(path, outline.look.even_odd, ticket.tolerance.chord_mm / 2)
        solid = pieces(shape, ticket.tolerance.sliver_mm2)
        parts += solid
        owners += [outline.id] * len(solid)
    if len(parts) < 2:
        return []
    box = join_boxes([(*map(float, row),) for o in outlines for row in subpath_bounds(o.path)])  # type: ignore[misc]
    limit = min(ticket.tolerance.joint_mm, SHARE * (box[3] - box[1])) if box else 0.0
    array = np.array(parts)
    first, second = shapely.STRtree(array).query(array, predicate="dwithin", distance=limit)
    found = []
    for i, j in sorted(zip(first.tolist(), second.tolist(), strict=True)):
        if i >= j or shapely.intersection(array[i], array[j]).area > ticket.tolerance.graze_mm2:
            continue
        items = tuple(dict.fromkeys([owners[i], owners[j]]))
        found.append(_missed(array[i], array[j], items))
    return found


def _missed(a: shapely.Polygon, b: shapely.Polygon, items: tuple[str, ...]) -> Missed:
    """Measured in the middle of the stretch in which the two are about as near as they get."""
    reach = a.distance(b) * 1.05 + 1e-4
    stretch = b.boundary.intersection(a.buffer(reach))
    middle = shapely.shortest_line(stretch, stretch.centroid).coords[0]
    line = shapely.shortest_line(a, shapely.Point(middle))
    (x0, y0), (x1, y1) = shapely.get_coordinates(line).tolist()
    left, top, right, bottom = map(float, stretch.buffer(reach).bounds)
    return Missed((x0, y0), (x1, y1), a.distance(b), items, (left, top, right, bottom))
