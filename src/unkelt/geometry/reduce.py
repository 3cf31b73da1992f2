"""Node reduction: fewer segments for the same line, with a certificate for every one of them.

Runs of segments between corners are replaced by single cubics whose ends, and the tangents there, are those of the
source. The longest run that a cubic can follow is taken each time; nothing is accepted without a rigorous two-sided
bound on its distance to the source, so a run that can't be replaced stays as it is, to the last bit.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from cachetools import LRUCache
from numpy.typing import NDArray

from unkelt.geometry.arcs import QUARTER_ERROR
from unkelt.geometry.fit import Fit, fit_segments
from unkelt.geometry.flatten import flatten, piece_counts
from unkelt.geometry.measure import end_tangents, unit
from unkelt.geometry.path import CUBIC, LINE, Floats, Path, concat
from unkelt.geometry.region import ring_nesting

CORNER_DEG = 8.0
"""Designers' kinks are bimodal: below 2° (meant smooth) or above 8° (a corner)."""

FLATTEN_SHARE = 0.1
"""Share of the tolerance spent on the polyline that stands for the source."""


@dataclass(frozen=True, slots=True)
class Reduced:
    """The path with fewer nodes, and the bound in mm on the distance between it and its source, both ways."""

    path: Path
    bound_mm: float


_KNOWN: LRUCache[tuple[Path, float], Reduced] = LRUCache(4096)


def reduce_nodes(path: Path, tolerance_mm: float) -> Reduced:
    """As few nodes as a greedy search finds within `tolerance_mm`, corners and tangents at kept nodes unchanged.

    The count does not depend on where a closed subpath starts. When rings would touch or cross that didn't before, the
    path is returned as it was.
    """
    return reduce_many([path], tolerance_mm)[0]


def reduce_many(paths: Sequence[Path], tolerance_mm: float) -> list[Reduced]:
    """Each path reduced, as `reduce_nodes` does. Their fits are computed together, which takes a fraction of the time."""
    new = [path for path in dict.fromkeys(paths) if (path, tolerance_mm) not in _KNOWN]
    parts = {path: [_Subpath(path.subpath(index), tolerance_mm) for index in range(len(path))] for path in new}
    chains = [chain for group in parts.values() for part in group if part.circle is None for chain in part.chains]
    _search(chains, tolerance_mm * (1 - FLATTEN_SHARE))
    for path, group in parts.items():
        _KNOWN[path, tolerance_mm] = _rebuilt(path, group, tolerance_mm)
    return [_KNOWN.get((path, tolerance_mm)) or _rebuilt(path, parts[path], tolerance_mm) for path in paths]


def forget() -> None:
    """Empties what is remembered between calls, so that benchmarks measure all the work."""
    _KNOWN.clear()


def _rebuilt(path: Path, parts: list[_Subpath], tolerance_mm: float) -> Reduced:
    reduced = concat([part.rebuilt() for part in parts])
    if reduced.node_count >= path.node_count or not _same_topology(path, reduced, tolerance_mm):
        return Reduced(path, 0.0)
    worst = max((bound for part in parts for bound in part.bounds()), default=0.0)
    return Reduced(reduced, worst + tolerance_mm * FLATTEN_SHARE)


def _same_topology(before: Path, after: Path, tolerance_mm: float) -> bool:
    """Whether rings that were simple and apart still are, in the same nesting."""
    chord = tolerance_mm * FLATTEN_SHARE
    _, owners, nesting = ring_nesting(before, chord)
    if nesting is None:
        return True  # crossing already: nothing to keep but the distance, which is certified
    _, new_owners, new = ring_nesting(after, chord)
    return (
        new is not None
        and owners == new_owners
        and [sorted(c) for c in new.containers] == [sorted(c) for c in nesting.containers]
        and bool((new.sense == nesting.sense).all())
    )


