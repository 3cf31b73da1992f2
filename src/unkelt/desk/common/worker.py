"""Long work off the interface thread, with progress, stoppable, its answer back in the interface thread."""

from __future__ import annotations

import contextlib
import traceback
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, QRunnable, QThreadPool, QTimer, Signal

from unkelt.errors import UnkeltError
from unkelt.messages import say
from unkelt.progress import Progress
from unkelt.session.log import LOG


class Stopped(Exception):
    """The person stopped the work, or its answer is no longer wanted."""


AFTER_MS = 12
"""A timer's least wait that lets what was posted before it, layout and painting too, go first."""


def after_this_turn(owner: QObject, begin: Callable[[], object]) -> None:
    """Begins work in another thread once the window has shown what started it: until then both would only hinder each
    other. Never, where its owner goes first.
    """
    QTimer.singleShot(AFTER_MS, owner, begin)


class _Work(QObject):
    """One piece of work. Its signals carry itself, so that the bench can tell whose answer comes."""

    progressed = Signal(object, float, object)
    finished = Signal(object, object)
    failed = Signal(object, object)
    ended = Signal(object)

    def __init__(
        self,
        purpose: str,
        function: Callable[[Progress], Any],
        done: Callable[[Any], None],
        failed: Callable[[str], None],
    ) -> None:
        super().__init__()
        self.purpose, self.function = purpose, function
        self.done, self.say_failed = done, failed
        self.stopped = False

    def run(self) -> None:
        """Called in the pool's thread. Every ending is reported; a fault of ours is said as one."""
        try:
            if self.stopped:  # before it began
                raise Stopped
            answer = self.function(self.progress)
        except Stopped:
            pass
        except UnkeltError as problem:
            self._tell("failed", str(problem))
        except Exception as problem:
            LOG.exception("a fault while working for %s", self.purpose)
            traceback.print_exc()
            self._tell(
                "failed",
                say(
                    "Unkelt has a fault; nothing was changed: {kind}: {fault}",
                    kind=type(problem).__name__,
                    fault=problem,
                ),
            )
        else:
            self._tell("finished", answer)
        self._tell("ended")

    def _tell(self, signal: str, *answer: object) -> None:
        """To the window; to nobody where that was closed meanwhile, and its objects with it."""
        with contextlib.suppress(RuntimeError):
            getattr(self, signal).emit(self, *answer)

    def progress(self, share: float, words: str) -> None:
        if self.stopped:
            raise Stopped
        self._tell("progressed", share, words)


class _Task(QRunnable):
    def __init__(self, work: _Work) -> None:
        super().__init__()
        self.work = work

    def run(self) -> None:
        self.work.run()


MOST_TURNS = 50
"""For more turns of `AFTER_MS` work isn't held back: a drawing that takes longer is drawn beside it."""


class Bench(QObject):
    """Runs work by purpose: starting one replaces what was running for the same purpose.

    While `held` says so, as while something large is being drawn, work doesn't begin: on few processors the window
    would wait for one until either is done. What nobody waits for may begin so many turns of `AFTER_MS` later: a view
    that is turned to is laid out in one turn and drawn in the next.
    """

    busy = Signal(bool, object)
    progressed = Signal(float, object)

    def __init__(self, parent: QObject, threads: int = 2, later: int = 0) -> None:
        super().__init__(parent)
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(threads)
        self._current: dict[str, _Work] = {}
        self._alive: set[_Work] = set()
        self._later = later
        self.held: Callable[[], bool] = lambda: False

    def start(
        self,
        purpose: str,
        words: str,
        function: Callable[[Progress], Any],
        done: Callable[[Any], None],
        failed: Callable[[str], None],
    ) -> None:
        """Runs `function(progress)`, then calls `done(answer)` or `failed(sentence)` in the interface thread."""
        self.stop(purpose)
        work = _Work(purpose, function, done, failed)
        self._current[purpose] = work
        self._alive.add(work)
        work.finished.connect(self._on_finished)
        work.failed.connect(self._on_failed)
        work.progressed.connect(self._on_progressed)
        work.ended.connect(self._on_ended)
        self.busy.emit(True, words)
        self._begin(work, MOST_TURNS, self._later)

    def _begin(self, work: _Work, turns: int, later: int) -> None:
        def begin() -> None:
            if turns and not work.stopped and (later or self.held()):
                self._begin(work, turns - 1, max(later - 1, 0))
            else:
                self._pool.start(_Task(work))

        after_this_turn(self, begin)

    def stop(self, purpose: str | None = None) -> None:
        """Stops one purpose's work, or all; answers that still come are not taken."""
        for name in [purpose] if purpose else list(self._current):
            work = self._current.pop(name, None)
            if work:
                work.stopped = True
        self._say_busy()

    def is_busy(self) -> bool:
        """Whether something is being worked on."""
        return bool(self._current)

    def has(self, purpose: str) -> bool:
        """Whether work for this purpose is under way."""
        return purpose in self._current

    def wait(self) -> None:
        """Stops everything and waits for the threads to end: before the window goes."""
        self.stop()
        self._pool.waitForDone(10_000)

    def _is_current(self, work: _Work) -> bool:
        return self._current.get(work.purpose) is work

    def _on_finished(self, work: _Work, answer: object) -> None:
        if self._is_current(work):
            del self._current[work.purpose]
            self._say_busy()
            work.done(answer)

    def _on_failed(self, work: _Work, sentence: str) -> None:
        if self._is_current(work):
            del self._current[work.purpose]
            self._say_busy()
            work.say_failed(sentence)

    def _on_progressed(self, work: _Work, share: float, words: str) -> None:
        if self._is_current(work):
            self.progressed.emit(share, words)

    def _on_ended(self, work: _Work) -> None:
        self._alive.discard(work)
        if self._is_current(work):
            del self._current[work.purpose]
            self._say_busy()

    def _say_busy(self) -> None:
        if not self._current:
            self.busy.emit(False, "")
