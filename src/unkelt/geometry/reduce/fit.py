"""Fitting smooth runs of cubics to polylines, many at once, each certified (`certificate.py`) or given up.

A run has its ends and the directions there given. What is found, by Gauss-Newton on the residuals along the curve's
normal, are its handle lengths and, for a run of more than one cubic, the nodes between and the one direction at each.
Rounds of Lawson's reweighting then even the residuals out, since it is the greatest that counts.

Sources: P. J. Schneider, "An Algorithm for Automatically Fitting Digitized Curves" (Graphics Gems, 1990); W. Wang, H.
Pottmann, Y. Liu, "Fitting B-spline curves to point clouds by curvature-based squared distance minimization" (2006); C.
L. Lawson's reweighting for least maximum (1961).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from unkelt.geometry.path import CUBIC, LINE, Bools, Floats, Ints
from unkelt.geometry.reduce.certificate import certified
from unkelt.geometry.reduce.spans import (
    Complex,
    Polylines,
    Spans,
    as_complex,
    as_pairs,
    newton,
    on_grid,
    own_of,
    places_at,
    together,
    vertices,
    within,
)

LINE_SHARE = 0.25
"""A straight line replaces a run only when it stays within this share of the tolerance: nearly straight is not."""

LINE_DEG = 1.0
"""And when the directions at its ends differ from it by no more than this."""

SAMPLES = 16
"""Places a cubic at which residuals are taken. What they miss the certificate sees."""

AT_ONCE = 20_000
"""So many places are looked at together: more would not fit in a processor's own memory, and on large sheets in no
memory.
"""

LEAST_HANDLE = 1e-3
"""As a share of the cubic's length."""

HINGE_DEG = 2.0
"""A direction at a corner may turn by so much: a corner's angle is then out by no more than twice that."""

ROUNDS = ((5, 40.0), (4, 8.0), (4, 2.5), (4, 1.5), (4, 1.0))
"""Rounds of fitting: so many steps each, and the multiple of the budget beyond which a run is given up after them."""

PLAIN_ROUNDS = 2
"""After so many rounds the residuals are reweighted."""

Fit = tuple[Floats, int, float]
"""A segment's points (4, 2), its degree, and the bound in mm on its distance from the run, both ways."""


@dataclass(frozen=True, slots=True)
class Found:
    """Spans (b of m) in mm, how far along the polyline each node belongs (b, m + 1), a bound for each cubic (b, m)."""

    runs: Spans
    joints: Floats
    bounds: Floats

    @property
    def good(self) -> Bools:
        """(n,) which are within their bound."""
        return np.asarray(np.isfinite(self.bounds).all(axis=1))


@dataclass(frozen=True, slots=True)
class _Limits:
    """The directions at the ends of runs (b, 2), and by how many radians each may turn (b, 2)."""

    ways: Complex
    most: Floats

    def take(self, rows: Bools | slice) -> _Limits:
        return _Limits(self.ways[rows], self.most[rows])

    def kept(self, turned: Complex) -> Complex:
        angle = np.clip(np.angle(turned * self.ways.conj()), -self.most, self.most)
        return np.asarray(self.ways * np.exp(1j * angle))


def fit_segments(samples: Sequence[Floats], tangents: Floats, budget_mm: float) -> list[Fit | None]:
    """One segment for each of b runs of samples (k, 2), with end tangents (b, 2, 2) in the direction of the run.

    None where no segment is certified to stay within `budget_mm`.
    """
    lines, firsts = Polylines.of(samples)
    lasts = np.append(firsts[1:], len(lines.z)) - 1
    spans, ends = (np.stack([array[firsts], array[lasts]], axis=1) for array in (lines.s, lines.z))
    return as_segments(lines, spans, ends, as_complex(tangents), budget_mm)


