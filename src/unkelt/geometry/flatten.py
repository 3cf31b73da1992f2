"""Curves as polylines, to a stated chord error."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from unkelt.geometry.measure import points_at
from unkelt.geometry.path import CUBIC, LINE, QUAD, Floats, Ints, Path, raised, ranges

ROUNDING = 1e-9
"""A number of steps this much above a whole one is that one."""


def piece_counts(path: Path, chord_mm: float) -> Ints:
    """(n,) equal parameter steps each segment needs so that no chord strays by more than `chord_mm`.

    Wang's formula for a Bézier of degree d: n ≥ √(d(d-1)/8 · max|second difference| / ε) (G. Wang, 1984; as restated
    by R. Goldman, Pyramid Algorithms). A curve run backwards gets as many: where coordinates are round numbers, the
    root is often a whole number but for rounding.
    """
    stray = np.zeros(len(path.points))
    for degree, between in ((CUBIC, (1, 2)), (QUAD, (1,))):
        chosen = np.flatnonzero(path.degrees == degree)
        p = path.points[chosen]
        bends = [p[:, k - 1] - 2 * p[:, k] + p[:, k + 1 if degree == CUBIC else 3] for k in between]
        stray[chosen] = np.max([np.hypot(*bend.T) for bend in bends], axis=0) * (degree * (degree - 1) / 8)
    return np.maximum(1, np.ceil(np.sqrt(stray / chord_mm) - ROUNDING)).astype(np.intp)


FEW_VERTICES = 3000
"""Beyond so many, segments are taken by how many steps they need: it spares copying each for every vertex."""


def flatten(path: Path, chord_mm: float, counts: Ints | None = None) -> tuple[Floats, Ints]:
    """Vertices (v, 2) and the subpath each belongs to (v,); `counts` (n,) asks for more steps than the chord needs.

    The nodes are vertices, bit for bit; every subpath ends with its last node, which for a closed one is its first.
    """
    if not len(path):
        return np.zeros((0, 2)), np.zeros(0, np.intp)
    counts = piece_counts(path, chord_mm) if counts is None else counts
    inner = counts - 1
    if inner.sum() < FEW_VERTICES:  # of a letter or two: all at once
        return strung(path, inner, Vertices.even(counts).on(path))
    vertices, place, owner = _nodes(path, inner)
    for steps in np.flatnonzero(np.bincount(counts[counts > 1])).tolist():
        chosen = np.flatnonzero(counts == steps)
        t = np.arange(1, steps) / steps
        at = place[chosen, None] + np.arange(1, steps)
        vertices[at] = points_at(raised(path.points[chosen], path.degrees[chosen]), t)
    return vertices, owner


@dataclass(frozen=True, slots=True)
class Vertices:
    """Where a path's curves have vertices between their nodes: the segment (v,) and the parameter (v,) of each, in
    order.
    """

    segment: Ints
    t: Floats

    @classmethod
    def even(cls, counts: Ints) -> Vertices:
        """Of segments that take so many steps each."""
        inner = counts - 1
        segment = np.repeat(np.arange(len(counts)), inner)
        return cls(segment, ranges(np.ones(len(counts), np.intp), inner) / counts[segment])

    def flattened(self, path: Path) -> tuple[Floats, Ints]:
        """`flatten` of the path by these."""
        return strung(path, np.bincount(self.segment, minlength=len(path.points)), self.on(path))

    def on(self, path: Path) -> Floats:
        """(v, 2) their places, to the last bit those of `flatten`."""
        curves, which = np.unique(self.segment, return_inverse=True)
        return points_at(raised(path.points[curves], path.degrees[curves])[which], self.t[:, None])[:, 0]


def strung(path: Path, inner: Ints, between: Floats) -> tuple[Floats, Ints]:
    """As `flatten`, with so many vertices between the nodes of each segment (n,), which are given, one segment's after
    the other's.
    """
    vertices, place, owner = _nodes(path, inner)
    vertices[ranges(place + 1, inner)] = between
    return vertices, owner


def _nodes(path: Path, inner: Ints) -> tuple[Floats, Ints, Ints]:
    """Vertices of which only the nodes are set, with room for so many between them, where each segment starts, and the
    subpath each is of: it takes as many places as its segments have nodes and room, and one for its end.
    """
    place = np.cumsum(inner) - inner + np.arange(len(inner)) + np.repeat(np.arange(len(path)), path.counts)
    total = np.add.reduceat(inner, path.starts) + path.counts + 1
    vertices = np.empty((int(total.sum()), 2))
    vertices[place] = path.points[:, 0]
    vertices[np.cumsum(total) - 1] = path.points[path.stops - 1, 3]
    return vertices, place, np.repeat(np.arange(len(path)), total)


def polylines(path: Path, chord_mm: float) -> list[Floats]:
    """One (v, 2) array a subpath."""
    vertices, owner = flatten(path, chord_mm)
    return np.split(vertices, np.flatnonzero(np.diff(owner)) + 1) if len(path) else []


def straightened(path: Path, chord_mm: float) -> Path:
    """The path in straight segments, no chord further than that from its curve; nodes stay, bit for bit."""
    vertices, owner = flatten(path, chord_mm)
    within = owner[1:] == owner[:-1]
    first, last = vertices[:-1][within], vertices[1:][within]
    counts = np.bincount(owner[1:][within], minlength=len(path))
    return Path(
        np.stack([first, first, last, last], axis=1),
        np.full(len(first), LINE, np.uint8),
        (np.cumsum(counts) - counts).astype(np.intp),
        path.closed,
    )


def lines(path: Path, chord_mm: float) -> shapely.MultiLineString:
    """All subpaths as open lines, for measuring distances to."""
    vertices, owner = flatten(path, chord_mm)
    return shapely.multilinestrings(shapely.linestrings(vertices, indices=owner))
