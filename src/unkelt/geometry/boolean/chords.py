"""Stretches that lie aside: so far from every other line that areas may be judged by their chords instead.

A run of segments keeps to the hull of its nodes and handles, and its chord does too. Where no other line comes into
that hull, putting the chord for the run changes every area that it bounds by the same piece, and no piece, counter or
crossing. So an operation and its proof need fine polylines only near the places where lines meet.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from unkelt.geometry.alike import PLACES, seen_from_first, shape_keys
from unkelt.geometry.boolean.hulls import Hulls
from unkelt.geometry.boolean.row_index import RowIndex
from unkelt.geometry.boolean.stretches import CHORD, GOES_ON, QUARTERS, SINGLE, Marks, stretches
from unkelt.geometry.cache import Topic
from unkelt.geometry.flatten import Vertices, piece_counts
from unkelt.geometry.measure import halve
from unkelt.geometry.path import LINE, Floats, Geometries, Ints, Path, concat, raised, ranges
from unkelt.geometry.region import prepared

_ALONE: Topic[Marks] = Topic("what lies aside in a shape", 6_000_000, lambda marks: len(marks) + 200)
"""By segments, of which each is a byte."""


LEAST_STEPS = 8
"""Curves that take fewer are drawn finely from end to end."""


@dataclass(frozen=True, slots=True)
class Chorded:
    """Groups of outlines with chords for the runs that lie aside, and those runs, to be put back."""

    paths: list[Path]
    """One for each path of every group, one after the other."""
    marks: Marks
    """What is known of each of their segments."""
    curves: Floats
    degrees: NDArray[np.uint8]
    begins: Ints
    group_of: Ints
    apart_mm: float

    @classmethod
    def of(cls, groups: Sequence[Sequence[Path]], apart_mm: float) -> Chorded:
        """Of groups of outlines whose subpaths are closed; see `aside`."""
        paths = [path for group in groups for path in group]
        whole, marks = concat(paths), aside(groups, apart_mm)
        chosen, goes_on = (marks & CHORD) > 0, (marks & GOES_ON) > 0
        heads = np.flatnonzero(chosen & ~goes_on)
        curves, begins = whole.points[chosen], np.flatnonzero(~goes_on[chosen])
        stops = np.append(begins, len(curves))[1:]
        points, degrees = whole.points + 0.0, whole.degrees.copy()
        points[heads, 1], points[heads, 2:], degrees[heads] = curves[begins, 0], curves[stops - 1, 3:], LINE
        left = ~(chosen & goes_on)
        counts = np.add.reduceat(left, whole.starts, dtype=np.intp) if len(whole) else whole.starts
        drawn = Path(points[left], degrees[left], np.cumsum(counts) - counts, whole.closed)
        sizes = [sum(len(path.points) for path in group) for group in groups]
        group_of = np.repeat(np.arange(len(groups)), sizes)[heads]
        paths = drawn.split(list(map(len, paths)))
        return cls(paths, marks[left], curves, whole.degrees[chosen], begins, group_of, apart_mm)

    def restored(self, results: Sequence[Path], filled: Geometries, union: bool = False) -> list[Path | None]:
        """What was made of each group, with runs for chords; None where a chord bounds it that isn't there as it was,
        or, of a `union`, isn't inside it either.

        `filled` are the areas of the results, by polylines that leave them by no more than a quarter of `apart_mm`, or
        only where nothing comes near.
        """
        whole, sizes = concat(results), [len(path.points) for path in results]
        group_of = np.repeat(np.arange(len(results)), sizes)
        lengths = np.diff(np.append(self.begins, len(self.curves)))
        ends = np.stack([self.curves[self.begins, 0], self.curves[self.begins + lengths - 1, 3]], axis=1)
        known = RowIndex(np.concatenate([ends, ends[:, ::-1]]), np.tile(self.group_of, 2))
        lines = np.flatnonzero(whole.degrees == LINE)
        place = known.find(whole.points[lines][:, ::3] + 0.0, group_of[lines])
        lines, place = lines[place >= 0], place[place >= 0]
        run, back = place % max(len(ends), 1), place >= len(ends)

        covered = np.ones(len(ends), bool)
        covered[run] = False
        group_of, middle = self.group_of[covered], shapely.points(ends[covered].mean(axis=1))
        # No line comes so near to a chord that isn't its own.
        wrong = shapely.dwithin(prepared(shapely.boundary(filled))[group_of], middle, self.apart_mm / 2)
        if union:
            wrong |= ~shapely.contains(prepared(filled)[group_of], middle)
        lost = set(group_of[wrong].tolist())

        counts = np.ones(len(whole.points), np.intp)
        counts[lines] = lengths[run]
        first = np.cumsum(counts) - counts
        points, degrees = np.repeat(whole.points, counts, axis=0), np.repeat(whole.degrees, counts)
        ordered = ranges(self.begins[run], lengths[run])
        turned = np.repeat(back, lengths[run])
        mirrored = np.repeat(2 * self.begins[run] + lengths[run] - 1, lengths[run]) - ordered
        source = np.where(turned, mirrored, ordered)
        put = ranges(first[lines], lengths[run])
        curves = self.curves[source]
        curves[turned] = curves[turned, ::-1]
        points[put] = curves
        degrees[put] = self.degrees[source]
        starts = first[whole.starts] if len(whole) else whole.starts
        drawn = Path(points, degrees, starts, whole.closed).split(list(map(len, results)))
        return [None if group in lost else path for group, path in enumerate(drawn)]


def aside(groups: Sequence[Sequence[Path]], apart_mm: float) -> Marks:
    """Which segments of the paths of every group, one after the other, are of runs that lie aside.

    The hull of such a run's nodes and handles stays further than `apart_mm` from those of all other runs and segments
    of the group; it meets those of its neighbours in their common node alone, and they are longer than that. Such a run
    doesn't cross itself. Subpaths are closed.
    """
    paths = [path for group in groups for path in group]
    if not paths:
        return np.zeros(0, np.uint8)
    return _looked_at(paths, concat(paths), list(map(len, groups)), apart_mm)[0]


def neighbours(paths: Sequence[Path], whole: Path, apart_mm: float) -> tuple[Marks, tuple[Ints, Ints]]:
    """As `aside`, of one group, which together is `whole`; and the pairs i < j of segments of different paths whose
    hulls are no further apart than that.
    """
    return _looked_at(paths, whole, [len(paths)], apart_mm)


def _looked_at(
    paths: Sequence[Path], whole: Path, group_sizes: Sequence[int], apart_mm: float
) -> tuple[Marks, tuple[Ints, Ints]]:
    """What lies aside, and the pairs of segments of different paths of a group whose hulls meet."""
    keys = [(key, apart_mm) for key in shape_keys(paths)]
    marks = np.concatenate(
        _ALONE.get_many(keys, lambda places: stretches([_rounded(paths[place]) for place in places], apart_mm))
    )
    path_of = np.repeat(np.arange(len(paths)), [len(path.points) for path in paths])
    group_of = np.repeat(np.arange(len(group_sizes)), group_sizes)[path_of]
    begins = np.flatnonzero((marks & GOES_ON) == 0)
    single = Hulls.single(whole.points)
    hulls = single.joined(begins)
    i, j = hulls.pairs_between(path_of[begins], group_of[begins], apart_mm)

    # Of runs that something comes near, each segment stands for itself.
    near = _segments_meet(single, hulls, i, j, apart_mm)
    broken = np.unique(np.append(i, j))
    members = ranges(begins[broken], hulls.counts[broken])
    marks[members] = np.where(marks[members] & SINGLE, SINGLE | CHORD, sum(QUARTERS))
    for each in near:
        marks[each] &= ~np.uint8(CHORD | GOES_ON)
    return marks | _near_quarters(whole, *near, apart_mm), near


def _rounded(path: Path) -> Path:
    """As its key knows it, so that copies of a shape have the same marks whichever of them is looked at first. The
    rounding is far below the distance that is asked for.
    """
    return Path(seen_from_first(path.points, PLACES), path.degrees, path.starts, path.closed)


def drawn_near(path: Path, marks: Marks, chord_mm: float) -> Vertices:
    """Vertices that draw a path, of whose segments that is known, finely with that chord error where something comes
    near, and by chords elsewhere.
    """
    counts = piece_counts(path, chord_mm)
    quartered = counts >= LEAST_STEPS
    counts[quartered] += -counts[quartered] % 4
    every = Vertices.even(counts)
    places = 4 * every.t
    fine = (marks[every.segment] & np.array(QUARTERS, np.uint8)[places.astype(np.intp)]) > 0
    kept = fine | ~quartered[every.segment] | (places % 1 == 0)
    return Vertices(every.segment[kept], every.t[kept])


def _near_quarters(path: Path, one: Ints, other: Ints, apart_mm: float) -> Marks:
    """Which quarters of segments come near to those of the other segment of a pair."""
    segments, place = np.unique(np.append(one, other), return_inverse=True)
    halves = np.stack(halve(raised(path.points[segments], path.degrees[segments])), axis=1).reshape(-1, 4, 2)
    single = Hulls.single(np.stack(halve(halves), axis=1).reshape(-1, 4, 2))
    hulls = single.joined(4 * np.arange(len(segments)))
    near = np.unique(np.append(*_segments_meet(single, hulls, place[: len(one)], place[len(one) :], apart_mm)))
    marks = np.zeros(len(path.points), np.uint8)
    for quarter, mark in enumerate(QUARTERS):
        marks[segments[near[near % 4 == quarter] // 4]] |= mark
    return marks


def _segments_meet(single: Hulls, hulls: Hulls, i: Ints, j: Ints, apart_mm: float) -> tuple[Ints, Ints]:
    """The pairs of single segments that meet, of pairs of runs of them that do."""
    counts, begins = hulls.counts, hulls.begins
    pairs = counts[i] * counts[j]
    step = ranges(np.zeros(len(i), np.intp), pairs)
    across = np.repeat(counts[j], pairs)
    one, other = np.repeat(begins[i], pairs) + step // across, np.repeat(begins[j], pairs) + step % across
    close = single.boxes_meet(one, other, apart_mm)
    one, other = one[close], other[close]
    meet = single.meet(one, other, apart_mm)
    return one[meet], other[meet]
