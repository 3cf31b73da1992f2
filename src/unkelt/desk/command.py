"""`unkelt desk`: what the command line calls to open the window."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from unkelt.desk.able import refuse_without_parts


@dataclass(frozen=True, kw_only=True)
class Asked:
    """`unkelt desk`: what was asked for on the command line."""

    files: Sequence[Path] = ()
    ticket: Path | None = None
    demo: bool = False


def run(asked: Asked) -> int:
    """Starts the window; its exit status. Raises InputError where none can be shown."""
    refuse_without_parts()
    from unkelt.desk.app import start  # Qt itself, which needs those parts

    return start(list(asked.files), asked.ticket, demo=asked.demo)
