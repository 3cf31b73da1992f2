"""Segments that lie aside: so far from every other line that areas may be judged by their chords instead.

A segment keeps to the hull of its nodes and handles, and its chord does too. Where no other line comes into that hull, putting
the chord for the curve changes every area that the curve bounds by the same piece, and no piece, counter or crossing. So an
operation and its proof need fine polylines only near the places where lines meet.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from unkelt.geometry import hulls
from unkelt.geometry.known import Known
from unkelt.geometry.measure import end_tangents
from unkelt.geometry.memo import Memo, shape_keys
from unkelt.geometry.nesting import Geometries
from unkelt.geometry.path import LINE, Bools, Floats, Ints, Path, concat
from unkelt.geometry.region import prepared

SHORTEST_MM = 0.2
"""Curves with a shorter chord keep their shape: what little they enclose may be the whole of a counter."""

_ALONE: Memo[Bools] = Memo(2000)


def forget() -> None:
    """Empties what is remembered between calls, so that benchmarks measure all the work."""
    _ALONE.clear()


@dataclass(frozen=True, slots=True)
class Chorded:
    """Groups of outlines with chords for the curves that lie aside, and those curves, to be put back."""

    paths: list[Path]
    """One for each path of every group, one after the other."""
    curves: Floats
    degrees: NDArray[np.uint8]
    group_of: Ints
    apart_mm: float

    @classmethod
    def of(cls, groups: Sequence[Sequence[Path]], apart_mm: float) -> Chorded:
        """Of groups of outlines whose subpaths are closed; see `aside`."""
        paths = [path for group in groups for path in group]
        whole, chosen = concat(paths), np.concatenate([np.zeros(0, bool), *aside(groups, apart_mm)])
        sizes = [sum(len(path.points) for path in group) for group in groups]
        points, degrees = whole.points + 0.0, whole.degrees.copy()
        curves = points[chosen]
        points[chosen, 1], points[chosen, 2], degrees[chosen] = curves[:, 0], curves[:, 3], LINE
        group_of = np.repeat(np.arange(len(groups)), sizes)[chosen]
        drawn = Path(points, degrees, whole.starts, whole.closed).split(list(map(len, paths)))
        return cls(drawn, curves, whole.degrees[chosen], group_of, apart_mm)

    def restored(self, results: Sequence[Path], filled: Geometries, union: bool = False) -> list[Path | None]:
        """What was made of each group, with curves for chords; None where a chord bounds it that isn't there as it was, or,
        of a `union`, isn't inside it either.

        `filled` are the areas of the results, by polylines that leave them by no more than a quarter of `apart_mm`.
        """
        whole, counts = concat(results), [len(path.points) for path in results]
        group_of = np.repeat(np.arange(len(results)), counts)
        ends = self.curves[:, ::3]
        known = Known(np.concatenate([ends, ends[:, ::-1]]), np.tile(self.group_of, 2))
        lines = np.flatnonzero(whole.degrees == LINE)
        place = known.find(whole.points[lines][:, ::3] + 0.0, group_of[lines])
        lines, place = lines[place >= 0], place[place >= 0]
        points, degrees = whole.points.copy(), whole.degrees.copy()
        points[lines] = np.concatenate([self.curves, self.curves[:, ::-1]])[place]
        degrees[lines] = np.tile(self.degrees, 2)[place]
        covered = np.ones(len(self.curves), bool)
        covered[place % max(len(covered), 1)] = False
        group_of, middle = self.group_of[covered], shapely.points(ends[covered].mean(axis=1))
        # No line comes so near to a chord that isn't its own.
        wrong = shapely.dwithin(prepared(shapely.boundary(filled))[group_of], middle, self.apart_mm / 2)
        if union:
            wrong |= ~shapely.contains(prepared(filled)[group_of], middle)
        lost = set(group_of[wrong].tolist())
        drawn = Path(points, degrees, whole.starts, whole.closed).split(list(map(len, results)))
        return [None if group in lost else path for group, path in enumerate(drawn)]


def aside(groups: Sequence[Sequence[Path]], apart_mm: float) -> list[Bools]:
    """(n,) for each path of every group, one after the other: which of its segments are curves that lie aside.

    The hull of such a segment's nodes and handles stays further than `apart_mm` from the hulls of all other segments of the
    group; it meets those of its neighbours in their common node alone, and they are longer than that. Such a curve doesn't
    cross itself. Subpaths are closed.
    """
    paths = [path for group in groups for path in group]
    if not paths:
        return []
    keys = [(key, apart_mm) for key in shape_keys(paths)]
    whole = concat(paths)
    alone = np.concatenate(_ALONE.get_many(keys, lambda places: _alone([paths[place] for place in places], apart_mm)))
    path_of = np.repeat(np.arange(len(paths)), [len(path.points) for path in paths])
    group_of = np.repeat(np.arange(len(groups)), list(map(len, groups)))[path_of]
    crowded = np.zeros(len(path_of), bool)
    for near in hulls.meeting(whole.points, path_of, group_of, apart_mm):
        crowded[near] = True
    return np.split(alone & ~crowded, np.cumsum([len(path.points) for path in paths])[:-1])


def _alone(paths: Sequence[Path], apart_mm: float) -> list[Bools]:
    """Which segments of each path lie aside from the rest of it."""
    counts = [len(path.points) for path in paths]
    whole = concat(paths)
    points = whole.points
    path_of = np.repeat(np.arange(len(paths)), counts)
    following = whole.following()
    i, j = hulls.within_paths(points, path_of, apart_mm)
    crowded = np.zeros(len(points), bool)
    strangers = (following[i] != j) & (following[j] != i)
    crowded[i[strangers]] = crowded[j[strangers]] = True
    hinged = _hinged(whole, following, apart_mm)
    crowded[~hinged] = True
    crowded[following[~hinged]] = True
    good = (whole.degrees != LINE) & ~crowded & _runs_onward(points)
    return np.split(good, np.cumsum(counts)[:-1])


def _hinged(path: Path, following: Ints, apart_mm: float) -> Bools:
    """(n,) whether each segment and the next lie on different sides of a line through their common node, which they both meet
    in that node alone; neither is so short that it may be taken for noise.
    """
    points = path.points
    start, end = end_tangents(path)
    way = end + start[following]
    node = points[:, 3:]
    before = np.einsum("nkc,nc->nk", points[:, :3] - node, way)
    after = np.einsum("nkc,nc->nk", points[following, 1:] - node, way)
    short = np.abs(points - points[:, :1]).max(axis=(1, 2)) <= apart_mm
    on_before, on_after = (points[:, :3] == node).all(axis=2), (points[following, 1:] == node).all(axis=2)
    parted = ((before < 0) | on_before).all(axis=1) & ((after > 0) | on_after).all(axis=1)
    return np.asarray(parted & ~short & ~short[following])


def _runs_onward(points: Floats) -> Bools:
    """(n,) whether each control polygon never turns back along its chord, which is long enough: then neither does the curve."""
    chord = points[:, 3] - points[:, 0]
    steps = np.einsum("nkc,nc->nk", np.diff(points, axis=1), chord)
    return np.asarray((steps >= 0).all(axis=1) & (np.linalg.norm(chord, axis=1) > SHORTEST_MM))
