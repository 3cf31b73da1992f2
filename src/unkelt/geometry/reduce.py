"""Node reduction: fewer segments for the same line, with a certificate for every one of them.

Runs of segments between corners are replaced by single cubics whose ends, and the tangents there, are those of the
source. The longest run that a cubic can follow is taken each time; nothing is accepted without a rigorous two-sided
bound on its distance to the source, so a run that can't be replaced stays as it is, to the last bit.

Sources: least-squares fitting of cubics to samples, P. J. Schneider, "An Algorithm for Automatically Fitting Digitized
Curves" (Graphics Gems, 1990); Gauss-Newton on normal residuals after W. Wang, H. Pottmann, Y. Liu, "Fitting B-spline
curves to point clouds by curvature-based squared distance minimization" (2006).
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from unkelt.geometry.flatten import flatten, piece_counts
from unkelt.geometry.measure import derivative, evaluate, quadratic_roots
from unkelt.geometry.path import CUBIC, LINE, Floats, Path, concat
from unkelt.geometry.region import ring_nesting

CORNER_DEG = 8.0
"""Designers' kinks are bimodal: below 2° (meant smooth) or above 8° (a corner)."""

FLATTEN_SHARE = 0.1
"""Share of the tolerance spent on the polyline that stands for the source."""

LINE_SHARE = 0.25
"""A straight line replaces a run only when it stays within this share of the tolerance: nearly straight is not."""

NEWTON_STEPS = 7


@dataclass(frozen=True, slots=True)
class Reduced:
    """The path with fewer nodes, and the bound in mm on the distance between it and its source, both ways."""

    path: Path
    bound_mm: float


@lru_cache(maxsize=4096)
def reduce_nodes(path: Path, tolerance_mm: float) -> Reduced:
    """As few nodes as a greedy search finds within `tolerance_mm`, corners and tangents at kept nodes unchanged.

    The count does not depend on where a closed subpath starts. When rings would touch or cross that didn't before, the
    path is returned as it was.
    """
    if not len(path.points):
        return Reduced(path, 0.0)
    parts = [_Subpath(path.subpath(index), tolerance_mm) for index in range(len(path))]
    chains = [chain for part in parts for chain in part.chains]
    _search(chains, tolerance_mm * (1 - FLATTEN_SHARE))
    reduced = concat([part.rebuilt() for part in parts])
    if reduced.node_count >= path.node_count or not _same_topology(path, reduced, tolerance_mm):
        return Reduced(path, 0.0)
    worst = max((bound for chain in chains for bound in chain.bounds), default=0.0)
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
        chord = tolerance_mm * FLATTEN_SHARE
        self.vertices, _ = flatten(path, chord)
        self.at = np.concatenate([[0], np.cumsum(piece_counts(path, chord))])
        corner = _corners(path)
        self.into, self.out_of = _joined_tangents(path, corner)
        n = len(path.points)
        stops = [0, *(np.flatnonzero(corner[1:]) + 1).tolist(), n]
        self.chains = [_Chain(self, a, b) for a, b in itertools.pairwise(stops)]

    def rebuilt(self) -> Path:
        segments = [item for chain in self.chains for item in chain.segments]
        return Path(
            np.array([points for points, _ in segments]).reshape(-1, 4, 2),
            np.array([degree for _, degree in segments], np.uint8),
            np.zeros(1, np.intp),
            np.array([self.closed]),
        )


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


def _unit(vectors: Floats) -> Floats:
    norm = np.linalg.norm(vectors, axis=-1, keepdims=True)
    return np.divide(vectors, norm, out=np.zeros_like(vectors), where=norm > 0)


def _tangents(path: Path) -> tuple[Floats, Floats]:
    """Unit tangents (n, 2) at the start and at the end of each segment, from the first handle that isn't on the node."""
    steps = path.points[:, 1:] - path.points[:, :1]
    back = path.points[:, 3:] - path.points[:, 2::-1]
    start, end = np.zeros((len(steps), 2)), np.zeros((len(steps), 2))
    for k in (2, 1, 0):
        start = np.where(np.any(np.abs(steps[:, k]) > 1e-12, axis=1)[:, None], steps[:, k], start)
        end = np.where(np.any(np.abs(back[:, k]) > 1e-12, axis=1)[:, None], back[:, k], end)
    return _unit(start), _unit(end)


def _turns(into: Floats, out_of: Floats) -> Floats:
    """Signed angle in radians from each direction to its partner."""
    cross = into[:, 0] * out_of[:, 1] - into[:, 1] * out_of[:, 0]
    return np.arctan2(cross, (into * out_of).sum(axis=1))


