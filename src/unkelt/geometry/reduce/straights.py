"""Straight edges: what was drawn straight stays so, from end to end, and is never made part of a curve.

A line is an edge where it stands between curves or corners; in a row of lines, which may be the polyline of a curve,
where it is several times longer than those that it meets without a corner.
"""

from __future__ import annotations

import bisect
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from unkelt.geometry.alike import PLACES
from unkelt.geometry.measure import unit
from unkelt.geometry.path import LINE, Bools, Floats, Path

LONGER = 4.0
"""So many times longer than its neighbour in a polyline, a line is an edge."""

LEAST, LEAST_CURVED = 5.0, 100.0
"""Multiples of the tolerance that an edge is long at least: what is shorter is where two curves meet. One written as a
curve must be longer: where a curve turns from one side to the other, a short piece of it is straight, too.
"""

IN_LINE_MM = 1.5 * 10.0**-PLACES
"""What lies no further from the line between two nodes lies on it: shapes are rounded to so many places."""


@dataclass(frozen=True, slots=True)
class Edge:
    """A straight edge from one node of a subpath to another, and how far the nodes between lie from it (mm)."""

    first: int
    last: int
    off_mm: float


def straight_edges(path: Path, corner: Bools, tolerance_mm: float) -> list[Edge]:
    """The straight edges of one subpath, in its order. `corner` (n,) says which segments start at a corner."""
    line = _straight(path)
    if not line.any():
        return []
    length = np.hypot(*(path.points[:, 3] - path.points[:, 0]).T)
    return [
        edge
        for edge in _in_line(path, corner, line)
        if (long := float(length[edge.first : edge.last].sum())) >= _least(path, edge) * tolerance_mm
        and _ends(path, corner, line, length, edge.first, edge.first - 1, long)
        and _ends(path, corner, line, length, edge.last, edge.last, long)
    ]


def edge_from(edges: Sequence[Edge], first: int, last: int) -> Edge | None:
    """The edge between two nodes, or the one that they both lie on; None where there is none."""
    at = bisect.bisect_right(edges, first, key=lambda edge: edge.first) - 1
    return edges[at] if at >= 0 and last <= edges[at].last else None


def _least(path: Path, edge: Edge) -> float:
    return LEAST if (path.degrees[edge.first : edge.last] == LINE).all() else LEAST_CURVED


def _straight(path: Path) -> Bools:
    """(n,) which segments are straight, be they written as lines or as curves whose handles lie on them in order."""
    begin = path.points[:, :1]
    way = path.points[:, 3] - path.points[:, 0]
    length = np.hypot(*way.T)
    along = unit(way)
    local = path.points - begin
    forward = local @ along[:, :, None]
    aside = local[..., 0] * along[:, None, 1] - local[..., 1] * along[:, None, 0]
    in_order = (np.diff(forward[..., 0], axis=1) >= 0).all(axis=1)
    return np.asarray((length > 0) & in_order & (np.abs(aside).max(axis=1) <= IN_LINE_MM))


def _in_line(path: Path, corner: Bools, line: Bools) -> list[Edge]:
    """Runs of lines that go on in one direction."""
    nodes = np.concatenate([path.points[:, 0], path.points[-1:, 3]])
    step = np.diff(nodes, axis=0)
    before = np.roll(step, 1, axis=0)
    cross, dot = step[:, 0] * before[:, 1] - step[:, 1] * before[:, 0], (step * before).sum(axis=1)
    off = np.abs(cross) / np.maximum(np.hypot(*(step + before).T), 1e-300)
    goes_on = line & np.roll(line, 1) & ~corner & (dot > 0) & (off <= IN_LINE_MM)
    goes_on[0] = False
    firsts = np.flatnonzero(line & ~goes_on)
    ends = np.append(np.flatnonzero(~goes_on), len(line))
    found: list[Edge] = []
    for first, last in zip(firsts.tolist(), ends[np.searchsorted(ends, firsts, side="right")].tolist(), strict=True):
        away = _off(nodes[first : last + 1])
        if away <= IN_LINE_MM:
            found.append(Edge(first, last, away))
        else:  # each runs on in the next, but together they bend
            found += [Edge(at, at + 1, 0.0) for at in range(first, last)]
    return found


def _off(nodes: Floats) -> float:
    """How far nodes lie from the line between the first and the last; infinite where that has no length."""
    way = nodes[-1] - nodes[0]
    length = float(np.hypot(*way))
    local = nodes - nodes[0]
    return float(np.abs(local[:, 0] * way[1] - local[:, 1] * way[0]).max()) / length if length else np.inf


def _ends(path: Path, corner: Bools, line: Bools, length: Floats, node: int, beyond: int, long: float) -> bool:
    """Whether an edge so long ends at a node, beyond which lies that segment."""
    n = len(line)
    if not path.closed[0] and not 0 <= beyond < n:
        return True
    return bool(corner[node % n] or not line[beyond % n] or long >= LONGER * length[beyond % n])
