"""Tracing: a boundary known as polylines, drawn again along the exact lines ("rails") it was made from.

The second engine (GEOS) decides what the result is: its rings, what meets what, what vanishes. Here each stretch of its
rings is assigned to the rail it follows, the places where two rails meet are computed exactly, and the stretches are
written as lines, arcs and certified cubics. A ring for which this fails is fitted as a polyline instead.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely

from unkelt.geometry.measure import unit
from unkelt.geometry.path import Floats, Ints, Path, concat, polygon
from unkelt.geometry.reduce.fit import fit_segments
from unkelt.geometry.reduce.reduce import reduce_nodes
from unkelt.geometry.trace.drawn_ring import Curve, DrawnRing, arc_segments, line_segment, stretch_of
from unkelt.geometry.trace.rails import JOINT_MM, Arc, Beside, Rail, Rails, Straight, ragged

MICRO_MM = 1e-3
"""A stretch shorter than this is noise of the polylines."""

OVERRUN = 0.25
"""How far Newton's method may run beyond a rail's ends on its way to a crossing between them."""

DEEPEST_SPLIT = 7


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


@dataclass(frozen=True, slots=True)
class _Piece:
    """A stretch between the nodes at which its rail meets its neighbours'."""

    stretch: _Stretch
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
    drafts = tracer.drafts(rings)
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
        self.ends_in_numbers = self.ends.tolist()
        self.end_points = self.ends.reshape(-1, 2)
        self.end_tree = shapely.STRtree(shapely.points(self.end_points))
        self.known: dict[tuple[int, int, bytes], Floats | None] = {}
        """Crossings that were worked out."""

    def drafts(self, rings: Sequence[Floats]) -> list[DrawnRing | None]:
        """The rings drawn, None for those that can't be assigned to rails. What takes long is done for all of them at
        once.
        """
        found = self._stretches(rings)
        self._know_crossings([stretches for stretches in found if stretches])
        pieces: list[list[_Piece] | None] = []
        for stretches in found:
            try:
                pieces.append(self._pieces(stretches) if stretches else None)
            except _Lost:
                pieces.append(None)
        spans = iter(self._spans([piece for ring in pieces if ring for piece in ring]))
        drafts = [self._draft([(piece, next(spans)) for piece in ring]) if ring else None for ring in pieces]
        self._fit_curves([draft for draft in drafts if draft is not None])
        return drafts

    def _pieces(self, stretches: list[_Stretch]) -> list[_Piece]:
        """The stretches between the places where their rails meet. Raises _Lost."""
        if len(stretches) == 1:  # a ring along a single rail, which can only be one that is closed in itself
            start, end = self.ends[stretches[0].rail]
            if np.abs(start - end).max() > JOINT_MM:
                raise _Lost
            return [_Piece(stretches[0], start, start)]
        nodes = self._nodes(stretches)
        pieces = []
        for index, stretch in enumerate(stretches):
            start, end = nodes[index - 1], nodes[index]
            if np.linalg.norm(end - start) < MICRO_MM:
                if stretch.length > 4 * self.near + MICRO_MM:
                    raise _Lost
                continue
            pieces.append(_Piece(stretch, start, end))
        if not pieces:
            raise _Lost
        return pieces

    def _stretches(self, rings: Sequence[Floats]) -> list[list[_Stretch] | None]:
        """Each ring's edges, given to the rail that their ends and middle lie nearest to, and joined into stretches;
        None for a ring with an edge that has no rail.
        """
        vertices = np.concatenate([ring[:-1] for ring in rings])
        ring_of = np.repeat(np.arange(len(rings)), [len(ring) - 1 for ring in rings])
        vertices, ring_of = self._cut_at_ends(vertices, ring_of)
        a, b = vertices, vertices[_following(ring_of)]
        length = np.linalg.norm(b - a, axis=1)
        real = length > 0
        a, b, length, ring_of = a[real], b[real], length[real], ring_of[real]
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
        choices = np.full(len(a), -1)
        choices[found] = rail[order][at]
        cuts = np.searchsorted(ring_of, np.arange(len(rings) + 1)).tolist()
        return [
            self._joined(choices[i:j], a[i:j], b[i:j], length[i:j]) if j > i and (choices[i:j] >= 0).all() else None
            for i, j in itertools.pairwise(cuts)
        ]

    @staticmethod
    def _joined(choice: Ints, a: Floats, b: Floats, length: Floats) -> list[_Stretch]:
        """Edges of a ring that follow the same rail one after another, as stretches."""
        breaks = np.flatnonzero(choice != np.roll(choice, 1))
        if not len(breaks):
            return [_Stretch(int(choice[0]), a[0], b[-1], float(length.sum()))]
        choice = np.roll(choice, -breaks[0])
        a, b, length = (np.roll(array, -breaks[0], axis=0) for array in (a, b, length))
        firsts = breaks - breaks[0]
        lasts = np.append(firsts[1:], len(choice)) - 1
        return [
            _Stretch(int(choice[i]), a[i], b[j], float(length[i : j + 1].sum()))
            for i, j in zip(firsts.tolist(), lasts.tolist(), strict=True)
        ]

    def _cut_at_ends(self, vertices: Floats, ring_of: Ints) -> tuple[Floats, Ints]:
        """The rings with a vertex wherever they pass the end of a rail, so that no edge belongs to two."""
        a, b = vertices, vertices[_following(ring_of)]
        sides = shapely.linestrings(np.stack([a, b], axis=1))
        edge, end = self.end_tree.query(sides, predicate="dwithin", distance=self.near)
        along = b[edge] - a[edge]
        square = np.maximum((along * along).sum(axis=1), 1e-300)
        share = ((self.end_points[end] - a[edge]) * along).sum(axis=1) / square
        inside = np.minimum(share, 1 - share) * np.sqrt(square) > self.chord
        edge, share = edge[inside], share[inside]
        order = np.lexsort((share, edge))
        edge, share = edge[order], share[order]
        new = a[edge] + share[:, None] * (b - a)[edge]
        return np.insert(vertices, edge + 1, new, axis=0), np.insert(ring_of, edge + 1, ring_of[edge])

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
        node = self._joint(one, other)
        return self._crossing(one.rail, other.rail, place) if node is None else node

    def _joint(self, one: _Stretch, other: _Stretch) -> Floats | None:
        """Where the ends of their rails meet, near the vertex between them."""
        x, y = one.last.tolist()
        pairs = [  # in plain numbers: asked for every two neighbours, often more than once
            (math.hypot(px - x, py - y), (px + qx) / 2, (py + qy) / 2)
            for px, py in self.ends_in_numbers[one.rail]
            for qx, qy in self.ends_in_numbers[other.rail]
            if abs(px - qx) < JOINT_MM and abs(py - qy) < JOINT_MM
        ]
        if not pairs:
            return None
        away, *node = min(pairs, key=lambda pair: pair[0])
        return np.array(node) if away <= 3 * self.near else None

    def _between(self, one: _Stretch, other: _Stretch) -> list[_Stretch]:
        """The rails of a small corner that the polylines passed over: those that lead from one rail's end to the
        other's.
        """
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

    def _know_crossings(self, rings: Sequence[list[_Stretch]]) -> None:
        """Works out the crossings of all neighbours in one go."""
        pairs = [
            (one.rail, other.rail, one.last)
            for ring in rings
            for one, other in zip(ring, [*ring[1:], ring[0]], strict=True)
            if one.rail != other.rail and self._joint(one, other) is None
        ]
        if pairs:
            i, j, places = (np.array([pair[k] for pair in pairs]) for k in range(3))
            nodes = self._crossings(i, j, places)
            self.known.update({(i, j, place.tobytes()): node for (i, j, place), node in zip(pairs, nodes, strict=True)})

    def _crossing(self, i: int, j: int, place: Floats) -> Floats | None:
        """The crossing of two rails, from the place where their polylines meet."""
        key = i, j, place.tobytes()
        if key not in self.known:
            self.known[key] = self._crossings(np.array([i]), np.array([j]), place[None])[0]
        return self.known[key]

    def _crossings(self, i: Ints, j: Ints, places: Floats) -> list[Floats | None]:
        """Newton's method for the crossings of pairs of rails (k,), from places (k, 2)."""
        s, u = self._parameters(i, places), self._parameters(j, places)
        on = np.arange(len(i))
        lost = np.zeros(len(i), bool)
        for _ in range(30):
            p, q = self.rails.at(i[on], s[on]), self.rails.at(j[on], u[on])
            short = np.abs(p - q).max(axis=1) >= 1e-11 * (1 + np.abs(p).max(axis=1))
            on, p, q = on[short], p[short], q[short]
            if not len(on):
                break
            along, other = self.rails.slope(i[on], s[on]), -self.rails.slope(j[on], u[on])
            determinant = along[:, 0] * other[:, 1] - along[:, 1] * other[:, 0]
            level = np.abs(determinant) < 1e-14 * np.maximum(np.abs(along), np.abs(other)).max(axis=1) ** 2
            lost[on[level]] = True
            on, p, q, along, other, determinant = (array[~level] for array in (on, p, q, along, other, determinant))
            (x, y), (a, c), (b, d) = (q - p).T, along.T, other.T
            s[on] = np.clip(s[on] + (d * x - b * y) / determinant, -OVERRUN, 1 + OVERRUN)
            u[on] = np.clip(u[on] + (a * y - c * x) / determinant, -OVERRUN, 1 + OVERRUN)
        nodes = self.rails.at(i, s)
        gap = np.abs(nodes - self.rails.at(j, u)).max(axis=1)
        inside = np.minimum(np.minimum(s, 1 - s), np.minimum(u, 1 - u)) >= -1e-9
        near = np.linalg.norm(nodes - places, axis=1) <= 12 * self.near
        good = ~lost & (gap <= 1e-7) & inside & near
        return [node if fine else None for node, fine in zip(nodes, good.tolist(), strict=True)]

    def _parameters(self, which: Ints, points: Floats) -> Floats:
        """About where points (k, 2) lie on rails (k,)."""
        run = shapely.line_locate_point(self.lines[which], shapely.points(points))
        return np.array(
            [
                np.interp(at, self.travelled[rail], self.parameters[rail])
                for rail, at in zip(which.tolist(), run.tolist(), strict=True)
            ]
        )

    def _exact_parameters(self, which: Ints, points: Floats) -> Floats:
        """The parameters of points (k, 2) that lie on rails (k,)."""
        s = np.full(len(which), np.nan)
        for side in (1, 0):
            s[np.abs(points - self.ends[which, side]).max(axis=1) < JOINT_MM] = side
        on = np.flatnonzero(np.isnan(s))
        s[on] = self._parameters(which[on], points[on])
        for _ in range(8):
            at, slope = self.rails.at(which[on], s[on]), self.rails.slope(which[on], s[on])
            speed = (slope * slope).sum(axis=1)
            step = np.where(speed > 1e-24, ((points[on] - at) * slope).sum(axis=1) / np.maximum(speed, 1e-24), 0.0)
            s[on] = np.clip(s[on] + step, 0.0, 1.0)
            on = on[np.abs(step) >= 1e-12]
            if not len(on):
                break
        return s

    def _spans(self, pieces: Sequence[_Piece]) -> list[tuple[float, float] | None]:
        """The parameters between which each piece runs along its rail; None where that isn't what its polyline does."""
        which = np.array([piece.stretch.rail for piece in pieces], dtype=np.intp)
        starts, ends = (np.array([getattr(piece, end) for piece in pieces]).reshape(-1, 2) for end in ("start", "end"))
        a, b = self._exact_parameters(which, starts), self._exact_parameters(which, ends)
        spans: list[tuple[float, float] | None] = []
        for piece, *span in zip(pieces, a.tolist(), b.tolist(), strict=True):
            stretch = piece.stretch
            if piece.start is piece.end:
                spans.append((0.0, 1.0))
                continue
            low, high = np.interp(span, self.parameters[stretch.rail], self.travelled[stretch.rail]).tolist()
            # A stretch drawn much longer or shorter than its polyline ran the wrong way round.
            fits = abs(abs(high - low) - stretch.length) <= 0.05 * stretch.length + 12 * self.near
            spans.append((span[0], span[1]) if fits else None)
        return spans

    def _draft(self, pieces: Sequence[tuple[_Piece, tuple[float, float] | None]]) -> DrawnRing | None:
        """The lines and arcs of a ring's pieces, and the curves to be fitted; None where a piece doesn't fit its
        rail.
        """
        draft = DrawnRing([], [], [])
        for piece, span in pieces:
            if span is None:
                return None
            line = self.rails[piece.stretch.rail]
            draft.true.append(line.true)
            if isinstance(line, Straight):
                draft.drawn.append([line_segment(piece.start, piece.end)])
            elif isinstance(line, Beside) and line.distance == 0:
                draft.drawn.append([stretch_of(line, *span, piece.start, piece.end)])
            elif isinstance(line, Arc):
                draft.drawn.append(arc_segments(line, *span, piece.start, piece.end))
            else:
                draft.curves.append(Curve(draft, len(draft.drawn), piece.stretch.rail, *span, piece.start, piece.end))
                draft.drawn.append([])
        return draft

    def _fit_curves(self, drafts: Sequence[DrawnRing]) -> None:
        """Cubics for the curved stretches of all rings, side by side: one each, or those of its halves."""
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
            split: list[Curve] = []
            fits = fit_segments(np.split(points, firsts[1:]), ways, self.fit)
            for job, fit, middle, joint in zip(jobs, fits, middles.tolist(), joints, strict=True):
                if fit is not None:
                    order = job.a if job.b > job.a else -job.a
                    job.parts.append((order, (fit[0].copy(), fit[1])))
                    continue
                split += [replace(job, b=middle, end=joint), replace(job, a=middle, start=joint)]
            jobs = split
        for job in jobs:
            job.draft.lost = True
        for draft in drafts:
            for curve in draft.curves:
                draft.drawn[curve.piece] = [segment for _, segment in sorted(curve.parts, key=lambda part: part[0])]


def _following(ring_of: Ints) -> Ints:
    """(v,) the next vertex of each in its ring; rings (v,) lie one after another."""
    following = np.arange(1, len(ring_of) + 1)
    last = np.append(ring_of[1:] != ring_of[:-1], True)
    following[last] = np.flatnonzero(np.append(True, last[:-1]))
    return following
