"""Dashes: the stretches of a path that a dashed stroke draws, as open subpaths."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence

import numpy as np

from unkelt.errors import GeometryRefused
from unkelt.geometry.measure import derivative, part, segment_lengths
from unkelt.geometry.path import LINE, Floats, Path, concat

MOST_DASHES = 200_000
"""More than this on one outline is a mistake of units."""

STEPS = 1024


def dashed(path: Path, dashes_mm: Sequence[float], offset_mm: float) -> Path:
    """The drawn stretches, each an open subpath; the pattern starts anew with every subpath (SVG 1.1, section 11.4).

    An odd number of lengths is taken twice. A pattern without length leaves the path as it is. Raises GeometryRefused
    when there would be more than `MOST_DASHES`.
    """
    pattern = list(dashes_mm) * (1 + len(dashes_mm) % 2)
    period = sum(pattern)
    if period <= 0 or not len(path):
        return path
    lengths = segment_lengths(path)
    if float(lengths.sum()) / period * len(pattern) > MOST_DASHES:
        raise GeometryRefused(f"it would make more than {MOST_DASHES:,} dashes")
    return concat(
        dash
        for subpath in path.subpaths()
        for dash in _dashes(subpath, segment_lengths(subpath), pattern, offset_mm % period)
    )


def _dashes(path: Path, lengths: Floats, pattern: list[float], phase: float) -> Iterator[Path]:
    total, ends = float(lengths.sum()), np.cumsum(lengths)
    position = -phase if total > 0 else 0.0
    for index in itertools.count():
        length = pattern[index % len(pattern)]
        if position >= total:
            return
        if index % 2 == 0 and position + length >= 0:
            yield _stretch(path, lengths, ends, max(position, 0.0), min(position + length, total))
        position += length


def _stretch(path: Path, lengths: Floats, ends: Floats, start: float, stop: float) -> Path:
    """The open subpath between two distances from the start."""
    a = min(int(np.searchsorted(ends, start, "right")), len(ends) - 1)
    b = max(a, min(int(np.searchsorted(ends, stop, "left")), len(ends) - 1))
    cubics = path.cubics()
    points, degrees = [], []
    for index in range(a, b + 1):
        begin = float(ends[index] - lengths[index])
        t0 = _parameter(cubics[index], lengths[index], start - begin) if index == a else 0.0
        t1 = _parameter(cubics[index], lengths[index], stop - begin) if index == b else 1.0
        points.append(part(cubics[index], t0, t1))
        degrees.append(LINE if path.degrees[index] == LINE else 3)
        if degrees[-1] == LINE:
            points[-1][1], points[-1][2] = points[-1][0], points[-1][3]
    return Path(np.array(points), np.array(degrees, np.uint8), np.zeros(1, np.intp), np.zeros(1, bool))


def _parameter(cubic: Floats, length: float, along: float) -> float:
    """The parameter at a length from the start, by the trapezium rule's running sum of the speed, scaled to the length."""
    if along <= 0 or length <= 0:
        return 0.0
    if along >= length:
        return 1.0
    t = np.linspace(0, 1, STEPS + 1)
    speed = np.linalg.norm(derivative(cubic[None], t[None])[0], axis=1)
    run = np.concatenate([[0.0], np.cumsum(speed[:-1] + speed[1:])])
    return float(np.interp(along / length, run / run[-1], t))
