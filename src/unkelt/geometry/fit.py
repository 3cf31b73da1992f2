"""Fitting one segment to a run of samples, with a rigorous bound on how far it strays from them.

Ends and end tangents are given; the two handle lengths are found by Gauss-Newton on the residuals along the curve's
normal, many runs at once.

Sources: P. J. Schneider, "An Algorithm for Automatically Fitting Digitized Curves" (Graphics Gems, 1990); W. Wang, H.
Pottmann, Y. Liu, "Fitting B-spline curves to point clouds by curvature-based squared distance minimization" (2006).
"""

from __future__ import annotations

import itertools

import numpy as np

from unkelt.geometry.measure import derivative, evaluate, quadratic_roots, unit
from unkelt.geometry.path import CUBIC, LINE, Floats

LINE_SHARE = 0.25
"""A straight line replaces a run only when it stays within this share of the tolerance: nearly straight is not."""

NEWTON_STEPS = 7

Fit = tuple[Floats, int, float]
"""A segment's points (4, 2), its degree, and the bound in mm on its distance from the run, both ways."""


def fit_segments(samples: Floats, tangents: Floats, budget_mm: float) -> list[Fit | None]:
    """One segment for each run of samples (b, k, 2) with end tangents (b, 2, 2) that point into the run.

    None where no segment is certified to stay within `budget_mm`. A shorter run repeats its last sample.
    """
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
    chord = unit(last - first)
    along = np.stack([(tangents[:, 0] * chord).sum(axis=1), -(tangents[:, 1] * chord).sum(axis=1)], axis=1)
    is_line = (straight <= LINE_SHARE * budget_mm) & (along > np.cos(np.radians(1.0))).all(axis=1)
    results: list[Fit | None] = []
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
    normal = unit(np.stack([-slope[..., 1], slope[..., 0]], axis=-1))
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
    along_axis = unit(edge)
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
    chord = unit(last - first)
    from_first = samples - first
    across = np.abs(from_first[..., 1] * chord[..., 0] - from_first[..., 0] * chord[..., 1]).max(axis=1)
    back = (np.diff((from_first * chord).sum(axis=2), axis=1) < 0).any(axis=1)
    return np.where(back, np.inf, across)
