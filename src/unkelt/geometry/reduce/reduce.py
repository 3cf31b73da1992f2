"""Node reduction: fewer segments for the same line, with a certificate for every one of them.

Spans of segments between corners are replaced by single cubics whose ends, and the tangents there, are those of the
source. The longest run that a cubic can follow is taken each time (H. Imai and M. Iri, 1988, on fewest segments); then
nodes between are taken out one by one where their neighbours, moved together, can do without
(geometry/reduce/removal.py). Nothing is accepted without a rigorous two-sided bound on its distance to the source, so a
run that can't be replaced stays as it is, to the last bit. Corners stay in place, and so do their angles but for a few
degrees (`HINGE_DEG`).

Straight edges stay straight, from end to end. By choice nodes are kept where a curve runs level or plumb, as type
designers place them.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from unkelt.geometry.alike import PLACES, seen_from_first
from unkelt.geometry.cache import Topic
from unkelt.geometry.flatten import flatten, piece_counts
from unkelt.geometry.measure import end_tangents, turns_between, unit
from unkelt.geometry.nesting import ring_nesting, ring_nestings
from unkelt.geometry.path import CUBIC, LINE, QUAD, Floats, Path, concat
from unkelt.geometry.reduce import noise
from unkelt.geometry.reduce.circle import circle_of
from unkelt.geometry.reduce.fit import Fit, as_segments
from unkelt.geometry.reduce.level import level_nodes, with_level_nodes
from unkelt.geometry.reduce.noise import noise_within
from unkelt.geometry.reduce.removal import Cubic, Span, fewer
from unkelt.geometry.reduce.spans import Polylines, as_complex, as_pairs
from unkelt.geometry.reduce.straights import Edge, edge_from, straight_edges
from unkelt.sharing import in_two

CORNER_DEG = 8.0
"""Designers' kinks are bimodal: below 2° (meant smooth) or above 8° (a corner)."""

FLATTEN_SHARE = 0.02
"""Share of the tolerance spent on the polyline that stands for the source."""

NESTING_SHARE = 0.1
"""Share of the tolerance by which the polylines may stray that tell whether rings touch."""


REACH = (0.25, 0.5, 0.75, 1.0, 1.5, 2.0, 3.0, 4.0)
"""Multiples of the last segment's reach that are tried for the next, all at once."""

BETWEEN = 6
"""So many nodes are tried at once between one that can be reached and one that can't."""

SHARES = (1.0, 0.5, 0.25)
"""Shares of the tolerance, tried in turn where rings would touch or cross."""

WORTH_A_COPY = 300
"""From so many segments on, two processes search."""


@dataclass(frozen=True, slots=True)
class Reduced:
    """The path with fewer nodes, and the bound in mm on the distance between it and its source, both ways."""

    path: Path
    bound_mm: float


_REDUCED: Topic[Reduced] = Topic("reduced paths", 4096)


def reduce_nodes(path: Path, tolerance_mm: float, level: bool = False) -> Reduced:
    """As few nodes as are found within `tolerance_mm`; corners stay in place, each side's direction to within
    `HINGE_DEG`.

    With `level`, nodes are kept, or set, where a curve runs level or plumb, with handles along it. The count does not
    depend on where a closed subpath starts. When rings would touch or cross that didn't before, less of the tolerance
    is used; where that doesn't help, the path is returned as it was.
    """
    return reduce_many([path], tolerance_mm, level)[0]


def reduce_many(paths: Sequence[Path], tolerance_mm: float, level: bool = False) -> list[Reduced]:
    """Each path reduced, as `reduce_nodes` does: fits are computed together, for subpaths that differ in place once."""
    unlike = list(dict.fromkeys(paths))

    def find(places: list[int]) -> list[Reduced]:
        found = {place: Reduced(unlike[place], 0.0) for place in places}
        left = places
        for share in SHARES:
            tried = _tried([unlike[place] for place in left], share * tolerance_mm, level)
            found |= {place: reduced for place, reduced in zip(left, tried, strict=True) if reduced is not None}
            left = [place for place, reduced in zip(left, tried, strict=True) if reduced is None]
        return [found[place] for place in places]

    reduced = dict(zip(unlike, _REDUCED.get_many([(path, tolerance_mm, level) for path in unlike], find), strict=True))
    return [reduced[path] for path in paths]


