"""The order in which a machine does its work, for every file that says one: what is engraved, then what is scored, then
what is cut, and of the cuts the inner ones before those that hold them, so that nothing is loose before it is done.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from unkelt.geometry.flatten import polylines
from unkelt.geometry.path import Path
from unkelt.job.ticket import Ticket
from unkelt.sheet.appearance import Operation
from unkelt.sheet.model import Outline

RANKS: dict[Operation | None, int] = {Operation.ENGRAVE: 0, Operation.SCORE: 1, None: 2, Operation.CUT: 3}
"""What the key doesn't know comes before the cuts: nothing is to be loose while it is done."""


def in_operations(outlines: Sequence[Outline], ticket: Ticket) -> list[Outline]:
    """Outlines by their operations alone, in the order of work; as they were within each."""
    return sorted(outlines, key=lambda outline: RANKS.get(ticket.operation(outline.look), len(RANKS)))


def in_order(outlines: Sequence[Outline], ticket: Ticket) -> list[Outline]:
    """Outlines in the order in which they are worked; as they were where nothing tells one from another."""
    ranks = [RANKS.get(ticket.operation(outline.look), len(RANKS)) for outline in outlines]
    depths = depths_of([outline.path for outline in outlines], ticket.tolerance.chord_mm)
    order = sorted(range(len(outlines)), key=lambda index: (ranks[index], -depths[index]))
    return [outlines[index] for index in order]


def inner_first(path: Path, chord_mm: float) -> Path:
    """The same path with the subpaths that lie in others before these."""
    if len(path) < 2:
        return path
    depths = depths_of(list(path.subpaths()), chord_mm)
    order = sorted(range(len(path)), key=lambda index: -depths[index])
    return path if order == sorted(order) else path.select(np.array(order, np.intp))


def depths_of(paths: Sequence[Path], chord_mm: float) -> list[int]:
    """How many of the other paths lie around each: by where it begins, and by the rings that enclose area."""
    if not paths:
        return []
    hulls = [_hull(path, chord_mm) for path in paths]
    starts = shapely.points([path.points[0, 0] if len(path) else (np.nan, np.nan) for path in paths])
    depths = [0] * len(paths)
    inner, outer = shapely.STRtree(hulls).query(starts, predicate="within")
    areas = shapely.area(hulls)
    for i, o in zip(inner.tolist(), outer.tolist(), strict=True):
        depths[i] += i != o and (areas[i] < areas[o] or (areas[i] == areas[o] and i < o))
    return depths


def _hull(path: Path, chord_mm: float) -> shapely.Geometry:
    """All that the closed subpaths enclose."""
    rings = [points for points in polylines(path.select(path.closed), chord_mm) if len(points) > 3]
    return shapely.union_all([shapely.make_valid(shapely.Polygon(points)) for points in rings])
