"""The area a path fills, by the second engine (GEOS): pieces, counters, winding and nesting.

Everything here works on finely flattened rings. Containment and winding are decided here and nowhere else.
"""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass
from functools import lru_cache
from threading import Lock

import numpy as np
import shapely
from cachetools import LRUCache
from numpy.typing import NDArray

from unkelt.geometry.flatten import flatten
from unkelt.geometry.path import Floats, Ints, Path, concat
from unkelt.tolerance import STANDARD


@dataclass(frozen=True, slots=True)
class Nesting:
    """How rings that don't cross lie in each other.

    `containers[i]` are the rings around ring i, outermost first; `touching` says whether any two meet in a point;
    `sense[i]` is +1 when ring i runs counter-clockwise as seen, else -1.
    """

    containers: tuple[tuple[int, ...], ...]
    touching: bool
    sense: Ints

    def depths(self) -> Ints:
        """(s,) how many rings lie around each."""
        return np.array([len(around) for around in self.containers], np.intp)

    def windings(self) -> Ints:
        """(s,) winding number just inside each ring."""
        return np.array(
            [self.sense[i] + sum(int(self.sense[j]) for j in around) for i, around in enumerate(self.containers)],
            np.intp,
        )

    def rules_agree(self) -> bool:
        """Whether nonzero and even-odd fill the same."""
        return bool(((self.windings() != 0) == (self.depths() % 2 == 0)).all())


def fill_rings(path: Path, chord_mm: float) -> tuple[list[Floats], list[int]]:
    """Closed vertex rings of the subpaths that can enclose area, and the subpath each comes from.

    An open subpath is closed by a chord, as filling does.
    """
    if not len(path):
        return [], []
    vertices, owner = flatten(path, chord_mm)
    again = np.append(False, (vertices[1:] == vertices[:-1]).all(axis=1) & (owner[1:] == owner[:-1]))
    vertices, owner = vertices[~again], owner[~again]
    stops = np.flatnonzero(np.append(owner[1:] != owner[:-1], True)) + 1
    starts = np.append(0, stops[:-1])
    apart = (vertices[starts] != vertices[stops - 1]).any(axis=1)
    vertices = np.insert(vertices, stops[apart], vertices[starts[apart]], axis=0)
    owner = np.insert(owner, stops[apart], owner[starts[apart]])
    counts = np.bincount(owner, minlength=len(path))
    rings = np.split(vertices, np.cumsum(counts)[:-1])
    owners = np.flatnonzero(counts >= 4).tolist()
    rings = [rings[index] for index in owners]
    for index in np.flatnonzero(~shapely.is_simple(_linear(rings))).tolist():
        rings[index] = _without_micro_loops(rings[index])
    return rings, owners


def _linear(rings: list[Floats]) -> NDArray[np.object_]:
    if not rings:
        return np.zeros(0, object)
    return shapely.linearrings(np.concatenate(rings), indices=np.repeat(np.arange(len(rings)), list(map(len, rings))))


def _without_micro_loops(ring: Floats) -> Floats:
    """A ring that crosses itself by no more than rounding, without that loop; any other ring as it is.

    Where two segments meet in a sharp inner corner, rounding of their nodes lets them cross by less than a sliver.
    """
    parts = sorted(shapely.get_parts(shapely.make_valid(shapely.Polygon(ring))), key=lambda part: -part.area)
    x, y = ring.T
    signed = float((x[:-1] * y[1:] - x[1:] * y[:-1]).sum()) / 2
    whole = parts[0]
    if whole.geom_type != "Polygon":
        return ring
    outer = shapely.Polygon(whole.exterior)
    if max(outer.area - whole.area, abs(outer.area - abs(signed))) > STANDARD.sliver_mm2:
        return ring
    cleaned = shapely.get_coordinates(whole.exterior)
    return cleaned if bool(whole.exterior.is_ccw) == (signed > 0) else cleaned[::-1]


