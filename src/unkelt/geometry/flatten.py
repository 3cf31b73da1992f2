"""Curves as polylines, to a stated chord error."""

from __future__ import annotations

import numpy as np
import shapely

from unkelt.geometry.measure import along
from unkelt.geometry.path import LINE, Floats, Ints, Path


def piece_counts(path: Path, chord_mm: float) -> Ints:
    """(n,) equal parameter steps each segment needs so that no chord strays by more than `chord_mm`.

    Wang's formula for a Bézier of degree d: n ≥ √(d(d-1)/8 · max|second difference| / ε) (G. Wang, 1984; as restated
    by R. Goldman, Pyramid Algorithms).
    """
    p = path.points
    cubic = np.linalg.norm(np.diff(path.cubics(), n=2, axis=1), axis=2).max(axis=1, initial=0) * (6 / 8)
    quad = np.linalg.norm(p[:, 0] - 2 * p[:, 1] + p[:, 3], axis=1) * (2 / 8)
    stray = np.where(path.degrees == 3, cubic, quad)
    stray[path.degrees == LINE] = 0
    return np.maximum(1, np.ceil(np.sqrt(stray / chord_mm))).astype(np.intp)


FEW_VERTICES = 3000
"""Beyond so many, segments are taken by how many steps they need: it spares copying each for every vertex."""


def flatten(path: Path, chord_mm: float, counts: Ints | None = None) -> tuple[Floats, Ints]:
    """Vertices (v, 2) and the subpath each belongs to (v,); `counts` (n,) asks for more steps than the chord needs.

    The nodes are vertices, bit for bit; every subpath ends with its last node, which for a closed one is its first.
    """
    if not len(path):
        return np.zeros((0, 2)), np.zeros(0, np.intp)
    counts = piece_counts(path, chord_mm) if counts is None else counts
    # Where each segment's start goes: a subpath takes as many places as its segments have steps, and one for its end.
    owner = np.repeat(np.arange(len(path)), path.counts)
    place = np.cumsum(counts) - counts + owner
    total = np.add.reduceat(counts, path.starts) + 1
    vertices = np.empty((int(total.sum()), 2))
    vertices[place] = path.points[:, 0]
    vertices[np.cumsum(total) - 1] = path.points[path.stops - 1, 3]
    curved = np.flatnonzero(counts > 1)
    cubics = path.cubics()[curved]
    inner = counts[curved] - 1
    if inner.sum() < FEW_VERTICES:  # of a letter or two: all at once
        segment = np.repeat(np.arange(len(curved)), inner)
        step = np.arange(len(segment)) - np.repeat(np.cumsum(inner) - inner, inner) + 1
        t = step / counts[curved][segment]
        vertices[place[curved][segment] + step] = along(cubics[segment], t[:, None])[:, 0]
        return vertices, np.repeat(np.arange(len(path)), total)
    for steps in np.unique(counts[curved]).tolist():
        chosen = np.flatnonzero(counts[curved] == steps)
        t = np.arange(1, steps) / steps
        at = place[curved[chosen], None] + np.arange(1, steps)
        vertices[at] = along(cubics[chosen], t)
    return vertices, np.repeat(np.arange(len(path)), total)


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
