"""How a check is declared."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from unkelt.job.workshop import Workshop
from unkelt.sheet.model import Sheet
from unkelt.survey.finding import Finding

Look = Callable[[Sheet, Workshop], Iterator[Finding]]


@dataclass(frozen=True, slots=True)
class Check:
    """One check: the codes it may report, and the function that looks."""

    codes: tuple[str, ...]
    look: Look

    @property
    def what(self) -> str:
        """What it finds and why that matters: the first line of its docstring."""
        return (self.look.__doc__ or "").strip().splitlines()[0]


def check(*codes: str) -> Callable[[Look], Check]:
    """Declares a check. A check only reads, imports no other check, and yields its findings in sheet order."""
    return lambda look: Check(codes, look)
