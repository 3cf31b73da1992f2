"""Rows of numbers, found again by all their bits."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from unkelt.geometry.path import Floats, Ints

Rows = NDArray[np.float32] | Floats
"""(n, k, 2), without negative zeros, which have other bits."""


class RowIndex:
    """Rows, each of one owner (n,)."""

    def __init__(self, rows: Rows, owner: Ints) -> None:
        keys = _mixed(rows, owner)
        self._order = np.argsort(keys, kind="stable")
        self._keys, self._rows, self._owner = keys[self._order], rows, owner

    def find(self, rows: Rows, owner: Ints) -> Ints:
        """(m,) the place of an equal row of the same owner, or -1."""
        if not len(self._keys):
            return np.full(len(rows), -1)
        keys = _mixed(rows, owner)
        place = self._order[np.minimum(np.searchsorted(self._keys, keys), len(self._keys) - 1)]
        same = (self._rows[place] == rows).all(axis=(1, 2)) & (self._owner[place] == owner)
        return np.where(same, place, -1)


def _mixed(rows: Rows, owner: Ints) -> NDArray[np.uint64]:
    """(n,) a number that rows with other bits or another owner hardly ever share."""
    mixed = owner.astype(np.uint64)
    if not len(rows):
        return mixed
    bits = np.ascontiguousarray(rows).view(np.uint64).reshape(len(rows), -1)
    for column in bits.T:
        mixed = (mixed ^ column ^ (mixed >> np.uint64(29))) * np.uint64(0xBF58476D1CE4E5B9)
    return mixed