def _corners(path: Path) -> NDArray[np.bool_]:
    """(n,) whether the node at the start of each segment is a corner. Ends of open subpaths are.

    Between curves the tangents tell. Between two straight segments, which may be the polyline of a curve, the turn is
    compared with the turn that the curvature at the neighbouring nodes would explain.
    """
    start, end = _tangents(path)
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
    start, end = _tangents(path)
    into = np.concatenate([end[-1:], end])
    out_of = np.concatenate([start, start[:1]])
    smooth = ~np.append(corner, corner[:1])
    line = path.degrees == LINE
    line_before, line_after = np.append(line[-1:], line), np.append(line, line[:1])
    length = np.linalg.norm(path.points[:, 3] - path.points[:, 0], axis=1)
    before, after = np.append(length[-1:], length)[:, None], np.append(length, length[:1])[:, None]
    circle = _unit(into * after + out_of * before)
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
        self._best: tuple[Floats, int, float] = (path.points[start], int(path.degrees[start]), 0.0)
        self.trial = min(self._lo + self._stride, self.end)
        if self._lo == self.end:
            self._accept()

    @property
    def done(self) -> bool:
        return self.start >= self.end

    def answer(self, fit: tuple[Floats, int, float] | None) -> None:
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


def _fit_all(chains: list[_Chain], budget_mm: float) -> list[tuple[Floats, int, float] | None]:
    """A fit for each chain's current trial, or None. Runs of similar length are fitted together."""
    sizes = [int(chain.owner.at[chain.trial] - chain.owner.at[chain.start]) for chain in chains]
    results: list[tuple[Floats, int, float] | None] = [None] * len(chains)
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
        for index, fit in zip(members, _fit(samples, tangents, budget_mm), strict=True):
            results[index] = fit
    return results


def _fit(samples: Floats, tangents: Floats, budget_mm: float) -> list[tuple[Floats, int, float] | None]:
    """Fits one segment to each run of samples (b, k, 2) with end tangents (b, 2, 2) that point into the run."""
    first, last = samples[:, 0], samples[:, -1]
    steps = np.linalg.norm(np.diff(samples, axis=1), axis=2)
    travelled = np.concatenate([np.zeros((len(samples), 1)), np.cumsum(steps, axis=1)], axis=1)
    arc = travelled[:, -1]
    safe_arc = np.maximum(arc, 1e-300)
    t = travelled / safe_arc[:, None]
    handles = np.repeat(arc[:, None] / 3, 2, axis=1)
    curves = _curves(first, last, tangents, handles)
    for _ in range(NEWTON_STEPS):
        handles = _improved(curves, samples, tangents, handles, t, arc)
        curves = _curves(first, last, tangents, handles)
        t = _feet(curves, samples, t)
    t = _feet(curves, samples, t)
    bound = _certificate(curves, samples, t)
    good = (bound <= budget_mm) & (handles > 1e-3 * safe_arc[:, None]).all(axis=1) & (arc > 0)

    straight = _line_bound(samples)
    chord = _unit(last - first)
    along = np.stack([(tangents[:, 0] * chord).sum(axis=1), -(tangents[:, 1] * chord).sum(axis=1)], axis=1)
    is_line = (straight <= LINE_SHARE * budget_mm) & (along > np.cos(np.radians(1.0))).all(axis=1)
    results: list[tuple[Floats, int, float] | None] = []
    for row in range(len(samples)):
        if is_line[row]:
            ends = np.stack([first[row], first[row], last[row], last[row]])
            results.append((ends, LINE, float(straight[row])))
        else:
            results.append((curves[row], CUBIC, float(bound[row])) if good[row] else None)
    return results


def _curves(first: Floats, last: Floats, tangents: Floats, handles: Floats) -> Floats:
    ends = np.stack([first, last], axis=1)
    inner = ends + tangents * handles[:, :, None]
    return np.stack([first, inner[:, 0], inner[:, 1], last], axis=1)