def as_segments(
    lines: Polylines, spans: Floats, ends: Complex, ways: Complex, budget_mm: float, hinged: Bools | None = None
) -> list[Fit | None]:
    """One segment, a line where that will do, for each span of polylines; None where none is certified. See
    `fit_runs`.
    """
    results: list[Fit | None] = [None] * len(spans)
    straight = _straight(lines, spans, ends, ways, LINE_SHARE * budget_mm)
    for row in np.flatnonzero(np.isfinite(straight)).tolist():
        a, b = ((end.real, end.imag) for end in ends[row])
        results[row] = np.array([a, a, b, b]), LINE, float(straight[row])
    bent = np.flatnonzero(np.isinf(straight) & (spans[:, 1] > spans[:, 0]))
    begin = _thirds(spans[bent], ends[bent], ways[bent])
    hinges = None if hinged is None else hinged[bent]
    found = fit_runs(lines, spans[bent], ends[bent], ways[bent], begin, budget_mm, hinges)
    curves = found.runs.curves()
    for row in np.flatnonzero(found.good).tolist():
        results[bent[row]] = as_pairs(curves[row, 0]), CUBIC, float(found.bounds[row, 0])
    return results


def _thirds(spans: Floats, ends: Complex, ways: Complex) -> Spans:
    """Single cubics to begin with: handles a third of the way."""
    third = ((spans[:, 1] - spans[:, 0]) / 3)[:, None]
    return Spans(ends.copy(), ways.copy(), third, third.copy())


def fit_runs(
    lines: Polylines,
    spans: Floats,
    ends: Complex,
    ways: Complex,
    start: Spans,
    budget_mm: float,
    hinged: Bools | None = None,
) -> Found:
    """The runs (b of m) that follow the spans (b, 2) of polylines, from a first guess; bounds are infinite for those
    that can't be certified to stay within `budget_mm`.

    Ends (b, 2) and the directions there (b, 2) are kept to the last bit; where `hinged` (b, 2), a direction may turn by
    up to `HINGE_DEG`.
    """
    b, m = start.after.shape
    limits = _Limits(ways, np.radians(HINGE_DEG) * (np.zeros((b, 2)) if hinged is None else hinged))
    some = AT_ONCE // (SAMPLES * m + 1)
    several = [
        _fit_some(lines, spans[rows], ends[rows], limits.take(rows), start.take(rows), budget_mm)
        for rows in (slice(first, first + some) for first in range(0, max(b, 1), some))
    ]
    return Found(
        together([each.runs for each in several]),
        np.concatenate([each.joints for each in several]),
        np.concatenate([each.bounds for each in several]),
    )


def _fit_some(lines: Polylines, spans: Floats, ends: Complex, limits: _Limits, start: Spans, budget_mm: float) -> Found:
    b, m = start.after.shape
    arc = spans[:, 1] - spans[:, 0]
    joints = np.repeat(spans[:, :1], m + 1, axis=1)
    joints[:, -1] = spans[:, 1]
    found = Found(start, joints, np.full((b, m), np.inf))
    if not b:
        return found
    # In units of each span's length, from its own start, so that one damping suits all.
    where = np.linspace(0, 1, SAMPLES * m + 1)
    samples = (lines.at(spans[:, :1] + on_grid(where * arc[:, None])) - ends[:, :1]) / arc[:, None]
    runs = Spans(
        (start.nodes - ends[:, :1]) / arc[:, None],
        start.ways.copy(),
        start.after / arc[:, None],
        start.before / arc[:, None],
    )
    t = _first_parameters(runs, where)
    for _ in range(3):
        t, residual = _feet(runs, samples, t)
    weights, damping = np.ones_like(t), np.full(b, 1e-3)
    budget = budget_mm / arc
    alive, held = np.arange(b), limits
    accepted: list[tuple[Ints, Spans, Floats]] = []
    for number, (steps, limit) in enumerate(ROUNDS):
        cost = (weights * residual**2).sum(axis=1)
        for _ in range(steps):
            trial = _step(runs, samples, t, weights, held, damping)
            feet, left = _feet(trial, samples, t)
            costs = (weights * left**2).sum(axis=1)
            better = np.flatnonzero(costs < cost)
            runs.put(better, trial.take(better))
            t[better], residual[better], cost[better] = feet[better], left[better], costs[better]
            damping *= 6
            damping[better] /= 30
        t, residual = _feet(runs, samples, t)
        worst = residual.max(axis=1) / budget
        done = worst <= 0.98
        accepted.append((alive[done], runs.take(done), t[done]))
        on = (worst > 0.98) & (worst <= limit)
        if not on.any():
            break
        alive, runs, samples, t, budget, weights, residual, held, damping = (
            alive[on],
            runs.take(on),
            samples[on],
            t[on],
            budget[on],
            weights[on],
            residual[on],
            held.take(on),
            damping[on],
        )
        if number + 1 >= PLAIN_ROUNDS:
            weights = weights * (0.15 + residual / residual.max(axis=1, keepdims=True))
            weights /= weights.mean(axis=1, keepdims=True)
    _take_in(found, accepted, lines, spans, ends, limits, budget_mm)
    return found


