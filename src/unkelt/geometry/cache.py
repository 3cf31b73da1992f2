"""What took long to find out, kept for the next who asks: one cache, with a bound for every topic, and one lock.

An answer may only be kept under a key that says all that it depends on. So nobody can tell from a result whether it was
kept, and `fresh` and `use` change nothing but how long things take.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterable, Iterator, Sequence
from contextlib import contextmanager, suppress
from threading import Lock
from typing import Generic, TypeVar, cast

from cachetools import LRUCache

R = TypeVar("R")


class Topic(Generic[R]):
    """One kind of answer: of all that are kept, those asked for longest ago go when they weigh more than `bound`.

    `weight` says what an answer weighs; each weighs 1 where it isn't given. A topic itself holds nothing.
    """

    def __init__(self, name: str, bound: int, weight: Callable[[R], int] | None = None) -> None:
        self.name, self.bound, self.weight = name, bound, weight

    def known(self, keys: Iterable[Hashable]) -> dict[Hashable, R]:
        """The answers that there are."""
        return cast(dict[Hashable, R], _in_use.known(self, keys))

    def keep(self, key: Hashable, answer: R) -> None:
        """Keeps an answer, as long as there is room."""
        _in_use.keep(self, {key: answer})

    def get(self, key: Hashable, find: Callable[[], R]) -> R:
        """The answer; `find` is asked where it isn't known."""
        return self.get_many([key], lambda _: [find()])[0]

    def get_many(self, keys: Sequence[Hashable], find: Callable[[list[int]], Sequence[R]]) -> list[R]:
        """The answers for several keys; `find` is asked once, for the places of those that aren't known."""
        known = self.known(keys)
        first = {key: place for place, key in reversed(list(enumerate(keys))) if key not in known}
        places = sorted(first.values())
        if places:
            new = {keys[place]: answer for place, answer in zip(places, find(places), strict=True)}
            _in_use.keep(self, new)
            known |= new
        return [known[key] for key in keys]


class TopicOfObjects(Generic[R]):
    """A topic about objects that never change, by which objects they are: they are kept with the answer, so that their
    ids stay their own.
    """

    def __init__(self, name: str, bound: int) -> None:
        self._topic: Topic[tuple[tuple[object, ...], R]] = Topic(name, bound)

    def known(self, *objects: object, also: Hashable = None) -> R | None:
        """The answer about these objects, in this order, and what else it depends on, where there is one."""
        key = tuple(map(id, objects)), also
        found = self._topic.known([key])
        return found[key][1] if found else None

    def get(self, find: Callable[[], R], *objects: object, also: Hashable = None) -> R:
        """The answer; `find` is asked where it isn't known."""
        return self._topic.get((tuple(map(id, objects)), also), lambda: (objects, find()))[1]


class Cache:
    """Answers by topic and key, for any thread."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._shelves: dict[str, LRUCache[Hashable, object]] = {}

    def known(self, topic: Topic[R], keys: Iterable[Hashable]) -> dict[Hashable, object]:
        """The answers that there are on a topic."""
        with self._lock:
            shelf = self._shelves.get(topic.name)
            return {key: shelf[key] for key in keys if key in shelf} if shelf is not None else {}

    def keep(self, topic: Topic[R], answers: dict[Hashable, R]) -> None:
        """Keeps answers, as long as there is room."""
        with self._lock:
            shelf = self._shelves.get(topic.name)
            if shelf is None:
                shelf = LRUCache(topic.bound, cast(Callable[[object], int] | None, topic.weight))
                self._shelves[topic.name] = shelf
            for key, answer in answers.items():
                with suppress(ValueError):  # one that alone weighs more than the bound will be found again
                    shelf[key] = answer


_in_use = Cache()


def use(cache: Cache) -> Cache:
    """Hands in the cache that everything keeps its answers in from now on; the one before."""
    global _in_use
    before, _in_use = _in_use, cache
    return before


@contextmanager
def fresh() -> Iterator[None]:
    """With nothing known, as a benchmark measures and a test compares."""
    before = use(Cache())
    try:
        yield
    finally:
        use(before)
