"""Which ring is an outer boundary and which a counter, written into the direction of the rings."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from unkelt.errors import GeometryRefused
from unkelt.geometry.nesting import Ringed, fill_rings, nest, ring_nesting, ring_nestings, vertices_of
from unkelt.geometry.path import Bools, Path, concat


def orient_rings(path: Path, chord_mm: float) -> Path:
    """The same rings, run so that even-odd and nonzero fill the same area.

    Rings at even depth run counter-clockwise as seen, those at odd depth (counters) clockwise, so that the winding
    number is 1 in material and 0 elsewhere. The path is read by the even-odd rule. Open subpaths stay as they are.
    Raises GeometryRefused when rings cross: then there is no nesting to speak of.
    """
    if path.closed.all():
        found = ring_nesting(path, chord_mm)
    else:
        rings, owners = fill_rings(path, chord_mm)
        closed = [k for k, owner in enumerate(owners) if path.closed[owner]]
        rings = rings[closed]
        found = Ringed(path, rings, [owners[k] for k in closed], nest(rings))
    if found.nesting is None:
        raise GeometryRefused("rings cross, so which is a hole depends on the fill rule; weld first")
    return run_by_nesting([found])[0].path


def oriented(paths: Sequence[Path], chord_mm: float) -> list[Path]:
    """As `orient_rings`, for an engine's answers: their rings may touch, or cross by rounding where they meet in a
    node.
    """
    return [each.path for each in rings_oriented(ring_nestings(paths, chord_mm), chord_mm)]


def rings_oriented(found: Sequence[Ringed], chord_mm: float) -> list[Ringed]:
    """`oriented`, for whoever goes on with the rings."""
    run = iter(run_by_nesting([each for each in found if each.nesting is not None]))
    return [_oriented_by_places(each, chord_mm) if each.nesting is None else next(run) for each in found]


def run_by_nesting(found: Sequence[Ringed]) -> list[Ringed]:
    """Each path with its rings run as their nesting, which it must have, asks: in one go."""
    if not found:
        return []
    turns = [each.nesting.flips for each in found if each.nesting is not None]
    firsts = np.cumsum([0, *(len(each.path) for each in found)]).tolist()
    which = [
        first + owner
        for first, each, turn in zip(firsts, found, turns, strict=False)
        for owner, back in zip(each.owners, turn.tolist(), strict=True)
        if back
    ]
    return _turned(found, which, turns)


def _turned(found: Sequence[Ringed], which: Sequence[int], turns: Sequence[Bools]) -> list[Ringed]:
    """Paths with some subpaths, counted through all of them, run backwards, which are those that turn (r,) of each
    one's rings.
    """
    whole = concat([each.path for each in found])
    flip = np.zeros(len(whole), bool)
    flip[list(which)] = True
    every, back = np.concatenate([each.rings for each in found]), np.concatenate(turns)
    every[back] = shapely.reverse(every[back])
    parts = whole.reversed(flip).split([len(each.path) for each in found])
    rings = np.split(every, np.cumsum([len(turn) for turn in turns])[:-1])
    return [
        Ringed(path, own, each.owners, each.nesting.turned(turn) if each.nesting else None) if turn.any() else each
        for each, path, own, turn in zip(found, parts, rings, turns, strict=True)
    ]


def _oriented_by_places(found: Ringed, chord_mm: float) -> Ringed:
    """Where nesting can't be told from whole rings, it is told from a point beside the middle of each ring's longest
    edge: how many other rings lie around it. Whoever asks judges the area by both rules.
    """
    polygons = shapely.make_valid(shapely.polygons(found.rings))
    middles, aside, runs_up = [], [], []
    for ring in vertices_of(found.rings):
        steps = np.diff(ring, axis=0)
        edge = int(np.argmax(np.hypot(steps[:, 0], steps[:, 1])))
        middles.append((ring[edge] + ring[edge + 1]) / 2)
        aside.append(steps[edge, ::-1] * (1, -1) / max(float(np.hypot(*steps[edge])), 1e-300))
        x, y = ring.T
        runs_up.append(float((x[:-1] * y[1:] - x[1:] * y[:-1]).sum()) < 0)  # counter-clockwise as seen, y down
    one, other = (shapely.points(np.array(middles) + sign * chord_mm * np.array(aside)) for sign in (1, -1))
    inside = np.where(~shapely.contains(polygons, one) & shapely.contains(polygons, other), other, one)
    point, around = shapely.STRtree(polygons).query(inside, predicate="within")
    depth = np.bincount(point[point != around], minlength=len(polygons))
    turn = np.array(runs_up) != (depth % 2 == 0)
    return _turned([found], [owner for owner, back in zip(found.owners, turn.tolist(), strict=True) if back], [turn])[0]
