"""Tracing: a boundary known as polylines, drawn again along the exact lines ("rails") it was made from.

The second engine (GEOS) decides what the result is: its rings, what meets what, what vanishes. Here each stretch of its
rings is assigned to the rail it follows, the places where two rails meet are computed exactly, and the stretches are
written as lines, arcs and certified cubics. A ring for which this fails is fitted as a polyline instead.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from unkelt.geometry.arcs import pieces_for
from unkelt.geometry.fit import fit_segments
from unkelt.geometry.measure import unit
from unkelt.geometry.path import CUBIC, LINE, Floats, Path, concat, polygon
from unkelt.geometry.rails import JOINT_MM, Arc, Rail, Straight
from unkelt.geometry.reduce import reduce_nodes

MICRO_MM = 1e-3
"""A stretch shorter than this is noise of the polylines."""

ARC_ERROR_MM = 5e-5

OVERRUN = 0.25
"""How far Newton's method may run beyond a rail's ends on its way to a crossing between them."""

DEEPEST_SPLIT = 7

Segment = tuple[Floats, int]
_Job = tuple[int, Rail, float, float, Floats, Floats]
"""A stretch to fit: the number of its piece, its rail, the parameters and nodes of its ends."""


class _Lost(Exception):
    """The ring can't be assigned to rails."""


@dataclass(frozen=True, slots=True)
class Traced:
    """`path` has one closed subpath a ring; `true` tells of each segment whether it lies at the offset's distance.

    `fitted_rings` could not be drawn along rails; none strays from its snapped polyline by more than `fitted_bound_mm`.
    """

    path: Path
    true: np.ndarray
    fitted_rings: int
    fitted_bound_mm: float


@dataclass(slots=True)
class _Stretch:
    """A part of a ring that follows one rail: from vertex `first` to vertex `last`."""

    rail: int
    first: Floats
    last: Floats
    length: float


def trace(
    area: shapely.Geometry,
    rails: Sequence[Rail],
    snapped: Callable[[Floats], Floats],
    near_mm: float,
    chord_mm: float,
    fit_mm: float,
) -> Traced:
    """The boundary of `area`, whose vertices lie within `near_mm` of the rails, drawn along them.

    `chord_mm` is the chord error of the polylines, `fit_mm` how far a cubic may stray from a curved rail. `snapped`
    moves vertices (v, 2) to where the exact offset has them; it serves the rings that have to be fitted.
    """
    rings = [
        shapely.get_coordinates(ring)
        for part in shapely.get_parts(area)
        for ring in (part.exterior, *part.interiors)
        if ring is not None and not ring.is_empty
    ]
    tracer = _Tracer(rails, near_mm, chord_mm, fit_mm)
    paths: list[Path] = []
    true: list[np.ndarray] = []
    fitted, bound = 0, 0.0
    for ring in rings:
        try:
            path, exact = tracer.ring(ring)
        except _Lost:
            reduced = reduce_nodes(polygon(*map(tuple, snapped(ring[:-1]))), 2 * fit_mm)
            path, exact = reduced.path, np.zeros(len(reduced.path.points), bool)
            bound = max(bound, reduced.bound_mm + chord_mm)
            fitted += 1
        if len(path):
            paths.append(path)
            true.append(exact)
    return Traced(concat(paths), np.concatenate(true) if true else np.zeros(0, bool), fitted, bound)