def _take_in(
    found: Found,
    accepted: Sequence[tuple[Ints, Spans, Floats]],
    lines: Polylines,
    spans: Floats,
    ends: Complex,
    limits: _Limits,
    budget_mm: float,
) -> None:
    """Fits that are good enough, back in mm, with what is certified of them."""
    arc = spans[:, 1] - spans[:, 0]
    rows = np.concatenate([each[0] for each in accepted])
    if len(rows):
        scale = arc[rows][:, None]
        best = together([each[1] for each in accepted])
        best = Spans(best.nodes * scale + ends[rows, :1], best.ways, best.after * scale, best.before * scale)
        best.nodes[:, 0], best.nodes[:, -1] = ends[rows, 0], ends[rows, 1]
        best.ways[:, [0, -1]] = np.where(limits.most[rows] > 0, best.ways[:, [0, -1]], limits.ways[rows])
        joints, bounds = certified(lines, spans[rows], best, np.concatenate([each[2] for each in accepted]))
        bounds[bounds.max(axis=1) > budget_mm] = np.inf
        found.runs.put(rows, best)
        found.joints[rows], found.bounds[rows] = joints, bounds


def _first_parameters(runs: Spans, where: Floats) -> Floats:
    """(b, k) parameters of places this share of the way along runs, by the lengths of their cubics' polygons."""
    curves = runs.curves()
    m = curves.shape[1]
    lengths = np.abs(np.diff(curves, axis=2)).sum(axis=2) + np.abs(curves[..., 3] - curves[..., 0])
    stops = np.concatenate([np.zeros((len(lengths), 1)), np.cumsum(lengths, axis=1)], axis=1)
    stops /= stops[:, -1:]
    which = np.minimum((stops[:, None, 1:] <= where[:, None]).sum(axis=2), m - 1)
    rows = np.arange(len(lengths))[:, None]
    low, high = stops[rows, which], stops[rows, which + 1]
    return np.asarray(which + np.clip((where - low) / np.maximum(high - low, 1e-300), 0, 1))


