"""How far a command has come."""

from __future__ import annotations

import sys
import threading
import time

PATIENCE_S, EVERY_S = 1.0, 0.25
"""Nobody asks within the first second; after that the line is written anew so often."""


class Working:
    """What is being done with one file, on a line of a terminal's stderr, once it takes more than a second."""

    def __init__(self, words: str) -> None:
        self._words, self._share, self._done = words, 0.0, threading.Event()
        self._begun = time.monotonic()
        self._thread = threading.Thread(target=self._write, daemon=True)

    def tell(self, share: float, words: str) -> None:
        """How far it has come, from 0 to 1, and what is being done: a `Progress`."""
        self._share, self._words = share, words

    def __enter__(self) -> Working:
        if sys.stderr.isatty():
            self._thread.start()
        return self

    def __exit__(self, *_raised: object) -> None:
        self._done.set()
        if self._thread.is_alive():
            self._thread.join()

    def _write(self) -> None:
        if self._done.wait(PATIENCE_S):
            return
        while not self._done.wait(EVERY_S):
            how_far = f"{100 * self._share:.0f} % · " if self._share else ""
            line = f"{how_far}{self._words} · {time.monotonic() - self._begun:.0f} s"
            print(f"\r{line[:78]:78}", end="", file=sys.stderr, flush=True)
        print("\r" + " " * 78 + "\r", end="", file=sys.stderr, flush=True)


class TerminalLine:
    """A line on a terminal's stderr that is written over; nothing where nobody looks."""

    def __init__(self, total: int) -> None:
        self.total, self.start, self.shown = total, time.monotonic(), sys.stderr.isatty()

    def say(self, done: int, held: int) -> None:
        """How much is done, on the line that is written over."""
        if self.shown and done:
            left = (time.monotonic() - self.start) / done * (self.total - done)
            print(
                f"\r{done} of {self.total} · {held} on hold · about {left:.0f} s left   ",
                end="",
                file=sys.stderr,
                flush=True,
            )

    def end(self) -> None:
        """Clears the line."""
        if self.shown:
            print("\r" + " " * 60 + "\r", end="", file=sys.stderr, flush=True)
