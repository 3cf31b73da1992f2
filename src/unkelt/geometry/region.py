"""The area a path fills, by the second engine (GEOS): pieces and counters, and which areas touch.

Everything here works on finely flattened rings. Winding is decided here and nowhere else.
"""

from __future__ import annotations

from collections.abc import Collection, Hashable, Sequence
from typing import TypeAlias, TypeVar

import numpy as np
import shapely
from fontTools.misc.transform import Transform

from unkelt.geometry.cache import Topic
from unkelt.geometry.cells import ROUNDING_MM, wound_cells
from unkelt.geometry.measure import Box, subpath_bounds
from unkelt.geometry.near import pairs_between
from unkelt.geometry.nesting import (
    FEW_RINGS,
    Nesting,
    Ringed,
    boxes,
    linear,
    nest,
    nest_groups,
    ring_nestings,
    vertices_of,
)
from unkelt.geometry.path import Bools, Floats, Geometries, Ints, Path

G = TypeVar("G", shapely.Geometry, Geometries)
Shapes: TypeAlias = Sequence[shapely.Geometry] | Geometries


def prepared(shapes: G) -> G:
    """Copies of areas, made ready to be asked about many others.

    Copies, since GEOS works out what speeds it up when it is first asked, without a lock, and the areas themselves are
    remembered and so may be in the hands of another thread.
    """
    own: G = shapely.force_2d(shapes)
    shapely.prepare(own)
    return own


def lying_inside(shapes: Shapes) -> list[tuple[int, int]]:
    """Pairs (i, j) of different shapes, the first wholly inside the second."""
    array = np.array(shapes)
    if len(array) > FEW_RINGS:
        inner, outer = shapely.STRtree(array).query(array)
        low, high = boxes(array)
        boxed = ((low[inner] >= low[outer]) & (high[inner] <= high[outer])).all(axis=1) & (inner != outer)
        inner, outer = inner[boxed], outer[boxed]
    else:
        low, high = boxes(array)
        inner, outer = np.nonzero(((low[:, None] >= low) & (high[:, None] <= high)).all(axis=2))
    different = inner != outer
    inner, outer = inner[different], outer[different]
    holders, which = np.unique(outer, return_inverse=True)
    real = shapely.contains(prepared(array[holders])[which], array[inner])
    return list(zip(inner[real].tolist(), outer[real].tolist(), strict=True))


def _overlap(low: Floats, high: Floats, other_low: Floats, other_high: Floats) -> Bools:
    return np.asarray(((low[:, None] <= other_high) & (other_low <= high[:, None])).all(axis=2))


_AREAS: Topic[shapely.Geometry] = Topic("areas", 12_000_000, lambda area: int(shapely.get_num_coordinates(area)) + 64)
"""By their vertices, as rings are."""


def region(path: Path, even_odd: bool, chord_mm: float) -> shapely.Geometry:
    """The filled area as a valid GEOS polygon or multipolygon (empty where nothing is filled)."""
    return regions([(path, even_odd)], chord_mm)[0]


def regions(asked: Sequence[tuple[Path, bool]], chord_mm: float) -> list[shapely.Geometry]:
    """`region` of many paths, each with whether its fill rule is even-odd, made in one go."""
    keys: list[Hashable] = [(path, even_odd, chord_mm) for path, even_odd in asked]

    def find(places: list[int]) -> list[shapely.Geometry]:
        found = ring_nestings([asked[place][0] for place in places], chord_mm)
        return areas([(rings, asked[place][1]) for rings, place in zip(found, places, strict=True)])

    return _AREAS.get_many(keys, find)


def areas(asked: Sequence[tuple[Ringed, bool]]) -> list[shapely.Geometry]:
    """What rings fill, each path's with whether its rule is even-odd; made anew."""
    return _filled([(found.rings, found.nesting, even_odd) for found, even_odd in asked])


def filled(rings: Sequence[Floats], even_odd: bool) -> shapely.Geometry:
    """The area that rings of vertices (v, 2) fill by a rule."""
    shapes = linear(rings)
    return _filled([(shapes, nest(shapes), even_odd)])[0]


