"""Timing and the table that all benchmarks print."""

from __future__ import annotations

import os
import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path


@dataclass(frozen=True)
class Row:
    """One comparison: seconds for ours and for the raw library, the smaller of some runs each."""

    name: str
    size: str
    ours_s: float
    raw: str
    raw_s: float


def best(function: Callable[[], object], runs: int = 3) -> float:
    """CPU seconds of the fastest run: the one that other work on the machine disturbed least."""
    times = []
    for _ in range(runs):
        start = time.process_time()
        function()
        times.append(time.process_time() - start)
    return min(times)


def stolen_s() -> float:
    """Seconds since start that a host took from this machine's processors, the mean of them all (proc(5), /proc/stat)."""
    try:
        fields = Path("/proc/stat").read_text().split("\n", 1)[0].split()
        return int(fields[8]) / os.sysconf("SC_CLK_TCK") / (os.cpu_count() or 1)
    except (OSError, IndexError):
        return 0.0


def print_rows(rows: list[Row]) -> None:
    print(f"{'work':34} {'size':>22} {'ours':>10} {'raw':>10} {'ours/raw':>9}  raw library")
    for row in rows:
        ratio = row.ours_s / row.raw_s if row.raw_s else float("nan")
        print(f"{row.name:34} {row.size:>22} {row.ours_s:9.3f}s {row.raw_s:9.3f}s {ratio:9.2f}  {row.raw}")
