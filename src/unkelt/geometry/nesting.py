"""The rings of paths and how they lie in each other: found for many paths in one go, and once for whoever asks.

Everything here works on finely flattened rings; that containment is decided by GEOS.
"""

from __future__ import annotations

import itertools
from collections.abc import Hashable, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely

from unkelt.geometry.alike import EXACT_PLACES, shape_keys
from unkelt.geometry.cache import Topic
from unkelt.geometry.cells import wound_cells
from unkelt.geometry.flatten import flatten
from unkelt.geometry.path import Bools, Floats, Geometries, Ints, Path, concat
from unkelt.tolerance import STANDARD

AT_ONCE = 50_000
"""Rings are made of about so many vertices in one call, which lets no other thread have its turn."""


@dataclass(frozen=True, slots=True)
class Nesting:
    """How rings that don't cross lie in each other.

    `containers[i]` are the rings around ring i, outermost first; `touching` says whether any two meet in a point;
    `sense[i]` is +1 when ring i runs counter-clockwise as seen, else -1.
    """

    containers: tuple[tuple[int, ...], ...]
    touching: bool
    sense: Ints
    flips: Bools
    """(s,) which rings must be run backwards for a winding number of 1 in what even-odd fills, and 0 elsewhere."""

    def shells(self, even_odd: bool) -> list[list[int]]:
        """The rings that bound material from outside, each followed by those that bound it from inside."""
        if len(self.sense) == 1:
            return [[0]]
        sense, shells, holes = self.sense.tolist(), dict[int, list[int]](), list[int]()
        for index, around in enumerate(self.containers):
            winding = sum([sense[j] for j in around])
            inside = len(around) % 2 == 0 if even_odd else winding + sense[index] != 0
            outside = len(around) % 2 == 1 if even_odd else winding != 0
            if inside and not outside:
                shells[index] = [index]
            elif outside and not inside:
                holes.append(index)
        for index in holes:
            shells[next(j for j in reversed(self.containers[index]) if j in shells)].append(index)
        return list(shells.values())

    def depths(self) -> Ints:
        """(s,) how many rings lie around each."""
        return np.array([len(around) for around in self.containers], np.intp)

    def windings(self) -> Ints:
        """(s,) winding number just inside each ring."""
        sense = self.sense.tolist()
        return np.array(
            [turn + sum(sense[j] for j in around) for turn, around in zip(sense, self.containers, strict=True)],
            np.intp,
        )

    def rules_agree(self) -> bool:
        """Whether nonzero and even-odd fill the same."""
        return len(self.sense) == 1 or bool(((self.windings() != 0) == (self.depths() % 2 == 0)).all())

    def turned(self, which: Bools) -> Nesting:
        """The same rings, some of them run backwards."""
        return Nesting(self.containers, self.touching, np.where(which, -self.sense, self.sense), self.flips ^ which)


@dataclass(frozen=True, slots=True, eq=False)
class Ringed:
    """A path with the rings that its subpaths make when they are drawn by straight lines, and how these lie in each
    other.

    Whoever judges rings is handed them in this: so it is always clear which lines are judged.
    """

    path: Path
    rings: Geometries
    owners: list[int]
    """The subpath that each ring is of; one that can't enclose anything has none."""
    nesting: Nesting | None
    """None where a ring crosses itself or another, or is there twice."""

    @property
    def simple(self) -> bool:
        """Whether rings neither cross nor meet."""
        return self.nesting is not None and not self.nesting.touching


def fill_rings(path: Path, chord_mm: float) -> tuple[Geometries, list[int]]:
    """Closed rings of the subpaths that can enclose area, and the subpath each comes from.

    An open subpath is closed by a chord, as filling does.
    """
    rings, owners, _ = _rings(*flatten(path, chord_mm))
    return rings, owners


def _rings(vertices: Floats, owner: Ints) -> tuple[Geometries, list[int], Bools]:
    """As `fill_rings`, and which rings don't cross themselves; of vertices and the subpath that each is of."""
    if not len(owner):
        return linear([]), [], np.zeros(0, bool)
    again = np.append(False, (vertices[1:] == vertices[:-1]).all(axis=1) & (owner[1:] == owner[:-1]))
    if again.any():
        vertices, owner = vertices[~again], owner[~again]
    stops = np.flatnonzero(np.append(owner[1:] != owner[:-1], True)) + 1
    starts = np.append(0, stops[:-1])
    apart = (vertices[starts] != vertices[stops - 1]).any(axis=1)
    if apart.any():
        vertices = np.insert(vertices, stops[apart], vertices[starts[apart]], axis=0)
        owner = np.insert(owner, stops[apart], owner[starts[apart]])
    encloses = np.bincount(owner) >= 4
    kept = encloses[owner]
    rings = _linear(vertices[kept], (np.cumsum(encloses) - 1)[owner[kept]])
    simple = shapely.is_simple(rings)
    for index in np.flatnonzero(~simple).tolist():
        rings[index] = shapely.LinearRing(_without_micro_loops(shapely.get_coordinates(rings[index])))
        simple[index] = rings[index].is_simple
    return rings, np.flatnonzero(encloses).tolist(), simple


