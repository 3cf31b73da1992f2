"""Subpaths that draw nothing that anybody could have meant."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from unkelt.geometry.measure import lengths, signed_areas, subpath_bounds
from unkelt.geometry.path import Floats, Ints, Path
from unkelt.tolerance import Tolerance


@dataclass(frozen=True, slots=True)
class Scraps:
    """The indices of a path's scraps and their boxes (k, 4)."""

    indices: Ints
    boxes: Floats

    def __len__(self) -> int:
        return len(self.indices)

    @property
    def largest_mm(self) -> float:
        return float((self.boxes[:, 2:] - self.boxes[:, :2]).max(initial=0))


def scraps(path: Path, tolerance: Tolerance) -> Scraps:
    """Points and specks smaller than a scrap both ways, and closed rings that run back on themselves."""
    if not len(path):
        return Scraps(np.zeros(0, np.intp), np.zeros((0, 4)))
    boxes = subpath_bounds(path)
    speck = (boxes[:, 2:] - boxes[:, :2]).max(axis=1) < tolerance.scrap_mm
    # A figure of eight may enclose as much on either side; only what is flat in fact is a scrap.
    flat = path.closed & (path.counts <= 2)
    if flat.any():
        flat &= np.abs(signed_areas(path)) <= tolerance.graze_mm2 * np.maximum(1.0, lengths(path))
    found = np.flatnonzero(speck | flat)
    return Scraps(found, boxes[found])