def _placed(shape: _Shape, subpath: Path) -> Path:
    """What came of a shape, where this subpath of that shape lies: its own segments and nodes wherever they were
    kept.
    """
    if shape.reduced is shape.path:
        return subpath
    points = shape.reduced.points + subpath.points[0, 0]
    nodes = {node.tobytes(): index for index, node in enumerate(shape.path.points[:, 3])}
    whole = {segment.tobytes(): index for index, segment in enumerate(shape.path.points)}
    for row, segment in enumerate(shape.reduced.points):
        if (index := whole.get(segment.tobytes())) is not None:
            points[row] = subpath.points[index]
        elif (index := nodes.get(segment[3].tobytes())) is not None:
            points[row, 3] = subpath.points[index, 3]
    points[0, 0] = points[-1, 3] if shape.reduced.closed[0] else subpath.points[0, 0]
    points[1:, 0] = points[:-1, 3]
    line = shape.reduced.degrees == LINE
    points[line, 1], points[line, 2] = points[line, 0], points[line, 3]
    return Path(points, shape.reduced.degrees, shape.reduced.starts, shape.reduced.closed)


def _tried(paths: list[Path], tolerance_mm: float, level: bool) -> list[Reduced | None]:
    """Each path with fewer nodes, or as it was where none can go; None where its rings would touch or cross."""
    # Rounded for a tolerance at least fifty times as wide: what that hides is part of every bound.
    places = PLACES if tolerance_mm >= 50 * ROUNDED * 10.0**-PLACES else 2 * PLACES
    groups = [[_shape_at_origin(each, places) for each in path.subpaths()] for path in paths]
    shapes = _shapes(list(itertools.chain.from_iterable(groups)), tolerance_mm, ROUNDED * 10.0**-places, level)
    results = []
    for path, group in zip(paths, groups, strict=True):
        reduced = concat(_placed(shapes[_key(shape)], each) for shape, each in zip(group, path.subpaths(), strict=True))
        bound = max((shapes[_key(shape)].bound_mm for shape in group), default=0.0)
        results.append((path, Reduced(reduced, bound) if reduced.node_count < path.node_count else Reduced(path, 0.0)))
    changed = [both for path, result in results if result.path is not path for both in (path, result.path)]
    ring_nestings(changed, tolerance_mm * NESTING_SHARE)  # all at once, for what follows
    return [
        result if result.path is path or _same_topology(path, result.path, tolerance_mm) else None
        for path, result in results
    ]


ROUNDED = 2.0
"""By so many units of the last place a shape's copies, and what is made of them, may lie off it: √½ for the curve, and
as much for its ends.
"""


@dataclass(frozen=True, slots=True)
class _Shape:
    """A subpath as seen from its first node, what came of it, and what is certified of that."""

    path: Path
    reduced: Path
    bound_mm: float


_SHAPES: Topic[_Shape] = Topic("reduced shapes", 8192)
"""Letters come again in other words and on other sheets. What is kept depends on the shape alone, not on who asked
first.
"""


def _shape_at_origin(subpath: Path, places: int) -> Path:
    return Path(seen_from_first(subpath.points, places), subpath.degrees, subpath.starts, subpath.closed)


def _key(shape: Path) -> bytes:
    return shape.points.tobytes() + shape.degrees.tobytes() + shape.closed.tobytes()