def linear(rings: Sequence[Floats]) -> Geometries:
    """Rings of vertices (v, 2) as GEOS knows them."""
    if not rings:
        return np.zeros(0, object)
    return _linear(np.concatenate(rings), np.repeat(np.arange(len(rings)), list(map(len, rings))))


def _linear(vertices: Floats, ring: Ints) -> Geometries:
    """Rings of vertices (v, 2), one ring's after the other's, and the ring that each is of, counted from 0."""
    firsts = np.flatnonzero(np.append(True, ring[1:] != ring[:-1])[: len(ring)])
    edges = [0, *firsts[np.flatnonzero(np.diff(firsts // AT_ONCE)) + 1].tolist(), len(ring)]
    parts = [
        shapely.linearrings(vertices[a:b], indices=ring[a:b] - ring[a]) for a, b in itertools.pairwise(edges) if a < b
    ]
    return np.concatenate([np.zeros(0, object), *parts])


def vertices_of(rings: Geometries) -> list[Floats]:
    """(v, 2) of each ring."""
    vertices, ring = shapely.get_coordinates(rings, return_index=True)
    return np.split(vertices, np.flatnonzero(np.diff(ring)) + 1) if len(rings) else []


def _without_micro_loops(ring: Floats) -> Floats:
    """A ring that crosses itself by no more than rounding, without that loop; any other ring as it is.

    Where two segments meet in a sharp inner corner, rounding of their nodes lets them cross by less than a sliver.
    """
    if np.count_nonzero(shapely.area(wound_cells([ring])[0]) > STANDARD.sliver_mm2) != 1:
        return ring  # the next line takes long where there are many crossings
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


def nest(rings: Geometries) -> Nesting | None:
    """The nesting of rings, or None where one crosses itself or another, or is there twice.

    Rings may touch in single points. Which of two holds the other is told by a point inside the smaller.
    """
    return nest_groups(rings, shapely.is_simple(rings), [len(rings)])[0]


def nest_groups(shapes: Geometries, simple: Bools, counts: Sequence[int]) -> list[Nesting | None]:
    """The nesting of each of several groups of rings, which follow each other: `counts` says how many each has.

    `simple` (n,) says which rings don't cross themselves.
    """
    # GEOS calls a ring counter-clockwise with y up; we look at it with y down.
    sense = np.where(shapely.is_ccw(shapes), -1, 1)
    group = np.repeat(np.arange(len(counts)), counts)
    crossing, touching = np.zeros(len(counts), bool), np.zeros(len(counts), bool)
    crossing[group[~simple]] = True
    firsts = np.cumsum([0, *counts]).tolist()
    first, second = _boxes_meet(shapes, firsts, crossing)
    inner = outer = np.zeros(0, np.intp)
    if len(first):
        polygons = shapely.polygons(shapes)
        area = shapely.area(polygons)
        for some in _few_of_each_first(group[first]):
            some = some[~crossing[group[first[some]]]]  # one crossing is enough to tell
            some = some[shapely.intersects(shapes[first[some]], shapes[second[some]])]
            i, j = first[some], second[some]
            touching[group[i]] = True
            common = shapely.area(shapely.intersection(polygons[i], polygons[j]))
            smaller = np.minimum(area[i], area[j])
            noise = 1e-9 * smaller
            apart, inside = common <= noise, common >= smaller - noise
            alike = np.abs(area[i] - area[j]) <= noise
            crossing[group[i[~(apart | (inside & ~alike))]]] = True
        # The larger of two may hold the smaller.
        swap = area[first] > area[second]
        inner, outer = np.where(swap, second, first), np.where(swap, first, second)
        asked = (area[inner] < area[outer]) & ~crossing[group[inner]]
        inner, outer = inner[asked], outer[asked]
        within = shapely.get_point(shapes[inner], 0)
        grazing = touching[group[inner]]
        within[grazing] = shapely.point_on_surface(polygons[inner[grazing]])
        holds = shapely.within(within, polygons[outer])
        inner, outer = inner[holds], outer[holds]
        order = np.lexsort((-area[outer], inner))
        inner, outer = inner[order], outer[order]
    return _nestings(sense, inner, outer, touching, crossing, firsts)


FEW_PAIRS = 8
"""Of so many pairs of rings whose boxes meet, one mostly crosses where any of the group's does."""


def _few_of_each_first(group: Ints) -> tuple[Ints, Ints]:
    """The places of the first few members of each group, and those of all others."""
    order = np.argsort(group, kind="stable")
    begins = np.searchsorted(group[order], group[order])
    early = np.zeros(len(group), bool)
    early[order] = np.arange(len(group)) - begins < FEW_PAIRS
    return np.flatnonzero(early), np.flatnonzero(~early)


def _nestings(
    sense: Ints, inner: Ints, outer: Ints, touching: Bools, crossing: Bools, firsts: Sequence[int]
) -> list[Nesting | None]:
    """Of each group of rings what is known of them: pairs of a ring and one around it, and which groups' rings touch or
    cross.
    """
    depth = np.bincount(inner, minlength=len(sense))
    flips = sense != np.where(depth % 2 == 0, 1, -1)
    edges = np.append(0, np.cumsum(depth)).tolist()
    around, found = outer.tolist(), list[Nesting | None]()
    for index, (a, b) in enumerate(itertools.pairwise(firsts)):
        if crossing[index]:
            found.append(None)
        elif b == a + 1:
            found.append(_alone(int(sense[a])))
        else:
            containers = tuple([tuple([j - a for j in around[edges[k] : edges[k + 1]]]) for k in range(a, b)])
            found.append(Nesting(containers, bool(touching[index]), sense[a:b], flips[a:b]))
    return found


@lru_cache(maxsize=2)
def _alone(sense: int) -> Nesting:
    """One ring by itself, as most outlines are."""
    return Nesting(((),), False, np.array([sense]), np.array([sense != 1]))


FEW_RINGS = 24
"""Up to so many rings, all pairs of boxes are compared; beyond that a tree finds those that meet."""


def _boxes_meet(shapes: Geometries, firsts: list[int], leave: Bools) -> tuple[Ints, Ints]:
    """Pairs i < j of rings of one group whose boxes share a point; groups to leave out have none."""
    pairs: list[tuple[Ints, Ints]] = []
    by_size: dict[int, list[int]] = {}
    for index, (a, b) in enumerate(itertools.pairwise(firsts)):
        if b - a > 1 and not leave[index]:
            if b - a > FEW_RINGS:
                one, other = shapely.STRtree(shapes[a:b]).query(shapes[a:b])
                pairs.append((one[one < other] + a, other[one < other] + a))
            else:
                by_size.setdefault(b - a, []).append(a)
    for size, starts in by_size.items():
        one, other = np.triu_indices(size, 1)
        begins = np.array(starts)[:, None]
        pairs.append(((begins + one).ravel(), (begins + other).ravel()))
    if not pairs:
        return np.zeros(0, np.intp), np.zeros(0, np.intp)
    first, second = (np.concatenate(each) for each in zip(*pairs, strict=True))
    low, high = boxes(shapes)
    meet = ((low[first] <= high[second]) & (low[second] <= high[first])).all(axis=1)
    return first[meet], second[meet]


def boxes(shapes: Geometries) -> tuple[Floats, Floats]:
    """Least and greatest x, y (n, 2) of each."""
    bounds = shapely.bounds(shapes)
    return bounds[:, :2], bounds[:, 2:]


FINER = 10
"""Where polylines cross, finer ones are asked: those of a sliver's two sides may, and the curves don't."""


def rings_cross(path: Path, chord_mm: float) -> bool:
    """Whether rings cross themselves or each other by more than slivers."""

    def found() -> bool:
        each = (ring_nesting(path, chord) for chord in (chord_mm, chord_mm / FINER))
        return all(rings.nesting is None and not cross_by_rounding(rings.rings) for rings in each)

    return _CROSS.get((path, chord_mm), found)


_CROSS: Topic[bool] = Topic("whether rings cross", 4096)


def cross_by_rounding(rings: Geometries) -> bool:
    """Whether rings that don't nest exactly cross themselves and each other by no more than slivers.

    So a weld's result may look where several of its nodes meet: no tool sees it, and no weld makes it better.
    """
    for ring in vertices_of(rings):
        x, y = ring.T
        signed = abs(float((x[:-1] * y[1:] - x[1:] * y[:-1]).sum())) / 2
        found, winding = wound_cells([ring])
        if abs(signed - float(shapely.area(found[winding % 2 == 1]).sum())) > STANDARD.sliver_mm2:
            return False
    shapes = shapely.make_valid(shapely.polygons(rings))
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


_RINGS: Topic[Ringed] = Topic(
    "rings", 12_000_000, lambda found: int(shapely.get_num_coordinates(found.rings).sum()) + 64
)
"""By their vertices, so that a large sheet fits and several don't fill the memory."""


def ring_nesting(path: Path, chord_mm: float) -> Ringed:
    """The rings of a path and how they lie in each other: asked for by several, found once."""
    return ring_nestings([path], chord_mm)[0]


def ring_nestings(paths: Sequence[Path], chord_mm: float) -> list[Ringed]:
    """`ring_nesting` of many paths, found in one go: flattening and nesting them singly takes several times as long. Of
    paths that are the same but for their place, as a letter's are, one is looked at; the others' vertices are its,
    moved.
    """
    keys: list[Hashable] = [(path, chord_mm) for path in paths]
    return _RINGS.get_many(keys, lambda places: _nested([paths[place] for place in places], chord_mm))


def _nested(paths: Sequence[Path], chord_mm: float) -> list[Ringed]:
    first: dict[bytes, Path] = {}
    keys = shape_keys(paths, EXACT_PLACES) if len(paths) > 1 else []
    like = [first.setdefault(key, path) for key, path in zip(keys, paths, strict=True)] if keys else paths
    unlike = list(dict.fromkeys(like))
    found = dict(zip(unlike, ringed(unlike, *flatten(concat(unlike), chord_mm)), strict=True))
    copies = [(path, other) for path, other in zip(paths, like, strict=True) if path is not other and len(path)]
    moved = dict(zip((path for path, _ in copies), _moved(copies, found), strict=True))
    return [moved.get(path) or found[other] for path, other in zip(paths, like, strict=True)]


def ringed(paths: Sequence[Path], vertices: Floats, owner: Ints) -> list[Ringed]:
    """Each path with the rings that these vertices (v, 2) make: of all its subpaths, one path's after the other's, and
    the subpath (v,) that each is of, counted through all paths.
    """
    rings, owners, simple = _rings(vertices, owner)
    edges = np.cumsum([0, *map(len, paths)])
    stops = np.searchsorted(owners, edges).tolist()
    nestings = nest_groups(rings, simple, np.diff(stops).tolist())
    return [
        Ringed(path, rings[a:b], [owner - begin for owner in owners[a:b]], nesting)
        for path, nesting, (a, b), begin in zip(
            paths, nestings, itertools.pairwise(stops), edges[:-1].tolist(), strict=True
        )
    ]


def _moved(copies: Sequence[tuple[Path, Path]], found: dict[Path, Ringed]) -> list[Ringed]:
    """What is known of shapes, for copies of them that lie elsewhere: pairs of a copy and what it is like."""
    if not copies:
        return []
    like = [found[other] for _, other in copies]
    by = [path.points[0, 0] - other.points[0, 0] for path, other in copies]
    sizes = [len(each.rings) for each in like]
    vertices, ring = shapely.get_coordinates(np.concatenate([each.rings for each in like]), return_index=True)
    moved = np.split(_linear(vertices + np.repeat(by, sizes, axis=0)[ring], ring), np.cumsum(sizes)[:-1])
    return [
        Ringed(path, rings, each.owners, each.nesting)
        for (path, _), rings, each in zip(copies, moved, like, strict=True)
    ]


def piece_paths(path: Path, chord_mm: float) -> list[Path] | None:
    """A path of each piece: an outer ring with the counters right inside it; open subpaths and specks stay with the
    first. None where rings cross, so that a counter can't be assigned to a piece.
    """
    found = ring_nesting(path, chord_mm)
    owners, nesting = found.owners, found.nesting
    if nesting is None:
        return None
    groups: dict[int, list[int]] = {}
    depths = nesting.depths()
    for ring, owner in enumerate(owners):
        outer = ring if depths[ring] % 2 == 0 else nesting.containers[ring][-1]
        groups.setdefault(outer, []).append(owner)
    lists = [sorted(group) for _, group in sorted(groups.items(), key=lambda pair: owners[pair[0]])]
    rest = sorted(set(range(len(path))) - set(owners))
    if lists and rest:
        lists[0] = sorted([*lists[0], *rest])
    return [path.select(group) for group in lists]
