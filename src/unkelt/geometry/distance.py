"""Distances between boundaries, and whether two subpaths are the same line."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TypeAlias

import numpy as np
import scipy
import shapely
from numpy.typing import NDArray

from unkelt.geometry.cache import Topic
from unkelt.geometry.flatten import lines
from unkelt.geometry.measure import lengths, signed_areas, subpath_bounds
from unkelt.geometry.near import pairs_within
from unkelt.geometry.path import Bools, Floats, Geometries, Ints, Path

SAME_VERTEX_MM = 1e-6
"""Vertices this near count as the same; no distance between lines is given as less."""


MOST_VERTICES = 200_000
"""Lines longer than so many millimetres are measured at this many places."""

SHORT_MM = 0.1
"""Edges longer than this are measured in their middle at least."""

FEW = 20_000
"""Up to so many pairs of points and edges are measured one by one; beyond that a tree finds the nearest first."""

SEVERAL_ENDS = 6

FEW_IN_ALL = 4_000
"""Up to so many points and edges together, measuring all of them takes some milliseconds; importing SciPy's tree, which
is three to five times as fast, takes hundreds.
"""

FEW_POINTS = 64
"""For up to so many points, edges are looked through one point after another; a tree of all of them takes longer to
grow.
"""

CLOSE_MM = 5e-3
"""A distance that a part of the lines shows to be no more than this isn't looked into further. Who only asks whether
lines lie within a distance names that instead (`close_mm`): what is found is right then wherever it is more.
"""


def distances(points: Floats, starts: Floats, ends: Floats) -> Floats:
    """(p,) distance in mm from each point to the nearest of the edges from starts (e, 2) to ends (e, 2)."""
    if not len(points) or not len(starts):
        return np.full(len(points), np.inf)
    if len(points) * len(starts) > FEW:
        tree = shapely.STRtree(shapely.linestrings(np.stack([starts, ends], axis=1)))
        return np.asarray(tree.query_nearest(shapely.points(points), return_distance=True, all_matches=False)[1])
    return to_edges(points[:, None], starts, ends).min(axis=1)


def to_edges(points: Floats, starts: Floats, ends: Floats) -> Floats:
    """Distances in mm from points (…, 2) to edges (…, 2), shape by shape as NumPy broadcasts them."""
    (x0, y0), (x1, y1), (px, py) = ((each[..., 0], each[..., 1]) for each in (starts, ends, points))
    dx, dy, x, y = x1 - x0, y1 - y0, px - x0, py - y0
    share = (x * dx + y * dy) / np.maximum(dx * dx + dy * dy, 1e-300)
    share = np.minimum(np.maximum(share, 0.0), 1.0)
    return np.asarray(np.hypot(x - share * dx, y - share * dy))


def at_most(points: Floats, starts: Floats, ends: Floats, close_mm: float = CLOSE_MM) -> Floats:
    """(p,) what the distance in mm from each point to the edges is at most: to the edges at the nearest of their ends.

    Exact where there are few. Where there are many, exact nearly always if edges are short against the distance of
    lines, and found in a fraction of the time: it looks at the nearest end first, and at several where that leaves the
    distance above `close_mm`.
    """
    if not len(points) or not len(starts):
        return np.full(len(points), np.inf)
    if len(points) + len(starts) <= FEW_IN_ALL:
        return distances(points, starts, ends)
    # Where lines go on, an edge's end is the next one's start: that vertex stands for both.
    last = _last_of_runs(starts, ends)
    edge_of = np.append(np.arange(len(starts)), last)
    tree = scipy.spatial.cKDTree(np.concatenate([starts, ends[last]]))
    away = np.full(len(points), np.inf)
    left = np.arange(len(points))
    for nearest in (1, SEVERAL_ENDS):
        if not len(left):
            break
        found = tree.query(points[left], k=list(range(1, min(nearest, len(edge_of)) + 1)))[1]
        beside = np.maximum(edge_of[found][..., None] - [0, 1], 0).reshape(len(left), -1)
        away[left] = to_edges(points[left, None], starts[beside], ends[beside]).min(axis=1)
        left = left[away[left] > close_mm]
    return away


def _last_of_runs(starts: Floats, ends: Floats) -> Ints:
    """The edges after which no edge goes on where they end."""
    goes_on = (starts[1:] == ends[:-1]).all(axis=1)
    return np.flatnonzero(~np.append(goes_on, False)[: len(starts)])


Lines: TypeAlias = shapely.Geometry | Geometries
"""Lines, areas by their boundaries, or an array of lines."""


def line_distance(a: Lines, b: Lines, close_mm: float = CLOSE_MM) -> float:
    """Two-sided distance in mm between two sets of lines, measured along every edge that only one of them has.

    Vertices alone miss the middle of long edges (an L against a box can be out by a factor of five), so edges are
    measured every millimetre, or every stated share of a very long line, and short ones in their middle, too: that of a
    cut across a stem is the only place where it's far from what was. After a weld both have nearly all edges.
    """
    one, other = _Edges.of(a), _Edges.of(b)
    if not len(one.keys) or not len(other.keys):
        return 0.0 if len(one.keys) == len(other.keys) else float("inf")
    lone, others = _only_one_has(one.keys, other.keys)
    return max(
        SAME_VERTEX_MM, one.departure(other, lone, others, close_mm), other.departure(one, others, lone, close_mm)
    )


def line_distances(a: Geometries, of_a: Ints, b: Geometries, of_b: Ints, count: int) -> Floats:
    """(count,) `line_distance` of several pairs of sets of lines that lie apart, measured in one go: line i of `a` is
    of the set `of_a[i]`.
    """
    one, other = _Edges.of(a), _Edges.of(b)
    result = np.full(count, SAME_VERTEX_MM)
    result[np.bincount(of_a, minlength=count).astype(bool) != np.bincount(of_b, minlength=count).astype(bool)] = np.inf
    lone, others = _only_one_has(one.keys, other.keys)
    for these, those, owner, own, foreign in ((one, other, of_a, lone, others), (other, one, of_b, others, lone)):
        away, edge = these.away(those, own, foreign)
        np.maximum.at(result, owner[these.line[edge]], away)
    return result


def departure(a: Lines, b: Lines, close_mm: float = CLOSE_MM) -> float:
    """One-sided: the greatest distance in mm from the lines of `a` to the lines of `b`."""
    one, other = _Edges.of(a), _Edges.of(b)
    return max(SAME_VERTEX_MM, one.departure(other, *_only_one_has(one.keys, other.keys), close_mm))


@dataclass(frozen=True, slots=True)
class _Edges:
    """The edges of lines, and a key of each that is the same for edges that agree to a third of `SAME_VERTEX_MM`."""

    starts: Floats
    ends: Floats
    keys: NDArray[np.uint64]
    line: Ints
    """The line that each is of."""

    @classmethod
    def of(cls, shape: Lines) -> _Edges:
        each = shape if isinstance(shape, np.ndarray) else shapely.get_parts(lines_of(shape))
        vertices, owner = shapely.get_coordinates(each, return_index=True)
        same = owner[1:] == owner[:-1]
        starts, ends = vertices[:-1][same], vertices[1:][same]
        # Two odd multipliers mix both coordinates of a vertex; a sum tells a pair of vertices whichever comes first.
        grid = np.round(vertices / (SAME_VERTEX_MM / 3)).astype(np.int64).view(np.uint64)
        mixed = grid[:, 0] * np.uint64(0x9E3779B97F4A7C15) ^ (
            grid[:, 1] * np.uint64(0xC2B2AE3D27D4EB4F) >> np.uint64(1)
        )
        mixed = (mixed ^ (mixed >> np.uint64(29))) * np.uint64(0xBF58476D1CE4E5B9)
        return cls(starts, ends, (mixed[:-1] + mixed[1:])[same], owner[1:][same])

    def departure(self, other: _Edges, lone: Bools, others: Bools, close_mm: float) -> float:
        """The greatest distance from these edges to the others; `lone` are those that the others haven't, and `others`
        theirs.
        """
        return float(self.away(other, lone, others, close_mm)[0].max(initial=0.0))

    def away(self, other: _Edges, lone: Bools, others: Bools, close_mm: float = CLOSE_MM) -> tuple[Floats, Ints]:
        """Distances in mm from places along these edges to the others, and the edge that each place is on.

        Edges that both have are passed over. What is left is near what is left of the others, if all is well: only
        points for which that isn't so are measured against everything.
        """
        starts, ends = self.starts[lone], self.ends[lone]
        length = np.hypot(*(ends - starts).T)
        step = max(1.0, float(length.sum()) / MOST_VERTICES)
        counts = np.maximum(np.ceil(length / step), 1 + (length > SHORT_MM)).astype(np.intp)
        edge = np.repeat(np.arange(len(counts)), counts)
        share = (np.arange(len(edge)) - np.repeat(np.cumsum(counts) - counts, counts)) / counts[edge]
        points = starts[edge] + share[:, None] * (ends - starts)[edge]
        # Where the next edge begins, it is measured as that one's start.
        last = _last_of_runs(starts, ends)
        points = np.concatenate([points, ends[last]])
        away = at_most(points, other.starts[others], other.ends[others], close_mm)
        far = away > close_mm
        if far.any():
            away[far] = other.nearest(points[far], away[far])
        return away, np.flatnonzero(lone)[np.append(edge, last)]

    def nearest(self, points: Floats, at_most_mm: Floats) -> Floats:
        """(p,) distance in mm from points to these edges, each known to be no more than that."""
        if len(points) > FEW_POINTS:
            return distances(points, self.starts, self.ends)
        x, y = np.ascontiguousarray(self.starts.T)
        longest = float(np.linalg.norm(self.ends - self.starts, axis=1).max())
        found = []
        for point, limit in zip(points, at_most_mm + longest + SAME_VERTEX_MM, strict=True):
            near = np.flatnonzero((x - point[0]) ** 2 + (y - point[1]) ** 2 <= limit**2)
            found.append(to_edges(point, self.starts[near], self.ends[near]).min(initial=limit))
        return np.array(found)


def _only_one_has(a: NDArray[np.uint64], b: NDArray[np.uint64]) -> tuple[Bools, Bools]:
    """Which keys of the first aren't among the second's, and the other way round; found by sorting all of them once."""
    keys = np.concatenate([a, b])
    order = np.argsort(keys)
    sorted_keys, of_b = keys[order], order >= len(a)
    run = np.cumsum(np.append(True, sorted_keys[1:] != sorted_keys[:-1])[: len(keys)]) - 1  # which keys are the same
    count, from_b = np.bincount(run), np.bincount(run, weights=of_b)
    lone = np.empty(len(keys), bool)
    lone[order] = ((from_b == 0) | (from_b == count))[run]
    return lone[: len(a)], lone[len(a) :]


def edges(vertices: Floats, owner: NDArray[np.intp]) -> NDArray[np.object_]:
    """Every edge of polylines (v, 2), (v,) as a line of its own: what nearest-edge questions are quick on."""
    same = owner[1:] == owner[:-1]
    return shapely.linestrings(np.stack([vertices[:-1][same], vertices[1:][same]], axis=1))


def lines_of(shape: shapely.Geometry) -> shapely.Geometry:
    """The boundary of an area; lines as they are."""
    return shapely.boundary(shape) if shape.geom_type in ("Polygon", "MultiPolygon") else shape


def repeated_subpaths(path: Path, within_mm: float) -> list[tuple[int, int, float]]:
    """Pairs (first, again, distance in mm) of subpaths that are the same line, whatever their start, direction, noding.

    Candidates have the same box, length and enclosed area; the two-sided distance then decides. Each subpath is named
    as "again" at most once, with the earliest it repeats.
    """
    same: list[tuple[int, int, float]] = []
    known: dict[tuple[bytes, bytes, bool], int] = {}
    if not len(path):
        return []
    first_node = np.repeat(path.points[path.starts, :1], path.counts, axis=0)
    lone = np.add.reduceat((path.points != first_node).any(axis=(1, 2)), path.starts) == 0
    numbers, degrees = path.points.tobytes(), path.degrees.tobytes()
    for index, (first_segment, stop, closed) in enumerate(
        zip(path.starts.tolist(), path.stops.tolist(), path.closed.tolist(), strict=True)
    ):
        if lone[index]:
            continue  # a lone point, which is a matter of its own
        # A copy to the last bit needs no measuring, however many there are.
        key = numbers[64 * first_segment : 64 * stop], degrees[first_segment:stop], closed
        first = known.setdefault(key, index)
        if first != index:
            same.append((first, index, SAME_VERTEX_MM))
    copies = {again for _, again, _ in same}
    boxes = subpath_bounds(path)
    # Specks lie on each other, and nobody can tell which is which.
    spread = (boxes[:, 2:] - boxes[:, :2] > within_mm).any(axis=1)
    unlike = np.array([index for index in np.flatnonzero(spread).tolist() if index not in copies], np.intp)
    asked = path.select(unlike.tolist())
    near = _NEARLY_REPEATED.get((asked, within_mm), lambda: _nearly_repeated(asked, within_mm))
    earliest = {int(unlike[again]): int(unlike[first]) for first, again, _ in near}
    same = [(earliest.get(first, first), again, gap) for first, again, gap in same]
    return sorted([*same, *((int(unlike[i]), int(unlike[j]), gap) for i, j, gap in near)], key=lambda each: each[1])


_NEARLY_REPEATED: Topic[list[tuple[int, int, float]]] = Topic("nearly repeated subpaths", 1024)
"""Several checks ask about the same path."""


def _nearly_repeated(path: Path, within_mm: float) -> list[tuple[int, int, float]]:
    boxes = subpath_bounds(path)
    if len(boxes) < 2:
        return []
    pairs = pairs_within(boxes, 4 * within_mm)
    if not len(pairs):
        return []
    alike_boxes = np.unique(pairs)
    candidates = path.select(alike_boxes.tolist())
    length, area = np.zeros(len(path)), np.zeros(len(path))
    length[alike_boxes], area[alike_boxes] = lengths(candidates), np.abs(signed_areas(candidates))
    pairs = np.sort(pairs, axis=1)
    first, again = pairs[np.lexsort((pairs[:, 0], pairs[:, 1]))].T
    # A shift by w of a line of length L changes the enclosed area by at most w L; renoded copies may differ in length.
    alike = (length[first] > 0) & (np.abs(length[first] - length[again]) <= 0.02 * length[first] + 4 * within_mm)
    alike &= np.abs(area[first] - area[again]) <= within_mm * (length[first] + length[again])
    found: list[tuple[int, int, float]] = []
    repeats: set[int] = set()
    drawn: dict[int, shapely.Geometry] = {}
    for i, j in zip(first[alike].tolist(), again[alike].tolist(), strict=True):
        if i in repeats or j in repeats or path.closed[i] != path.closed[j]:
            continue
        for index in (i, j):
            if index not in drawn:
                drawn[index] = lines(path.subpath(index), within_mm / 10)
        nodes = shapely.points(path.points[path.starts[j] : path.stops[j], 3])
        if shapely.distance(nodes, drawn[i]).max() > within_mm:
            continue  # as some node says already, which takes far less time than to measure both lines
        gap = line_distance(drawn[i], drawn[j])
        if gap <= within_mm:
            found.append((i, j, gap))
            repeats.add(j)
    return found
