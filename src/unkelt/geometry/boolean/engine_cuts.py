"""CurvePieces of one curve, made one again where an engine cut it for reasons of its own.

Two Béziers that meet are pieces of one when one carried on past its end is the other: B'(0) = r A'(1) says how far, and
the whole over [0, 1 + r] is A's blossom there (R. Goldman, Pyramid Algorithms).
"""

from __future__ import annotations

import numpy as np

from unkelt.geometry.measure import part, tangents
from unkelt.geometry.path import CUBIC, LINE, QUAD, Bools, Floats, Path, raised

LEAST_SHARE = 0.02
"""A piece shorter than this share of the other says too little of the whole."""

LEAST_SEGMENTS = 2
"""So many a subpath keeps."""

STRAIGHT_ON = 0.999
"""Cosine of the turn at a cut, at least: rounding turns short handles."""


def without_engine_cuts(path: Path, keep: Bools, within_mm: float) -> Path:
    """Closed subpaths in which segments that are pieces of one line or curve are one.

    `keep` (n,) says which segments' ends are nodes to keep. No node or handle of a piece lies further than `within_mm`
    from where it is on the whole.
    """
    while True:
        following = path.following()
        many = np.repeat(path.counts > LEAST_SEGMENTS, path.counts)
        asked = np.flatnonzero(~keep & many & (path.degrees == path.degrees[following]))
        end, start = tangents(path.points[asked])[1], tangents(path.points[following[asked]])[0]
        asked = asked[(end * start).sum(axis=1) > STRAIGHT_ON]
        if not len(asked):
            return path
        subpath_of = np.repeat(np.arange(len(path)), path.counts)
        firsts, seconds = (raised(path.points[each], path.degrees[each]) for each in (asked, following[asked]))
        wholes: dict[int, tuple[int, Floats]] = {}
        for index, first, second in zip(asked.tolist(), firsts, seconds, strict=True):
            whole = None if subpath_of[index] in wholes else _whole(first, second, within_mm)
            if whole is not None:
                wholes[subpath_of[index]] = index, whole
        if not wholes:
            return path
        points, keep, left = path.points.copy(), keep.copy(), np.ones(len(path.points), bool)
        for index, whole in wholes.values():
            again = following[index]
            points[index] = _as_degree(whole, int(path.degrees[index]))
            keep[index], left[again] = keep[again], False
        counts = np.add.reduceat(left, path.starts, dtype=np.intp)
        path, keep = Path(points[left], path.degrees[left], np.cumsum(counts) - counts, path.closed), keep[left]


def _whole(one: Floats, other: Floats, within_mm: float) -> Floats | None:
    """The cubic (4, 2) of which two that meet are the pieces, with their outer ends to the last bit; None where there
    is none.
    """
    speed, on = np.linalg.norm(one[3] - one[2]), np.linalg.norm(other[1] - other[0])
    if min(speed, on) < LEAST_SHARE * max(speed, on):
        return None
    if on > speed:  # carried on from the longer
        back = _whole(other[::-1], one[::-1], within_mm)
        return back if back is None else back[::-1]
    ratio = float(on / speed)
    whole = part(one, 0.0, 1.0 + ratio)
    whole[3] = other[3]
    cut = 1.0 / (1.0 + ratio)
    pieces = np.stack([part(whole, 0.0, cut), part(whole, cut, 1.0)])
    return whole if np.abs(pieces - [one, other]).max() <= within_mm else None


def _as_degree(cubic: Floats, degree: int) -> Floats:
    """The points (4, 2) of a segment of that degree that is this cubic."""
    first, last = cubic[0], cubic[3]
    if degree == CUBIC:
        return cubic
    if degree == QUAD:
        handle = (3 * (cubic[1] + cubic[2]) - first - last) / 4
        return np.stack([first, handle, handle, last])
    assert degree == LINE
    return np.stack([first, first, last, last])