def _shapes(asked: Sequence[Path], tolerance_mm: float, rounded_mm: float, level: bool) -> dict[bytes, _Shape]:
    """What comes of shapes, each once; their fits are computed together."""
    shapes = {_key(shape): shape for shape in asked}
    budget = tolerance_mm * (1 - FLATTEN_SHARE) - rounded_mm

    def reduced(new: list[Path]) -> list[_Shape]:
        subpaths = [_Subpath(shape, tolerance_mm, budget, level) for shape in new]
        parts = [part for part in subpaths if part.circle is None]
        lines, begins = Polylines.of([part.vertices for part in parts])
        for part, begin in zip(parts, begins.tolist(), strict=True):
            part.s = lines.s[begin + part.at]
        chains = [chain for part in parts for chain in part.chains]
        _search(chains, lines, budget)
        _remove(chains, lines, budget)
        beyond = tolerance_mm * FLATTEN_SHARE + rounded_mm
        return [
            _Shape(shape, part.rebuilt(), max(part.bounds(), default=0.0) + beyond)
            for shape, part in zip(new, subpaths, strict=True)
        ]

    def find(places: list[int]) -> list[_Shape]:
        new = [list(shapes.values())[place] for place in places]
        return in_two(reduced, new, [len(shape.points) for shape in new], WORTH_A_COPY)

    return dict(zip(shapes, _SHAPES.get_many([(key, tolerance_mm, level) for key in shapes], find), strict=True))


def _same_topology(before: Path, after: Path, tolerance_mm: float) -> bool:
    """Whether rings that were simple and apart still are, in the same nesting."""
    chord = tolerance_mm * NESTING_SHARE
    was = ring_nesting(before, chord)
    nesting = was.nesting
    if nesting is None:
        return True  # crossing already: nothing to keep but the distance, which is certified
    now = ring_nesting(after, chord)
    new = now.nesting
    return (
        new is not None
        and was.owners == now.owners
        and [sorted(c) for c in new.containers] == [sorted(c) for c in nesting.containers]
        and bool((new.sense == nesting.sense).all())
    )


class _Subpath:
    """One subpath, its polyline, its tangents, and the chains between its corners."""

    def __init__(self, path: Path, tolerance_mm: float, budget_mm: float, level: bool) -> None:
        self.closed = bool(path.closed[0])
        if level:
            path = with_level_nodes(path)
        if self.closed:
            path = _rolled(path, tolerance_mm)
        self.path = path
        chord = tolerance_mm * FLATTEN_SHARE
        self.vertices, _ = flatten(path, chord)
        self.at = np.concatenate([[0], np.cumsum(piece_counts(path, chord))])
        self.s = np.zeros(0)
        """How far along the polylines each node lies, once they are laid end to end."""
        self.nodes = as_complex(np.concatenate([path.points[:, 0], path.points[-1:, 3]]))
        sigma = noise_within(path, tolerance_mm)
        corner = noise.corners(path, sigma) if sigma else _corners(path)
        ways = noise.directions(path, sigma, corner) if sigma else _joined_tangents(path, corner)
        self.into, self.out_of = map(as_complex, ways)
        stop = corner
        if level:
            kept, way = level_nodes(path, self.nodes, self.out_of, corner, 5 * tolerance_mm)
            stop = corner | kept
            both = np.append(kept, kept[0] and self.closed)
            both[0] = kept[0] and self.closed
            self.into[both] = self.out_of[both] = np.append(way, way[0])[both]
        self.hinged = np.append(corner, corner[0] if self.closed else True)
        n = len(path.points)
        edges = [] if sigma else straight_edges(path, corner, tolerance_mm)
        ends = {node for edge in edges for node in (edge.first, edge.last)}
        stops = sorted({0, n, *(np.flatnonzero(stop[1:]) + 1).tolist(), *ends})
        self.chains = [_Chain(self, a, b, edge_from(edges, a, b)) for a, b in itertools.pairwise(stops)]
        round_off = self.closed and not corner.any() and not edges and n > 4
        self.circle = circle_of(self.vertices, budget_mm) if round_off else None

    def bounds(self) -> list[float]:
        """What is certified of each of the new segments."""
        return [self.circle[1]] if self.circle else [fit[2] for chain in self.chains for fit in chain.segments]

    def rebuilt(self) -> Path:
        if self.circle:
            return self.circle[0]
        segments = [fit for chain in self.chains for fit in chain.segments]
        return Path(
            np.array([points for points, _, _ in segments]).reshape(-1, 4, 2),
            np.array([degree for _, degree, _ in segments], np.uint8),
            np.zeros(1, np.intp),
            np.array([self.closed]),
        )


