"""How a head burns what is engraved: line by line across all of it, to and fro, as far as there is ink on each line."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from unkelt.geometry.path import Floats
from unkelt.geometry.region import region
from unkelt.job.machine import Machine
from unkelt.proof.imported import Body

MOST_LINES = 200_000
"""An engraving with more lines, larger than any bed, is looked at more coarsely."""


@dataclass(frozen=True, slots=True)
class Raster:
    """The lines (n, 2, 2) of an engraving from the top, each from where its ink begins to where it ends, in mm, every
    second one run backwards.
    """

    lines: Floats

    @property
    def way(self) -> Floats:
        """The head's way over all of it, (2n, 2)."""
        return self.lines.reshape(-1, 2)

    @property
    def burnt_mm(self) -> float:
        """The length of all lines, once."""
        return float(np.abs(self.lines[:, 1, 0] - self.lines[:, 0, 0]).sum())

    def seconds(self, machine: Machine) -> float:
        """With top speed v and acceleration a, a line of width w takes w/v, and v/a before it and after it, where the
        head gets up to speed and stands again beside the ink; then it turns round. All of that in each pass.
        """
        speed, count = machine.raster_mm_s, len(self.lines)
        beside = 2 * speed / machine.acceleration_mm_s2 + machine.turn_s
        return machine.passes * (self.burnt_mm / speed + count * beside)


def raster_of(bodies: Sequence[Body], machine: Machine, chord_mm: float) -> Raster | None:
    """The lines over the areas of some bodies; None where there is no area, or the machine burns no lines."""
    if not machine.raster_mm_s or not bodies:
        return None
    area = shapely.union_all([region(body.path, body.even_odd, chord_mm) for body in bodies])
    if area.is_empty:
        return None
    x0, y0, x1, y1 = area.bounds
    pitch = max(machine.pitch_mm, (y1 - y0) / MOST_LINES)
    heights = np.arange(y0 + min(pitch, y1 - y0) / 2, y1, pitch)
    ends = np.stack([np.full((len(heights), 2), (x0 - 1, x1 + 1)), np.stack([heights, heights], axis=1)], axis=2)
    shapely.prepare(area)
    found = shapely.bounds(shapely.intersection(shapely.linestrings(ends), area))
    inked = ~np.isnan(found[:, 0]) & (found[:, 2] > found[:, 0])
    if not inked.any():
        return None
    lines = np.stack([found[inked][:, [0, 1]], found[inked][:, [2, 1]]], axis=1)
    lines[1::2] = lines[1::2, ::-1]
    return Raster(lines)
