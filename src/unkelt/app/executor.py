"""Who runs what takes long: threads in a window, plain calls in commands and tests."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol, TypeVar

from unkelt.errors import UnkeltError
from unkelt.progress import Progress

Answer = TypeVar("Answer")


class Executor(Protocol):
    """Runs work by purpose: starting one replaces what was under way for the same purpose."""

    def start(
        self,
        purpose: str,
        words: str,
        function: Callable[[Progress], Answer],
        done: Callable[[Answer], None],
        failed: Callable[[str], None],
    ) -> None:
        """Runs `function(progress)`, then calls `done(answer)` or `failed(sentence)` where it was started."""
        ...

    def stop(self, purpose: str | None = None) -> None:
        """Stops one purpose's work, or all; answers that still come are not taken."""
        ...

    def has(self, purpose: str) -> bool:
        """Whether work for this purpose is under way."""
        ...


class AtOnce:
    """Runs everything where it is asked for, to its end."""

    def __init__(self) -> None:
        self._now: list[str] = []

    def start(
        self,
        purpose: str,
        words: str,  # noqa: ARG002  nobody waits who could read it
        function: Callable[[Progress], Answer],
        done: Callable[[Answer], None],
        failed: Callable[[str], None],
    ) -> None:
        """Works, and hands on the answer before it returns."""
        self._now.append(purpose)
        try:
            answer = function(lambda _share, _words: None)
        except UnkeltError as problem:
            self._now.remove(purpose)
            failed(str(problem))
            return
        self._now.remove(purpose)
        done(answer)

    def stop(self, purpose: str | None = None) -> None:
        """There is never anything under way that could be stopped."""

    def has(self, purpose: str) -> bool:
        """Whether work for this purpose is under way, which asks so itself."""
        return purpose in self._now
