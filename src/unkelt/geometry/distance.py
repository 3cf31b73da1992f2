"""Distances between boundaries, and whether two subpaths are the same line."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from unkelt.geometry.flatten import lines
from unkelt.geometry.measure import lengths, signed_areas, subpath_bounds
from unkelt.geometry.path import Floats, Path

SAME_VERTEX_MM = 1e-6
"""Vertices this near count as the same; no distance between lines is given as less."""


MOST_VERTICES = 200_000
"""Lines longer than so many millimetres are measured at this many places."""


def farthest(points: Floats, targets: NDArray[np.object_]) -> float:
    """The greatest distance in mm from any of the points (p, 2) to the nearest of the target edges."""
    if not len(points):
        return 0.0
    if not len(targets):
        return float("inf")
    _, distance = shapely.STRtree(targets).query_nearest(
        shapely.points(points), return_distance=True, all_matches=False
    )
    return float(distance.max())


def line_distance(a: shapely.Geometry, b: shapely.Geometry) -> float:
    """Two-sided distance in mm between two sets of lines, measured at every vertex of both.

    Vertices alone miss the middle of long edges (an L against a box can be out by a factor of five), so edges longer
    than 1 mm, or than a stated share of a very long line, are given vertices first.
    """
    dense = [_dense(lines_of(shape)) for shape in (a, b)]
    (points_a, owner_a), (points_b, owner_b) = (
        shapely.get_coordinates(shapely.get_parts(shape), return_index=True) for shape in dense
    )
    if not len(points_a) or not len(points_b):
        return 0.0 if len(points_a) == len(points_b) else float("inf")
    # Vertices that both have, which after a weld are nearly all, are on the other's line: no need to look for it.
    keys_a, keys_b = _keys(points_a), _keys(points_b)
    lone_a, lone_b = points_a[~np.isin(keys_a, keys_b)], points_b[~np.isin(keys_b, keys_a)]
    return max(
        SAME_VERTEX_MM,
        farthest(lone_a, edges(points_b, owner_b)) if len(lone_a) else 0.0,
        farthest(lone_b, edges(points_a, owner_a)) if len(lone_b) else 0.0,
    )


def departure(a: shapely.Geometry, b: shapely.Geometry) -> float:
    """One-sided: the greatest distance in mm from the lines of `a`, at every vertex, to the lines of `b`."""
    dense = _dense(lines_of(a))
    points = shapely.get_coordinates(dense)
    vertices, owner = shapely.get_coordinates(shapely.get_parts(lines_of(b)), return_index=True)
    lone = points[~np.isin(_keys(points), _keys(vertices))]
    return max(SAME_VERTEX_MM, farthest(lone, edges(vertices, owner)) if len(lone) else 0.0)


def _dense(shape: shapely.Geometry) -> shapely.Geometry:
    return shapely.segmentize(shape, max(1.0, shape.length / MOST_VERTICES))


def _keys(points: Floats) -> NDArray[np.complex128]:
    """One number a point, the same for points that agree to a third of `SAME_VERTEX_MM`."""
    grid = np.round(points / (SAME_VERTEX_MM / 3))
    return grid[:, 0] + 1j * grid[:, 1]


def edges(vertices: Floats, owner: NDArray[np.intp]) -> NDArray[np.object_]:
    """Every edge of polylines (v, 2), (v,) as a line of its own: what nearest-edge questions are quick on."""
    same = owner[1:] == owner[:-1]
    return shapely.linestrings(np.stack([vertices[:-1][same], vertices[1:][same]], axis=1))


def lines_of(shape: shapely.Geometry) -> shapely.Geometry:
    """The boundary of an area; lines as they are."""
    return shapely.boundary(shape) if shape.geom_type in ("Polygon", "MultiPolygon") else shape


def repeated_subpaths(path: Path, within_mm: float) -> list[tuple[int, int, float]]:
    """Pairs (first, again, distance in mm) of subpaths that are the same line, whatever their start, direction, noding.

    Candidates have the same box, length and enclosed area; the two-sided distance then decides. Each subpath is named
    as "again" at most once, with the earliest it repeats.
    """
    boxes = subpath_bounds(path)
    if len(boxes) < 2:
        return []
    length, area = lengths(path), np.abs(signed_areas(path))
    pairs = cKDTree(boxes).query_pairs(4 * within_mm, output_type="ndarray")
    pairs = np.sort(pairs, axis=1)
    first, again = pairs[np.lexsort((pairs[:, 0], pairs[:, 1]))].T
    # A shift by w of a line of length L changes the enclosed area by at most w L; renoded copies may differ in length.
    alike = (length[first] > 0) & (np.abs(length[first] - length[again]) <= 0.02 * length[first] + 4 * within_mm)
    alike &= np.abs(area[first] - area[again]) <= within_mm * (length[first] + length[again])
    found: list[tuple[int, int, float]] = []
    repeats: set[int] = set()
    for i, j in zip(first[alike].tolist(), again[alike].tolist(), strict=True):
        if i in repeats or j in repeats or path.closed[i] != path.closed[j]:
            continue
        gap = line_distance(lines(path.subpath(i), within_mm / 10), lines(path.subpath(j), within_mm / 10))
        if gap <= within_mm:
            found.append((i, j, gap))
            repeats.add(j)
    return found
