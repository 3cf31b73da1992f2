"""Whole commands on large sheets, from the start of the program to its last word, beside lxml and svgelements reading
the same file and doing nothing with it.
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Mapping, Sequence
from pathlib import Path

from benchmarks.surveying import shapes, sheet
from benchmarks.timing import Row
from unkelt.formats.svg.write import write_svg
from unkelt.sheet.model import Sheet

RUNS = 3
RAW = "lxml and svgelements, reading alone"
READING = """
import sys, svgelements
from lxml import etree
etree.parse(sys.argv[1], etree.XMLParser(huge_tree=True))
svgelements.SVG.parse(sys.argv[1])
"""


def rows() -> list[Row]:
    """The fastest of some runs each, by the clock."""
    found = []
    with tempfile.TemporaryDirectory() as name:
        for words, made, commands in (
            ("840 letters in words", letters(), ("check", "mend")),
            ("5,000 shapes, 200,000 segments", shapes(5_000), ("check",)),
        ):
            path = Path(name) / "sheet.svg"
            path.write_bytes(write_svg(made))
            raw = _fastest([sys.executable, "-c", READING, str(path)])
            for command in commands:
                found.append(Row(command, words, _fastest(command_on(command, path)), RAW, raw))
    return found


def letters() -> Sheet:
    """840 letters, 40 segments each, in words."""
    return sheet(840)


def command_on(command: str, path: Path) -> list[str]:
    """The command line for one file."""
    out = ["-o", str(path.with_name("out.svg"))] if command == "mend" else []
    return [sys.executable, "-m", "unkelt", command, str(path), *out]


def compiled() -> Mapping[str, str]:
    """The environment in which modules are compiled once, as they are where the program is installed."""
    return {name: value for name, value in os.environ.items() if name != "PYTHONDONTWRITEBYTECODE"}


def _fastest(command: Sequence[str]) -> float:
    times = []
    for _ in range(RUNS):
        began = time.perf_counter()
        subprocess.run(command, capture_output=True, env=compiled(), check=False)
        times.append(time.perf_counter() - began)
    return min(times)
