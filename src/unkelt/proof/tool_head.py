"""Where a head has to run so that its tool cuts a line: beside it by half the kerf, or ahead of the blade it drags."""

from __future__ import annotations

import math
from functools import cached_property

import numpy as np
import shapely

from unkelt.geometry.path import Floats

ARC_STEP = math.radians(15)
"""A blade is turned at corners through steps of so much at most."""


def beside(ring: Floats, kerf_mm: float, hole: bool) -> Floats | None:
    """The closed way (p, 2) of a beam or jet whose kerf ends at this closed line: outside a part, inside a counter.

    It begins next to the line's start and runs the same way round. None where the line encloses less than the kerf, or
    is so narrow somewhere that the way falls apart.
    """
    area = shapely.Polygon(ring)
    moved = (area if area.is_valid else shapely.make_valid(area)).buffer(-kerf_mm / 2 if hole else kerf_mm / 2)
    if moved.geom_type != "Polygon" or moved.is_empty:
        return None
    way = np.asarray(moved.exterior.coords)[:, :2]
    if shapely.is_ccw(moved.exterior) != shapely.is_ccw(shapely.LinearRing(ring)):
        way = way[::-1]
    first = int(np.argmin(np.hypot(*(way[:-1] - ring[0]).T)))
    return np.concatenate([way[first:-1], way[: first + 1]])


class Ahead:
    """The way of a holder as `ahead` gives it, worked out when it is first asked for; its ends at once."""

    def __init__(self, line: Floats, offset_mm: float) -> None:
        self._line, self._offset_mm = line, offset_mm
        self.ends = line[0] + self._lead(line[:2], 0), line[-1] + self._lead(line[-2:], -1)

    def _lead(self, edge: Floats, end: int) -> Floats:
        x, y = (edge[-1] - edge[0]).tolist()
        length = math.hypot(x, y)
        if length <= 1e-9:  # a repeated vertex: the way itself knows better
            return np.asarray(self.way[end] - self._line[end])
        return np.array([x, y]) * (self._offset_mm / length)

    @cached_property
    def way(self) -> Floats:
        """The line that the head runs."""
        return ahead(self._line, self._offset_mm)


def ahead(line: Floats, offset_mm: float) -> Floats:
    """The way (p, 2) of a holder whose blade touches down `offset_mm` behind it: ahead of the line along its direction,
    and round its corners on an arc about them, so that the blade turns on the spot.
    """
    keep = np.append(True, np.linalg.norm(np.diff(line, axis=0), axis=1) > 1e-9)
    line = line[keep]
    if len(line) < 2:
        return line
    steps = np.diff(line, axis=0)
    angles = np.unwrap(np.arctan2(steps[:, 1], steps[:, 0]))
    turns = np.diff(angles)
    counts = np.maximum(1, np.ceil(np.abs(turns) / ARC_STEP)).astype(np.intp) + 1  # places on the arc about each node
    node = np.repeat(np.arange(len(turns)), counts)
    step = np.arange(len(node)) - np.repeat(np.cumsum(counts) - counts, counts)
    along = angles[node] + turns[node] * step / (counts[node] - 1)
    return np.concatenate(
        [
            line[:1] + offset_mm * _towards(angles[:1]),
            line[1:-1][node] + offset_mm * _towards(along),
            line[-1:] + offset_mm * _towards(angles[-1:]),
        ]
    )


def _towards(angles: Floats) -> Floats:
    return np.stack([np.cos(angles), np.sin(angles)], axis=1)