def _step(runs: Spans, samples: Complex, t: Floats, weights: Floats, limits: _Limits, damping: Floats) -> Spans:
    """One damped Gauss-Newton step of everything that is free, on the residuals along the curve's normal."""
    b, m = runs.after.shape
    point, slope, _, which, u = places_at(runs.curves(), t)
    across = -1j * slope.conj() / np.maximum(np.abs(slope), 1e-300)  # Re(across * v) is v's part along the normal
    residual = (across * (point - samples)).real
    v = 1 - u
    early, late = 3 * u * v * v, 3 * u * u * v
    mine = [which == j for j in range(m)]
    from_start, to_end = (across * own_of(ways, which) for ways in (runs.ways[:, :-1], runs.ways[:, 1:]))
    longer, shorter = from_start.real * early, -to_end.real * late  # what a handle's length does
    turned, turned_end = (
        -from_start.imag * early * own_of(runs.after, which),
        to_end.imag * late * own_of(runs.before, which),
    )
    unknowns = 5 * m - 1  # those of hinges too, or a fit would depend on what is fitted beside it
    jacobian = np.empty((b, unknowns, t.shape[1]))
    for j in range(m):
        np.multiply(longer, mine[j], out=jacobian[:, 2 * j])
        np.multiply(shorter, mine[j], out=jacobian[:, 2 * j + 1])
    if m > 1:
        starting, ending = early + v * v * v, late + u * u * u
        for j in range(1, m):
            at = 2 * m + 3 * (j - 1)
            move = ending * mine[j - 1] + starting * mine[j]
            np.multiply(move, across.real, out=jacobian[:, at])
            np.multiply(move, -across.imag, out=jacobian[:, at + 1])
            np.add(turned_end * mine[j - 1], turned * mine[j], out=jacobian[:, at + 2])
    may = limits.most > 0
    np.multiply(turned * mine[0], may[:, :1], out=jacobian[:, -2])
    np.multiply(turned_end * mine[-1], may[:, 1:], out=jacobian[:, -1])
    weighted = jacobian * weights[:, None]
    normal = weighted @ jacobian.transpose(0, 2, 1)
    right = weighted @ residual[:, :, None]
    own = normal.reshape(b, -1)[:, :: unknowns + 1]  # its diagonal
    own += damping[:, None] * (own + own.sum(axis=1, keepdims=True) / unknowns) + 1e-14
    step = within(np.linalg.solve(normal, right)[:, :, 0], -0.3, 0.3)
    # A handle without length would leave the direction to the other one.
    after = within(runs.after - step[:, 0 : 2 * m : 2], LEAST_HANDLE / m, 1.2)
    before = within(runs.before - step[:, 1 : 2 * m : 2], LEAST_HANDLE / m, 1.2)
    nodes, ways = runs.nodes.copy(), runs.ways.copy()
    if m > 1:
        free = step[:, 2 * m : 5 * m - 3].reshape(b, m - 1, 3)
        nodes[:, 1:-1] -= free[..., 0] + 1j * free[..., 1]
        turned_ways = ways[:, 1:-1] * np.exp(-1j * free[..., 2])
        ways[:, 1:-1] = turned_ways / np.abs(turned_ways)
    ways[:, [0, -1]] = limits.kept(ways[:, [0, -1]] * np.exp(-1j * step[:, -2:]))
    return Spans(nodes, ways, after, before)


def _feet(runs: Spans, samples: Complex, t: Floats) -> tuple[Floats, Floats]:
    """One guarded Newton step of each sample's foot; ends stay at the ends. Also the distance along the normal before
    it.
    """
    point, slope, bend, _, _ = places_at(runs.curves(), t)
    away, m = point - samples, runs.after.shape[1]
    moved = within(t + newton(away, slope, bend), 0, m)
    moved[:, 0], moved[:, -1] = 0, m
    across = np.abs((slope.conj() * away).imag) / np.maximum(np.abs(slope), 1e-300)
    return moved, across


def _straight(lines: Polylines, spans: Floats, ends: Complex, ways: Complex, budget_mm: float) -> Floats:
    """(b,) distance of each span from the straight line between its ends; infinite where it exceeds the budget, where
    the span turns back, or where it meets its ends in other directions.
    """
    chord = ends[:, 1] - ends[:, 0]
    length = np.abs(chord)
    turn = np.where(length > 0, chord.conj() / np.where(length > 0, length, 1), 1)
    found = np.full(len(spans), np.inf)
    likely = ((ways * turn[:, None]).real > np.cos(np.radians(LINE_DEG))).all(axis=1) & (length > 0)
    middle = (lines.at(spans.mean(axis=1)) - ends[:, 0]) * turn
    rows = np.flatnonzero(likely & (np.abs(middle.imag) <= budget_mm))
    if not len(rows):
        return found
    owner, _, points = vertices(lines, spans[rows])
    local = (points - ends[rows[owner], 0]) * turn[rows[owner]]
    firsts = np.flatnonzero(np.append(True, owner[1:] != owner[:-1]))
    back = np.append((np.diff(local.real) < 0) & (owner[1:] == owner[:-1]), False)
    worst = np.maximum.reduceat(np.where(back, np.inf, np.abs(local.imag)), firsts)
    found[rows] = np.where(worst <= budget_mm, worst, np.inf)
    return found
