"""The command line: a contract that scripts depend on. Begin with `arguments.py`: what each command takes.

A command is a module of its own with `Asked`, what it is asked to do, and `run`, which does it and returns the exit
status. It is imported when it is called, so that nobody waits for what another command needs. Errors become one line on
stderr here, and exit status 2.
"""

from __future__ import annotations

import importlib
import logging
import sys
from collections.abc import Sequence

from unkelt.cli.arguments import parser
from unkelt.cli.status import Status
from unkelt.errors import UnkeltError

__all__ = ["main", "parser"]

ELSEWHERE = {"desk": "unkelt.desk.command"}
"""Commands whose module stands elsewhere: Qt is imported with the window alone."""


def main(arguments: Sequence[str] | None = None) -> int:
    """Runs a command and returns its exit status."""
    given = vars(parser().parse_args(arguments))
    name = given.pop("command")
    command = importlib.import_module(ELSEWHERE.get(name, f"unkelt.cli.{name}"))
    _quieten_libraries()
    try:
        return int(command.run(command.Asked(**given)))
    except UnkeltError as problem:
        print(f"unkelt: {problem}", file=sys.stderr)
        return Status.UNUSABLE
    except BrokenPipeError:
        return Status.CLEAN
    except KeyboardInterrupt:
        print("unkelt: stopped", file=sys.stderr)
        return Status.UNUSABLE


def _quieten_libraries() -> None:
    """Libraries warn of what they find odd in a file or a face, which says nothing to people and is no answer of
    ours.
    """
    logging.captureWarnings(True)
    logging.getLogger().addHandler(logging.NullHandler())  # else Python prints what nobody handles
