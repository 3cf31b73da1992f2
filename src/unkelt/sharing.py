"""Work shared by two processes: this one, and a copy of it that ends when it has handed over what it found.

A copy knows all that this process knows (fork), so nothing is handed to it; what it kept for later questions ends with
it. Copies are made only while a command allows them: one made while other threads work may wait for locks that they
hold.
"""

from __future__ import annotations

import os
import pickle
import signal
import warnings
from collections.abc import Callable, Iterator, Sequence
from concurrent import futures
from contextlib import contextmanager, suppress
from contextvars import ContextVar
from typing import TypeVar

T = TypeVar("T")
R = TypeVar("R")

_allowed = ContextVar("copies_allowed", default=False)
"""Never in a thread that somebody started."""


@contextmanager
def copies_allowed(allowed: bool = True) -> Iterator[None]:
    """In here, work is shared with a copy of this process where there is a second core for it."""
    before = _allowed.set(allowed and len(os.sched_getaffinity(0)) > 1)
    try:
        yield
    finally:
        _allowed.reset(before)


def in_two(
    find: Callable[[list[T]], Sequence[R]], things: Sequence[T], weights: Sequence[float], least: float, parts: int = 2
) -> list[R]:
    """The answers of `find` for things, in their order, found part by part by two processes: each takes the next part
    that nobody has taken. All in one go and here where a copy isn't allowed or all things weigh less than `least`.

    Answers may not depend on what is asked beside them. What raises in the copy, or doesn't come back whole, is found
    again here.
    """
    dealt = _dealt(weights, parts) if _allowed.get() and sum(weights) >= least else []
    if len(dealt) < 2:
        return list(find(list(things)))

    def answer(part: int) -> dict[int, R]:
        return dict(zip(dealt[part], find([things[place] for place in dealt[part]]), strict=True))

    with copies_allowed(False):
        found = _by_both(answer, len(dealt))
        for part, places in enumerate(dealt):
            if not found.keys() >= set(places):
                found |= answer(part)
    return [found[place] for place in range(len(things))]


def _dealt(weights: Sequence[float], parts: int) -> list[list[int]]:
    """The places of things in parts of about the same weight, each in their order, heavy ones first."""
    dealt: list[list[int]] = [[] for _ in range(min(parts, len(weights), 256))]  # a part's number is a byte
    loads = [0.0] * len(dealt)
    for place in sorted(range(len(weights)), key=lambda place: -weights[place]):
        lightest = loads.index(min(loads))
        dealt[lightest].append(place)
        loads[lightest] += weights[place]
    return [sorted(part) for part in dealt]


@contextmanager
def begun(find: Callable[[], R], worth_a_copy: bool) -> Iterator[Callable[[], R]]:
    """What `find` answers, to be asked for later, while this process goes on with other work: found by a copy where one
    is worth its making and allowed, else by another thread. What a copy fails to do is done here when it is asked for.
    """
    if not (worth_a_copy and _allowed.get()):
        with futures.ThreadPoolExecutor(1) as threads:
            yield threads.submit(find).result
        return
    with _copy_at(find) as answers:

        def answer() -> R:
            found = answers()
            return found[0] if found else find()

        yield answer


def _by_both(answer: Callable[[int], dict[int, R]], count: int) -> dict[int, R]:
    waiting, give = os.pipe()
    os.write(give, bytes(range(count)))
    os.close(give)

    def take() -> dict[int, R]:
        found: dict[int, R] = {}
        while part := os.read(waiting, 1):
            found |= answer(part[0])
        return found

    try:
        with _copy_at(take) as answers:
            found = take()
            for others in answers():
                found |= others
    finally:
        os.close(waiting)
    return found


@contextmanager
def _copy_at(work: Callable[[], R]) -> Iterator[Callable[[], list[R]]]:
    """A copy of this process at some work, and what it answers: nothing where that doesn't come whole. It is gone when
    this ends.
    """
    answers, answering = os.pipe()
    try:
        with warnings.catch_warnings():
            # Idle threads of the linear algebra library are threads, too.
            warnings.simplefilter("ignore", DeprecationWarning)
            copy = os.fork()
    except OSError:  # the machine allows no more processes, or has no memory for one
        os.close(answers)
        os.close(answering)
        yield list
        return
    if not copy:
        try:
            with open(answering, "wb") as stream:
                pickle.dump(work(), stream, protocol=5)
        finally:
            os._exit(0)
    os.close(answering)

    def handed_over() -> list[R]:
        with open(answers, "rb", closefd=False) as stream, suppress(EOFError, pickle.UnpicklingError):
            return [pickle.load(stream)]
        return []

    try:
        yield handed_over
    finally:
        os.close(answers)
        os.kill(copy, signal.SIGKILL)
        os.waitpid(copy, 0)
