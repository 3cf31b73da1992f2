"""Dashes: the stretches of a path that a dashed stroke draws, as open subpaths."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence

import numpy as np

from unkelt.errors import GeometryRefused
from unkelt.geometry.arc_length import Along
from unkelt.geometry.measure import segment_lengths
from unkelt.geometry.path import Floats, Path, concat
from unkelt.geometry.trace.rails import corners
from unkelt.messages import say

MOST_DASHES = 200_000
"""More than this on one outline is a mistake of units."""


def dashed(path: Path, dashes_mm: Sequence[float], offset_mm: float) -> Path:
    """The drawn stretches, each an open subpath; the pattern starts anew with every subpath (SVG 1.1, section 11.4).
    Where one ends at the start of a closed subpath and another begins there, both are one, with a corner and no caps,
    as renderers draw them (common practice; resvg confirms it in the tests). One that is drawn all along stays closed.

    An odd number of lengths is taken twice. A pattern without length leaves the path as it is. Raises GeometryRefused
    when there would be more than `MOST_DASHES`.
    """
    pattern = list(dashes_mm) * (1 + len(dashes_mm) % 2)
    period = sum(pattern)
    if period <= 0 or not len(path):
        return path
    if float(segment_lengths(path).sum()) / period * len(pattern) > MOST_DASHES:
        raise GeometryRefused(say("it would make more than {most_dashes:,} dashes", most_dashes=MOST_DASHES))
    return concat(dash for subpath in path.subpaths() for dash in _dashes(subpath, pattern, offset_mm % period))


ROUNDING = 1e-4, 1e-3
"""So far off, as a share of the length and in mm, renderers may measure where a dash begins or ends (measured: resvg,
0.005 mm on 108 mm).
"""


def corners_by_ends(path: Path, dashes_mm: Sequence[float], offset_mm: float) -> Floats:
    """(k, 2) corners by which a dash begins or ends, nearer than renderers measure: each may take such a corner into
    the dash, and paint a join there, or not.
    """
    pattern = list(dashes_mm) * (1 + len(dashes_mm) % 2)
    period = sum(pattern)
    found: list[Floats] = []
    if period <= 0 or float(segment_lengths(path).sum()) / period * len(pattern) > MOST_DASHES:
        return np.zeros((0, 2))
    for subpath in path.subpaths():
        along = Along.of(subpath)
        turns = {tuple(corner.node.tolist()) for corner in corners(subpath)}
        at = [k for k, node in enumerate(subpath.points[:, 0].tolist()) if tuple(node) in turns]
        places = np.concatenate([[0.0], along.ends])[at]
        ends = np.array(list(_spans(along.length, pattern, offset_mm % period))).ravel()
        ends = ends[(ends > 0) & (ends < along.length)]  # the start of a subpath is no matter of measuring
        near = np.abs(ends[:, None] - places) <= ROUNDING[0] * along.length + ROUNDING[1]
        found.append(subpath.points[at, 0][near.any(axis=0)])
    return np.concatenate(found) if found else np.zeros((0, 2))


ROUNDED = 1e-9
"""Less than this share of its period is no part of a pattern: what scaling leaves of a dash that ended."""


def _dashes(subpath: Path, pattern: list[float], phase: float) -> list[Path]:
    along = Along.of(subpath)
    spans = list(_spans(along.length, pattern, phase))
    drawn = [along.stretch(start, stop) for start, stop in spans]
    if not (subpath.closed[0] and spans and spans[0][0] == 0 < spans[0][1] and spans[-1][1] == along.length):
        return drawn
    if len(spans) == 1:
        return [subpath]
    last, first = drawn[-1], drawn[0]
    points, degrees = (
        np.concatenate([getattr(part, name) for part in (last, first)]) for name in ("points", "degrees")
    )
    return [*drawn[1:-1], Path(points, degrees, last.starts, last.closed)]


def _spans(total: float, pattern: list[float], phase: float) -> Iterator[tuple[float, float]]:
    """From where to where each dash reaches on a length. One that would end where the line starts, or start where it
    ends, is none, as renderers have it; but for one without length, a dot, that starts with the line.
    """
    if total <= 0:
        return
    position, rounding = -phase, ROUNDED * sum(pattern)
    for index in itertools.count():
        length = pattern[index % len(pattern)]
        if position >= total - rounding:
            return
        end = position + length
        if index % 2 == 0 and (end > rounding or (length == 0 and abs(end) <= rounding)):
            yield max(position, 0.0), min(position + length, total)
        position += length