def nest(rings: list[Floats]) -> Nesting | None:
    """The nesting of simple rings, or None where one crosses itself or another, or is there twice.

    Rings may touch in single points. Which of two holds the other is told by a point inside the smaller.
    """
    if not rings:
        return Nesting((), False, np.zeros(0, np.intp))
    shapes = _linear(rings)
    if not shapely.is_simple(shapes).all():
        return None
    # GEOS calls a ring counter-clockwise with y up; we look at it with y down.
    sense = np.where(shapely.is_ccw(shapes), -1, 1)
    if len(rings) == 1:
        return Nesting(((),), False, sense)
    polygons = shapely.polygons(shapes)
    area = shapely.area(polygons)
    first, second = _meeting(shapes)
    touching = bool(len(first))
    if touching:
        common = shapely.area(shapely.intersection(polygons[first], polygons[second]))
        smaller = np.minimum(area[first], area[second])
        noise = 1e-9 * smaller
        apart, inside = common <= noise, common >= smaller - noise
        alike = np.abs(area[first] - area[second]) <= noise
        if not (apart | (inside & ~alike)).all():
            return None
    within = shapely.point_on_surface(polygons) if touching else shapely.points([ring[0] for ring in rings])
    inner, outer = _lying_in(within, polygons)
    containers: list[list[int]] = [[] for _ in rings]
    for i, j in zip(inner.tolist(), outer.tolist(), strict=True):
        if i != j and area[j] > area[i]:
            containers[i].append(j)
    for around in containers:
        around.sort(key=lambda j: -area[j])
    return Nesting(tuple(map(tuple, containers)), touching, sense)


def cross_by_rounding(rings: list[Floats]) -> bool:
    """Whether rings that don't nest exactly cross themselves and each other by no more than slivers.

    So a weld's result may look where several of its nodes meet: no tool sees it, and no weld makes it better.
    """
    shapes = [shapely.make_valid(shapely.Polygon(ring)) for ring in rings]
    for ring, shape in zip(rings, shapes, strict=True):
        x, y = ring.T
        signed = abs(float((x[:-1] * y[1:] - x[1:] * y[:-1]).sum())) / 2
        if abs(signed - shape.area) > STANDARD.sliver_mm2:
            return False
    first, second = shapely.STRtree(shapes).query(shapes, predicate="intersects")
    for i, j in zip(first.tolist(), second.tolist(), strict=True):
        if i < j:
            common = shapes[i].intersection(shapes[j]).area
            smaller = min(shapes[i].area, shapes[j].area)
            alike = abs(shapes[i].area - shapes[j].area) <= STANDARD.sliver_mm2
            inside = smaller - common <= STANDARD.sliver_mm2 and not alike
            if common > STANDARD.sliver_mm2 and not inside:
                return False
    return True


FEW_RINGS = 24
"""Up to so many rings, all pairs of boxes are compared; beyond that a tree finds those that meet."""


def _meeting(shapes: NDArray[np.object_]) -> tuple[Ints, Ints]:
    """Pairs i < j of shapes that share a point."""
    if len(shapes) > FEW_RINGS:
        first, second = shapely.STRtree(shapes).query(shapes, predicate="intersects")
        return first[first < second], second[first < second]
    low, high = _boxes(shapes)
    first, second = np.nonzero(np.triu(_overlap(low, high, low, high), 1))
    real = shapely.intersects(shapes[first], shapes[second])
    return first[real], second[real]


def _lying_in(points: NDArray[np.object_], polygons: NDArray[np.object_]) -> tuple[Ints, Ints]:
    """Pairs (point, polygon that it lies in)."""
    if len(polygons) > FEW_RINGS:
        inner, outer = shapely.STRtree(polygons).query(points, predicate="within")
        return inner, outer
    inner, outer = np.nonzero(_overlap(*_boxes(points), *_boxes(polygons)))
    real = shapely.within(points[inner], polygons[outer])
    return inner[real], outer[real]


def _boxes(shapes: NDArray[np.object_]) -> tuple[Floats, Floats]:
    boxes = shapely.bounds(shapes)
    return boxes[:, :2], boxes[:, 2:]


