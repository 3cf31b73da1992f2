"""Dashes: the stretches of a path that a dashed stroke draws, as open subpaths."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence

from unkelt.errors import GeometryRefused
from unkelt.geometry.along import Along
from unkelt.geometry.measure import segment_lengths
from unkelt.geometry.path import Path, concat

MOST_DASHES = 200_000
"""More than this on one outline is a mistake of units."""


def dashed(path: Path, dashes_mm: Sequence[float], offset_mm: float) -> Path:
    """The drawn stretches, each an open subpath; the pattern starts anew with every subpath (SVG 1.1, section 11.4).

    An odd number of lengths is taken twice. A pattern without length leaves the path as it is. Raises GeometryRefused
    when there would be more than `MOST_DASHES`.
    """
    pattern = list(dashes_mm) * (1 + len(dashes_mm) % 2)
    period = sum(pattern)
    if period <= 0 or not len(path):
        return path
    if float(segment_lengths(path).sum()) / period * len(pattern) > MOST_DASHES:
        raise GeometryRefused(f"it would make more than {MOST_DASHES:,} dashes")
    return concat(
        dash for subpath in path.subpaths() for dash in _dashes(Along.of(subpath), pattern, offset_mm % period)
    )


def _dashes(along: Along, pattern: list[float], phase: float) -> Iterator[Path]:
    total = along.length
    position = -phase if total > 0 else 0.0
    for index in itertools.count():
        length = pattern[index % len(pattern)]
        if position >= total:
            return
        if index % 2 == 0 and position + length >= 0:
            yield along.stretch(max(position, 0.0), min(position + length, total))
        position += length
