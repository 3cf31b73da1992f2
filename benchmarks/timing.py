"""Timing and the table that all benchmarks print."""

from __future__ import annotations

import gc
import os
import time
from collections.abc import Callable, Sequence
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


Work = Callable[[], object]


def nothing() -> None:
    """What makes ready where nothing is to be."""


def best(function: Work, runs: int = 3) -> float:
    """CPU seconds of the fastest run: the one that other work on the machine disturbed least."""
    return best_of([function], runs)[0][1]


def best_of(functions: Sequence[Work], runs: int, ready: Work = nothing) -> list[tuple[float, float]]:
    """Seconds by the clock and of CPU of the fastest run of each, which take turns, so that a machine whose speed
    changes is as fast for all. What makes ready isn't counted, nor is the tidying of memory, as timeit does.
    """
    times: list[list[tuple[float, float]]] = [[] for _ in functions]
    for _ in range(runs):
        for function, found in zip(functions, times, strict=True):
            ready()
            gc.collect()
            gc.disable()
            clock, cpu = time.perf_counter(), time.process_time()
            function()
            found.append((time.perf_counter() - clock, time.process_time() - cpu))
            gc.enable()
    return [(min(clock for clock, _ in found), min(cpu for _, cpu in found)) for found in times]


def stolen_s() -> float:
    """Seconds since start that a host took from this machine's processors, the mean of them all (proc(5),
    /proc/stat).
    """
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