def _filled(asked: Sequence[tuple[Geometries, Nesting | None, bool]]) -> list[shapely.Geometry]:
    rows: list[int] = []
    shell_of: list[int] = []
    owner_of: list[int] = []
    first = 0
    for owner, (rings, nesting, even_odd) in enumerate(asked):
        for shell in nesting.shells(even_odd) if nesting is not None else ():
            rows += [first + index for index in shell]
            shell_of += [len(owner_of)] * len(shell)
            owner_of.append(owner)
        first += len(rings)
    whole = np.full(len(asked), shapely.MultiPolygon(), object)
    if rows:
        bounding = np.concatenate([rings for rings, _, _ in asked])[rows]
        shapely.multipolygons(shapely.polygons(bounding, indices=shell_of), indices=owner_of, out=whole)
    result: list[shapely.Geometry] = whole.tolist()
    for index, (rings, nesting, even_odd) in enumerate(asked):
        # Rings that touch in more than one place may enclose areas that no polygon with holes can say.
        if nesting is None or (nesting.touching and not result[index].is_valid):
            result[index] = _region_of_crossing_rings(rings, even_odd)
    return result


def _region_of_crossing_rings(rings: Geometries, even_odd: bool) -> shapely.Geometry:
    """Cuts the plane into faces along all rings and keeps the faces whose winding number is filled.

    Rings whose boxes don't meet are looked at by themselves: most of them don't cross.
    """
    groups = clusters(shapely.box(*shapely.bounds(rings).T))
    if len(groups) > 1:
        order = [index for group in groups for index in group]
        sizes = list(map(len, groups))
        nested = nest_groups(rings[order], shapely.is_simple(rings[order]), sizes)
        parts = np.split(rings[order], np.cumsum(sizes)[:-1])
        filled_parts = _filled([(part, nesting, even_odd) for part, nesting in zip(parts, nested, strict=True)])
        return together(shapely.get_parts(np.array(filled_parts, object)))
    if not even_odd and _all_one_way(rings):
        return shapely.unary_union(shapely.polygons(rings))
    key = b"".join(shapely.to_wkb(rings).tolist())  # who asks for one rule often asks for the other
    faces, winding = _FACES.get(key, lambda: wound_cells(vertices_of(rings)))
    return _merged(faces[winding % 2 == 1 if even_odd else winding != 0])


_FACES: Topic[tuple[Geometries, Ints]] = Topic("faces of crossing rings", 500_000, lambda found: len(found[0]) + 64)
"""By their rings, as bytes."""


def _all_one_way(rings: Geometries) -> bool:
    """Whether rings don't cross themselves and all run one way: then each fills what it encloses."""
    ways = shapely.is_ccw(rings)
    return bool((ways == ways[0]).all() and shapely.is_simple(rings).all())


def _merged(faces: Geometries) -> shapely.Geometry:
    """Faces that have nothing but edges in common as one area, by dropping those edges: a tenth of the time of a union.
    Where rounding made them overlap, they are united all the same.
    """
    if not len(faces):
        return shapely.MultiPolygon()
    try:
        found = shapely.coverage_union_all(faces)
    except shapely.GEOSException:  # they overlap, as GEOS sees
        return shapely.unary_union(faces)
    adds_up = abs(found.area - float(shapely.area(faces).sum())) <= ROUNDING_MM * found.length
    return found if adds_up and found.is_valid else shapely.unary_union(faces)


def together(parts: Sequence[shapely.Polygon] | Geometries) -> shapely.MultiPolygon:
    """Polygons as one geometry; of none, an empty one."""
    return shapely.multipolygons(list(parts)) if len(parts) else shapely.MultiPolygon()


def box_of(shape: shapely.Geometry) -> Box | None:
    """The box around an area, None where it is empty."""
    if shape.is_empty:
        return None
    x0, y0, x1, y1 = map(float, shape.bounds)
    return x0, y0, x1, y1


def transformed(shape: shapely.Geometry, matrix: Transform) -> shapely.Geometry:
    """A geometry (areas or lines, in mm) carried by a matrix."""
    linear = np.array([[matrix.xx, matrix.xy], [matrix.yx, matrix.yy]])
    return shapely.transform(shape, lambda points: points @ linear + (matrix.dx, matrix.dy))


def pieces(shape: shapely.Geometry, sliver_mm2: float) -> list[shapely.Polygon]:
    """The connected parts of an area, without slivers."""
    return [part for part in shapely.get_parts(shape) if part.geom_type == "Polygon" and part.area > sliver_mm2]


def counters(shape: shapely.Geometry, sliver_mm2: float) -> list[shapely.Polygon]:
    """The holes of an area as polygons, without slivers."""
    rings = [ring for part in pieces(shape, sliver_mm2) for ring in part.interiors]
    return [hole for hole in shapely.polygons(rings) if hole.area > sliver_mm2] if rings else []


