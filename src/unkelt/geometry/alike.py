"""Which paths are the same but for their place, as the same letter is in many words."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from functools import partial
from hashlib import blake2b
from typing import Any

import numpy as np
from numpy.typing import NDArray

from unkelt.geometry.path import Floats, Path, once_each

PLACES = 5
"""Shapes are the same when their coordinates, seen from their first point, agree to so many decimals of a millimetre.
"""

EXACT_PLACES = 8
"""Shapes that agree to so many stand for each other wherever rings are compared: far less than two vertices may differ
that are one.
"""


def place_free(points: Floats) -> bytes:
    """The same for points (…, 2) that differ only in where they lie."""
    return _digest(seen_from_first(points, PLACES))


def shape_key(path: Path, places: int = PLACES) -> bytes:
    """What is the same for paths that differ only in their place."""
    return path.once(_KEY[places])


def shape_keys(paths: Sequence[Path], places: int = PLACES) -> list[bytes]:
    """`shape_key` of many paths, found in one go."""
    return once_each(paths, _KEY[places], partial(_keys, places=places))


def _keys(paths: Sequence[Path], places: int) -> list[bytes]:
    counts = [len(path.points) for path in paths]
    points = np.concatenate([path.points for path in paths])
    edges = list(itertools.accumulate(counts, initial=0))
    begins = points[np.minimum(edges[:-1], len(points) - 1), :1] if len(points) else points[:0, :1]
    seen = np.rint((points - np.repeat(begins, counts, axis=0)) * 10.0**places) + 0.0
    return [
        _digest(seen[a:b], path.degrees, path.starts, path.closed)
        for path, (a, b) in zip(paths, itertools.pairwise(edges), strict=True)
    ]


def _key(path: Path) -> bytes:
    return _keys([path], PLACES)[0]


def _exact_key(path: Path) -> bytes:
    return _keys([path], EXACT_PLACES)[0]


_KEY = {PLACES: _key, EXACT_PLACES: _exact_key}


def _digest(*buffers: NDArray[Any]) -> bytes:  # of whatever numbers
    """Sixteen bytes for numbers of any count, so that keys don't fill the memory (BLAKE2, RFC 7693)."""
    digest = blake2b(digest_size=16)
    for buffer in buffers:
        digest.update(np.ascontiguousarray(buffer).data)
    return digest.digest()


def seen_from_first(points: Floats, places: int) -> Floats:
    """Points (…, 2) from the first of them, rounded: to the last bit the same wherever the shape lies."""
    flat = points.reshape(-1, 2)
    return np.asarray(np.round(flat - flat[:1], places) + 0.0).reshape(points.shape)
