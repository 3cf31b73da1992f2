"""The faces that rings cut the plane into, and how often they run around each: what rings that cross themselves enclose."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from unkelt.geometry.path import Floats, Geometries, Ints

AT_ONCE = 2_000_000
"""So many pairs of a point and an edge are looked at in one go."""


def faces(rings: Sequence[Floats]) -> Geometries:
    """(f,) the faces, as polygons that have no points but of their boundaries in common."""
    edges = shapely.unary_union([shapely.LineString(ring) for ring in rings])
    return np.array(shapely.get_parts(shapely.polygonize([edges])), object)


def wound_faces(rings: Sequence[Floats]) -> tuple[Geometries, Ints]:
    """The faces, and the winding number of all rings together in each."""
    found = faces(rings)
    return found, winding_numbers(rings, shapely.get_coordinates(shapely.point_on_surface(found)))


def winding_numbers(rings: Sequence[Floats], points: Floats) -> Ints:
    """(p,) winding number of all rings together around each point (p, 2), counter-clockwise as seen counted positive.

    Counts signed crossings of the ray to the right (D. Sunday, "Inclusion of a point in a polygon", 2001).
    """
    total = np.zeros(len(points), np.intp)
    for ring in rings:
        (x0, y0), (x1, y1) = ring[:-1].T, ring[1:].T
        some = max(1, AT_ONCE // max(len(x0), 1))
        for first in range(0, len(points), some):
            px, py = points[first : first + some].T[:, :, None]
            left = (x1 - x0) * (py - y0) - (px - x0) * (y1 - y0)
            up = (y0 <= py) & (y1 > py) & (left > 0)
            down = (y0 > py) & (y1 <= py) & (left < 0)
            total[first : first + some] += down.sum(axis=1) - up.sum(axis=1)
    return total
