"""Noisy polylines, as tracing a scan leaves them: how noisy, where their corners are, and which way they run.

Between neighbouring vertices noise turns a line more sharply than any corner does, so corners and directions are told
from least squares over arms many times as long as the noise is high.
"""

from __future__ import annotations

import itertools

import numpy as np

from unkelt.geometry.path import LINE, Bools, Floats, Ints, Path

LEAST_VERTICES = 24
LOW, HIGH = 1 / 25, 1 / 3
"""Shares of the tolerance between which it is noise that is to go: less doesn't matter, more is shape."""

ARM = 40.0
"""Arms are so many times as long as the noise is high: then a direction is told to within a degree or two."""

TELLING_DEG = 1.0
"""Where noise turns a line by less than this from vertex to vertex, its directions are told well enough without arms.
"""

CORNER_DEG, SIGMAS = 8.0, 5.0
"""Turning between arms, beyond what those around explain, is a corner from so many degrees on and so many standard
deviations of what the noise does to it.
"""


def noise_mm(path: Path) -> float:
    """The standard deviation of the vertices of a subpath of lines across it; 0 where it has curves or few vertices.

    From how far each vertex lies from the cubic through the two before and the two after it, along the chord length:
    the median, so that corners don't count (for the normal distribution 0.6745 standard deviations).
    """
    points = path.points[:, 0]
    if len(points) < LEAST_VERTICES or (path.degrees != LINE).any():
        return 0.0
    around = [np.roll(points, k, axis=0) for k in (2, 1, -1, -2)]
    steps = np.linalg.norm(np.diff(np.stack([around[0], around[1], points, around[2], around[3]]), axis=0), axis=2)
    if not path.closed[0]:
        points, around, steps = points[2:-2], [each[2:-2] for each in around], steps[:, 2:-2]
    at = np.stack([-steps[0] - steps[1], -steps[1], steps[2], steps[2] + steps[3]])
    with np.errstate(divide="ignore", invalid="ignore"):
        weights = np.stack([np.prod([at[k] / (at[k] - at[j]) for k in range(4) if k != j], axis=0) for j in range(4)])
        off = points - sum(w[:, None] * p for w, p in zip(weights, around, strict=True))
        way = around[2] - around[1]
        across = np.abs(off[:, 0] * way[:, 1] - off[:, 1] * way[:, 0]) / np.linalg.norm(way, axis=1)
        found = across / np.sqrt(1 + (weights**2).sum(axis=0))
    found = found[np.isfinite(found)]
    return float(np.median(found)) / 0.6745 if len(found) else 0.0


def noise_within(path: Path, tolerance_mm: float) -> float:
    """The noise of a subpath that is to be smoothed away within this tolerance; 0 where there is none to speak of."""
    sigma = noise_mm(path)
    if not LOW * tolerance_mm < sigma < HIGH * tolerance_mm:
        return 0.0
    lengths = np.linalg.norm(path.points[:, 3] - path.points[:, 0], axis=1)
    return sigma if sigma > np.radians(TELLING_DEG) * float(np.median(lengths)) / np.sqrt(6) else 0.0


def corners(path: Path, sigma_mm: float) -> Bools:
    """(n,) whether the start of each of a noisy subpath's segments is a corner. The first of an open one is."""
    return _Ways(path, sigma_mm).corners()


def directions(path: Path, sigma_mm: float, corner: Bools) -> tuple[Floats, Floats]:
    """Unit directions (n + 1, 2) into and out of each node of a noisy subpath with these corners (n,)."""
    return _Ways(path, sigma_mm).tangents(corner)