def _improved(curves: Floats, samples: Floats, tangents: Floats, handles: Floats, t: Floats, arc: Floats) -> Floats:
    """One Gauss-Newton step of the two handle lengths on the residuals along the curve's normal."""
    slope = derivative(curves, t)
    normal = _unit(np.stack([-slope[..., 1], slope[..., 0]], axis=-1))
    residual = (normal * (evaluate(curves, t) - samples)).sum(axis=2)
    g0 = (normal * tangents[:, None, 0]).sum(axis=2) * 3 * t * (1 - t) ** 2
    g1 = (normal * tangents[:, None, 1]).sum(axis=2) * 3 * t * t * (1 - t)
    a, b, d = (g0 * g0).sum(axis=1), (g0 * g1).sum(axis=1), (g1 * g1).sum(axis=1)
    damp = 1e-6 * (a + d) + 1e-300
    a, d = a + damp, d + damp
    r0, r1 = (g0 * residual).sum(axis=1), (g1 * residual).sum(axis=1)
    determinant = np.maximum(a * d - b * b, 1e-300)
    step = np.stack([d * r0 - b * r1, a * r1 - b * r0], axis=1) / determinant[:, None]
    limit = 0.3 * arc[:, None]
    moved: Floats = np.clip(handles - np.clip(step, -limit, limit), 0, 1.2 * arc[:, None])
    return moved


def _feet(curves: Floats, samples: Floats, t: Floats) -> Floats:
    """One guarded Newton step of each sample's foot on its curve; ends stay at the ends."""
    away = evaluate(curves, t) - samples
    slope = derivative(curves, t)
    speed2 = (slope * slope).sum(axis=2)
    bend = 6 * ((1 - t)[..., None] * (curves[:, None, 0] - 2 * curves[:, None, 1] + curves[:, None, 2])
                + t[..., None] * (curves[:, None, 1] - 2 * curves[:, None, 2] + curves[:, None, 3]))  # fmt: skip
    below = np.maximum(speed2 + (away * bend).sum(axis=2), 0.3 * speed2) + 1e-300
    moved = np.clip(t - np.clip((away * slope).sum(axis=2) / below, -0.2, 0.2), 0, 1)
    moved[:, 0] = 0
    moved[t >= 1] = 1
    return moved


def _certificate(curves: Floats, samples: Floats, t: Floats) -> Floats:
    """(b,) a rigorous two-sided bound in mm on the distance between each curve and its run's polyline.

    Between the feet of an edge's two ends the curve is a sub-cubic; its distance from the edge's line is found exactly
    from the roots of a quadratic, and how far it overshoots the edge's ends is bounded by its control points. By
    continuity the sub-cubic passes over the whole edge, so the bound holds both ways. Infinite where the feet run
    backwards.
    """
    t0, t1 = t[:, :-1, None], t[:, 1:, None]

    def blossom(u: Floats, v: Floats, w: Floats) -> Floats:
        row = [curves[:, None, k] for k in range(4)]
        for parameter in (u, v, w):
            row = [p + (q - p) * parameter for p, q in itertools.pairwise(row)]
        return row[0]

    pieces = np.stack([blossom(t0, t0, t0), blossom(t0, t0, t1), blossom(t0, t1, t1), blossom(t1, t1, t1)], axis=2)
    a, edge = samples[:, :-1], np.diff(samples, axis=1)
    length = np.linalg.norm(edge, axis=2)
    along_axis = _unit(edge)
    from_a = pieces - a[:, :, None]
    across = from_a[..., 1] * along_axis[:, :, None, 0] - from_a[..., 0] * along_axis[:, :, None, 1]
    along = (from_a * along_axis[:, :, None]).sum(axis=3)
    d = np.diff(across, axis=2)
    roots = quadratic_roots(d[..., 0] - 2 * d[..., 1] + d[..., 2], d[..., 1] - d[..., 0], d[..., 0])
    roots = np.where((roots > 0) & (roots < 1), roots, 0.0)
    u = 1 - roots
    at_roots = (
        u**3 * across[..., 0, None]
        + 3 * u * u * roots * across[..., 1, None]
        + 3 * u * roots * roots * across[..., 2, None]
        + roots**3 * across[..., 3, None]
    )
    off = np.maximum(np.abs(at_roots).max(axis=2), np.abs(across[..., [0, 3]]).max(axis=2))
    over = np.maximum(0, np.maximum(-along.min(axis=2), along.max(axis=2) - length))
    # An edge without length has no direction: the control points' distance from it bounds all.
    bound = np.where(length > 0, np.hypot(off, over), np.linalg.norm(from_a, axis=3).max(axis=2))
    bound[np.diff(t, axis=1) < 0] = np.inf
    result: Floats = bound.max(axis=1)
    return result


def _line_bound(samples: Floats) -> Floats:
    """(b,) distance of each run from the straight line between its ends; infinite where the run turns back."""
    first, last = samples[:, :1], samples[:, -1:]
    chord = _unit(last - first)
    from_first = samples - first
    across = np.abs(from_first[..., 1] * chord[..., 0] - from_first[..., 0] * chord[..., 1]).max(axis=1)
    back = (np.diff((from_first * chord).sum(axis=2), axis=1) < 0).any(axis=1)
    return np.where(back, np.inf, across)