class _Subpath:
    """One subpath, its polyline, its tangents, and the chains between its corners."""

    def __init__(self, path: Path, tolerance_mm: float) -> None:
        self.closed = bool(path.closed[0])
        if self.closed:
            path = _rolled(path)
        self.path = path
        chord, budget = tolerance_mm * FLATTEN_SHARE, tolerance_mm * (1 - FLATTEN_SHARE)
        self.vertices, _ = flatten(path, chord)
        self.at = np.concatenate([[0], np.cumsum(piece_counts(path, chord))])
        corner = _corners(path)
        self.into, self.out_of = _joined_tangents(path, corner)
        n = len(path.points)
        stops = [0, *(np.flatnonzero(corner[1:]) + 1).tolist(), n]
        self.chains = [_Chain(self, a, b) for a, b in itertools.pairwise(stops)]

        self.circle = _circle(self.vertices, budget) if self.closed and not corner.any() and n > 4 else None

    def bounds(self) -> list[float]:
        """What is certified of each of the new segments."""
        return [self.circle[1]] if self.circle else [bound for chain in self.chains for bound in chain.bounds]

    def rebuilt(self) -> Path:
        if self.circle:
            return self.circle[0]
        segments = [item for chain in self.chains for item in chain.segments]
        return Path(
            np.array([points for points, _ in segments]).reshape(-1, 4, 2),
            np.array([degree for _, degree in segments], np.uint8),
            np.zeros(1, np.intp),
            np.array([self.closed]),
        )


def _circle(vertices: Floats, budget_mm: float) -> tuple[Path, float] | None:
    """Four quarter arcs with nodes at the extrema, and their bound, where a closed polyline is a circle; else None.

    Least squares by I. Kåsa (1976). The polyline must turn one way, in steps of less than a radius; then its distance
    from the circle is greatest at a vertex or in the middle of an edge, and a quarter arc adds its own error.
    """
    points = vertices[:-1]
    centred = points - points.mean(axis=0)
    matrix = np.column_stack([centred, np.ones(len(centred))])
    a, b, c = np.linalg.lstsq(matrix, (centred * centred).sum(axis=1), rcond=None)[0]
    centre = np.array([a, b]) / 2 + points.mean(axis=0)
    radius = float(np.sqrt(max(0.0, c + (a * a + b * b) / 4)))
    steps = np.diff(vertices, axis=0)
    turns = _turns(steps, np.roll(steps, -1, axis=0))
    both = np.concatenate([vertices, (vertices[:-1] + vertices[1:]) / 2])
    bound = float(np.abs(np.linalg.norm(both - centre, axis=1) - radius).max()) + QUARTER_ERROR * radius
    one_way = (turns >= 0).all() or (turns <= 0).all()
    if bound > budget_mm or not one_way or np.linalg.norm(steps, axis=1).max() > radius:
        return None
    sense = 1.0 if turns.sum() > 0 else -1.0
    k = 4 / 3 * math.tan(math.pi / 8)
    quarter = np.array([[1, 0], [1, k], [k, 1], [0, 1]]) * radius * [1, sense]
    turn = np.array([[0, sense], [-sense, 0]])
    arcs = np.stack([quarter @ np.linalg.matrix_power(turn, power) for power in range(4)]) + centre
    arcs[:, 3] = np.roll(arcs[:, 0], -1, axis=0)
    return Path(arcs, np.full(4, CUBIC, np.uint8), np.zeros(1, np.intp), np.ones(1, bool)), bound


def _rolled(path: Path) -> Path:
    """A closed subpath started at a corner, or at its leftmost (then topmost) node where it has none.

    So the search sees the same chains whatever the start.
    """
    choice = np.flatnonzero(_corners(path))
    if not len(choice):
        choice = np.arange(len(path.points))
    first = path.points[choice, 0]
    start = int(choice[np.lexsort((first[:, 1], first[:, 0]))[0]])
    return Path(np.roll(path.points, -start, axis=0), np.roll(path.degrees, -start), path.starts, path.closed)