class _Tracer:
    def __init__(self, rails: Sequence[Rail], near_mm: float, chord_mm: float, fit_mm: float) -> None:
        self.rails, self.near, self.chord, self.fit = rails, near_mm, chord_mm, fit_mm
        self.parameters = [rail.samples(chord_mm) for rail in rails]
        points = [rail.at(s) for rail, s in zip(rails, self.parameters, strict=True)]
        self.ends = [(p[0], p[-1]) for p in points]
        self.travelled = [
            np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(p, axis=0), axis=1))]) for p in points
        ]
        owner = np.repeat(np.arange(len(points)), [len(p) for p in points])
        self.lines = shapely.linestrings(np.concatenate(points), indices=owner) if len(points) else np.array([])
        self.tree = shapely.STRtree(self.lines)
        self.end_points = np.array([end for pair in self.ends for end in pair]).reshape(-1, 2)
        self.end_tree = shapely.STRtree(shapely.points(self.end_points))

    def ring(self, ring: Floats) -> tuple[Path, np.ndarray]:
        stretches = self._stretches(ring)
        if len(stretches) == 1:
            return self._whole(stretches[0])
        nodes = self._nodes(stretches)
        pieces = []
        for index, stretch in enumerate(stretches):
            start, end = nodes[index - 1], nodes[index]
            if np.linalg.norm(end - start) < MICRO_MM:
                if stretch.length > 4 * self.near + MICRO_MM:
                    raise _Lost
                continue
            pieces.append((stretch.rail, start, end, stretch))
        return self._drawn(pieces)

    def _stretches(self, ring: Floats) -> list[_Stretch]:
        """The ring's edges, each given to the rail that its ends and middle lie nearest to, and joined into stretches."""
        ring = self._cut_at_ends(ring)
        a, b = ring[:-1], ring[1:]
        length = np.linalg.norm(b - a, axis=1)
        real = length > 0
        a, b, length = a[real], b[real], length[real]
        middle = shapely.points((a + b) / 2)
        edge, rail = self.tree.query(middle, predicate="dwithin", distance=self.near)
        away = np.max(
            [
                shapely.distance(points[edge], self.lines[rail])
                for points in (shapely.points(a), middle, shapely.points(b))
            ],
            axis=0,
        )
        order = np.lexsort((rail, away, edge))
        found, at = np.unique(edge[order], return_index=True)
        if len(found) != len(a):
            raise _Lost
        choice = rail[order][at]
        breaks = np.flatnonzero(choice != np.roll(choice, 1))
        if not len(breaks):
            return [_Stretch(int(choice[0]), a[0], b[-1], float(length.sum()))]
        turned = [np.roll(array, -breaks[0], axis=0) for array in (choice, a, b, length)]
        choice, a, b, length = turned
        firsts = breaks - breaks[0]
        lasts = np.append(firsts[1:], len(choice)) - 1
        return [
            _Stretch(int(choice[i]), a[i], b[j], float(length[i : j + 1].sum()))
            for i, j in zip(firsts.tolist(), lasts.tolist(), strict=True)
        ]

    def _cut_at_ends(self, ring: Floats) -> Floats:
        """The ring with a vertex wherever it passes the end of a rail, so that no edge belongs to two."""
        a, b = ring[:-1], ring[1:]
        sides = shapely.linestrings(np.stack([a, b], axis=1))
        edge, end = self.end_tree.query(sides, predicate="dwithin", distance=self.near)
        along = b[edge] - a[edge]
        square = np.maximum((along * along).sum(axis=1), 1e-300)
        share = ((self.end_points[end] - a[edge]) * along).sum(axis=1) / square
        inside = np.minimum(share, 1 - share) * np.sqrt(square) > self.chord
        edge, share = edge[inside], share[inside]
        order = np.lexsort((share, edge))
        edge, share = edge[order], share[order]
        return np.insert(ring, edge + 1, a[edge] + share[:, None] * (b - a)[edge], axis=0)

    def _nodes(self, stretches: list[_Stretch]) -> list[Floats]:
        """The node after each stretch. Stretches that are noise at a place where two others meet are taken out."""
        nodes: list[Floats | None] = [None] * len(stretches)
        index, tries = 0, 0
        while index < len(stretches):
            tries += 1
            if tries > 4 * len(stretches) + 40:
                raise _Lost
            following = (index + 1) % len(stretches)
            node = self._meeting(stretches[index], stretches[following])
            if node is not None:
                nodes[index] = node
                index += 1
                continue
            if between := self._between(stretches[index], stretches[following]):
                stretches[index + 1 : index + 1] = between
                nodes[index + 1 : index + 1] = [None] * len(between)
                continue
            shorter = following if stretches[following].length < stretches[index].length else index
            if stretches[shorter].length > 3 * self.near + MICRO_MM or len(stretches) < 3:
                raise _Lost
            self._drop(stretches, nodes, shorter)
            index = max(0, min(shorter, len(stretches)) - 2)
        return nodes  # type: ignore[return-value]  # all are set

    @staticmethod
    def _drop(stretches: list[_Stretch], nodes: list[Floats | None], index: int) -> None:
        """Takes a stretch out; its neighbours become one where they follow the same rail."""
        del stretches[index], nodes[index]
        here, before = index % len(stretches), (index - 1) % len(stretches)
        if len(stretches) > 1 and stretches[here].rail == stretches[before].rail:
            kept, gone = stretches[before], stretches[here]
            stretches[before] = _Stretch(kept.rail, kept.first, gone.last, kept.length + gone.length)
            del stretches[here], nodes[here]

    def _meeting(self, one: _Stretch, other: _Stretch) -> Floats | None:
        """Where two neighbouring stretches' rails meet, near the vertex between them."""
        place = one.last
        if one.rail == other.rail:
            return None
        pairs = [
            (float(np.linalg.norm(p - place)), (p + q) / 2)
            for p in self.ends[one.rail]
            for q in self.ends[other.rail]
            if np.abs(p - q).max() < JOINT_MM
        ]
        if pairs:
            away, node = min(pairs, key=lambda pair: pair[0])
            if away <= 3 * self.near:
                return node
        return self._crossing(one.rail, other.rail, place)

    def _between(self, one: _Stretch, other: _Stretch) -> list[_Stretch]:
        """The rails of a small corner that the polylines passed over: those that lead from one rail's end to the other's."""
        place = one.last
        for p in self.ends[one.rail]:
            for q in self.ends[other.rail]:
                if max(np.abs(p - place).max(), np.abs(q - place).max()) > 3 * self.near:
                    continue
                for first, tip in self._leading_from(p):
                    if first in (one.rail, other.rail):
                        continue
                    if np.abs(tip - q).max() < JOINT_MM:
                        return [self._whole_stretch(first, p, q)]
                    for second, end in self._leading_from(tip):
                        if second not in (first, one.rail, other.rail) and np.abs(end - q).max() < JOINT_MM:
                            return [self._whole_stretch(first, p, tip), self._whole_stretch(second, tip, q)]
        return []

    def _leading_from(self, point: Floats) -> list[tuple[int, Floats]]:
        """Rails with an end at the point, and their other ends."""
        near = self.tree.query(shapely.Point(point), predicate="dwithin", distance=JOINT_MM).tolist()
        return [
            (rail, self.ends[rail][1 - side])
            for rail in near
            for side in (0, 1)
            if np.abs(self.ends[rail][side] - point).max() < JOINT_MM
        ]

    def _whole_stretch(self, rail: int, first: Floats, last: Floats) -> _Stretch:
        return _Stretch(rail, first, last, float(self.travelled[rail][-1]))

    def _crossing(self, i: int, j: int, place: Floats) -> Floats | None:
        """Newton's method for the crossing of two rails, from the place where their polylines meet."""
        one, other = self.rails[i], self.rails[j]
        s, u = self._parameter(i, place), self._parameter(j, place)
        gap = math.inf
        for _ in range(30):
            p, q = one.at(np.array([s]))[0], other.at(np.array([u]))[0]
            gap = float(np.abs(p - q).max())
            if gap < 1e-11 * (1 + float(np.abs(p).max())):
                break
            matrix = np.stack([one.slope(np.array([s]))[0], -other.slope(np.array([u]))[0]], axis=1)
            determinant = float(np.linalg.det(matrix))
            if abs(determinant) < 1e-14 * float(np.abs(matrix).max()) ** 2:
                return None
            step = np.linalg.solve(matrix, q - p)
            s, u = (min(1 + OVERRUN, max(-OVERRUN, value)) for value in (s + float(step[0]), u + float(step[1])))
        if gap > 1e-7 or not all(-1e-9 <= value <= 1 + 1e-9 for value in (s, u)):
            return None
        node: Floats = one.at(np.array([s]))[0]
        return node if float(np.linalg.norm(node - place)) <= 12 * self.near else None

    def _parameter(self, rail: int, point: Floats) -> float:
        along = float(shapely.line_locate_point(self.lines[rail], shapely.Point(point)))
        return float(np.interp(along, self.travelled[rail], self.parameters[rail]))

    def _exact_parameter(self, rail: int, point: Floats) -> float:
        """The parameter of a point on the rail."""
        for end, value in zip(self.ends[rail], (0.0, 1.0), strict=True):
            if np.abs(point - end).max() < JOINT_MM:
                return value
        s = self._parameter(rail, point)
        for _ in range(8):
            at, slope = self.rails[rail].at(np.array([s]))[0], self.rails[rail].slope(np.array([s]))[0]
            speed = float(slope @ slope)
            step = float((point - at) @ slope) / speed if speed > 1e-24 else 0.0
            s = min(1.0, max(0.0, s + step))
            if abs(step) < 1e-12:
                break
        return s

    def _whole(self, stretch: _Stretch) -> tuple[Path, np.ndarray]:
        """A ring along a single rail, which can only be one that is closed in itself."""
        start, end = self.ends[stretch.rail]
        if np.abs(start - end).max() > JOINT_MM:
            raise _Lost
        rail = self.rails[stretch.rail]
        segments = (
            _arc(rail, 0.0, 1.0, start, start)
            if isinstance(rail, Arc)
            else self._fitted([(0, rail, 0.0, 1.0, start, start)])[0]
        )
        return _closed(segments), np.full(len(segments), rail.true)

    def _drawn(self, pieces: list[tuple[int, Floats, Floats, _Stretch]]) -> tuple[Path, np.ndarray]:
        drawn: list[list[Segment]] = []
        curved: list[_Job] = []
        for rail, start, end, stretch in pieces:
            a, b = self._exact_parameter(rail, start), self._exact_parameter(rail, end)
            covered = abs(float(np.diff(np.interp([a, b], self.parameters[rail], self.travelled[rail]))[0]))
            # A stretch drawn much longer or shorter than its polyline ran the wrong way round.
            if abs(covered - stretch.length) > 0.05 * stretch.length + 12 * self.near:
                raise _Lost
            line = self.rails[rail]
            if isinstance(line, Straight):
                drawn.append([_line(start, end)])
            elif isinstance(line, Arc):
                drawn.append(_arc(line, a, b, start, end))
            else:
                curved.append((len(drawn), line, a, b, start, end))
                drawn.append([])
        if not drawn:
            raise _Lost
        for index, fits in self._fitted(curved).items():
            drawn[index] = fits
        segments = [segment for part in drawn for segment in part]
        true = [self.rails[piece[0]].true for piece, part in zip(pieces, drawn, strict=True) for _ in part]
        segments, true = _straightened(segments, true)
        # Nodes were taken from one of two rails: both segments get the same number.
        for index, (points, _) in enumerate(segments):
            points[0] = segments[index - 1][0][3]
        return _closed(segments), np.array(true)

    def _fitted(self, jobs: list[_Job]) -> dict[int, list[Segment]]:
        """Cubics for all curved stretches of a ring, by their number: one each, or those of its halves, side by side."""
        found: dict[int, list[tuple[float, Segment]]] = {}
        for _ in range(DEEPEST_SPLIT):
            if not jobs:
                break
            count = max(8, *(math.ceil(2 * len(rail.samples(self.chord)) * abs(b - a)) for _, rail, a, b, _, _ in jobs))
            samples, tangents = np.empty((len(jobs), count + 1, 2)), np.empty((len(jobs), 2, 2))
            for row, (_, rail, a, b, start, end) in enumerate(jobs):
                s = np.linspace(a, b, count + 1)
                samples[row] = rail.at(s)
                samples[row, 0], samples[row, -1] = start, end
                slopes = unit(rail.slope(s[[0, -1]])) * np.sign(b - a)
                tangents[row] = slopes[0], -slopes[1]
            split: list[_Job] = []
            for (index, rail, a, b, start, end), fit in zip(
                jobs, fit_segments(samples, tangents, self.fit), strict=True
            ):
                if fit is not None:
                    found.setdefault(index, []).append((a if b > a else -a, (fit[0].copy(), fit[1])))
                    continue
                middle = (a + b) / 2
                joint = rail.at(np.array([middle]))[0]
                split += [(index, rail, a, middle, start, joint), (index, rail, middle, b, joint, end)]
            jobs = split
        if jobs:
            raise _Lost
        return {
            index: [segment for _, segment in sorted(parts, key=lambda part: part[0])] for index, parts in found.items()
        }


