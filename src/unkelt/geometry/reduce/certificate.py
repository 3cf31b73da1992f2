"""How far runs of cubics stray from their polylines, at most: a rigorous bound, both ways, for each cubic."""

from __future__ import annotations

import numpy as np

from unkelt.geometry.measure import quadratic_roots
from unkelt.geometry.path import Floats, Ints
from unkelt.geometry.reduce.spans import (
    Complex,
    Polylines,
    Spans,
    foot_on,
    newton,
    on_grid,
    places_at,
    vertices,
    within,
)


def certified(lines: Polylines, spans: Floats, runs: Spans, t: Floats) -> tuple[Floats, Floats]:
    """Where along the polylines each node belongs (b, m + 1), and a bound for each cubic (b, m)."""
    b, m = runs.after.shape
    arc = spans[:, 1] - spans[:, 0]
    k = t.shape[1] - 1
    joints = np.empty((b, m + 1))
    joints[:, 0], joints[:, -1] = spans[:, 0], spans[:, 1]
    for j in range(1, m):
        late = np.argmax(t >= j, axis=1)
        t0, t1 = t[np.arange(b), late - 1], t[np.arange(b), late]
        share = (late - 1 + np.clip((j - t0) / np.maximum(t1 - t0, 1e-300), 0, 1)) / k
        joints[:, j] = foot_on(lines, spans[:, 0] + on_grid(share * arc), runs.nodes[:, j])
    joints = np.maximum.accumulate(joints, axis=1)
    # The polyline's vertices within each cubic's stretch, and the stretch's own ends, flat.
    spans_flat = np.stack([joints[:, :-1].ravel(), joints[:, 1:].ravel()], axis=1)
    cubics = runs.curves().reshape(-1, 4)
    owner, places, points = vertices(lines, spans_flat)
    row, piece = owner // m, owner % m
    share = np.clip((places - spans[row, 0]) / arc[row], 0, 1) * k
    low = np.minimum(share.astype(np.intp), k - 1)
    u = np.clip(t[row, low] + (share - low) * (t[row, low + 1] - t[row, low]) - piece, 0, 1)
    first = np.append(True, owner[1:] != owner[:-1])
    last = np.append(first[1:], True)
    c = cubics[owner][:, None]
    for _ in range(4):
        point, slope, bend, _, _ = places_at(c, u[:, None])
        u = within(u + newton(point[:, 0] - points, slope[:, 0], bend[:, 0]), 0, 1)
        u[first], u[last] = 0, 1
    return joints, np.maximum.reduceat(_edge_bounds(cubics, owner, points, u), np.flatnonzero(first)).reshape(b, m)


def _edge_bounds(cubics: Complex, owner: Ints, points: Complex, t: Floats) -> Floats:
    """(v,) for the edge that begins at each point a rigorous two-sided bound on its distance from the cubic's part
    between the feet of its ends; 0 for each cubic's last point.

    On the way from foot to foot the cubic is a cubic; its distance from the edge's line is found exactly from the roots
    of a quadratic, and how far it overshoots the edge's ends is bounded by its control points. By continuity it passes
    over the whole edge, so the bound holds both ways. Infinite where the feet run backwards.
    """
    edge = np.flatnonzero(owner[1:] == owner[:-1])
    c = cubics[owner[edge]]
    t0, t1 = t[edge], t[edge + 1]
    a, along = points[edge], points[edge + 1] - points[edge]
    length = np.abs(along)
    turn = np.where(length > 0, along.conj() / np.where(length > 0, length, 1), 1)
    row = ((c - a[:, None]) * turn[:, None]).T  # the edge now lies on the real axis

    def between(p: Complex, u: Floats) -> Complex:
        return p[:-1] + (p[1:] - p[:-1]) * u

    at0, at1 = between(row, t0), between(row, t1)
    b00, b01, b11 = between(at0, t0), between(at0, t1), between(at1, t1)
    pieces = np.stack([between(b00, t0)[0], between(b00, t1)[0], between(b01, t1)[0], between(b11, t1)[0]])
    across, along_edge = pieces.imag, pieces.real
    d = np.diff(across, axis=0)
    roots = quadratic_roots(d[0] - 2 * d[1] + d[2], d[1] - d[0], d[0]).T
    roots = np.where((roots > 0) & (roots < 1), roots, 0.0)
    u = 1 - roots
    inner = u**3 * across[0] + 3 * u * u * roots * across[1] + 3 * u * roots * roots * across[2] + roots**3 * across[3]
    off = np.maximum(np.abs(inner).max(axis=0), np.maximum(np.abs(across[0]), np.abs(across[3])))
    over = np.maximum(0, np.maximum(-along_edge.min(axis=0), along_edge.max(axis=0) - length))
    # An edge without length has no direction: the control points' distance from it bounds all.
    bound = np.where(length > 0, np.hypot(off, over), np.abs(pieces).max(axis=0))
    bound[t1 < t0] = np.inf
    result = np.zeros(len(owner))
    result[edge] = bound
    return result
