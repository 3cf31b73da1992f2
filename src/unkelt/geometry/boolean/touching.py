"""Which outlines overlap or touch."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from unkelt.geometry.boolean.chords import drawn_near, neighbours
from unkelt.geometry.boolean.engine import Operand, closed
from unkelt.geometry.boolean.hulls import Hulls, in_boxes
from unkelt.geometry.boolean.judge import PROOF_CHORD
from unkelt.geometry.boolean.stretches import CHORD, SINGLE, Marks
from unkelt.geometry.boolean.weld import AWAY_CHORDS, operand_regions
from unkelt.geometry.measure import signed_areas
from unkelt.geometry.path import Bools, Ints, Path, concat
from unkelt.geometry.region import connected
from unkelt.tolerance import Tolerance


def touching(operands: Sequence[Operand], tolerance: Tolerance) -> list[list[int]]:
    """Indices of operands that overlap or touch, cluster by cluster: those of which what they fill has a point in
    common, by polylines to a tenth of the chord tolerance.

    Outlines that fill a common point have lines that meet, or one has a ring within the other's box. So only segments
    whose hulls meet are drawn finely; all is drawn of rings in a box, and of outlines with a subpath that encloses
    hardly anything.
    """
    paths, chord = [closed(operand.path) for operand in operands], tolerance.chord_mm * PROOF_CHORD
    whole = concat(paths)
    if not len(whole):
        return [[index] for index in range(len(paths))]
    owner = np.repeat(np.arange(len(paths)), list(map(len, paths)))  # of each subpath
    marks, (i, j) = neighbours(paths, whole, AWAY_CHORDS * chord)
    thin = np.zeros(len(paths), bool)
    # Where a chord may stand for something, chords would enclose enough.
    doubtful = np.maximum.reduceat(marks & (SINGLE | CHORD), whole.starts) == 0
    doubtful[doubtful] = np.abs(signed_areas(whole.select(doubtful))) <= tolerance.sliver_mm2
    thin[owner[doubtful]] = True
    path_of = np.repeat(owner, whole.counts)
    meet = _meet(whole, marks, i, j, chord) & ~thin[path_of[i]] & ~thin[path_of[j]]
    pairs = _pairs(path_of[i[meet]], path_of[j[meet]])
    asked = _pairs(*_within_boxes(whole, owner, thin)) - pairs
    drawn = sorted({index for pair in asked for index in pair})
    areas = dict(zip(drawn, operand_regions([operands[index] for index in drawn], tolerance), strict=True))
    common = shapely.intersects([areas[one] for one, _ in asked], [areas[other] for _, other in asked])
    pairs |= {pair for pair, do in zip(asked, common.tolist(), strict=True) if do}
    return connected(len(paths), pairs)


def _pairs(one: Ints, other: Ints) -> set[tuple[int, int]]:
    return set(zip(np.minimum(one, other).tolist(), np.maximum(one, other).tolist(), strict=True))


def _meet(path: Path, marks: Marks, i: Ints, j: Ints, chord_mm: float) -> Bools:
    """Whether pairs of segments, of which is known which quarters of them may meet, have a point in common."""
    near, place = np.unique(np.append(i, j), return_inverse=True)
    parts = Path(path.points[near], path.degrees[near], np.arange(len(near)), np.zeros(len(near), bool))
    vertices, owner = drawn_near(parts, marks[near], chord_mm).flattened(parts)
    lines = shapely.linestrings(vertices, indices=owner)
    return np.asarray(shapely.intersects(lines[place[: len(i)]], lines[place[len(i) :]]))


def _within_boxes(path: Path, owner: Ints, thin: Bools) -> tuple[Ints, Ints]:
    """Pairs of paths of which one has all nodes of a subpath within the other's box, or is thin, where their boxes
    meet.
    """
    subpath, other, low, high = in_boxes(Hulls.of(path.points, path.starts), owner)
    nodes = path.points[:, 3]
    node_low, node_high = np.minimum.reduceat(nodes, path.starts), np.maximum.reduceat(nodes, path.starts)
    inside = ((node_low[subpath] >= low) & (node_high[subpath] <= high)).all(axis=1)
    one = owner[subpath]
    asked = inside | thin[one] | thin[other]
    return one[asked], other[asked]
