"""Work spread over processes: answers in the order of the tasks, memory flat, and no task that takes the others with
it.
"""

from __future__ import annotations

import itertools
import multiprocessing
import os
import signal
from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from unkelt.errors import UnkeltError
from unkelt.messages import say

T = TypeVar("T")
A = TypeVar("A")

AHEAD = 4
"""So many tasks a process are handed out before the first of them is answered."""

RENEWED = 400
"""A process ends after so many tasks, and with it whatever it had gathered."""

PRELOADED = [
    "unkelt.batch.mending",
    "unkelt.proof.import_svg",
    "scipy.spatial",
    "scipy.sparse.csgraph",
    "scipy.ndimage",
]
"""What a process finds imported when it begins: else each would import it again."""

MOST_S = 600
"""A task that takes longer is given up."""


@dataclass(frozen=True, slots=True)
class Done(Generic[T, A]):
    """A task and its answer; or why there is none, in a sentence."""

    task: T
    answer: A | None
    problem: str | None = None


class TooLong(UnkeltError):
    """A task took longer than it may."""


def cores() -> int:
    """How many this process may use."""
    return len(os.sched_getaffinity(0))


def spread(
    function: Callable[[T], A],
    tasks: Iterable[T],
    *,
    prepare: Callable[..., None] | None = None,
    given: tuple[object, ...] = (),
    processes: int | None = None,
    most_s: int = MOST_S,
) -> Iterator[Done[T, A]]:
    """`function` of every task, in their order. `prepare(*given)` is called once in each process; both must be
    importable.

    A task that raises, takes too long or ends its process is answered with a problem; what was under way beside it is
    done again.
    """
    count = processes or cores()
    waiting = iter(tasks)
    first = next(waiting, _END)
    if first is _END:
        return
    waiting = itertools.chain([first], waiting)
    under_way: deque[tuple[T, Future[Done[T, A]]]] = deque()
    try:
        pool = _pool(count, prepare, given)
    except (OSError, ImportError):  # /dev/shm can't be written: then in this process
        yield from _here(function, waiting, prepare, given)
        return
    try:
        while True:
            while len(under_way) < count * AHEAD and (task := next(waiting, _END)) is not _END:
                under_way.append((task, pool.submit(_limited, function, task, most_s)))
            if not under_way:
                return
            task, future = under_way.popleft()
            try:
                yield future.result()
            except BrokenProcessPool:
                # One of those under way ended its process. Each is tried alone, so that only the one at fault is lost.
                again = [task, *(other for other, _ in under_way)]
                under_way.clear()
                pool.shutdown(wait=False, cancel_futures=True)
                for each in again:
                    yield _alone(function, each, prepare, given, most_s)
                pool = _pool(count, prepare, given)
    finally:
        pool.shutdown(wait=True, cancel_futures=True)


def _here(
    function: Callable[[T], A], tasks: Iterable[T], prepare: Callable[..., None] | None, given: tuple[object, ...]
) -> Iterator[Done[T, A]]:
    if prepare is not None:
        prepare(*given)
    for task in tasks:
        try:
            yield Done(task, function(task))
        except Exception as problem:
            yield Done(task, None, said(problem))


_END: Any = object()  # what no iterator of tasks yields, whatever their type


def _alone(
    function: Callable[[T], A], task: T, prepare: Callable[..., None] | None, given: tuple[object, ...], most_s: int
) -> Done[T, A]:
    with _pool(1, prepare, given) as pool:
        try:
            return pool.submit(_limited, function, task, most_s).result()
        except BrokenProcessPool:
            return Done(task, None, "the program ended while working on it (out of memory, or a fault)")


def _pool(count: int, prepare: Callable[..., None] | None, given: tuple[object, ...]) -> ProcessPoolExecutor:
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(PRELOADED)
    return ProcessPoolExecutor(count, context, _begin, (prepare, given), max_tasks_per_child=RENEWED)


def _begin(prepare: Callable[..., None] | None, given: tuple[object, ...]) -> None:
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # whoever started it all stops it all
    if prepare is not None:
        prepare(*given)


def _limited(function: Callable[[T], A], task: T, most_s: int) -> Done[T, A]:
    """The function, unless it takes too long. What it raises is said here: not every error can be sent from a
    process.
    """

    def give_up(_number: int, _frame: object) -> None:
        raise TooLong(say("given up after {most_s} s", most_s=most_s))

    signal.signal(signal.SIGALRM, give_up)
    signal.setitimer(signal.ITIMER_REAL, most_s)
    try:
        return Done(task, function(task))
    except Exception as problem:
        return Done(task, None, said(problem))
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0)


def said(problem: BaseException) -> str:
    """A sentence for what went wrong; a fault of ours is said as one."""
    return (
        str(problem)
        if isinstance(problem, UnkeltError)
        else say("a fault in the program: {name}: {problem}", name=type(problem).__name__, problem=problem)
    )
