"""How long each command of the window keeps somebody waiting: all of the list, one after another; the slowest are printed."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication, QDialog

from benchmarks.answering import WANTED_S, gaps, large_sheet
from benchmarks.timing import Row
from unkelt.demo import make_demo
from unkelt.desk.app import make_application
from unkelt.desk.theme import LIGHT
from unkelt.desk.window import Desk

LAST = "open_demo", "close_file"
"""They change what is on the desk."""

NEVER = "close_window"

SHOWN_MS = 300
"""How long a dialog stays before it is given up."""

SLOWEST = 12


def rows() -> list[Row]:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    make_application()
    result = []
    with tempfile.TemporaryDirectory() as folder:
        quay = Path(folder)
        os.environ["XDG_DATA_HOME"] = folder
        make_demo(quay)
        for name, path in (("a word", quay / "kittiwake.svg"), ("200,000 segments", large_sheet(quay))):
            desk = Desk(LIGHT)
            desk.show()
            for begin in (lambda: None, lambda d=desk, p=path: d.state.open_paths([p]), desk.mend_safe):
                gaps(desk, begin)
            found = []
            commands = [*desk.actions_by_id, "step_earlier", "step_later", "look_theme"]  # there and back
            for command in [*(each for each in commands if each not in (*LAST, NEVER)), *LAST]:
                waits = gaps(desk, lambda d=desk, c=command: _do(d, c))
                found.append(
                    Row(
                        f"longest wait: {command}",
                        f"{name}, {waits.said()}",
                        waits.longest_s,
                        "what is wanted",
                        WANTED_S,
                    )
                )
            result += sorted(found, key=lambda row: -row.ours_s)[:SLOWEST]
            desk.state.bench.wait()
            desk.state.behind.wait()
            desk.deleteLater()
    return result


def _do(desk: Desk, command: str) -> None:
    """Does it as its key would; dialogs are looked at and given up."""
    QTimer.singleShot(SHOWN_MS, desk, _give_up)
    desk.actions_by_id[command].trigger()


def _give_up() -> None:
    for each in QApplication.topLevelWidgets():
        if isinstance(each, QDialog) and each.isVisible():
            each.reject()
