"""Places along a path by length: for text that follows one, dashes, and whatever is cut off at a distance."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from unkelt.geometry.measure import derivative, evaluate, part, segment_lengths
from unkelt.geometry.path import CUBIC, LINE, Floats, Path

STEPS = 1024
"""Intervals that a segment's speed is summed over; the sum is scaled to the segment's exact length."""

LOOKS, ROUNDS = 33, 6
"""How many places are looked at for the nearest one, and how often again between the neighbours of the best."""


@dataclass(frozen=True, slots=True)
class Along:
    """A path measured along its length, subpath after subpath."""

    path: Path
    cubics: Floats
    lengths: Floats  # (n,) mm, of each segment
    ends: Floats  # (n,) mm from the start to each segment's end
    _runs: dict[int, Floats] = field(default_factory=dict, init=False, repr=False, compare=False)

    @classmethod
    def of(cls, path: Path) -> Along:
        """Of one subpath."""
        lengths = segment_lengths(path)
        return cls(path, path.cubics(), lengths, np.cumsum(lengths))

    @property
    def length(self) -> float:
        """Of all of it, in mm."""
        return float(self.ends[-1]) if len(self.ends) else 0.0

    def locate(self, distance_mm: float, side: str = "right") -> tuple[int, float]:
        """The segment and its parameter at a distance from the start, which is kept within the path.

        On a node, `side` says whether it is the segment's that begins there ("right") or ends ("left").
        """
        last = len(self.ends) - 1
        index = min(int(np.searchsorted(self.ends, distance_mm, "right" if side == "right" else "left")), last)
        return index, self._parameter(index, distance_mm - float(self.ends[index] - self.lengths[index]))

    def at(self, distance_mm: float) -> tuple[float, float, float] | None:
        """x, y and the tangent's angle in radians at a distance from the start; None off the path."""
        if not len(self.cubics) or not 0 <= distance_mm <= self.length:
            return None
        index, t = self.locate(distance_mm)
        curve = self.cubics[index : index + 1]
        x, y = evaluate(curve, np.array([[t]]))[0, 0]
        slope = derivative(curve, np.clip([[t]], 1e-9, 1 - 1e-9))[0, 0]
        return float(x), float(y), float(np.arctan2(slope[1], slope[0]))

    def places(self, distances_mm: Floats) -> Floats:
        """(k, 2) points at distances (k,) from the start, which are kept within the path."""
        at = np.clip(distances_mm, 0.0, self.length)
        index = np.minimum(np.searchsorted(self.ends, at, "right"), len(self.ends) - 1)
        rest = at - (self.ends - self.lengths)[index]
        t = np.divide(rest, self.lengths[index], out=np.zeros_like(at), where=self.lengths[index] > 0)
        for segment in np.unique(index[self.path.degrees[index] != LINE]).tolist():
            mine = index == segment
            t[mine] = np.interp(t[mine], self._run(segment), np.linspace(0, 1, STEPS + 1))
        return np.asarray(evaluate(self.cubics[index], np.clip(t, 0, 1)[:, None])[:, 0])

    def nearest(self, points: Floats, low_mm: Floats | float, high_mm: Floats | float) -> Floats:
        """(n,) distances from the start at which the path lies nearest to points (n, 2), each looked for between two
        distances, (n,) or one for all, to about a ten-millionth of what lies between.
        """
        low = np.broadcast_to(np.clip(low_mm, 0.0, self.length), len(points)).astype(float)
        high = np.broadcast_to(np.clip(high_mm, 0.0, self.length), len(points)).astype(float)
        best = (low + high) / 2
        for _ in range(ROUNDS if len(points) else 0):
            tried = low[:, None] + (high - low)[:, None] * np.linspace(0, 1, LOOKS)
            away = self.places(tried.ravel()).reshape(*tried.shape, 2) - points[:, None]
            index = (away[..., 0] ** 2 + away[..., 1] ** 2).argmin(axis=1)
            best = np.take_along_axis(tried, index[:, None], 1)[:, 0]
            step = (high - low) / (LOOKS - 1)
            low, high = np.maximum(best - step, low), np.minimum(best + step, high)
        return best

    def begun_at(self, distance_mm: float) -> Path:
        """A closed path that begins at a distance from where it began; the same line."""
        at = distance_mm % self.length
        if min(at, self.length - at) < 1e-9 * self.length:
            return self.path
        later, sooner = self.stretch(at, self.length), self.stretch(0.0, at)
        points, degrees = np.concatenate([later.points, sooner.points]), np.concatenate([later.degrees, sooner.degrees])
        return Path(points, degrees, np.zeros(1, np.intp), np.ones(1, bool))

    def stretch(self, start_mm: float, stop_mm: float) -> Path:
        """The open subpath between two distances from the start of a single subpath."""
        (a, from_t), (b, to_t) = self.locate(start_mm), self.locate(stop_mm, "left")
        b = max(a, b)
        rows, degrees = [], []
        for index in range(a, b + 1):
            t0, t1 = from_t if index == a else 0.0, to_t if index == b else 1.0
            rows.append(part(self.cubics[index], t0, t1))
            degrees.append(LINE if self.path.degrees[index] == LINE else CUBIC)
            if degrees[-1] == LINE:
                rows[-1][1], rows[-1][2] = rows[-1][0], rows[-1][3]
        return Path(np.array(rows), np.array(degrees, np.uint8), np.zeros(1, np.intp), np.zeros(1, bool))

    def _parameter(self, index: int, along_mm: float) -> float:
        """The parameter at a length from a segment's start, by the trapezium rule's running sum of the speed."""
        length = float(self.lengths[index])
        if along_mm <= 0 or length <= 0:
            return 0.0
        if along_mm >= length:
            return 1.0
        if self.path.degrees[index] == LINE:
            return along_mm / length
        return float(np.interp(along_mm / length, self._run(index), np.linspace(0, 1, STEPS + 1)))

    def _run(self, index: int) -> Floats:
        """The share of a segment's length at equal steps of its parameter, found once."""
        if index in self._runs:
            return self._runs[index]
        t = np.linspace(0, 1, STEPS + 1)
        speed = np.linalg.norm(derivative(self.cubics[index : index + 1], t[None])[0], axis=1)
        run = np.concatenate([[0.0], np.cumsum(speed[:-1] + speed[1:])])
        return self._runs.setdefault(index, np.asarray(run / max(float(run[-1]), 1e-300)))
