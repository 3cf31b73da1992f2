"""Which segments come near each other, by the hulls of their nodes and handles: a segment keeps to its hull."""

from __future__ import annotations

import numpy as np
import shapely

from unkelt.geometry.path import Floats, Ints


def meeting(points: Floats, path_of: Ints, group_of: Ints, apart_mm: float) -> tuple[Ints, Ints]:
    """Pairs i < j of segments, given by their nodes and handles (n, 4, 2), of different paths of one group whose hulls no
    straight line along one of them parts by more than `apart_mm`. Paths and groups are numbered in their order.
    """
    low, high = control_boxes(points, apart_mm)
    near = _reached(low, high, path_of, group_of)
    first, second = within_paths(points[near], path_of[near], apart_mm, same=False)
    return near[first], near[second]


def within_paths(points: Floats, path_of: Ints, apart_mm: float, same: bool = True) -> tuple[Ints, Ints]:
    """As `meeting`, of segments of the same path; or of all different ones, whatever their group."""
    low, high = control_boxes(points, apart_mm)
    shapes = shapely.box(*low.T, *high.T)
    i, j = shapely.STRtree(shapes).query(shapes)
    chosen = (i < j) & ((path_of[i] == path_of[j]) == same)
    i, j = i[chosen], j[chosen]
    chord = points[:, 3] - points[:, 0]
    normal = np.stack([-chord[:, 1], chord[:, 0]], axis=1) / np.maximum(np.linalg.norm(chord, axis=1), 1e-300)[:, None]
    meet = np.ones(len(i), bool)
    for axis in (normal[i], normal[j]):
        one, other = np.einsum("pkc,pc->pk", points[i], axis), np.einsum("pkc,pc->pk", points[j], axis)
        meet &= (one.min(axis=1) <= other.max(axis=1) + apart_mm) & (other.min(axis=1) <= one.max(axis=1) + apart_mm)
    return i[meet], j[meet]


def control_boxes(points: Floats, apart_mm: float) -> tuple[Floats, Floats]:
    """Least and greatest x, y (n, 2) of each segment's nodes and handles, the former less what is to lie between."""
    a, b, c, d = points.transpose(1, 0, 2)
    low = np.minimum(np.minimum(a, b), np.minimum(c, d)) - apart_mm
    return low, np.maximum(np.maximum(a, b), np.maximum(c, d))


def _reached(low: Floats, high: Floats, path_of: Ints, group_of: Ints) -> Ints:
    """Segments that come into the box of another path of their group."""
    firsts = np.flatnonzero(np.append(True, path_of[1:] != path_of[:-1])[: len(path_of)])
    if len(firsts) < 2:
        return firsts[:0]
    lows, highs = np.minimum.reduceat(low, firsts), np.maximum.reduceat(high, firsts)
    shapes, group_of = shapely.box(*lows.T, *highs.T), group_of[firsts]
    one, other = shapely.STRtree(shapes).query(shapes)
    chosen = (one != other) & (group_of[one] == group_of[other])
    one, other = one[chosen], other[chosen]
    counts = np.diff(np.append(firsts, len(path_of)))
    segments, box = _runs(firsts[one], counts[one]), np.repeat(other, counts[one])
    inside = ((low[segments] <= highs[box]) & (high[segments] >= lows[box])).all(axis=1)
    return np.unique(segments[inside])


def _runs(firsts: Ints, counts: Ints) -> Ints:
    """Every index of runs that begin there and are so long."""
    return np.repeat(firsts - np.cumsum(counts) + counts, counts) + np.arange(int(counts.sum()))
