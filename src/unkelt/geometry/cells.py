"""The faces that rings cut the plane into, and how often they run around each: what rings that cross themselves
enclose.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from unkelt.geometry.path import Floats, Geometries, Ints

AT_ONCE = 2_000_000
"""So many pairs of a point and an edge are looked at in one go."""

BAND = 1_000
"""So many points, next to each other in height, are compared with the edges at their height."""


GRIDS_MM = (0.0, 1e-9, 1e-8, 1e-7, 1e-6)
"""Crossings are rounded to these, one after another, until the faces add up: edges that run on each other for a long
way meet at angles so flat that a crossing at full precision can miss an edge, and a face with it.
"""


def wound_cells(rings: Sequence[Floats]) -> tuple[Geometries, Ints]:
    """The faces that rings enclose, as polygons that have no points but of their boundaries in common, and the winding
    number of all rings together in each.

    Faces times winding numbers are what the rings enclose by Green's theorem, which tells whether a face is missing; of
    several tries the one that is nearest to it is taken.
    """
    enclosed = -sum(_shoelace(ring) for ring in rings)  # positive as seen, y down
    length = sum(float(np.hypot(*np.diff(ring, axis=0).T).sum()) for ring in rings)
    best: tuple[float, Geometries, Ints] | None = None
    for grid in GRIDS_MM:
        found = _faces(rings, grid)
        winding = winding_numbers(rings, shapely.get_coordinates(shapely.point_on_surface(found)))
        off = abs(float(shapely.area(found) @ winding) - enclosed)
        if best is None or off < best[0]:
            best = off, found, winding
        if off <= max(grid, ROUNDING_MM) * length:
            break
    assert best is not None
    return best[1], best[2]


ROUNDING_MM = 1e-8
"""What is missing is as much as a strip of this width along all edges, or it is rounding."""


def _faces(rings: Sequence[Floats], grid_mm: float) -> Geometries:
    lines = [shapely.LineString(ring) for ring in rings]
    edges = shapely.unary_union(lines, grid_size=grid_mm) if grid_mm else shapely.unary_union(lines)
    return np.array(shapely.get_parts(shapely.polygonize([edges])), object)


def _shoelace(ring: Floats) -> float:
    """Twice-signed area halved, about the ring's first vertex so that far from the origin nothing is lost."""
    x, y = (ring - ring[0]).T
    return float((x[:-1] * y[1:] - x[1:] * y[:-1]).sum()) / 2


def winding_numbers(rings: Sequence[Floats], points: Floats) -> Ints:
    """(p,) winding number of all rings together around each point (p, 2), counter-clockwise as seen counted positive.

    Counts signed crossings of the ray to the right (D. Sunday, "Inclusion of a point in a polygon", 2001).
    """
    total = np.zeros(len(points), np.intp)
    if not len(points) or not len(rings):
        return total
    starts, ends = (np.concatenate([ring[part] for ring in rings]) for part in (slice(None, -1), slice(1, None)))
    low, high = np.minimum(starts[:, 1], ends[:, 1]), np.maximum(starts[:, 1], ends[:, 1])
    order = np.argsort(points[:, 1], kind="stable")
    for first in range(0, len(order), BAND):
        band = order[first : first + BAND]
        ys = points[band, 1]
        near = np.flatnonzero((low <= ys[-1]) & (high >= ys[0]))  # no other edge is at the height of any of these
        (x0, y0), (x1, y1) = starts[near].T, ends[near].T
        some = max(1, AT_ONCE // max(len(near), 1))
        for begin in range(0, len(band), some):
            few = band[begin : begin + some]
            px, py = points[few].T[:, :, None]
            left = (x1 - x0) * (py - y0) - (px - x0) * (y1 - y0)
            up = (y0 <= py) & (y1 > py) & (left > 0)
            down = (y0 > py) & (y1 <= py) & (left < 0)
            total[few] = down.sum(axis=1) - up.sum(axis=1)
    return total