def _turns(into: Floats, out_of: Floats) -> Floats:
    """Signed angle in radians from each direction to its partner."""
    cross = into[:, 0] * out_of[:, 1] - into[:, 1] * out_of[:, 0]
    return np.arctan2(cross, (into * out_of).sum(axis=1))


def _corners(path: Path) -> NDArray[np.bool_]:
    """(n,) whether the node at the start of each segment is a corner. Ends of open subpaths are.

    Between curves the tangents tell. Between two straight segments, which may be the polyline of a curve, the turn is
    compared with the turn that the curvature at the neighbouring nodes would explain.
    """
    start, end = end_tangents(path)
    turn = _turns(np.roll(end, 1, axis=0), start)
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
    three nodes is taken; where one is four times longer than the other it is a real line and keeps its direction.
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
    return joined_into, joined_out


class _Chain:
    """The segments between two corners, and how far the search through them has come.

    `lo` is the furthest node known to be reachable from `start` with one segment, `hi` the nearest known not to be.
    """

    def __init__(self, owner: _Subpath, a: int, b: int) -> None:
        self.owner, self.end = owner, b
        self.segments: list[tuple[Floats, int]] = []
        self.bounds: list[float] = []
        self._stride = 1
        self._begin(a)

    def _begin(self, start: int) -> None:
        self.start = start
        if self.done:
            return
        path = self.owner.path
        self._lo, self._hi = start + 1, self.end + 1
        self._best: Fit = (path.points[start], int(path.degrees[start]), 0.0)
        self.trial = min(self._lo + self._stride, self.end)
        if self._lo == self.end:
            self._accept()

    @property
    def done(self) -> bool:
        return self.start >= self.end

    def answer(self, fit: Fit | None) -> None:
        """Takes the verdict on the run from `start` to `trial`, and chooses the next trial."""
        if fit is None:
            self._hi = self.trial
            self._stride = 0
        else:
            self._lo, self._best = self.trial, fit
            self._stride *= 2
        if self._lo == self.end or self._hi - self._lo == 1:
            self._accept()
        elif self._stride:
            self.trial = min(self._lo + self._stride, self._hi - 1)
        else:
            self.trial = (self._lo + self._hi) // 2

    def _accept(self) -> None:
        points, degree, bound = self._best
        self.segments.append((points, degree))
        self.bounds.append(bound)
        self._stride = max(1, (self._lo - self.start) // 2)
        self._begin(self._lo)


def _search(chains: list[_Chain], budget_mm: float) -> None:
    """Runs all chains side by side, so that their fits can be computed as one batch."""
    active = [chain for chain in chains if not chain.done]
    while active:
        for chain, fit in zip(active, _fit_all(active, budget_mm), strict=True):
            chain.answer(fit)
        active = [chain for chain in active if not chain.done]


def _fit_all(chains: list[_Chain], budget_mm: float) -> list[Fit | None]:
    """A fit for each chain's current trial, or None. Runs of similar length are fitted together."""
    sizes = [int(chain.owner.at[chain.trial] - chain.owner.at[chain.start]) for chain in chains]
    results: list[Fit | None] = [None] * len(chains)
    buckets: dict[int, list[int]] = {}
    for index, size in enumerate(sizes):
        buckets.setdefault(size.bit_length(), []).append(index)
    for members in buckets.values():
        widest = max(sizes[index] for index in members)
        samples = np.empty((len(members), widest + 1, 2))
        tangents = np.empty((len(members), 2, 2))
        for row, index in enumerate(members):
            chain, owner = chains[index], chains[index].owner
            run = owner.vertices[owner.at[chain.start] : owner.at[chain.trial] + 1]
            samples[row, : len(run)], samples[row, len(run) :] = run, run[-1]
            tangents[row] = owner.out_of[chain.start], -owner.into[chain.trial]
        for index, fit in zip(members, fit_segments(samples, tangents, budget_mm), strict=True):
            results[index] = fit
    return results