class _Ways:
    """The vertices laid out along three laps of a closed line, so that no arm meets a seam; once for an open one."""

    def __init__(self, path: Path, sigma_mm: float) -> None:
        self.closed, self.arm, self.sigma = bool(path.closed[0]), ARM * sigma_mm, sigma_mm
        self.n = len(path.points)
        steps = np.linalg.norm(path.points[:, 3] - path.points[:, 0], axis=1)
        vertices = path.points[:, 0]
        if self.closed:
            self.z, steps, self.first = np.tile(vertices, (3, 1)), np.tile(steps, 3), self.n
            self.s = np.concatenate([[0.0], np.cumsum(steps[:-1])])
        else:
            self.z, self.first = np.concatenate([vertices, path.points[-1:, 3]]), 0
            self.s = np.concatenate([[0.0], np.cumsum(steps)])

    def corners(self) -> Bools:
        """Where the line turns between one arm and the next by more than half the turning an arm before and after
        it.
        """
        at = np.arange(len(self.s))
        last = len(at) - 1
        before, doubt = self._slope(np.minimum(np.searchsorted(self.s, self.s - self.arm), np.maximum(at - 1, 0)), at)
        after, more = self._slope(
            at, np.maximum(np.searchsorted(self.s, self.s + self.arm, "right") - 1, np.minimum(at + 1, last))
        )
        cross = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
        turn = np.arctan2(cross, (before * after).sum(axis=1))
        left, right = (np.interp(self.s + d, self.s, turn) for d in (-self.arm, self.arm))
        sharp = np.abs(turn) > np.radians(4 * CORNER_DEG)  # no bend that goes on turns like that
        excess = np.abs(turn) - np.where(sharp, 0, np.abs(left + right) / 2)
        likely = excess > np.radians(CORNER_DEG) + SIGMAS * np.hypot(doubt, more)
        # Of all that see the same corner, the one that turns most.
        low = np.searchsorted(self.s, self.s - self.arm / 2)
        high = np.searchsorted(self.s, self.s + self.arm / 2, "right")
        most = [np.abs(turn[a:b]).max() for a, b in zip(low, high, strict=True)]
        peak = likely & (np.abs(turn) >= most)
        corner: Bools = peak[self.first : self.first + self.n]
        if not self.closed:
            corner[0] = True
        return corner

    def _slope(self, a: Ints, b: Ints) -> tuple[Floats, Floats]:
        """Directions (v, 2) of the straight lines of least squares through vertices a … b, and their standard
        deviations (v,).
        """
        # Differences of running sums: the wider numbers leave them exact enough however long the line is.
        along, (across, down) = self.s.astype(np.longdouble), (self.z - self.z[:1]).astype(np.longdouble).T
        terms = np.stack([np.ones_like(along), along, along**2, across, down, along * across, along * down])
        sums = np.concatenate([np.zeros((7, 1), np.longdouble), np.cumsum(terms, axis=1)], axis=1)
        n, s, ss, x, y, sx, sy = sums[:, b + 1] - sums[:, a]
        slope = np.stack([n * sx - s * x, n * sy - s * y], axis=1).astype(float)
        length = np.linalg.norm(slope, axis=1, keepdims=True)
        doubt = self.sigma / np.sqrt(np.maximum((ss - s * s / n).astype(float), 1e-300))
        return np.asarray(slope / np.maximum(length, 1e-300)), doubt

    def tangents(self, corner: Bools) -> tuple[Floats, Floats]:
        """By parabolas of least squares over an arm on either side, never over a corner."""
        laps = 3 if self.closed else 1
        marked = np.tile(corner, laps)
        if not self.closed:
            marked = np.append(marked, True)
        stops = np.unique(np.concatenate([[0], np.flatnonzero(marked), [len(self.s) - 1]]))
        into, out_of = np.zeros((len(self.s), 2)), np.zeros((len(self.s), 2))
        for a, b in itertools.pairwise(stops.tolist()):
            if b < self.first or a >= self.first + self.n:
                continue  # in another lap altogether
            s, z = self.s[a : b + 1], self.z[a : b + 1]
            for k in range(b - a + 1):
                low, high = max(s[0], s[k] - self.arm), min(s[-1], s[k] + self.arm)
                low, high = max(s[0], min(low, high - 1.5 * self.arm)), min(s[-1], max(high, low + 1.5 * self.arm))
                i, j = np.searchsorted(s, [low, high + 1e-12]).tolist()
                i, j = min(i, max(0, k - 2)), max(j, min(len(s), k + 3))
                t = s[i:j] - s[k]
                basis = np.stack([np.ones_like(t), t, t * t], axis=1)[:, : min(3, max(2, len(t) - 2))]
                way = np.linalg.lstsq(basis, z[i:j], rcond=None)[0][1]
                way = way / max(float(np.linalg.norm(way)), 1e-300)
                if k > 0:
                    into[a + k] = way
                if k < b - a:
                    out_of[a + k] = way
        rows = np.arange(self.first, self.first + self.n)
        last = self.first + self.n if not self.closed else self.first
        into, out_of = into[np.append(rows, last)], out_of[np.append(rows, last)]
        if not self.closed:
            into[0], out_of[-1] = out_of[0], into[-1]
        return into, out_of
