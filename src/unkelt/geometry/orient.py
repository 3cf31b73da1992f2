"""Which ring is an outer boundary and which a counter, written into the direction of the rings."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from unkelt.errors import GeometryRefused
from unkelt.geometry.nesting import Found, fill_rings, nest, remember_turned, ring_nesting, ring_nestings, vertices_of
from unkelt.geometry.path import Path, concat


def orient_rings(path: Path, chord_mm: float) -> Path:
    """The same rings, run so that even-odd and nonzero fill the same area.

    Rings at even depth run counter-clockwise as seen, those at odd depth (counters) clockwise, so that the winding
    number is 1 in material and 0 elsewhere. The path is read by the even-odd rule. Open subpaths stay as they are.
    Raises GeometryRefused when rings cross: then there is no nesting to speak of.
    """
    keep: float | None = None
    if path.closed.all():
        found, keep = ring_nesting(path, chord_mm), chord_mm
    else:
        rings, owners = fill_rings(path, chord_mm)
        closed = [k for k, owner in enumerate(owners) if path.closed[owner]]
        rings = rings[closed]
        found = rings, [owners[k] for k in closed], nest(rings)
    if found[2] is None:
        raise GeometryRefused("rings cross, so which is a hole depends on the fill rule; weld first")
    return run_by_nesting([path], [found], keep)[0]


def oriented(paths: Sequence[Path], chord_mm: float) -> list[Path]:
    """As `orient_rings`, for an engine's answers: their rings may touch, or cross by rounding where they meet in a
    node.
    """
    found = ring_nestings(paths, chord_mm)
    plain = [index for index, (_, _, nesting) in enumerate(found) if nesting is not None]
    run = iter(run_by_nesting([paths[index] for index in plain], [found[index] for index in plain], chord_mm))
    return [
        _oriented_by_places(path, chord_mm) if nesting is None else next(run)
        for path, (_, _, nesting) in zip(paths, found, strict=True)
    ]


def run_by_nesting(paths: Sequence[Path], found: Sequence[Found], chord_mm: float | None) -> list[Path]:
    """Each path's rings run as their nesting asks, in one go; what is known of them is kept for the result, if their
    chord error is given.
    """
    if not paths:
        return []
    whole = concat(paths)
    flip = np.zeros(len(whole), bool)
    edges = np.cumsum([0, *map(len, paths)]).tolist()
    turns = []
    for first, (_, owners, nesting) in zip(edges, found, strict=False):
        assert nesting is not None
        turns.append(nesting.flips())
        flip[[first + owner for owner in owners]] = turns[-1]
    every, back = np.concatenate([rings for rings, _, _ in found]), np.concatenate(turns)
    every[back] = shapely.reverse(every[back])
    sizes = np.cumsum([len(turn) for turn in turns])[:-1]
    result = []
    for path, turned, rings, turn in zip(
        paths, whole.reversed(flip).split(list(map(len, paths))), np.split(every, sizes), turns, strict=True
    ):
        if not turn.any():
            result.append(path)
            continue
        if chord_mm is not None:
            remember_turned(path, turned, chord_mm, rings, turn)
        result.append(turned)
    return result


def _oriented_by_places(path: Path, chord_mm: float) -> Path:
    """Where nesting can't be told from whole rings, it is told from a point beside the middle of each ring's longest
    edge: how many other rings lie around it. Whoever asks judges the area by both rules.
    """
    shapes, owners = fill_rings(path, chord_mm)
    if not owners:
        return path
    flip = np.zeros(len(path), bool)
    polygons = shapely.make_valid(shapely.polygons(shapes))
    for index, (ring, owner) in enumerate(zip(vertices_of(shapes), owners, strict=True)):
        steps = np.diff(ring, axis=0)
        edge = int(np.argmax(np.hypot(steps[:, 0], steps[:, 1])))
        middle, way = (ring[edge] + ring[edge + 1]) / 2, steps[edge] / max(float(np.hypot(*steps[edge])), 1e-300)
        beside = [shapely.Point(middle + sign * chord_mm * np.array([way[1], -way[0]])) for sign in (1, -1)]
        inside = next((point for point in beside if polygons[index].contains(point)), beside[0])
        depth = sum(other.contains(inside) for at, other in enumerate(polygons) if at != index)
        x, y = ring.T
        runs_up = float((x[:-1] * y[1:] - x[1:] * y[:-1]).sum()) < 0  # counter-clockwise as seen, y down
        flip[owner] = runs_up != (depth % 2 == 0)
    return path.reversed(flip) if flip.any() else path
