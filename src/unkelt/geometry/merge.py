"""Micro segments merged into their neighbours: the next segment starts where they started."""

from __future__ import annotations

import itertools

import numpy as np

from unkelt.geometry.path import LINE, Bools, Path


def micro_segments(path: Path, shorter_mm: float) -> Bools:
    """(n,) whether all of a segment, handles too, lies within `shorter_mm` of its start, along either axis."""
    return np.asarray(np.abs(path.points - path.points[:, :1]).max(axis=(1, 2), initial=0) < shorter_mm)


def merge_micro(path: Path, shorter_mm: float) -> Path:
    """Each subpath without segments shorter than `shorter_mm`; ends of open subpaths stay where they are.

    A subpath of nothing else stays as it is. Runs of micro segments move a neighbour's end by their whole length: whoever
    calls measures.
    """
    micro = micro_segments(path, shorter_mm)
    if not micro.any():
        return path
    points, keep = path.points.copy(), ~micro
    starts, position = [], 0
    for a, b, closed in zip(path.starts.tolist(), path.stops.tolist(), path.closed.tolist(), strict=True):
        kept = np.flatnonzero(keep[a:b]) + a
        if not len(kept):
            keep[a:b] = True
            kept = np.arange(a, b)
        else:
            for here, following in itertools.pairwise(np.append(kept, kept[0]) if closed else kept):
                points[following, 0] = points[here, 3]
            if not closed:
                points[kept[0], 0], points[kept[-1], 3] = path.points[a, 0], path.points[b - 1, 3]
            lines = kept[path.degrees[kept] == LINE]
            points[lines, 1], points[lines, 2] = points[lines, 0], points[lines, 3]
        starts.append(position)
        position += len(kept)
    return Path(points[keep], path.degrees[keep], np.array(starts, np.intp), path.closed)
