"""Which segments of an outline lie aside from the rest of it, and the runs they make: what `aside` asks of each by
itself.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from unkelt.geometry.boolean.hulls import Hulls, along, extremes
from unkelt.geometry.measure import end_tangents, signed_areas
from unkelt.geometry.path import LINE, Bools, Floats, Ints, Path, concat

SHORTEST_MM = 0.2
"""A run with a shorter chord keeps its shape, and so does a ring of which chords may leave less than the square of
that.
"""

ROUNDS = (1, 1, 0, 1)
"""Runs are joined in pairs so many times, beginning with the first of those that follow each other, or with the second.
"""

WORTH_IT = 0.2
"""A round that joins a smaller share of the runs is the last."""

Marks = NDArray[np.uint8]
"""(n,) what is known of each segment: the sum of the following."""

SINGLE = 1
"""A chord may stand for the segment."""

CHORD = 2
"""A chord may stand for its run."""

GOES_ON = 4
"""It is of the same run as the segment before it."""

QUARTERS = 8, 16, 32, 64
"""Something comes near that quarter of it, by the parameter; a chord may stand for each of the others."""


def stretches(paths: Sequence[Path], apart_mm: float) -> list[Marks]:
    """What is known of the segments of each path, whose subpaths are closed, while nothing else is near.

    The hull of a run stays further than `apart_mm` from those of all others of the path; it meets those of its
    neighbours in their common node alone, and they are longer than that. It doesn't cross itself: its control polygon
    never turns back along its chord.
    """
    whole, sizes = concat(paths), [len(path.points) for path in paths]
    path_of = np.repeat(np.arange(len(paths)), sizes)
    looked = _Outlines(whole, path_of, apart_mm)
    begins = np.ones(len(whole.points), bool)
    clear = ~looked.crowded(begins)
    for first in ROUNDS:
        longer = _paired(whole, begins, clear, first)
        firsts = np.flatnonzero(longer)
        bad = np.repeat(looked.crowded(longer) | ~looked.onward(longer), np.diff(np.append(firsts, len(begins))))
        before, begins = np.count_nonzero(begins), np.where(bad, begins, longer)
        if np.count_nonzero(begins) > (1 - WORTH_IT) * before:
            break
    while True:  # what was joined may have come too near to what was left apart
        counts = np.diff(np.append(np.flatnonzero(begins), len(begins)))
        bad = looked.crowded(begins) & (counts > 1)
        if not bad.any():
            break
        begins |= np.repeat(bad, counts)
    firm = np.repeat(~_may_vanish(whole, begins), whole.counts)
    single = clear & firm & (whole.degrees != LINE) & looked.onward(np.ones(len(begins), bool))
    long = np.repeat(counts > 1, counts)
    chord = np.where(long, firm, single)
    marks = single * SINGLE + chord * CHORD + (long & ~begins & firm) * GOES_ON + ~single * sum(QUARTERS)
    return np.split(marks.astype(np.uint8), np.cumsum(sizes)[:-1])


def _paired(path: Path, begins: Bools, clear: Bools, which: int) -> Bools:
    """Where runs begin when each second of those that follow each other, and may be joined, goes on with the one before
    it.
    """
    firsts = np.flatnonzero(begins)
    free = np.logical_and.reduceat(clear, firsts) if len(firsts) else clear
    first = np.zeros(len(begins), bool)
    first[path.starts] = True
    alone = ~free | ~np.append(False, free[:-1]) | first[firsts]
    place = np.arange(len(firsts))
    second = (place - np.maximum.accumulate(np.where(alone, place, 0))) % 2 == which
    second &= ~alone
    longer = begins.copy()
    longer[firsts[second]] = False
    return longer


class _Outlines:
    """Outlines whose segments are looked at as runs that begin here or there."""

    def __init__(self, path: Path, path_of: Ints, apart_mm: float) -> None:
        self._path, self._path_of, self._apart_mm = path, path_of, apart_mm
        self._following = path.following()
        start, end = end_tangents(path)
        on = start[self._following]
        turns_back = np.abs(end + on).max(axis=1, keepdims=True) < 1e-6
        self._way = np.where(turns_back, on, end + on)

    def crowded(self, begins: Bools) -> Bools:
        """(k,) the runs whose hulls come near another's, or into a neighbour's."""
        firsts = np.flatnonzero(begins)
        hulls = Hulls.of(self._path.points, firsts)
        after = self._after(begins, hulls)
        i, j = hulls.pairs_within(self._path_of[firsts], self._apart_mm)
        strangers = (after[i] != j) & (after[j] != i)
        result = np.zeros(len(firsts), bool)
        result[i[strangers]] = result[j[strangers]] = True
        hinged = self._hinged(hulls, after)
        result[~hinged] = True
        result[after[~hinged]] = True
        return result

    def onward(self, begins: Bools) -> Bools:
        """(k,) whether each run's control polygon never turns back along its chord, which is long enough."""
        hulls = Hulls.of(self._path.points, np.flatnonzero(begins))
        start, end = hulls.chords()
        chord = end - start
        a, b, c, d = along(self._path.points, np.repeat(chord, hulls.counts, axis=0))
        onward = (
            np.logical_and.reduceat((a <= b) & (b <= c) & (c <= d), hulls.begins) if len(chord) else np.zeros(0, bool)
        )
        return np.asarray(onward & (np.linalg.norm(chord, axis=1) > SHORTEST_MM))

    def _after(self, begins: Bools, hulls: Hulls) -> Ints:
        """(k,) the run after each."""
        run_of = np.cumsum(begins) - 1
        return np.asarray(run_of[self._following[hulls.begins + hulls.counts - 1]])

    def _hinged(self, hulls: Hulls, after: Ints) -> Bools:
        """(k,) whether each run and the next lie on different sides of a line through their common node, which they
        both meet in that node alone; neither is so short that it may be taken for noise.
        """
        if not len(after):
            return np.zeros(0, bool)
        last = hulls.begins + hulls.counts - 1
        node, way = self._path.points[last, 3], self._way[last]
        node_before, way_before = np.empty_like(node), np.empty_like(way)
        node_before[after], way_before[after] = node, way
        low, high = self._turns(hulls, node, -way)
        low_behind, high_behind = (each[after] for each in self._turns(hulls, node_before, way_before))
        parted = np.maximum(high, high_behind) - np.minimum(low, low_behind) < np.pi - 1e-6
        short = (hulls.high - hulls.low).max(axis=1) <= self._apart_mm
        return np.asarray(parted & ~short & ~short[after])

    def _turns(self, hulls: Hulls, node: Floats, way: Floats) -> tuple[Floats, Floats]:
        """(k,) the range of angles, from that way, at which a run's nodes and handles are seen from the node."""
        counts = hulls.counts
        away = self._path.points - np.repeat(node, counts, axis=0)[:, None]
        way = np.repeat(way, counts, axis=0)
        turn = np.arctan2(along(away, np.stack([-way[:, 1], way[:, 0]], axis=1)), along(away, way) + 0.0)
        low, high = extremes(turn)
        return np.minimum.reduceat(low, hulls.begins), np.maximum.reduceat(high, hulls.begins)


def _may_vanish(path: Path, begins: Bools) -> Bools:
    """(s,) rings of which chords, for runs as wholes or for their segments, may leave hardly anything."""
    if not len(path):
        return np.zeros(0, bool)
    areas, firsts = signed_areas(path), np.flatnonzero(begins)
    outward = np.repeat(np.sign(areas), path.counts)
    whole, single = (
        np.maximum(signed_areas(Path(path.points, path.degrees, each, np.zeros(len(each), bool))) * outward[each], 0)
        for each in (firsts, np.arange(len(begins)))  # each closed by its chord
    )
    lost = np.maximum(whole, np.add.reduceat(single, firsts))
    ring = np.repeat(np.arange(len(path)), path.counts)[firsts]
    return np.asarray(np.abs(areas) - np.bincount(ring, lost, len(path)) < SHORTEST_MM**2)
