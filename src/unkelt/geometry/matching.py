"""Counters before and after a change, matched one to one: which are kept, which closed, and which are new."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely


@dataclass(frozen=True, slots=True)
class Matched:
    """`kept` pairs of indices (before, after); `closed` holds counters that are gone, and `new` those that came, as
    polygons.
    """

    kept: tuple[tuple[int, int], ...]
    closed: tuple[shapely.Polygon, ...]
    new: tuple[shapely.Polygon, ...]

    def __add__(self, other: Matched) -> Matched:
        """Those of two outlines together; the indices in `kept` are then those of each outline by itself."""
        return Matched(self.kept + other.kept, self.closed + other.closed, self.new + other.new)


NONE = Matched((), (), ())


def match_counters(before: Sequence[shapely.Polygon], after: Sequence[shapely.Polygon], sliver_mm2: float) -> Matched:
    """Pairs each counter with the one that has most of it afterwards; each counts once.

    Two counters that have no more than `sliver_mm2` in common are different ones. A counter that is cut in two is one
    kept and one new; two that run together are one kept and one closed.
    """
    old, new = np.array(before, object), np.array(after, object)
    if not len(old) or not len(new):
        return Matched((), tuple(before), tuple(after))
    first, second = shapely.STRtree(new).query(old, predicate="intersects")
    common = shapely.area(shapely.intersection(old[first], new[second]))
    pairs: dict[int, int] = {}
    taken: set[int] = set()
    for index in np.argsort(-common, kind="stable").tolist():
        i, j = int(first[index]), int(second[index])
        if common[index] > sliver_mm2 and i not in pairs and j not in taken:
            pairs[i] = j
            taken.add(j)
    return Matched(
        tuple(sorted(pairs.items())),
        tuple(hole for i, hole in enumerate(before) if i not in pairs),
        tuple(hole for j, hole in enumerate(after) if j not in taken),
    )
