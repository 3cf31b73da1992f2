"""How a check is declared."""

from __future__ import annotations

import inspect
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from unkelt.job.workshop import Workshop
from unkelt.sheet.model import Sheet
from unkelt.survey.finding import Finding

LookFor = Callable[[Sheet, Workshop], Iterator[Finding]]


@dataclass(frozen=True, slots=True)
class Check:
    """One check: the codes it may report, the function that looks, and whether anything that it finds may hold."""

    codes: tuple[str, ...]
    look: LookFor
    may_hold: bool = True

    @property
    def what(self) -> str:
        """What it finds and why that matters: the first paragraph of its docstring."""
        return " ".join(inspect.cleandoc(self.look.__doc__ or "").split("\n\n")[0].split())


def check(*codes: str, may_hold: bool = True) -> Callable[[LookFor], Check]:
    """Declares a check. A check only reads, imports no other check, and yields its findings in sheet order."""
    return lambda look: Check(codes, look, may_hold)
