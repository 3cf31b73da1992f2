"""What lies near what: pairs of points within a distance, and the nearest of several points.

Few points are looked up in GEOS's tree, many in SciPy's k-d tree, which is four times as fast and takes a third of a
second to import. The answers are the same, but for which of several equally near points is named.
"""

from __future__ import annotations

import numpy as np
import scipy
import shapely

from unkelt.geometry.path import Floats, Ints

FEW = 20_000
"""Up to so many points, GEOS's tree takes less time than importing SciPy's."""

FEW_BY_MORE = 2_000
"""The same where points have more than two numbers: GEOS's tree looks at two of them."""

A_HANDFUL = 64
"""Up to so many, all of them are compared with all: any tree takes longer to grow."""


def pairs_within(points: Floats, reach_mm: float) -> Ints:
    """(p, 2) pairs of points no further apart than that, the lower index first. Points (n, d) of two or more numbers;
    pairs are in the order of their first, then their second.
    """
    if len(points) > _few(points):
        pairs = scipy.spatial.cKDTree(points).query_pairs(reach_mm, output_type="ndarray").astype(np.intp)
        return pairs[np.lexsort((pairs[:, 1], pairs[:, 0]))]
    if len(points) <= A_HANDFUL:
        one, other = np.triu_indices(len(points), 1)
        near = np.linalg.norm(points[one] - points[other], axis=1) <= reach_mm
        return np.stack([one[near], other[near]], axis=1)
    pairs = pairs_between(points, points, reach_mm)
    return pairs[pairs[:, 0] < pairs[:, 1]]


def pairs_between(points: Floats, others: Floats, reach_mm: float) -> Ints:
    """(p, 2) pairs of a point and one of the others no further apart than that, ordered likewise."""
    if not len(points) or not len(others):
        return np.zeros((0, 2), np.intp)
    if len(points) + len(others) > 2 * _few(points):
        found = scipy.spatial.cKDTree(points).query_ball_point(others, reach_mm)
        of_each = [np.asarray(near, np.intp) for near in np.atleast_1d(found).tolist()]
        one = np.concatenate(of_each)
        pairs = np.stack([one, np.repeat(np.arange(len(others)), [len(near) for near in of_each])], axis=1)
    else:
        tree = shapely.STRtree(shapely.points(others[:, :2]))
        pairs = tree.query(shapely.points(points[:, :2]), predicate="dwithin", distance=reach_mm).T
        pairs = pairs[np.linalg.norm(points[pairs[:, 0]] - others[pairs[:, 1]], axis=1) <= reach_mm]
    return np.asarray(pairs[np.lexsort((pairs[:, 1], pairs[:, 0]))], np.intp)


def nearest(points: Floats, others: Floats) -> tuple[Floats, Ints]:
    """How far each point (n, 2) is from the nearest of the others, and which that is; infinitely far from none."""
    if not len(others) or not len(points):
        return np.full(len(points), np.inf), np.zeros(len(points), np.intp)
    if len(points) + len(others) > 2 * FEW:
        away, which = scipy.spatial.cKDTree(others).query(points)
        return np.asarray(away), np.asarray(which, np.intp)
    tree = shapely.STRtree(shapely.points(others))
    (_, which), away = tree.query_nearest(shapely.points(points), all_matches=False, return_distance=True)
    return away, which


def _few(points: Floats) -> int:
    return FEW if points.shape[1] == 2 else FEW_BY_MORE
