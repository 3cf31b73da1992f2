"""Edges that two paths of one material share for a stretch, as tags laid side by side do, and slits within one."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from unkelt.anatomy.left_guides import guides
from unkelt.anatomy.repeats import without_copies
from unkelt.geometry.boolean.shared import Stretch, common_line, stretches_near
from unkelt.geometry.distance import repeated_subpaths
from unkelt.geometry.flatten import flatten
from unkelt.geometry.measure import subpath_bounds
from unkelt.geometry.nesting import rings_cross
from unkelt.geometry.path import Path, concat
from unkelt.geometry.region import region
from unkelt.job.ticket import Ticket
from unkelt.sheet.appearance import Operation
from unkelt.sheet.model import Outline, Sheet

LEAST_MM = 1.0
"""Shorter stretches are where lines touch, not where they run together."""


@dataclass(frozen=True, slots=True)
class SharedEdge:
    """Subpath `index` of outline `again` runs along subpath `first_index` of outline `first`, on `line`."""

    first: Outline
    first_index: int
    again: Outline
    index: int
    line: shapely.Geometry
    stretches: tuple[Stretch, ...]

    @property
    def length_mm(self) -> float:
        """Of all its stretches."""
        return sum(stop - start for start, stop in self.stretches)


def shared_edges(sheet: Sheet, ticket: Ticket) -> list[SharedEdge]:
    """All shared edges; the earlier on the sheet counts as the first.

    Whole copies are no shared edge, nor are outlines whose fills overlap or whose rings cross: a weld is what those
    need.
    """
    left_over = {left.outline.id for left in guides(sheet, ticket) if not left.cut}  # which go as a whole
    found: dict[tuple[str, int, str, int], SharedEdge] = {}
    for alike in ticket.by_material(sheet.outlines()).values():
        outlines = [outline for outline in alike if outline.id not in left_over and _is_followed(outline, ticket)]
        for edge in _among(outlines, ticket):
            found.setdefault((edge.first.id, edge.first_index, edge.again.id, edge.index), edge)
    return list(found.values())


def _is_followed(outline: Outline, ticket: Ticket) -> bool:
    """Whether a tool cuts or scores along its lines."""
    operation = ticket.operation(outline.look)
    return operation in (Operation.CUT, Operation.SCORE) or (operation is None and outline.look.fill is None)


def _among(outlines: list[Outline], ticket: Ticket) -> list[SharedEdge]:
    within = ticket.tolerance.same_shape_mm
    outlines = without_copies(outlines, within)
    whole = [subpath_bounds(outline.path) for outline in outlines]
    kept = [np.flatnonzero((box[:, 2:] - box[:, :2] > within).any(axis=1)) for box in whole]  # specks have no edges
    parts: list[tuple[Outline, int, Path]] = [
        (outline, index, outline.path.subpath(index))
        for outline, indices in zip(outlines, kept, strict=True)
        for index in indices.tolist()
    ]
    if len(parts) < 2:
        return []
    # What lies twice, a whole subpath at a time, is the matter of another finding: its edges are those of the first.
    again = {copy for _, copy, _ in repeated_subpaths(concat([path for _, _, path in parts]), within)}
    boxes = np.concatenate([box[indices] for box, indices in zip(whole, kept, strict=True)])
    boxes = np.delete(boxes, sorted(again), axis=0)
    parts = [part for index, part in enumerate(parts) if index not in again]
    frames = shapely.box(*boxes.T)
    first, second = shapely.STRtree(frames).query(frames, predicate="dwithin", distance=within)
    first, second = first[first < second], second[first < second]
    involved = np.unique(np.concatenate([first, second]))
    if not len(involved):
        return []
    shapes = _drawn(parts, involved.tolist(), within)
    near_ones = zip(first.tolist(), second.tolist(), strict=True)
    candidates = sorted((i, j) for i, j in near_ones if shapely.dwithin(shapes[i], shapes[j], within))
    fine = _drawn(parts, sorted({index for pair in candidates for index in pair}), within / 10)
    beside: dict[int, shapely.Geometry] = {}
    found = []
    overlapping: dict[tuple[str, str], bool] = {}
    for i, j in candidates:
        (a, a_index, _), (b, b_index, other) = parts[i], parts[j]
        if (a.id, b.id) not in overlapping:
            overlapping[a.id, b.id] = _overlap(a, b, ticket)
        if overlapping[a.id, b.id]:
            continue
        if i not in beside:
            beside[i] = shapes[i].buffer(2 * within, quad_segs=1)
            shapely.prepare(beside[i])
        if shapely.intersection(beside[i], shapes[j]).length < LEAST_MM:
            continue
        line = common_line(fine[i], fine[j], within, LEAST_MM)
        stretches = [] if line.is_empty else stretches_near(other, fine[i], within, LEAST_MM)
        if stretches:
            found.append(SharedEdge(a, a_index, b, b_index, line, tuple(stretches)))
    return found


def _drawn(parts: list[tuple[Outline, int, Path]], which: list[int], chord_mm: float) -> dict[int, shapely.LineString]:
    """Some of the parts, by their place, as lines."""
    if not which:
        return {}
    vertices, owner = flatten(concat([parts[index][2] for index in which]), chord_mm)
    return dict(zip(which, shapely.linestrings(vertices, indices=owner), strict=True))


def _overlap(a: Outline, b: Outline, ticket: Ticket) -> bool:
    """Whether both are filled and their fills overlap, or the rings of one cross: the matter of other findings."""
    if a.look.fill is None or b.look.fill is None:
        return False
    chord = ticket.tolerance.chord_mm / 2
    if a is b:
        return rings_cross(a.path, chord)
    common = region(a.path, a.look.even_odd, chord).intersection(region(b.path, b.look.even_odd, chord))
    return bool(common.area > ticket.tolerance.sliver_mm2)
