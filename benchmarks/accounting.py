"""What the account of ink costs: mending with it beside the same mending without, on the demonstration and on a large
sheet.
"""

from __future__ import annotations

import subprocess
import sys
import tempfile
import time
from pathlib import Path

from benchmarks.surveying import sheet
from benchmarks.timing import Row
from unkelt import recipe
from unkelt.demo import make_demo
from unkelt.formats.formats import read_sheet
from unkelt.job.ticket import Ticket, read_ticket
from unkelt.job.workshop import Workshop
from unkelt.lettering.faces import Shelf
from unkelt.lettering.shelves import bundled_faces
from unkelt.mending import mend
from unkelt.sheet.model import Sheet
from unkelt.verdict import judge
from unkelt.verdict.case import Case
from unkelt.verdict.judge import findings_of

LARGE = 300
"""Outlines of the large sheet."""

RUNS = 2


def rows() -> list[Row]:
    return [
        _row("mend, balanced", "the demonstration", "demonstration"),
        _row("mend, balanced", f"{LARGE} letters in words", "large"),
    ]


def _row(name: str, size: str, which: str) -> Row:
    """Every run in a process of its own: what one has fitted to curves the next would find ready."""
    ours, without = (min(_measured(which, way) for _ in range(RUNS)) for way in ("with", "without"))
    return Row(name, size, ours, "the same without the account", without)


def _measured(which: str, way: str) -> float:
    command = [sys.executable, "-m", "benchmarks.accounting", which, way]
    return float(subprocess.run(command, capture_output=True, text=True, check=True).stdout)


def _jobs(which: str) -> list[tuple[Sheet, Workshop]]:
    shelf = Shelf(bundled_faces())
    if which == "large":
        return [(sheet(LARGE), Workshop(Ticket(), shelf))]
    jobs = []
    with tempfile.TemporaryDirectory() as folder:
        make_demo(Path(folder))
        for path in sorted(Path(folder).glob("*.svg")):
            ticket = path.with_suffix(".toml")
            known = read_ticket(ticket) if ticket.is_file() else Ticket()
            jobs.append((read_sheet(path), Workshop(known, shelf)))
    return jobs


def main(which: str, way: str) -> None:
    if way == "without":
        recipe._balance = lambda *_: None
        judge.ink_lost = lambda *_: ()
        recipe._redrawn = lambda *_: ()
    jobs = _jobs(which)
    start = time.process_time()
    for on, shop in jobs:
        findings_of(Case(Path("a.svg"), on, shop, tuple(mend(on, shop))))
    print(time.process_time() - start)


if __name__ == "__main__":
    main(*sys.argv[1:])
