"""Batch mending against an independent renderer: `python -m tests.against_renderer FOLDER [COUNT]` on a folder of SVG files.

Each file is given a width of 240 mm, mended, and drawn before and after by resvg. What is mended must look the same: the share
of pixels that turned from paper to ink or back tells.
"""

from __future__ import annotations

import re
import sys
import tempfile
import time
from collections import Counter
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from tests.rendering import drawn
from unkelt.batch import folder
from unkelt.batch.folder import Mending, Orders, mended
from unkelt.batch.pool import spread
from unkelt.sheet.ticket import Ticket

WIDE_MM = 240
TURNED = 128
"""A pixel turned where it differs by more than half."""


@dataclass(frozen=True)
class Compared:
    name: str
    state: str
    steps: tuple[str, ...]
    refused: tuple[str, ...]
    nodes: tuple[int, int]
    turned: float
    problem: str | None


def compare(path: Path) -> Compared:
    """One file mended and drawn twice; `turned` is the share of ink pixels that changed sides."""
    text = re.sub(r"<svg\b([^>]*?)\s(?:width|height)=\"[^\"]*\"", r"<svg\1", path.read_text(encoding="utf-8"))
    text = text.replace("<svg", f'<svg width="{WIDE_MM}mm" height="{WIDE_MM}mm"', 1)
    with tempfile.TemporaryDirectory() as place:
        source, output = Path(place) / path.name, Path(place) / "out" / path.name
        source.write_text(text, encoding="utf-8")
        row = mended(Mending(source, output))
        if row.problem:
            return Compared(path.name, row.state, (), (), (0, 0), 0.0, row.problem)
        before, after = drawn(text), drawn(output.read_text(encoding="utf-8"))
    turned = float((np.abs(before - after) > TURNED).sum()) / max(1, int((before > TURNED).sum()))
    return Compared(path.name, row.state, row.steps, row.refused, row.nodes, turned, None)


def main() -> None:
    files = sorted(Path(sys.argv[1]).rglob("*.svg"))
    count = min(int(sys.argv[2]) if len(sys.argv) > 2 else len(files), len(files))
    chosen = [files[round(k * (len(files) - 1) / max(1, count - 1))] for k in range(count)]
    start = time.monotonic()
    found = list(spread(compare, chosen, prepare=folder.prepare, given=(Orders(Ticket()),)))
    rows = [done.answer for done in found if done.answer is not None]
    faults = [f"{done.task.name}: {done.problem}" for done in found if done.answer is None]
    turned = np.array([row.turned for row in rows])
    print(f"{len(found)} files in {time.monotonic() - start:.0f} s; {len(faults)} faults", *faults[:9], sep="\n  ")
    print("state", dict(Counter(row.state for row in rows)))
    print("steps", dict(Counter(step for row in rows for step in row.steps).most_common()))
    print("refused", dict(Counter(re.sub(r"[“\"].*?[”\"]|[\d.]+", "…", words) for row in rows for words in row.refused).most_common(12)))  # fmt: skip
    print("nodes", sum(row.nodes[0] for row in rows), "→", sum(row.nodes[1] for row in rows))
    print("turned pixels of ink: median, 99th percentile, most", *(f"{100 * value:.4f} %" for value in (np.median(turned), np.quantile(turned, 0.99), turned.max())))  # fmt: skip
    for row in sorted(rows, key=lambda row: -row.turned)[:12]:
        print(f"  {100 * row.turned:.3f} %  {row.name}  {', '.join(row.steps)}")


if __name__ == "__main__":
    main()
