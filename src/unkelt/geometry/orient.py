"""Which ring is an outer boundary and which a counter, written into the direction of the rings."""

from __future__ import annotations

import numpy as np
import shapely

from unkelt.errors import GeometryRefused
from unkelt.geometry.path import Path
from unkelt.geometry.region import fill_rings, nest, ring_nesting


def orient_rings(path: Path, chord_mm: float) -> Path:
    """The same rings, run so that even-odd and nonzero fill the same area.

    Rings at even depth run counter-clockwise as seen, those at odd depth (counters) clockwise, so that the winding
    number is 1 in material and 0 elsewhere. The path is read by the even-odd rule. Open subpaths stay as they are.
    Raises GeometryRefused when rings cross: then there is no nesting to speak of.
    """
    if path.closed.all():
        _, owners, nesting = ring_nesting(path, chord_mm)
        closed = list(range(len(owners)))
    else:
        rings, owners = fill_rings(path, chord_mm)
        closed = [k for k, owner in enumerate(owners) if path.closed[owner]]
        nesting = nest([rings[k] for k in closed])
    if nesting is None:
        raise GeometryRefused("rings cross, so which is a hole depends on the fill rule; weld first")
    flip = np.zeros(len(path), bool)
    flip[[owners[k] for k in closed]] = nesting.sense != np.where(nesting.depths() % 2 == 0, 1, -1)
    return path.reversed(flip) if flip.any() else path


def oriented(path: Path, chord_mm: float) -> Path:
    """As `orient_rings`, for an engine's answer: its rings may touch, or cross by rounding where they meet in a node.

    Where nesting can't be told from whole rings, it is told from a point beside the middle of each ring's longest edge:
    how many other rings lie around it. Whoever asks judges the area by both rules.
    """
    try:
        return orient_rings(path, chord_mm)
    except GeometryRefused:
        pass
    rings, owners = fill_rings(path, chord_mm)
    if not rings:
        return path
    flip = np.zeros(len(path), bool)
    polygons = [shapely.make_valid(shapely.Polygon(ring)) for ring in rings]
    for index, (ring, owner) in enumerate(zip(rings, owners, strict=True)):
        steps = np.diff(ring, axis=0)
        edge = int(np.argmax(np.hypot(steps[:, 0], steps[:, 1])))
        middle, way = (ring[edge] + ring[edge + 1]) / 2, steps[edge] / max(float(np.hypot(*steps[edge])), 1e-300)
        beside = [shapely.Point(middle + sign * chord_mm * np.array([way[1], -way[0]])) for sign in (1, -1)]
        inside = next((point for point in beside if polygons[index].contains(point)), beside[0])
        depth = sum(other.contains(inside) for at, other in enumerate(polygons) if at != index)
        x, y = ring.T
        runs_up = float((x[:-1] * y[1:] - x[1:] * y[:-1]).sum()) < 0  # counter-clockwise as seen, y down
        flip[owner] = runs_up != (depth % 2 == 0)
    return path.reversed(flip) if flip.any() else path
