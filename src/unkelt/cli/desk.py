"""`unkelt desk`: the window."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path


@dataclass(frozen=True, kw_only=True)
class Asked:
    files: Sequence[Path] = ()
    ticket: Path | None = None
    demo: bool = False


def run(asked: Asked) -> int:
    from unkelt.desk.app import start  # the only place outside desk/ that knows of the window

    return start(list(asked.files), asked.ticket, demo=asked.demo)
