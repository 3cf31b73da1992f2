"""Which ring is an outer boundary and which a counter, written into the direction of the rings."""

from __future__ import annotations

import numpy as np

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
