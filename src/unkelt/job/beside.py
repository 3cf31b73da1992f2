"""The ticket that lies beside a file, under the same name with the ending .toml."""

from __future__ import annotations

import tomllib
from dataclasses import dataclass
from pathlib import Path

from unkelt.job.ticket import Ticket, parse_ticket, read_text
from unkelt.messages import say


@dataclass(frozen=True, slots=True)
class Beside:
    """What a file's ticket is: `path` says where it lies, None where there is none; `words` is a sentence where what
    lies there is no ticket and was left.
    """

    ticket: Ticket
    path: Path | None = None
    words: str = ""


def place_beside(path: Path) -> Path:
    """Where the ticket of a file would lie."""
    return path.with_suffix(".toml")


def ticket_beside(path: Path) -> Beside:
    """The ticket beside a file. A recipe that lies there is said and left. Raises InputError where it is neither, or
    damaged.
    """
    beside = place_beside(path)
    if beside == path or not beside.is_file():
        return Beside(Ticket())
    text = read_text(beside)
    if _is_recipe(text):
        return Beside(Ticket(), None, say("{name} beside it is a recipe, and was left as it is", name=beside.name))
    return Beside(parse_ticket(text, str(beside)), beside)


def _is_recipe(text: str) -> bool:
    try:
        return list(tomllib.loads(text)) == ["step"]
    except tomllib.TOMLDecodeError:
        return False
