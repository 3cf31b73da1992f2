"""How long each command of the window keeps somebody waiting: all of the list, one after another; the slowest are
printed.
"""

from __future__ import annotations

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication, QDialog

from benchmarks.answering import desks, gaps, row
from benchmarks.timing import Row
from unkelt.desk.window import Desk

LAST = "open_demo", "close_file"
"""They change what is on the desk."""

NEVER = "close_window"

SHOWN_MS = 300
"""How long a dialog stays before it is given up."""

SLOWEST = 12


def rows() -> list[Row]:
    result = []
    for name, desk, path in desks():
        gaps(desk, lambda d=desk, p=path: d.state.open_paths([p]))
        gaps(desk, desk.mend_safe)
        commands = [*desk.actions_by_id, "step_earlier", "step_later", "look_theme"]  # there and back
        commands = [*(each for each in commands if each not in (*LAST, NEVER)), *LAST]
        found = [row(each, name, gaps(desk, lambda d=desk, c=each: _do(d, c))) for each in commands]
        result += sorted(found, key=lambda row: -row.ours_s)[:SLOWEST]
    return result


def _do(desk: Desk, command: str) -> None:
    """Does it as its key would; dialogs are looked at and given up."""
    QTimer.singleShot(SHOWN_MS, desk, _give_up)
    desk.actions_by_id[command].trigger()


def _give_up() -> None:
    for each in QApplication.topLevelWidgets():
        if isinstance(each, QDialog) and each.isVisible():
            each.reject()
