"""Which stretches of outlines come near each other, by the hulls of their nodes and handles: a segment keeps to its
hull, and a run of segments to that of them all.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from unkelt.geometry.path import Bools, Floats, Ints, ranges

ROUNDING_MM = 1e-6
"""Boxes moved to another place reach so much further."""


@dataclass(frozen=True, slots=True)
class Hulls:
    """Of runs of segments, one after the other: nodes and handles (n, 4, 2) of all segments, and where each run
    begins.
    """

    points: Floats
    begins: Ints
    low: Floats
    """(k, 2) least x, y of each run."""
    high: Floats

    @classmethod
    def of(cls, points: Floats, begins: Ints) -> Hulls:
        """Of nodes and handles (n, 4, 2), those from each of `begins` on together."""
        return cls.single(points).joined(begins)

    @classmethod
    def single(cls, points: Floats) -> Hulls:
        """Of each segment by itself."""
        return cls(points, np.arange(len(points)), *extremes(points.transpose(1, 0, 2)))

    def joined(self, begins: Ints) -> Hulls:
        """Of runs of these, which are of single segments."""
        if len(begins) == len(self.points):
            return self
        low, high = np.minimum.reduceat(self.low, begins), np.maximum.reduceat(self.high, begins)
        return Hulls(self.points, begins, low, high)

    @property
    def counts(self) -> Ints:
        """(k,) segments of each run."""
        return np.diff(np.append(self.begins, len(self.points)))

    def chords(self) -> tuple[Floats, Floats]:
        """Where each run starts and ends (k, 2)."""
        return self.points[self.begins, 0], self.points[self.begins + self.counts - 1, 3]

    def boxes_meet(self, i: Ints, j: Ints, apart_mm: float) -> Bools:
        """Whether boxes of pairs come as near as that."""
        meet = np.ones(len(i), bool)
        for low, high in zip(self.low.T, self.high.T + apart_mm, strict=True):
            meet &= (low[i] <= high[j]) & (low[j] <= high[i])
        return meet

    def meet(self, i: Ints, j: Ints, apart_mm: float) -> Bools:
        """Whether no straight line along a chord parts the hulls of pairs by more than that."""
        stops, meet = np.append(self.begins[1:], len(self.points)), np.ones(len(i), bool)
        for mine in (i, j):
            x, y = (self.points[stops[mine] - 1, 3] - self.points[self.begins[mine], 0]).T
            axis = np.stack([-y, x], axis=1) / np.maximum(np.hypot(x, y), 1e-300)[:, None]
            (low, high), (other_low, other_high) = (self._extent(each, stops[each], axis) for each in (i, j))
            meet &= (low <= other_high + apart_mm) & (other_low <= high + apart_mm)
        return meet

    def _extent(self, which: Ints, stops: Ints, axis: Floats) -> tuple[Floats, Floats]:
        """How far runs, which end there, reach along an axis each."""
        counts = stops - self.begins[which]
        if counts.max(initial=1) == 1:
            return extremes(along(self.points[self.begins[which]], axis))
        low, high = extremes(along(self.points[ranges(self.begins[which], counts)], np.repeat(axis, counts, axis=0)))
        firsts = np.cumsum(counts) - counts
        return np.minimum.reduceat(low, firsts), np.maximum.reduceat(high, firsts)

    def pairs_within(self, path_of: Ints, apart_mm: float) -> tuple[Ints, Ints]:
        """Pairs i < j of runs of the same path (k,), numbered in order, that meet."""
        beside = self._beside_each_other(path_of, apart_mm)
        i, j = _near(self.low - apart_mm + beside, self.high + beside + ROUNDING_MM)
        chosen = (i < j) & (path_of[i] == path_of[j])
        i, j = i[chosen], j[chosen]
        real = self.boxes_meet(i, j, apart_mm)
        return self._meeting(i[real], j[real], apart_mm)

    def _beside_each_other(self, path_of: Ints, apart_mm: float) -> Floats:
        """(k, 2) what moves the runs of each path beside those of the one before. Paths as their shapes are known all
        begin at the origin: where they lie, thousands of them would meet.
        """
        firsts = np.flatnonzero(np.append(True, path_of[1:] != path_of[:-1])[: len(path_of)])
        if not len(firsts):
            return np.zeros((0, 2))
        left, right = np.minimum.reduceat(self.low[:, 0], firsts), np.maximum.reduceat(self.high[:, 0], firsts)
        room = right - left + 2 * apart_mm + 1
        across = np.repeat(np.cumsum(room) - room - left, np.diff(np.append(firsts, len(path_of))))
        return np.stack([across, np.zeros(len(across))], axis=1)

    def pairs_between(self, path_of: Ints, group_of: Ints, apart_mm: float) -> tuple[Ints, Ints]:
        """Pairs i < j of runs of different paths of one group that meet. Paths (k,) and groups (k,) are numbered in
        order.
        """
        near = self._reached(path_of, group_of, apart_mm)
        i, j = _near(self.low[near] - apart_mm, self.high[near])
        chosen = (i < j) & (path_of[near][i] != path_of[near][j])
        i, j = near[i[chosen]], near[j[chosen]]
        same = group_of[i] == group_of[j]
        return self._meeting(i[same], j[same], apart_mm)

    def _meeting(self, i: Ints, j: Ints, apart_mm: float) -> tuple[Ints, Ints]:
        meet = self.meet(i, j, apart_mm)
        return i[meet], j[meet]

    def _reached(self, path_of: Ints, group_of: Ints, apart_mm: float) -> Ints:
        """Runs that come into the box of another path of their group."""
        firsts = np.flatnonzero(np.append(True, path_of[1:] != path_of[:-1])[: len(path_of)])
        if len(firsts) < 2:
            return firsts[:0]
        low, high = np.minimum.reduceat(self.low, firsts) - apart_mm, np.maximum.reduceat(self.high, firsts)
        one, other = _near(low, high)
        group_of = group_of[firsts]
        chosen = (one != other) & (group_of[one] == group_of[other])
        one, other = one[chosen], other[chosen]
        counts = np.diff(np.append(firsts, len(path_of)))
        run, box = ranges(firsts[one], counts[one]), np.repeat(other, counts[one])
        inside = ((self.low[run] <= high[box]) & (self.high[run] >= low[box])).all(axis=1)
        return np.unique(run[inside])


def in_boxes(rings: Hulls, owner: Ints) -> tuple[Ints, Ints, Floats, Floats]:
    """Pairs of a ring and another owner (k,) in whose box it comes: the box around all rings of that owner, whose least
    and greatest x, y (p, 2) come with the pair. The rings of an owner follow each other.
    """
    firsts = np.flatnonzero(np.append(True, owner[1:] != owner[:-1])[: len(owner)])
    if not len(firsts):
        return firsts, firsts, rings.low, rings.high
    low, high = np.minimum.reduceat(rings.low, firsts), np.maximum.reduceat(rings.high, firsts)
    ring, box = shapely.STRtree(shapely.box(*low.T, *high.T)).query(shapely.box(*rings.low.T, *rings.high.T))
    foreign = owner[ring] != owner[firsts][box]
    ring, box = ring[foreign], box[foreign]
    return ring, owner[firsts][box], low[box], high[box]


def along(points: Floats, axis: Floats) -> Floats:
    """(4, n) how far nodes and handles (n, 4, 2) lie along each one's axis (n, 2)."""
    (x, y), (axis_x, axis_y) = points.transpose(2, 1, 0), axis.T
    return np.asarray(x * axis_x + y * axis_y)


def extremes(each: Floats) -> tuple[Floats, Floats]:
    """The least and the greatest of four; one after the other takes a fraction of the time of a reduction."""
    a, b, c, d = each
    return np.minimum(np.minimum(a, b), np.minimum(c, d)), np.maximum(np.maximum(a, b), np.maximum(c, d))


def _near(low: Floats, high: Floats) -> tuple[Ints, Ints]:
    """All pairs of boxes that meet, both ways, and each with itself."""
    shapes = shapely.box(*low.T, *high.T)
    i, j = shapely.STRtree(shapes).query(shapes)
    return i, j
