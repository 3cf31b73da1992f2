"""What a machine would cut twice of imported bodies."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import shapely

from unkelt.geometry.flatten import polylines
from unkelt.geometry.path import Path

MOST_SAMPLES = 1_000_000
"""On a line of kilometres, which no machine cuts, the samples lie further apart."""

SPACING_MM = 0.25
"""How closely the lines are sampled when looking for stretches that are cut twice."""


def cut_twice_mm(paths: Sequence[Path], within_mm: float, chord_mm: float) -> float:
    """Length of all stretches that run along a line cut before, nearer than `within_mm`; each is counted once.

    Lines are sampled; a stretch must be at least three samples long, so that lines which only cross don't count.
    """
    lines = [line for path in paths for line in polylines(path, chord_mm)]
    if len(lines) < 2:
        return 0.0
    starts, ends, owners = [], [], []
    for owner, line in enumerate(lines):
        starts.append(line[:-1])
        ends.append(line[1:])
        owners.append(np.full(len(line) - 1, owner))
    edges = shapely.linestrings(np.stack([np.concatenate(starts), np.concatenate(ends)], axis=1))
    edge_owner = np.concatenate(owners)
    tree = shapely.STRtree(edges)
    total = 0.0
    for owner, line in enumerate(lines):
        whole = shapely.LineString(line)
        count = max(3, min(MOST_SAMPLES, math.ceil(whole.length / SPACING_MM)))
        samples = shapely.line_interpolate_point(whole, (np.arange(count) + 0.5) / count, normalized=True)
        hit, edge = tree.query(samples, predicate="dwithin", distance=within_mm)
        again = np.zeros(count, bool)
        again[hit[edge_owner[edge] < owner]] = True
        runs = np.convolve(again, np.ones(3), mode="same") >= 3
        again &= np.convolve(runs, np.ones(3), mode="same") > 0
        total += float(np.count_nonzero(again)) / count * whole.length
    return total