def parts(shapes: Shapes, sliver_mm2: float) -> tuple[Geometries, Ints, Geometries, Ints]:
    """The pieces of many areas and the area each belongs to, then the same of their counters; without slivers."""
    found, owner = shapely.get_parts(np.array(shapes, object), return_index=True)
    keep = (shapely.get_type_id(found) == shapely.GeometryType.POLYGON) & (shapely.area(found) > sliver_mm2)
    found, owner = found[keep], owner[keep]
    rings, part = _rings_of(found)
    inner = np.flatnonzero(part[1:] == part[:-1]) + 1  # the first ring of each is its boundary from outside
    holes, hole_owner = shapely.polygons(rings[inner]), owner[part[inner]]
    keep = shapely.area(holes) > sliver_mm2
    return found, owner, holes[keep], hole_owner[keep]


POLYGONS_AT_ONCE = 500
"""Rings are asked of so many polygons in one call, which lets no other thread have its turn."""


def _rings_of(polygons: Geometries) -> tuple[Geometries, Ints]:
    """All rings, the one around each polygon first, and the polygon each is of."""
    rings, part = [np.zeros(0, object)], [np.zeros(0, np.intp)]
    for first in range(0, len(polygons), POLYGONS_AT_ONCE):
        some, of = shapely.get_rings(polygons[first : first + POLYGONS_AT_ONCE], return_index=True)
        rings.append(some)
        part.append(of + first)
    return np.concatenate(rings), np.concatenate(part)


SAME_MM = 1e-10
"""Vertices this near are one: arithmetic on a sheet of some metres. On all its boundary that is less than any sliver.
"""


def apart_mm2(a: shapely.Geometry, b: shapely.Geometry) -> float:
    """How much lies in one area only. Of the parts that both have vertex by vertex, only what rounding can hide is
    counted.
    """
    one, other, common_mm = unlike(a, b)
    return SAME_MM * common_mm + float(shapely.symmetric_difference(one, other).area)


def unlike(a: shapely.Geometry, b: shapely.Geometry) -> tuple[shapely.MultiPolygon, shapely.MultiPolygon, float]:
    """The parts of two areas without those that both have vertex by vertex, and the length in mm around the latter."""
    one, other = (parts([shapely.normalize(each)], 0.0)[0] for each in (a, b))
    if not len(one) or not len(other):
        return together(one), together(other), 0.0
    i, j = pairs_between(shapely.bounds(one), shapely.bounds(other), 4 * SAME_MM).T
    same = shapely.equals_exact(one[i], other[j], SAME_MM)
    i, j = i[same], j[same]
    left, others_left = (together(np.delete(each, known)) for each, known in ((one, i), (other, j)))
    return left, others_left, float(shapely.length(one[i]).sum())


def clusters(shapes: Shapes, apart_mm: float = 0.0) -> list[list[int]]:
    """Indices of shapes no further apart than that, directly or through others, in the order of their first member."""
    if not len(shapes):
        return []
    tree = shapely.STRtree(shapes)
    if apart_mm:
        return connected(len(shapes), tree.query(shapes, predicate="dwithin", distance=apart_mm).T)
    return connected(len(shapes), tree.query(shapes, predicate="intersects").T)


def connected(count: int, pairs: Collection[tuple[int, int]] | Ints) -> list[list[int]]:
    """So many things, those together that pairs (p, 2) connect, directly or through others, in the order of their first
    member.
    """
    one, other = np.array(list(pairs), np.intp).reshape(-1, 2).T
    label = np.arange(count)
    while (label[one] != label[other]).any():
        # every group takes the lowest label of those it meets, and all of a group follow it
        lower = np.minimum(label[one], label[other])
        np.minimum.at(label, label[one], lower)
        np.minimum.at(label, label[other], lower)
        while (label != label[label]).any():
            label = label[label]
    first = np.full(count, count)
    np.minimum.at(first, label, np.arange(count))
    order = np.argsort(first[label], kind="stable")
    edges = np.flatnonzero(np.diff(first[label][order])) + 1
    return [group.tolist() for group in np.split(order, edges)] if count else []


def apart(path: Path) -> list[Path]:
    """The parts of a path that lie so far apart that their boxes don't touch: each is filled as it is in the whole."""
    return path.once(_apart)


def _apart(path: Path) -> list[Path]:
    groups = clusters(shapely.box(*subpath_bounds(path).T)) if len(path) > 1 else []
    whole = len(groups) < 2
    return [path] if whole else path.select([i for group in groups for i in group]).split([*map(len, groups)])