def _arc(rail: Arc, a: float, b: float, start: Floats, end: Floats) -> list[Segment]:
    """Cubics of an arc, each through the same angle, handles 4/3 tan(θ/4) of the radius."""
    extent = (b - a) * rail.sweep
    count = pieces_for(extent, rail.radius, ARC_ERROR_MM)
    s = np.linspace(a, b, count + 1)
    nodes, slopes = rail.at(s), unit(rail.slope(s)) * np.sign(b - a)
    nodes[0], nodes[-1] = start, end
    reach = 4 / 3 * math.tan(abs(extent) / count / 4) * rail.radius
    return [
        (np.stack([nodes[k], nodes[k] + reach * slopes[k], nodes[k + 1] - reach * slopes[k + 1], nodes[k + 1]]), CUBIC)
        for k in range(count)
    ]


def _straightened(segments: list[Segment], true: list[bool]) -> tuple[list[Segment], list[bool]]:
    """Lines that go on in the same direction as one line: a side and the mitre that prolongs it."""
    result: list[Segment] = []
    flags: list[bool] = []
    for segment, flag in zip(segments, true, strict=True):
        if result and _collinear(result[-1], segment):
            result[-1] = _line(result[-1][0][0], segment[0][3])
            flags[-1] = flags[-1] and flag
        else:
            result.append(segment)
            flags.append(flag)
    if len(result) > 2 and _collinear(result[-1], result[0]):
        result[0] = _line(result[-1][0][0], result[0][0][3])
        flags[0] = flags[0] and flags[-1]
        del result[-1], flags[-1]
    return result, flags


def _line(start: Floats, end: Floats) -> Segment:
    return np.stack([start, start, end, end]), LINE


def _collinear(one: Segment, other: Segment) -> bool:
    if one[1] != LINE or other[1] != LINE:
        return False
    a, b = one[0][3] - one[0][0], other[0][3] - other[0][0]
    across = abs(float(a[0] * b[1] - a[1] * b[0]))
    return float(a @ b) > 0 and across <= 1e-9 * float(np.linalg.norm(a) * np.linalg.norm(b)) + 1e-12


def _closed(segments: list[Segment]) -> Path:
    points = np.array([points for points, _ in segments])
    degrees = np.array([degree for _, degree in segments], np.uint8)
    line = degrees == LINE
    points[line, 1], points[line, 2] = points[line, 0], points[line, 3]
    return Path(points, degrees, np.zeros(1, np.intp), np.ones(1, bool))