def _rolled(path: Path, tolerance_mm: float) -> Path:
    """A closed subpath started at a corner, or at its leftmost (then topmost) node where it has none.

    So the search sees the same chains whatever the start.
    """
    sigma = noise_within(path, tolerance_mm)
    choice = np.flatnonzero(noise.corners(path, sigma) if sigma else _corners(path))
    if not len(choice):
        choice = np.arange(len(path.points))
    first = path.points[choice, 0]
    start = int(choice[np.lexsort((first[:, 1], first[:, 0]))[0]])
    return Path(np.roll(path.points, -start, axis=0), np.roll(path.degrees, -start), path.starts, path.closed)


def _corners(path: Path) -> NDArray[np.bool_]:
    """(n,) whether the node at the start of each segment is a corner. Ends of open subpaths are.

    Between curves the tangents tell. Between two straight segments, which may be the polyline of a curve, the turn is
    compared with the turn that the curvature at the neighbouring nodes would explain.
    """
    start, end = end_tangents(path)
    turn = turns_between(np.roll(end, 1, axis=0), start)
    straight = (path.degrees == LINE) & np.roll(path.degrees == LINE, 1)
    length = np.linalg.norm(path.points[:, 3] - path.points[:, 0], axis=1)
    before = np.roll(length, 1)
    curvature = np.where(straight, np.abs(turn) / np.maximum((length + before) / 2, 1e-12), 0)
    explained = 0.5 * np.roll(curvature, 1) * before + 0.5 * np.roll(curvature, -1) * length
    # A neighbour that turns more sharply than this node is a corner itself and explains nothing.
    explained = np.where(np.abs(turn) > np.radians(4 * CORNER_DEG), 0, explained)
    excess = np.where(straight, np.abs(turn) - explained, np.abs(turn))
    corner: NDArray[np.bool_] = np.asarray(excess > np.radians(CORNER_DEG))
    corner = corner | ~start.any(axis=1) | ~np.roll(end, 1, axis=0).any(axis=1)
    if not path.closed[0]:
        corner[0] = True
    return corner


def _joined_tangents(path: Path, corner: NDArray[np.bool_]) -> tuple[Floats, Floats]:
    """(n + 1, 2) tangents into and out of each node, made one where the node is smooth.

    Where a curve meets a line the curve knows best. Where two short lines meet, the tangent of the circle through the
    three nodes is taken; where one is four times longer than the other it is a real line and keeps its direction. At a
    corner that is the circle through the nodes on either side of it.
    """
    start, end = end_tangents(path)
    into = np.concatenate([end[-1:], end])
    out_of = np.concatenate([start, start[:1]])
    smooth = ~np.append(corner, corner[:1])
    line = path.degrees == LINE
    line_before, line_after = np.append(line[-1:], line), np.append(line, line[:1])
    length = np.linalg.norm(path.points[:, 3] - path.points[:, 0], axis=1)
    before, after = np.append(length[-1:], length)[:, None], np.append(length, length[:1])[:, None]
    circle = unit(into * after + out_of * before)
    circle = np.where(before > 4 * after, into, np.where(after > 4 * before, out_of, circle))
    both = (smooth & line_before & line_after)[:, None]
    only_before, only_after = smooth & line_before & ~line_after, smooth & ~line_before & line_after
    joined_into = np.where(both, circle, np.where(only_before[:, None], out_of, into))
    joined_out = np.where(both, circle, np.where(only_after[:, None], into, out_of))
    bent = _bent_edges(path, corner, turned := turns_between(np.roll(end, 1, axis=0), start))
    ratio = np.roll(length, 1) / np.maximum(np.roll(length, 1) + length, 1e-300)
    # At the start of an edge that bends on, at its other end; and at the end of one that was bent.
    ahead = np.append(corner, corner[:1]) & np.append(np.roll(bent, -1), np.roll(bent, -1)[:1])
    turn_ahead = np.roll(turned * ratio, -1)
    joined_out[ahead] = _rotated(joined_out, -np.append(turn_ahead, turn_ahead[:1]))[ahead]
    behind = np.append(corner, corner[:1]) & np.append(np.roll(bent, 1), bent[-1:])
    turn_behind = np.roll(turned * (1 - ratio), 1)
    joined_into[behind] = _rotated(joined_into, np.append(turn_behind, turn_behind[:1]))[behind]
    return joined_into, joined_out


