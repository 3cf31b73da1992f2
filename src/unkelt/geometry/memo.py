"""What was found out about a shape, remembered for its copies elsewhere on the sheet and for the next look."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Hashable, Iterable, Sequence
from contextlib import suppress
from hashlib import blake2b
from threading import Lock
from typing import Any, Generic, TypeVar

import numpy as np
from cachetools import LRUCache
from numpy.typing import NDArray

from unkelt.geometry.path import Path

R = TypeVar("R")

PLACES = 5
"""Shapes are the same when their coordinates, seen from their first point, agree to so many decimals of a millimetre.
"""


class Memo(Generic[R]):
    """Keeps as many answers as `size`, from any thread."""

    def __init__(self, size: int) -> None:
        self._kept: LRUCache[Hashable, R] = LRUCache(size)
        self._lock = Lock()

    def get(self, key: Hashable, find: Callable[[], R]) -> R:
        with self._lock:
            known = self._kept.get(key)
        if known is None:
            known = find()
            with self._lock:
                self._kept[key] = known
        return known

    def get_many(self, keys: Sequence[Hashable], find: Callable[[list[int]], Sequence[R]]) -> list[R]:
        """The answers for several keys; `find` is asked once, for the places of those that aren't known."""
        with self._lock:
            known = {key: self._kept[key] for key in keys if key in self._kept}
        first = {key: place for place, key in reversed(list(enumerate(keys))) if key not in known}
        places = sorted(first.values())
        known |= {keys[place]: answer for place, answer in zip(places, find(places) if places else (), strict=True)}
        with self._lock:
            for place in places:
                self._kept[keys[place]] = known[keys[place]]
        return [known[key] for key in keys]

    def clear(self) -> None:
        with self._lock:
            self._kept.clear()


PASSING = "passing"
"""Kept of a path that is only made on the way to another: what is found out about it goes with it."""


class OfPaths(Generic[R]):
    """Keeps answers about paths, and what else is asked, until all together have that size; from any thread."""

    def __init__(self, size: int, getsizeof: Callable[[R], int]) -> None:
        self._kept: LRUCache[tuple[Path, Hashable], R] = LRUCache(size, getsizeof)
        self._lock = Lock()

    def known(self, asked: Iterable[tuple[Path, Hashable]]) -> dict[tuple[Path, Hashable], R]:
        """The answers that there are."""
        result: dict[tuple[Path, Hashable], R] = {}
        with self._lock:
            for path, also in asked:
                answer = path.kept.get((id(self), also)) if PASSING in path.kept else self._kept.get((path, also))
                if answer is not None:
                    result[path, also] = answer
        return result

    def keep(self, path: Path, also: Hashable, answer: R) -> None:
        if PASSING in path.kept:
            path.kept[id(self), also] = answer
            return
        with self._lock, suppress(ValueError):  # one that is too large is found again
            self._kept[path, also] = answer

    def clear(self) -> None:
        with self._lock:
            self._kept.clear()


class ByIdentity(Generic[R]):
    """Keeps answers about objects that never change, by which objects they are: they are kept with the answer, so that
    their ids stay their own. From any thread.
    """

    def __init__(self, size: int) -> None:
        self._kept: LRUCache[Hashable, tuple[tuple[object, ...], R]] = LRUCache(size)
        self._lock = Lock()

    def known(self, *objects: object, also: Hashable = None) -> R | None:
        """The answer about these objects, in this order, where there is one."""
        with self._lock:
            found = self._kept.get((tuple(map(id, objects)), also))
        return found[1] if found is not None else None

    def get(self, find: Callable[[], R], *objects: object, also: Hashable = None) -> R:
        """The answer about these objects, and what else it depends on; `find` is asked where it isn't known."""
        known = self.known(*objects, also=also)
        if known is None:
            known = find()
            with self._lock:
                self._kept[tuple(map(id, objects)), also] = objects, known
        return known


def place_free(points: NDArray[Any]) -> bytes:
    """The same for points (…, 2) that differ only in where they lie."""
    return _digest(seen_from_first(points, PLACES))


def shape_key(path: Path, places: int = PLACES) -> bytes:
    """What is the same for paths that differ only in their place."""
    return shape_keys([path], places)[0]


def shape_keys(paths: Sequence[Path], places: int = PLACES) -> list[bytes]:
    """`shape_key` of many paths, found in one go."""
    kept = f"shape to {places} places"
    new = [path for path in {id(path): path for path in paths}.values() if kept not in path.kept]
    if new:
        counts = [len(path.points) for path in new]
        points = np.concatenate([path.points for path in new])
        edges = list(itertools.accumulate(counts, initial=0))
        begins = points[np.minimum(edges[:-1], len(points) - 1), :1] if len(points) else points[:0, :1]
        seen = np.rint((points - np.repeat(begins, counts, axis=0)) * 10.0**places) + 0.0
        for path, (a, b) in zip(new, itertools.pairwise(edges), strict=True):
            path.kept[kept] = _digest(seen[a:b], path.degrees, path.starts, path.closed)
    return [path.kept[kept] for path in paths]


def _digest(*buffers: Any) -> bytes:
    """Sixteen bytes for numbers of any count, so that keys don't fill the memory (BLAKE2, RFC 7693)."""
    digest = blake2b(digest_size=16)
    for buffer in buffers:
        digest.update(buffer)
    return digest.digest()


def seen_from_first(points: NDArray[Any], places: int) -> NDArray[Any]:
    """Points (…, 2) from the first of them, rounded: to the last bit the same wherever the shape lies."""
    flat = points.reshape(-1, 2)
    return _rounded(flat - flat[:1], places).reshape(points.shape)


def _rounded(points: NDArray[Any], places: int) -> NDArray[Any]:
    return np.asarray(np.round(points, places) + 0.0)
