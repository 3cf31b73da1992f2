"""How long people wait for the program to be there: whole commands, and the window with the demonstration on screen,
beside Python importing NumPy, which all of them do.
"""

from __future__ import annotations

import subprocess
import sys
import tempfile
import time
from pathlib import Path

from benchmarks.sheets import compiled
from benchmarks.timing import Row
from unkelt.demo import make_demo

RUNS = 5
RAW = "python -c 'import numpy'"

WINDOW = """
import sys, time
began = float(sys.argv[1])
from PySide6.QtWidgets import QApplication
from unkelt.desk import app
from unkelt.desk.window import Desk

def until(there):
    while not there() and time.time() < began + 60:
        QApplication.processEvents()
        time.sleep(0.001)
    return time.time() - began

def wait(_application):
    (desk,) = [each for each in QApplication.topLevelWidgets() if isinstance(each, Desk)]
    shown = until(lambda: desk.state.job is not None and desk.isVisible())
    desk.grab()
    shown = time.time() - began
    found = until(lambda: bool(desk.state.surveying.findings))
    print(shown, found, flush=True)
    import os
    os._exit(0)

QApplication.exec = wait
app.start([], demo=True)
"""


def rows() -> list[Row]:
    """The fastest of several runs each, which take turns."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        make_demo(folder / "demo")
        word = folder / "word.svg"
        unkelt = [sys.executable, "-m", "unkelt"]
        kept = {
            **compiled(),
            "XDG_STATE_HOME": name,
            "XDG_CONFIG_HOME": name,
            "HOME": name,
            "QT_QPA_PLATFORM": "offscreen",
        }
        name_of_demo = str(folder / "demo" / "sea-thrift.svg")
        mending = [*unkelt, "mend", name_of_demo, "-o", str(word)]
        commands = {
            RAW: [sys.executable, "-c", "import numpy"],
            "unkelt --help": [*unkelt, "--help"],
            "mend the demonstration name": mending,
            "check a word in outlines": [*unkelt, "check", str(word)],
            "check a word as live text": [*unkelt, "check", name_of_demo],
        }
        times: dict[str, list[float]] = {}
        for run in range(RUNS + 1):
            for what, command in commands.items():
                began = time.perf_counter()
                subprocess.run(command, env=kept, capture_output=True, check=False)
                if run:  # the first one finds modules to compile
                    times.setdefault(what, []).append(time.perf_counter() - began)
            window = [sys.executable, "-c", WINDOW, str(time.time())]
            shown, found = map(
                float, subprocess.run(window, env=kept, capture_output=True, check=True, timeout=90).stdout.split()
            )
            if run:
                times.setdefault("the window with 14 jobs", []).append(shown)
                times.setdefault("… until the first finding", []).append(found)
    raw = min(times.pop(RAW))
    return [Row(what, "", min(found), RAW, raw) for what, found in times.items()]
