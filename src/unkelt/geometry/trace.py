"""Tracing: a boundary known as polylines, drawn again along the exact lines ("rails") it was made from.

The second engine (GEOS) decides what the result is: its rings, what meets what, what vanishes. Here each stretch of its
rings is assigned to the rail it follows, the places where two rails meet are computed exactly, and the stretches are
written as lines, arcs and certified cubics. A ring for which this fails is fitted as a polyline instead.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely

from unkelt.geometry.arcs import pieces_for
from unkelt.geometry.fit import fit_segments
from unkelt.geometry.measure import unit
from unkelt.geometry.path import CUBIC, LINE, Floats, Ints, Path, concat, polygon
from unkelt.geometry.rails import JOINT_MM, Arc, Rail, Rails, Straight, ragged
from unkelt.geometry.reduce import reduce_nodes

MICRO_MM = 1e-3
"""A stretch shorter than this is noise of the polylines."""

ARC_ERROR_MM = 5e-5

OVERRUN = 0.25
"""How far Newton's method may run beyond a rail's ends on its way to a crossing between them."""

DEEPEST_SPLIT = 7

Segment = tuple[Floats, int]


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


@dataclass(slots=True)
class _Draft:
    """A ring on its way: what is drawn of each piece, whether that lies at the distance, and the curves still to be fitted."""

    drawn: list[list[Segment]]
    true: list[bool]
    curves: list[_Curve]
    lost: bool = False

    def path(self) -> tuple[Path, np.ndarray]:
        segments = [segment for part in self.drawn for segment in part]
        true = [flag for flag, part in zip(self.true, self.drawn, strict=True) for _ in part]
        if len(self.drawn) > 1:
            segments, true = _straightened(segments, true)
        # Nodes were taken from one of two rails: both segments get the same number.
        for index, (points, _) in enumerate(segments):
            points[0] = segments[index - 1][0][3]
        return _closed(segments), np.array(true)


@dataclass(frozen=True, slots=True)
class _Curve:
    """A stretch to fit: the ring and the piece of it that it belongs to, its rail, the parameters and nodes of its ends."""

    draft: _Draft
    piece: int
    rail: int
    a: float
    b: float
    start: Floats
    end: Floats


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
    drafts: list[_Draft | None] = []
    for ring in rings:
        try:
            drafts.append(tracer.draft(ring))
        except _Lost:
            drafts.append(None)
    tracer.fit_curves([draft for draft in drafts if draft is not None])
    paths: list[Path] = []
    true: list[np.ndarray] = []
    fitted, bound = 0, 0.0
    for ring, draft in zip(rings, drafts, strict=True):
        if draft is None or draft.lost:
            reduced = reduce_nodes(polygon(*map(tuple, snapped(ring[:-1]))), 2 * fit_mm)
            path, exact = reduced.path, np.zeros(len(reduced.path.points), bool)
            bound = max(bound, reduced.bound_mm + chord_mm)
            fitted += 1
        else:
            path, exact = draft.path()
        if len(path):
            paths.append(path)
            true.append(exact)
    return Traced(concat(paths), np.concatenate(true) if true else np.zeros(0, bool), fitted, bound)


class _Tracer:
    def __init__(self, rails: Sequence[Rail], near_mm: float, chord_mm: float, fit_mm: float) -> None:
        self.rails, self.near, self.chord, self.fit = Rails(rails), near_mm, chord_mm, fit_mm
        points, parameters, owner = self.rails.sampled(chord_mm)
        self.counts = self.rails.counts(chord_mm)
        firsts = np.cumsum(self.counts + 1) - (self.counts + 1)
        self.ends = np.stack([points[firsts], points[firsts + self.counts]], axis=1)
        steps = np.linalg.norm(np.diff(points, axis=0, prepend=points[:1]), axis=1)
        run = np.cumsum(steps)
        travelled = run - run[firsts][owner]
        self.parameters = np.split(parameters, firsts[1:])
        self.travelled = np.split(travelled, firsts[1:])
        self.lines = shapely.linestrings(points, indices=owner) if len(points) else np.array([])
        self.tree = shapely.STRtree(self.lines)
        self.end_points = self.ends.reshape(-1, 2)
        self.end_tree = shapely.STRtree(shapely.points(self.end_points))

    def draft(self, ring: Floats) -> _Draft:
        """The pieces of a ring, its curves still to be fitted. Raises _Lost."""
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
        both = np.array([i, j])
        s = self._parameters(both, np.stack([place, place]))
        gap = math.inf
        for _ in range(30):
            p, q = self.rails.at(both, s)
            gap = float(np.abs(p - q).max())
            if gap < 1e-11 * (1 + float(np.abs(p).max())):
                break
            matrix = (self.rails.slope(both, s) * [[1], [-1]]).T
            (a, b), (c, d) = matrix.tolist()
            determinant = a * d - b * c
            if abs(determinant) < 1e-14 * float(np.abs(matrix).max()) ** 2:
                return None
            x, y = (q - p).tolist()
            step = np.array([d * x - b * y, a * y - c * x]) / determinant
            s = np.clip(s + step, -OVERRUN, 1 + OVERRUN)
        if gap > 1e-7 or not ((s >= -1e-9) & (s <= 1 + 1e-9)).all():
            return None
        node: Floats = self.rails.at(both, s)[0]
        return node if float(np.linalg.norm(node - place)) <= 12 * self.near else None

    def _parameters(self, which: Ints, points: Floats) -> Floats:
        """About where points (k, 2) lie on rails (k,)."""
        run = shapely.line_locate_point(self.lines[which], shapely.points(points))
        return np.array(
            [np.interp(at, self.travelled[rail], self.parameters[rail]) for rail, at in zip(which.tolist(), run.tolist(), strict=True)]
        )  # fmt: skip

    def _exact_parameters(self, which: Ints, points: Floats) -> Floats:
        """The parameters of points (k, 2) that lie on rails (k,)."""
        s = self._parameters(which, points)
        for _ in range(8):
            at, slope = self.rails.at(which, s), self.rails.slope(which, s)
            speed = (slope * slope).sum(axis=1)
            step = np.where(speed > 1e-24, ((points - at) * slope).sum(axis=1) / np.maximum(speed, 1e-24), 0.0)
            s = np.clip(s + step, 0.0, 1.0)
            if np.abs(step).max(initial=0.0) < 1e-12:
                break
        for side in (1, 0):
            s[np.abs(points - self.ends[which, side]).max(axis=1) < JOINT_MM] = side
        return s

    def _whole(self, stretch: _Stretch) -> _Draft:
        """A ring along a single rail, which can only be one that is closed in itself."""
        start, end = self.ends[stretch.rail]
        if np.abs(start - end).max() > JOINT_MM:
            raise _Lost
        return self._draft([(stretch.rail, 0.0, 1.0, start, start)])

    def _drawn(self, pieces: list[tuple[int, Floats, Floats, _Stretch]]) -> _Draft:
        if not pieces:
            raise _Lost
        which = np.array([rail for rail, *_ in pieces])
        starts, ends = (np.array([piece[k] for piece in pieces]) for k in (1, 2))
        a, b = self._exact_parameters(which, starts).tolist(), self._exact_parameters(which, ends).tolist()
        for (rail, _, _, stretch), *span in zip(pieces, a, b, strict=True):
            covered = abs(float(np.diff(np.interp(span, self.parameters[rail], self.travelled[rail]))[0]))
            # A stretch drawn much longer or shorter than its polyline ran the wrong way round.
            if abs(covered - stretch.length) > 0.05 * stretch.length + 12 * self.near:
                raise _Lost
        return self._draft([(piece[0], *span, *piece[1:3]) for piece, *span in zip(pieces, a, b, strict=True)])

    def _draft(self, spans: Sequence[tuple[int, float, float, Floats, Floats]]) -> _Draft:
        """The lines and arcs of stretches, each a rail, its parameters and nodes at both ends; and the curves to be fitted."""
        draft = _Draft([], [], [])
        for rail, a, b, start, end in spans:
            line = self.rails[rail]
            draft.true.append(line.true)
            if isinstance(line, Straight):
                draft.drawn.append([_line(start, end)])
            elif isinstance(line, Arc):
                draft.drawn.append(self._arc(rail, a, b, start, end))
            else:
                draft.curves.append(_Curve(draft, len(draft.drawn), rail, a, b, start, end))
                draft.drawn.append([])
        return draft

    def fit_curves(self, drafts: Sequence[_Draft]) -> None:
        """Cubics for the curved stretches of all rings, side by side: one each, or those of its halves."""
        found: dict[tuple[int, int], list[tuple[float, Segment]]] = {}
        jobs = [curve for draft in drafts for curve in draft.curves]
        for _ in range(DEEPEST_SPLIT):
            if not jobs:
                break
            rail = np.array([job.rail for job in jobs])
            span = np.array([(job.a, job.b) for job in jobs])
            width = span[:, 1] - span[:, 0]
            counts = np.maximum(8, np.ceil(2 * (self.counts[rail] + 1) * np.abs(width))).astype(np.intp)
            owner, share = ragged(counts)
            points = self.rails.at(rail[owner], span[owner, 0] + share * width[owner])
            lasts = np.cumsum(counts + 1) - 1
            firsts = lasts - counts
            points[firsts], points[lasts] = [job.start for job in jobs], [job.end for job in jobs]
            ways = unit(self.rails.slope(np.repeat(rail, 2), span.ravel())).reshape(-1, 2, 2)
            ways *= np.sign(width)[:, None, None]
            middles = span.mean(axis=1)
            joints = self.rails.at(rail, middles)
            split: list[_Curve] = []
            fits = fit_segments(np.split(points, firsts[1:]), ways, self.fit)
            for job, fit, middle, joint in zip(jobs, fits, middles.tolist(), joints, strict=True):
                if fit is not None:
                    order = job.a if job.b > job.a else -job.a
                    found.setdefault((id(job.draft), job.piece), []).append((order, (fit[0].copy(), fit[1])))
                    continue
                split += [replace(job, b=middle, end=joint), replace(job, a=middle, start=joint)]
            jobs = split
        for job in jobs:
            job.draft.lost = True
        for draft in drafts:
            for curve in draft.curves:
                parts = sorted(found.get((id(draft), curve.piece), ()), key=lambda part: part[0])
                draft.drawn[curve.piece] = [segment for _, segment in parts]

    def _arc(self, number: int, a: float, b: float, start: Floats, end: Floats) -> list[Segment]:
        """Cubics of an arc, each through the same angle, handles 4/3 tan(θ/4) of the radius."""
        rail = self.rails[number]
        assert isinstance(rail, Arc)
        extent = (b - a) * rail.sweep
        count = pieces_for(extent, rail.radius, ARC_ERROR_MM)
        s, which = np.linspace(a, b, count + 1), np.full(count + 1, number)
        nodes, slopes = self.rails.at(which, s), unit(self.rails.slope(which, s)) * np.sign(b - a)
        nodes[0], nodes[-1] = start, end
        reach = 4 / 3 * math.tan(abs(extent) / count / 4) * rail.radius
        return [
            (np.stack([nodes[k], nodes[k] + reach * slopes[k], nodes[k + 1] - reach * slopes[k + 1], nodes[k + 1]]), CUBIC)
            for k in range(count)
        ]  # fmt: skip


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
