"""How far a command on many files has come."""

from __future__ import annotations

import sys
import time


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
