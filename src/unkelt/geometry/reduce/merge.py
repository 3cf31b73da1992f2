"""Micro segments merged into their neighbours: the next segment starts where they started."""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np
import shapely

from unkelt.geometry.cache import Topic
from unkelt.geometry.distance import departure, line_distance
from unkelt.geometry.flatten import lines
from unkelt.geometry.measure import Box
from unkelt.geometry.nesting import ring_nesting
from unkelt.geometry.path import CUBIC, LINE, Bools, Floats, Path, concat


def micro_segments(path: Path, shorter_mm: float) -> Bools:
    """(n,) whether all of a segment, handles too, lies within `shorter_mm` of its start, along either axis."""
    return np.asarray(np.abs(path.points - path.points[:, :1]).max(axis=(1, 2), initial=0) < shorter_mm)


def merge_micro(path: Path, shorter_mm: float) -> Path:
    """Each subpath without segments shorter than `shorter_mm`; ends of open subpaths stay where they are.

    A subpath of nothing else stays as it is. Spans of micro segments move a neighbour's end by their whole length:
    whoever calls measures.
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


@dataclass(frozen=True, slots=True)
class Merged:
    """A path with fewer micro segments, how far its lines moved at most (mm), and the boxes of those that had to
    stay.
    """

    path: Path
    moved_mm: float
    left: tuple[Box, ...]


def merged(path: Path, shorter_mm: float, allowed_mm: float) -> Merged:
    """The path without segments shorter than `shorter_mm`, wherever that moves no line by more than `allowed_mm` and
    changes no ring's place among the others. Where it would, only ever shorter ones are merged, subpath by subpath, or
    none.
    """
    return _MERGED.get((path, shorter_mm, allowed_mm), lambda: _merged(path, shorter_mm, allowed_mm))


_MERGED: Topic[Merged] = Topic("paths without micro segments", 1024)


def _merged(path: Path, shorter_mm: float, allowed_mm: float) -> Merged:
    fine = allowed_mm / 10
    whole = merge_micro(path, shorter_mm)
    fewer = _fewer(path, whole)
    moved = _moved(path.select(fewer), whole.select(fewer), fine) if fewer else 0.0
    if moved <= allowed_mm and _same_nesting(path, whole, fine):
        return Merged(whole, moved, ())
    parts, moved, left = [], 0.0, list[Box]()
    for part in path.subpaths():
        best, away = part, 0.0
        for share in (1.0, 0.5, 0.25, 0.1):
            tried = merge_micro(part, shorter_mm * share)
            away = _moved(part, tried, fine) if tried.node_count < part.node_count else 0.0
            if tried is part or (away <= allowed_mm and _same_nesting(part, tried, fine)):
                best, moved = tried, max(moved, away)
                break
        stays = best.points[micro_segments(best, shorter_mm)]
        left += _boxes(stays)
        parts.append(best)
    result = concat(parts)
    if not _same_nesting(path, result, fine):
        return Merged(path, 0.0, _boxes(path.points[micro_segments(path, shorter_mm)]))
    return Merged(result, moved, tuple(left))


def without_crowding(
    received: Path, path: Path, moved_mm: float, shorter_mm: float, allowed_mm: float
) -> tuple[Path, float] | None:
    """A path without segments shorter than `shorter_mm`, and how far it then lies from what it was made of, subpath by
    subpath, from which it lies no further than `moved_mm` as it is; None where there is no such segment, or where that
    would be further than allowed.
    """
    tried = merge_micro(path, shorter_mm)
    fewer = _fewer(path, tried)
    if not fewer:
        return None
    fine = allowed_mm / 40  # what polylines hide counts as moved
    away = max(moved_mm, _moved_near(received, path, tried, moved_mm, allowed_mm, fine))
    return (tried, away) if away <= allowed_mm and _same_nesting(path, tried, fine) else None


def _fewer(path: Path, merged_path: Path) -> list[int]:
    """Which subpaths have fewer nodes now; all others are as they were."""
    return np.flatnonzero(merged_path.counts < path.counts).tolist()


def _boxes(segments: Floats) -> tuple[Box, ...]:
    corners = np.concatenate([segments.min(axis=1), segments.max(axis=1)], axis=1)
    return tuple((x0, y0, x1, y1) for x0, y0, x1, y1 in corners.tolist())


def _moved(a: Path, b: Path, fine_mm: float) -> float:
    return line_distance(lines(a, fine_mm), lines(b, fine_mm)) + 2 * fine_mm


def _moved_near(received: Path, path: Path, tried: Path, moved_mm: float, allowed_mm: float, fine_mm: float) -> float:
    """How far apart, both ways, what was received and what is tried lie where that isn't as `path` has it, which lies
    no further than `moved_mm` from what was received; right wherever it is no more than allowed.

    Only what lies near is looked at: whatever was nearest to a segment that stayed still is.
    """
    new, gone = _only_in(tried, path), _only_in(path, tried)
    left_behind = _near(received, np.concatenate([new, gone]), moved_mm)
    return 2 * fine_mm + max(
        departure(_drawn(these, fine_mm), _drawn(_near(those, these, allowed_mm), fine_mm))
        for these, those in ((new, received), (left_behind, tried))
    )


def _only_in(path: Path, other: Path) -> Floats:
    """(n, 4, 2) the segments that the other path hasn't to the last bit, as cubics."""
    there = {segment.tobytes() for segment in other.points}
    return path.cubics()[[segment.tobytes() not in there for segment in path.points]]


def _near(path: Path, segments: Floats, within_mm: float) -> Floats:
    """(n, 4, 2) the segments of a path, as cubics, that may lie within a distance of some (m, 4, 2)."""
    cubics = path.cubics()
    apart = np.zeros((len(cubics), len(segments)), bool)
    for axis in (0, 1):
        a, b = cubics[:, None, :, axis], segments[None, :, :, axis]
        apart |= (a.min(axis=2) > b.max(axis=2) + within_mm) | (a.max(axis=2) < b.min(axis=2) - within_mm)
    return np.asarray(cubics[~apart.all(axis=1)])


def _drawn(cubics: Floats, fine_mm: float) -> shapely.MultiLineString:
    n = len(cubics)
    return lines(Path(cubics, np.full(n, CUBIC, np.uint8), np.arange(n), np.zeros(n, bool)), fine_mm)


def _same_nesting(a: Path, b: Path, fine_mm: float) -> bool:
    """Whether rings that didn't cross still don't, and lie in each other as they did."""
    was, now = ring_nesting(a, fine_mm).nesting, ring_nesting(b, fine_mm).nesting
    return was is None or (now is not None and now.containers == was.containers)