def lying_inside(shapes: Sequence[shapely.Geometry]) -> list[tuple[int, int]]:
    """Pairs (i, j) of different shapes, the first wholly inside the second."""
    array = np.array(shapes)
    if len(array) > FEW_RINGS:
        inner, outer = shapely.STRtree(array).query(array)
        low, high = _boxes(array)
        boxed = ((low[inner] >= low[outer]) & (high[inner] <= high[outer])).all(axis=1) & (inner != outer)
        inner, outer = inner[boxed], outer[boxed]
    else:
        low, high = _boxes(array)
        inner, outer = np.nonzero(((low[:, None] >= low) & (high[:, None] <= high)).all(axis=2))
    different = inner != outer
    inner, outer = inner[different], outer[different]
    shapely.prepare(array[np.unique(outer)])
    real = shapely.contains(array[outer], array[inner])
    return list(zip(inner[real].tolist(), outer[real].tolist(), strict=True))


def _overlap(low: Floats, high: Floats, other_low: Floats, other_high: Floats) -> NDArray[np.bool_]:
    return np.asarray(((low[:, None] <= other_high) & (other_low <= high[:, None])).all(axis=2))


Found = tuple[list[Floats], list[int], Nesting | None]
_KNOWN: LRUCache[tuple[Path, float], Found] = LRUCache(
    8_000_000, getsizeof=lambda found: sum(len(ring) for ring in found[0]) + 64
)
"""By their vertices, so that a large sheet fits and several don't fill the memory."""
_LOCK = Lock()


def ring_nesting(path: Path, chord_mm: float) -> Found:
    """The rings of a path, the subpath each comes from, and how they lie in each other: asked for by several, found once."""
    with _LOCK:
        found = _KNOWN.get((path, chord_mm))
    if found is None:
        rings, owners = fill_rings(path, chord_mm)
        found = rings, owners, nest(rings)
        _keep(path, chord_mm, found)
    return found


def _keep(path: Path, chord_mm: float, found: Found) -> None:
    with _LOCK, suppress(ValueError):  # one that is too large for the store is found again
        _KNOWN[path, chord_mm] = found


def prepare(paths: Sequence[Path], chord_mm: float) -> None:
    """Finds the rings of many paths in one go, for `ring_nesting` to give: flattening them singly takes three times as long."""
    with _LOCK:
        new = [path for path in paths if len(path) and (path, chord_mm) not in _KNOWN]
    rings, owners = fill_rings(concat(new), chord_mm)
    shapes = _linear(rings)
    simple, turned = shapely.is_simple(shapes).tolist(), shapely.is_ccw(shapes).tolist()
    position = 0
    for path, first in zip(new, np.cumsum([0, *map(len, new)]).tolist(), strict=False):
        end = position
        while end < len(owners) and owners[end] < first + len(path):
            end += 1
        mine = rings[position:end]
        if end == position + 1 and simple[position]:  # most letters of a large sheet: nothing to nest
            nesting: Nesting | None = Nesting(((),), False, np.array([-1 if turned[position] else 1]))
        else:
            nesting = nest(mine)
        _keep(path, chord_mm, (mine, [owner - first for owner in owners[position:end]], nesting))
        position = end


def forget() -> None:
    """Empties what is remembered between calls, so that benchmarks measure all the work."""
    with _LOCK:
        _KNOWN.clear()
    region.cache_clear()


def winding_numbers(rings: list[Floats], points: Floats) -> Ints:
    """(p,) winding number of all rings together around each point, counter-clockwise as seen counted positive.

    Counts signed crossings of the ray to the right (D. Sunday, "Inclusion of a point in a polygon", 2001).
    """
    total = np.zeros(len(points), np.intp)
    px, py = points[:, 0, None], points[:, 1, None]
    for ring in rings:
        (x0, y0), (x1, y1) = ring[:-1].T, ring[1:].T
        left = (x1 - x0) * (py - y0) - (px - x0) * (y1 - y0)
        up = (y0 <= py) & (y1 > py) & (left > 0)
        down = (y0 > py) & (y1 <= py) & (left < 0)
        total += down.sum(axis=1) - up.sum(axis=1)
    return total


