"""Stretches that two paths have in common: found on fine polylines, cut exactly on the curves."""

from __future__ import annotations

import itertools
from collections.abc import Callable

import numpy as np
import shapely

from unkelt.geometry.arc_length import Along
from unkelt.geometry.path import Bools, Floats, Path, concat
from unkelt.geometry.region import prepared

Stretch = tuple[float, float]
"""From and to, in mm along a subpath."""

PRECISION_MM = 1e-4
"""How exactly the ends of a stretch are found."""


def common_line(
    one: shapely.Geometry, other: shapely.Geometry, within_mm: float, least_mm: float
) -> shapely.MultiLineString:
    """The stretches of the other line that run within `within_mm` of the first for at least `least_mm`.

    Lines that only cross come near each other for a few times that distance, so `least_mm` must be well above it.
    """
    near = shapely.intersection(other, one.buffer(within_mm, quad_segs=4))
    whole = shapely.line_merge(shapely.union_all([p for p in shapely.get_parts(near) if p.geom_type == "LineString"]))
    long = [part for part in shapely.get_parts(whole) if part.length >= least_mm]
    return shapely.multilinestrings(long) if long else shapely.MultiLineString()


def stretches_near(subpath: Path, line: shapely.Geometry, within_mm: float, least_mm: float) -> list[Stretch]:
    """Where a single subpath runs within a distance of a line for long enough; round the start of a closed one in one
    piece.
    """
    along = Along.of(subpath)
    own = prepared(line)

    def near(at: Floats) -> Bools:
        return np.asarray(shapely.dwithin(shapely.points(along.places(at)), own, within_mm))

    found = _stretches_where(along, near, least_mm / 4, bool(subpath.closed[0]))
    nodes = np.concatenate([[0.0], along.ends])

    def on_node(distance: float) -> float:
        """A stretch that ends within reach of a node ends there: it overshot by the distance that counts as near."""
        node = float(nodes[np.argmin(np.abs(nodes - distance % along.length))])
        return (
            distance - distance % along.length + node
            if abs(distance % along.length - node) <= 2 * within_mm
            else distance
        )

    found = [(on_node(start), on_node(stop)) for start, stop in found]
    return [(start, stop) for start, stop in found if stop - start >= least_mm]


def stretches_inside(subpath: Path, area: shapely.Geometry, step_mm: float) -> list[Stretch]:
    """Where a single subpath runs inside an area; a stretch shorter than the step may be missed."""
    along = Along.of(subpath)
    own = prepared(area)

    def inside(at: Floats) -> Bools:
        return np.asarray(shapely.contains_xy(own, *along.places(at).T))

    return _stretches_where(along, inside, step_mm, bool(subpath.closed[0]))


def _stretches_where(along: Along, where: Callable[[Floats], Bools], step_mm: float, closed: bool) -> list[Stretch]:
    """The stretches on which something is so, told every step and then found exactly."""
    count = max(64, int(np.ceil(along.length / step_mm)))
    places = np.linspace(0, along.length, count + 1)
    flags = where(places)
    found: list[Stretch] = []
    edges = np.flatnonzero(np.diff(np.concatenate([[False], flags, [False]]).astype(np.int8)))
    for first, after in zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True):
        start = places[0] if first == 0 else _edge(where, places[first - 1], places[first])
        stop = places[-1] if after > count else _edge(where, places[after], places[after - 1])
        found.append((float(start), float(stop)))
    if len(found) > 1 and closed and found[0][0] == 0 and found[-1][1] == places[-1]:
        found = [(found[-1][0], found[0][1] + along.length), *found[1:-1]]
    return found


SECTIONS = 16
"""In so many parts a piece is cut at once where the edge of a stretch lies in it."""


def _edge(near: Callable[[Floats], Bools], outside: float, inside: float) -> float:
    """Where it becomes true between a place that isn't near and one that is."""
    while abs(inside - outside) > PRECISION_MM:
        places = np.linspace(outside, inside, SECTIONS + 1)
        last_outside = int(np.flatnonzero(~np.append(near(places[1:-1]), True)).max(initial=-1)) + 1
        outside, inside = float(places[last_outside]), float(places[last_outside + 1])
    return inside


def without_stretches(subpath: Path, stretches: list[Stretch]) -> Path:
    """What is left of a single subpath, as open subpaths; the whole subpath where there is nothing to take out."""
    if not stretches:
        return subpath
    along = Along.of(subpath)
    ordered = sorted(stretches)
    total, closed = along.length, bool(subpath.closed[0])
    kept: list[Stretch] = [(a[1], b[0]) for a, b in itertools.pairwise(ordered)]
    if closed:
        kept.append((ordered[-1][1], ordered[0][0] + total))
    else:
        kept += [(0.0, ordered[0][0]), (ordered[-1][1], total)]
    return concat([_stretch(along, start, stop) for start, stop in sorted(kept) if stop - start > 2 * PRECISION_MM])


def _stretch(along: Along, start: float, stop: float) -> Path:
    total = along.length
    if start >= total:
        return along.stretch(start - total, stop - total)
    if stop <= total + PRECISION_MM:
        return along.stretch(start, min(stop, total))
    first, second = along.stretch(start, total), along.stretch(0.0, stop - total)
    return Path(
        np.concatenate([first.points, second.points]),
        np.concatenate([first.degrees, second.degrees]),
        np.zeros(1, np.intp),
        np.zeros(1, bool),
    )
