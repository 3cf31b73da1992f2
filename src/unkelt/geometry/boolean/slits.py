"""Slits: places where two outlines run along each other with next to nothing in between, and what closes them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from unkelt.geometry.flatten import flatten
from unkelt.geometry.measure import derivative, evaluate, unit
from unkelt.geometry.near import pairs_between, pairs_within
from unkelt.geometry.path import LINE, Bools, Ints, Path, concat, polygon

LEAST_MM = 0.2
"""Shorter stretches are where outlines meet, not where they run along each other."""

SAME_MM = 1e-8
"""Lines nearer than this are one, and need nothing in between."""

PARALLEL = 0.01
"""The most that two sides of a slit may turn against each other, as a sine: 0.6°."""


COVERED = 0.98
"""The share of a filler's long sides that must lie in material, so that it closes a slit and adds nothing outside."""


def slit_fillers(paths: Sequence[Path], areas: Sequence[shapely.Geometry], within_mm: float) -> list[Path]:
    """Thin polygons that close the slits between different paths, which fill these areas: along straight segments that
    run beside each other, and along curves with the same ends. Each reaches into the material on both sides by
    `within_mm`.
    """
    whole = concat(paths)
    if not len(whole.points):
        return []
    owner = np.repeat(np.arange(len(paths)), [len(path.points) for path in paths])
    pairs = np.concatenate([_beside(whole, owner, within_mm), _same_ends(whole, owner, within_mm)])
    pairs = pairs[_in_material(whole, owner, pairs, areas, 2 * within_mm)]
    found = []
    for i, j in pairs.tolist():
        made = _between(whole, i, j, within_mm) if whole.degrees[i] == LINE else _over(whole, i, j, within_mm)
        material = shapely.union(areas[owner[i]], areas[owner[j]])
        if made and all(shapely.intersection(side, material).length >= COVERED * side.length for side in made[1]):
            found.append(made[0])
    return found


def _in_material(path: Path, owner: Ints, pairs: Ints, areas: Sequence[shapely.Geometry], off_mm: float) -> Bools:
    """(p,) whether the places on both sides of the first segment's middle, so far off it, lie in either one's area: a
    quick look.
    """
    cubics = path.cubics()[pairs[:, 0]]
    half = np.full((len(pairs), 1), 0.5)
    middle, way = evaluate(cubics, half)[:, 0], unit(derivative(cubics, half)[:, 0])
    side = off_mm * np.stack([-way[:, 1], way[:, 0]], axis=1)
    both = np.ones(len(pairs), bool)
    for places in (middle + side, middle - side):
        points = shapely.points(places)
        one, other = (np.array(areas, object)[owner[pairs[:, k]]] for k in (0, 1))
        both &= shapely.intersects(one, points) | shapely.intersects(other, points)
    return both


Made = tuple[Path, tuple[shapely.Geometry, shapely.Geometry]]
"""A filler's outline, and its two long sides."""


def _beside(path: Path, owner: Ints, within_mm: float) -> Ints:
    """(p, 2) pairs of straight segments of different paths that run beside each other."""
    length = np.linalg.norm(path.points[:, 3] - path.points[:, 0], axis=1)
    long = np.flatnonzero((path.degrees == LINE) & (length >= LEAST_MM))
    if len(np.unique(owner[long])) < 2:
        return np.zeros((0, 2), np.intp)
    start, end = path.points[long, 0], path.points[long, 3]
    edges = shapely.linestrings(np.stack([start, end], axis=1))
    first, second = shapely.STRtree(edges).query(edges, predicate="dwithin", distance=within_mm)
    apart = (first < second) & (owner[long[first]] != owner[long[second]])
    first, second = first[apart], second[apart]
    way, other = unit(end - start)[first], unit(end - start)[second]
    along = np.abs(way[:, 0] * other[:, 1] - way[:, 1] * other[:, 0]) <= PARALLEL
    return np.stack([long[first[along]], long[second[along]]], axis=1)


def _same_ends(path: Path, owner: Ints, within_mm: float) -> Ints:
    """(p, 2) pairs of curves of different paths whose ends meet."""
    curved = np.flatnonzero((path.degrees != LINE) & (np.ptp(path.points, axis=1).max(axis=1) >= LEAST_MM))
    if len(np.unique(owner[curved])) < 2:
        return np.zeros((0, 2), np.intp)
    ends = path.points[curved][:, [0, 3]].reshape(-1, 4)
    backwards = path.points[curved][:, [3, 0]].reshape(-1, 4)
    turned = pairs_between(ends, backwards, 2 * within_mm)
    pairs = np.concatenate([pairs_within(ends, 2 * within_mm), turned[turned[:, 0] < turned[:, 1]]])
    pairs = curved[pairs]
    return pairs[owner[pairs[:, 0]] != owner[pairs[:, 1]]]


def _between(path: Path, i: int, j: int, within_mm: float) -> Made | None:
    """A rectangle over the stretch of a line that another one runs beside, wide enough to cover both; None where they
    are one line, or don't run beside each other.
    """
    (a, b), (c, d) = path.points[i][[0, 3]], path.points[j][[0, 3]]
    length = float(np.linalg.norm(b - a))
    way = (b - a) / length
    side = np.array([-way[1], way[0]])
    t = np.clip(sorted([float((c - a) @ way), float((d - a) @ way)]), 0.0, length)
    off = [float((c - a) @ side), float((d - a) @ side)]
    if t[1] - t[0] < LEAST_MM or max(map(abs, off)) > within_mm + PARALLEL * length or max(map(abs, off)) < SAME_MM:
        return None
    low, high = min(0.0, *off) - within_mm, max(0.0, *off) + within_mm
    band = np.array([a + t[k] * way + s * side for k, s in ((0, low), (1, low), (1, high), (0, high))])
    return polygon(*map(tuple, band.tolist())), (shapely.LineString(band[:2]), shapely.LineString(band[2:]))


def _over(path: Path, i: int, j: int, within_mm: float) -> Made | None:
    """A band over a curve that another one with the same ends follows, and its long sides; None where it doesn't follow
    it.
    """
    both = [Path(path.points[[k]], path.degrees[[k]], np.zeros(1, np.intp), np.zeros(1, bool)) for k in (i, j)]
    one, other = (shapely.LineString(flatten(each, within_mm / 4)[0]) for each in both)
    apart = shapely.hausdorff_distance(one, other)
    if not SAME_MM < apart <= 2 * within_mm:
        return None
    sides = [one.offset_curve(sign * 2 * within_mm, quad_segs=2) for sign in (1, -1)]
    if any(side.geom_type != "LineString" or side.is_empty for side in sides):
        return None
    left, right = (shapely.get_coordinates(side) for side in sides)
    return polygon(*map(tuple, np.concatenate([left, right[::-1]]).tolist())), (sides[0], sides[1])