@lru_cache(maxsize=20_000)
def region(path: Path, even_odd: bool, chord_mm: float) -> shapely.Geometry:
    """The filled area as a valid GEOS polygon or multipolygon (empty where nothing is filled)."""
    rings, _, nesting = ring_nesting(path, chord_mm)
    if not rings:
        return shapely.MultiPolygon()
    return filled(rings, nesting, even_odd)


def filled(rings: list[Floats], nesting: Nesting | None, even_odd: bool) -> shapely.Geometry:
    """The area that rings fill by a rule."""
    if nesting is None:
        return _region_of_crossing_rings(rings, even_odd)
    inside = nesting.depths() % 2 == 0 if even_odd else nesting.windings() != 0
    outside = nesting.depths() % 2 == 1 if even_odd else (nesting.windings() - nesting.sense) != 0
    holes: dict[int, list[Floats]] = {i: [] for i in range(len(rings)) if inside[i] and not outside[i]}
    for i in np.flatnonzero(outside & ~inside):
        parent = next(j for j in reversed(nesting.containers[i]) if j in holes)
        holes[parent].append(rings[i])
    area = shapely.multipolygons([shapely.Polygon(rings[i], inner) for i, inner in holes.items()])
    # Rings that touch in more than one place may enclose areas that no polygon with holes can say.
    return _region_of_crossing_rings(rings, even_odd) if nesting.touching and not area.is_valid else area


def _region_of_crossing_rings(rings: list[Floats], even_odd: bool) -> shapely.Geometry:
    """Cuts the plane into faces along all rings and keeps the faces whose winding number is filled."""
    edges = shapely.unary_union([shapely.LineString(ring) for ring in rings])
    faces = np.array(shapely.get_parts(shapely.polygonize([edges])))
    if not len(faces):
        return shapely.MultiPolygon()
    inside = shapely.get_coordinates(shapely.point_on_surface(faces))
    winding = winding_numbers(rings, inside)
    return shapely.unary_union(faces[winding % 2 == 1 if even_odd else winding != 0])


def together(parts: Sequence[shapely.Polygon]) -> shapely.MultiPolygon:
    """Polygons as one geometry; of none, an empty one."""
    return shapely.multipolygons(list(parts)) if len(parts) else shapely.MultiPolygon()


def pieces(shape: shapely.Geometry, sliver_mm2: float) -> list[shapely.Polygon]:
    """The connected parts of an area, without slivers."""
    return [part for part in shapely.get_parts(shape) if part.geom_type == "Polygon" and part.area > sliver_mm2]


def counters(shape: shapely.Geometry, sliver_mm2: float) -> list[shapely.Polygon]:
    """The holes of an area as polygons, without slivers."""
    rings = [ring for part in pieces(shape, sliver_mm2) for ring in part.interiors]
    return [hole for hole in shapely.polygons(rings) if hole.area > sliver_mm2] if rings else []


def clusters(shapes: list[shapely.Geometry], apart_mm: float = 0.0) -> list[list[int]]:
    """Indices of shapes no further apart than that, directly or through others, in the order of their first member."""
    leader = list(range(len(shapes)))

    def find(i: int) -> int:
        while leader[i] != i:
            leader[i] = leader[leader[i]]
            i = leader[i]
        return i

    if shapes:
        shapely.prepare(shapes)
        tree = shapely.STRtree(shapes)
        pairs = (
            tree.query(shapes, predicate="dwithin", distance=apart_mm)
            if apart_mm
            else tree.query(shapes, predicate="intersects")
        )
        for i, j in zip(*pairs.tolist(), strict=True):
            a, b = find(i), find(j)
            leader[max(a, b)] = min(a, b)
    groups: dict[int, list[int]] = {}
    for i in range(len(shapes)):
        groups.setdefault(find(i), []).append(i)
    return list(groups.values())
