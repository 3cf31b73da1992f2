"""Which outlines overlap or touch."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from unkelt.geometry.aside import neighbours
from unkelt.geometry.engine import Operand, closed
from unkelt.geometry.flatten import flatten
from unkelt.geometry.hulls import Hulls
from unkelt.geometry.measure import signed_areas
from unkelt.geometry.path import Bools, Ints, Path, concat
from unkelt.geometry.region import connected
from unkelt.geometry.weld import AWAY_CHORDS, PROOF_CHORD, operand_regions
from unkelt.tolerance import Tolerance


def touching(operands: Sequence[Operand], tolerance: Tolerance) -> list[list[int]]:
    """Indices of operands that overlap or touch, cluster by cluster: those of which what they fill has a point in common, by
    polylines to a tenth of the chord tolerance.

    Outlines that fill a common point have lines that meet, or one has a ring within the other's box. So only segments whose
    hulls meet are drawn finely; all is drawn of rings in a box, and of outlines with a subpath that encloses hardly anything.
    """
    paths = [closed(operand.path) for operand in operands]
    whole = concat(paths)
    owner = np.repeat(np.arange(len(paths)), list(map(len, paths)))  # of each subpath
    thin = np.zeros(len(paths), bool)
    thin[owner[np.abs(signed_areas(whole)) <= tolerance.sliver_mm2]] = True
    one, other = _lines_meet(paths, tolerance)
    plain = ~(thin[one] | thin[other])
    pairs = _pairs(one[plain], other[plain])
    asked = _pairs(*_within_boxes(whole, owner, thin)) - pairs
    drawn = sorted({index for pair in asked for index in pair})
    areas = dict(zip(drawn, operand_regions([operands[index] for index in drawn], tolerance), strict=True))
    meet = shapely.intersects([areas[i] for i, _ in asked], [areas[j] for _, j in asked])
    pairs |= {pair for pair, do in zip(asked, meet.tolist(), strict=True) if do}
    return connected(len(paths), pairs)


def _pairs(one: Ints, other: Ints) -> set[tuple[int, int]]:
    return set(zip(np.minimum(one, other).tolist(), np.maximum(one, other).tolist(), strict=True))


def _lines_meet(paths: Sequence[Path], tolerance: Tolerance) -> tuple[Ints, Ints]:
    """Pairs of paths of which a segment meets one of the other's."""
    chord = tolerance.chord_mm * PROOF_CHORD
    path, path_of = concat(paths), np.repeat(np.arange(len(paths)), [len(each.points) for each in paths])
    i, j = neighbours(paths, AWAY_CHORDS * chord)
    near, place = np.unique(np.append(i, j), return_inverse=True)
    parts = Path(path.points[near], path.degrees[near], np.arange(len(near)), np.zeros(len(near), bool))
    vertices, owner = flatten(parts, chord)
    lines = shapely.linestrings(vertices, indices=owner)
    meet = shapely.intersects(lines[place[: len(i)]], lines[place[len(i) :]])
    return path_of[i[meet]], path_of[j[meet]]


def _within_boxes(path: Path, owner: Ints, thin: Bools) -> tuple[Ints, Ints]:
    """Pairs of paths of which one has all nodes of a subpath within the other's box, or is thin and has a common point with it."""
    if not len(path):
        return owner, owner
    rings = Hulls.of(path.points, path.starts)
    low, high = rings.low, rings.high
    firsts = np.flatnonzero(np.append(True, owner[1:] != owner[:-1]))
    lows, highs = np.minimum.reduceat(low, firsts), np.maximum.reduceat(high, firsts)
    nodes = path.points[:, 3]
    node_low, node_high = np.minimum.reduceat(nodes, path.starts), np.maximum.reduceat(nodes, path.starts)
    subpath, box = shapely.STRtree(shapely.box(*lows.T, *highs.T)).query(shapely.box(*low.T, *high.T))
    inside = ((node_low[subpath] >= lows[box]) & (node_high[subpath] <= highs[box])).all(axis=1)
    one, other = owner[subpath], owner[firsts][box]
    asked = (one != other) & (inside | thin[one] | thin[other])
    return one[asked], other[asked]
