"""A glyph laid over outlines: where its boundary lies on their lines, or inside them where letters were welded."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
import scipy
import shapely

from unkelt.geometry.flatten import flatten
from unkelt.geometry.measure import bounds
from unkelt.geometry.path import Floats, Ints, Path
from unkelt.geometry.region import prepared, region
from unkelt.lettering.faces import Face
from unkelt.lettering.matches import Letterform
from unkelt.lettering.prints import em_path, readable, transform_of

NOISE_MM = 0.02
"""How far an outline may lie from its letter: what conversions round and safe steps move."""

LAID_EM = 0.002
"""A letter lies on an outline that is no farther from it than this share of its em, or twice the noise."""

HIDDEN_MOST = 0.65
"""A letter of which more than this is swallowed by its neighbours isn't named."""

MOST_PIECES = 40_000
SAMPLES = 160


class Target:
    """The outlines that letters are tried on: their lines as edges, and where material is."""

    def __init__(self, path: Path) -> None:
        self.path = path
        box = bounds(path) or (0.0, 0.0, 1.0, 1.0)
        self.chord = min(NOISE_MM / 16, math.hypot(box[2] - box[0], box[3] - box[1]) / 1000)
        vertices, owner = flatten(path, self.chord)
        same = owner[1:] == owner[:-1]
        self.starts, self.ends = vertices[:-1][same], vertices[1:][same]
        self.ring = owner[:-1][same]
        # Short pieces of the lines, found by their middles: a letter is tried at thousands of places.
        along = np.linalg.norm(self.ends - self.starts, axis=1)
        counts = np.maximum(1, np.ceil(along / max(along.sum() / MOST_PIECES, 4 * NOISE_MM))).astype(np.intp)
        edge = np.repeat(np.arange(len(counts)), counts)
        step = ((self.ends - self.starts) / counts[:, None])[edge]
        self._piece = (
            self.starts[edge] + (np.arange(len(edge)) - np.repeat(np.cumsum(counts) - counts, counts))[:, None] * step
        )
        self._step, self.edge_of_middles = step, edge
        self.middles = self._piece + step / 2
        self._longest = float(np.linalg.norm(step, axis=1).max(initial=0.0))
        self._tree = scipy.spatial.cKDTree(self.middles)
        self.material = prepared(region(path, False, self.chord))

    def edge_at(self, points: Floats) -> Ints:
        """The edge of the lines that is nearest to each point."""
        return np.asarray(self.edge_of_middles[self._tree.query(points)[1]]) if len(points) else np.zeros(0, np.intp)

    def away(self, points: Floats, limit: float) -> tuple[Floats, Floats]:
        """How far points (p, 2) lie from the lines, and the nearest places on them; of the two pieces whose middles are
        nearest, which is right wherever the distance is small against their length. What is farther away than `limit`
        isn't looked for, and counts as infinitely far.
        """
        reach = (limit + self._longest / 2) * (1 + 1e-9)
        nearest = np.asarray(self._tree.query(points, k=2, distance_upper_bound=reach)[1])
        missing = nearest == len(self._piece)
        nearest[missing] = 0
        start, along = self._piece[nearest], self._step[nearest]
        square = np.maximum((along**2).sum(axis=2), 1e-300)
        share = np.clip(((points[:, None] - start) * along).sum(axis=2) / square, 0, 1)
        foot = start + share[:, :, None] * along
        off = np.linalg.norm(points[:, None] - foot, axis=2)
        off[missing] = np.inf
        better = off.argmin(axis=1)
        rows = np.arange(len(points))
        return off[rows, better], foot[rows, better]


def laid(
    face: Face, glyph: int, a: complex, b: complex, target: Target, mirrored: bool
) -> tuple[Letterform, float, Floats] | None:
    """A glyph laid on the outlines where it fits: the form, how many mm of it lie on them, and points of its
    boundary.
    """
    ems, around = samples(face, glyph)
    ems = ems.conj() if mirrored else ems
    tolerance = max(2 * NOISE_MM, LAID_EM * abs(a))
    few = a * ems[:: SAMPLES // 20] + b
    off = target.away(np.stack([few.real, few.imag], axis=1), 8 * tolerance)[0]
    if (off <= 8 * tolerance).mean() < 0.8 * (1 - HIDDEN_MOST):
        return None
    points = away = np.zeros(0)
    for reach in (6 * tolerance, 2 * tolerance, tolerance):
        places = a * ems + b
        points = np.stack([places.real, places.imag], axis=1)
        away, foot = target.away(points, reach)
        near = away <= reach
        if near.sum() < max(6, (1 - HIDDEN_MOST) * len(ems)):
            return None
        # Least squares of a similarity: the nearest places on the outlines against the points in ems.
        to, mine = foot[near] @ np.array([1, 1j]), ems[near]
        centre, there = mine.mean(), to.mean()
        spread = (np.abs(mine - centre) ** 2).sum()
        if spread > 0:
            a = complex(((to - there) * (mine - centre).conj()).sum() / spread)
            b = complex(there - a * centre)
    places = a * ems + b
    points = np.stack([places.real, places.imag], axis=1)
    on = target.away(points, tolerance)[0] <= tolerance
    inside = shapely.contains_xy(target.material, points[~on, 0], points[~on, 1])
    if on.mean() < 1 - HIDDEN_MOST or on.sum() + inside.sum() < 0.985 * len(on):
        return None
    form = Letterform(glyph, readable(face)[glyph], transform_of(a, b, mirrored), float(1 - on.mean()))
    return form, float(on.mean() * around * abs(a)), points[on]


@lru_cache(maxsize=4096)
def samples(face: Face, glyph: int) -> tuple[np.ndarray, float]:
    """Places along a glyph's boundary in ems, as complex numbers, and its length."""
    vertices, owner = flatten(em_path(face, glyph), 2e-4)
    flat = shapely.multilinestrings(shapely.linestrings(vertices, indices=owner))
    points = shapely.get_coordinates(shapely.segmentize(flat, flat.length / SAMPLES))
    return points @ np.array([1, 1j]), float(flat.length)