def _bent_edges(path: Path, corner: NDArray[np.bool_], turned: Floats) -> NDArray[np.bool_]:
    """(n,) whether two lines of about the same length meet smoothly at the start of each segment: a curve's
    polyline.
    """
    line = path.degrees == LINE
    length = np.linalg.norm(path.points[:, 3] - path.points[:, 0], axis=1)
    before = np.roll(length, 1)
    alike = (before <= 4 * length) & (length <= 4 * before)
    return np.asarray(line & np.roll(line, 1) & ~corner & alike & (np.abs(turned) < np.radians(4 * CORNER_DEG)))


def _rotated(vectors: Floats, angles: Floats) -> Floats:
    c, s = np.cos(angles), np.sin(angles)
    return np.stack([c * vectors[:, 0] - s * vectors[:, 1], s * vectors[:, 0] + c * vectors[:, 1]], axis=1)


class _Chain:
    """The segments between two corners, and how far the search through them has come.

    `lo` is the furthest node known to be reachable from `start` with one segment, `hi` one known not to be.
    """

    def __init__(self, owner: _Subpath, a: int, b: int, edge: Edge | None) -> None:
        self.owner, self.end = owner, b
        self.segments: list[Fit] = []
        self.spans: list[tuple[int, int]] = []
        """The nodes of the source between which each segment runs, as the search finds them."""
        self._stride = 4.0
        if edge is None:
            self._begin(a)
        else:  # nothing to search
            ends = owner.path.points[[a, a, b - 1, b - 1], [0, 0, 3, 3]]
            self.segments, self.spans, self.start = [(ends, LINE, 2 * edge.off_mm)], [(a, b)], b

    def _begin(self, start: int) -> None:
        self.start, self._fresh = start, True
        if self.done:
            return
        path = self.owner.path
        self._lo, self._hi = start + 1, self.end + 1
        self._best: Fit = (path.points[start], int(path.degrees[start]), 0.0)
        if self._lo == self.end:
            self._accept()

    @property
    def done(self) -> bool:
        return self.start >= self.end

    def trials(self) -> list[int]:
        """The nodes to try next, ascending: first some about as far as the last segment reached, then those between."""
        if self._fresh:
            reach = {self.start + max(2, round(self._stride * share)) for share in REACH}
            return sorted(node for node in {min(node, self.end) for node in reach} if self._lo < node < self._hi)
        between = self._hi - self._lo - 1
        steps = min(between, BETWEEN)
        return sorted({self._lo + 1 + (between - 1) * k // max(1, steps - 1) for k in range(steps)})

    def answer(self, trials: list[int], fits: list[Fit | None]) -> None:
        """Takes the verdicts on the runs from `start`."""
        for node, fit in zip(trials, fits, strict=True):
            if fit is not None:
                self._lo, self._best = node, fit
        self._hi = min(
            (node for node, fit in zip(trials, fits, strict=True) if fit is None and node > self._lo), default=self._hi
        )
        self._fresh = self._hi > self.end
        self._stride *= 4 if self._fresh else 1
        if self._lo >= self.end or self._hi - self._lo == 1:
            self._accept()

    def _accept(self) -> None:
        self.segments.append(self._best)
        self.spans.append((self.start, self._lo))
        self._stride = max(2.0, float(self._lo - self.start))
        self._begin(self._lo)


def _search(chains: list[_Chain], lines: Polylines, budget_mm: float) -> None:
    """Spans all chains side by side, so that their fits can be computed as one batch."""
    active = [chain for chain in chains if not chain.done]
    while active:
        trials = [chain.trials() for chain in active]
        rows = [(chain.owner, chain.start, node) for chain, nodes in zip(active, trials, strict=True) for node in nodes]
        spans = np.array([[owner.s[a], owner.s[b]] for owner, a, b in rows])
        ends = np.array([[owner.nodes[a], owner.nodes[b]] for owner, a, b in rows])
        ways = np.array([[owner.out_of[a], owner.into[b]] for owner, a, b in rows])
        hinged = np.array([[owner.hinged[a], owner.hinged[b]] for owner, a, b in rows])
        fits = iter(as_segments(lines, spans, ends, ways, budget_mm, hinged))
        for chain, nodes in zip(active, trials, strict=True):
            chain.answer(nodes, list(itertools.islice(fits, len(nodes))))
        active = [chain for chain in active if not chain.done]


def _remove(chains: list[_Chain], lines: Polylines, budget_mm: float) -> None:
    """Takes nodes out of each run of curves between lines and corners."""
    sources: dict[int, Fit] = {}
    runs: list[Span] = []
    parts: list[tuple[_Chain, list[Span | Fit]]] = []
    for chain in chains:
        owner = chain.owner
        pieces: list[Span | Fit] = []
        for curved, group in itertools.groupby(
            zip(chain.segments, chain.spans, strict=True), lambda each: each[0][1] != LINE
        ):
            fits = list(group)
            if not curved:
                pieces += [fit for fit, _ in fits]
                continue
            cubics = [_cubic(fit, owner, a, b) for fit, (a, b) in fits]
            sources |= {id(cubic): fit for cubic, (fit, _) in zip(cubics, fits, strict=True)}
            a, b = fits[0][1][0], fits[-1][1][1]
            run = Span(
                cubics, np.array([owner.out_of[a], owner.into[b]]), (bool(owner.hinged[a]), bool(owner.hinged[b]))
            )
            runs.append(run)
            pieces.append(run)
        parts.append((chain, pieces))
    kept = [cubic for run in runs for cubic in run.cubics]  # so that no id is used twice
    fewer(runs, lines, budget_mm)
    for chain, pieces in parts:
        chain.segments = [
            fit
            for piece in pieces
            for fit in ([_fit_of(cubic, sources) for cubic in piece.cubics] if isinstance(piece, Span) else [piece])
        ]
    del kept


def _cubic(fit: Fit, owner: _Subpath, a: int, b: int) -> Cubic:
    points, degree, bound = fit
    curve = as_complex(points)
    if degree == QUAD:
        curve[1:3] = curve[[0, 3]] + 2 / 3 * (curve[1] - curve[[0, 3]])
    first, last = curve[1] - curve[0], curve[3] - curve[2]
    ways = np.array([first / abs(first) if first else owner.out_of[a], last / abs(last) if last else owner.into[b]])
    return Cubic(curve, ways, float(owner.s[a]), float(owner.s[b]), bound)


def _fit_of(cubic: Cubic, sources: dict[int, Fit]) -> Fit:
    """A segment that was never changed as the source has it."""
    return sources.get(id(cubic)) or (as_pairs(cubic.curve), CUBIC, cubic.bound)
