"""Places along a path by length, for text that follows one."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from unkelt.geometry.measure import derivative, evaluate
from unkelt.geometry.path import Floats, Path

STEPS = 256
"""Samples a segment; between them length is taken as linear in the parameter, places and tangents are exact."""


@dataclass(frozen=True, slots=True)
class Along:
    """A path measured along its length, subpath after subpath."""

    cubics: Floats
    lengths: Floats  # (n * STEPS + 1,) mm from the start

    @classmethod
    def of(cls, path: Path) -> Along:
        cubics = path.cubics()
        samples = evaluate(cubics, np.broadcast_to(np.linspace(0, 1, STEPS + 1), (len(cubics), STEPS + 1)))
        steps = np.linalg.norm(np.diff(samples, axis=1), axis=2).ravel()
        return cls(cubics, np.concatenate([[0.0], np.cumsum(steps)]))

    @property
    def length(self) -> float:
        return float(self.lengths[-1])

    def at(self, distance_mm: float) -> tuple[float, float, float] | None:
        """x, y and the tangent's angle in radians at a distance from the start; None off the path."""
        if not 0 <= distance_mm <= self.length or not len(self.cubics):
            return None
        index = min(int(np.searchsorted(self.lengths, distance_mm, side="right")) - 1, len(self.lengths) - 2)
        low, high = self.lengths[index], self.lengths[index + 1]
        share = (distance_mm - low) / (high - low) if high > low else 0.0
        segment, step = divmod(index, STEPS)
        t = np.array([[(step + share) / STEPS]])
        curve = self.cubics[segment : segment + 1]
        x, y = evaluate(curve, t)[0, 0]
        slope = derivative(curve, np.clip(t, 1e-9, 1 - 1e-9))[0, 0]
        return float(x), float(y), float(np.arctan2(slope[1], slope[0]))
