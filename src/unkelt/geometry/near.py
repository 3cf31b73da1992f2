"""What lies near what: pairs of points within a distance, and the nearest of several points.

Few points are looked up in GEOS's tree, many in SciPy's k-d tree, which is four times as fast and takes a third of a
second to import; few, too, once it has been. Which pairs are near doesn't depend on that. Which of several equally near
points is named does, so that of those only the number decides.
"""

from __future__ import annotations

import sys

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
    if len(points) <= A_HANDFUL:
        one, other = np.triu_indices(len(points), 1)
        return _near_enough(np.stack([one, other], axis=1), points, points, reach_mm)
    if _worth_scipy(points, len(points)):
        pairs = scipy.spatial.cKDTree(points).query_pairs(reach_mm * AMPLE, output_type="ndarray").astype(np.intp)
        return _ordered(_near_enough(pairs, points, points, reach_mm))
    pairs = pairs_between(points, points, reach_mm)
    return pairs[pairs[:, 0] < pairs[:, 1]]


def pairs_between(points: Floats, others: Floats, reach_mm: float) -> Ints:
    """(p, 2) pairs of a point and one of the others no further apart than that, ordered likewise."""
    if not len(points) or not len(others):
        return np.zeros((0, 2), np.intp)
    if _worth_scipy(points, (len(points) + len(others)) // 2):
        trees = scipy.spatial.cKDTree(points), scipy.spatial.cKDTree(others)
        found = trees[0].sparse_distance_matrix(trees[1], reach_mm * AMPLE, output_type="ndarray")
        pairs = np.stack([found["i"], found["j"]], axis=1).astype(np.intp)
    else:
        tree = shapely.STRtree(shapely.points(others[:, :2]))
        pairs = tree.query(shapely.points(points[:, :2]), predicate="dwithin", distance=reach_mm * AMPLE).T
    return _ordered(_near_enough(pairs, points, others, reach_mm))


AMPLE = 1 + 1e-9
"""What the trees are asked for, beside the reach: they round otherwise, and what counts is measured here."""


def _near_enough(pairs: Ints, points: Floats, others: Floats, reach_mm: float) -> Ints:
    return np.asarray(pairs[np.linalg.norm(points[pairs[:, 0]] - others[pairs[:, 1]], axis=1) <= reach_mm], np.intp)


def _ordered(pairs: Ints) -> Ints:
    return pairs[np.lexsort((pairs[:, 1], pairs[:, 0]))]


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


def _worth_scipy(points: Floats, count: int) -> bool:
    """Whether SciPy's tree takes less time for so many points: always where it has been imported already."""
    return "scipy.spatial" in sys.modules or count > (FEW if points.shape[1] == 2 else FEW_BY_MORE)
