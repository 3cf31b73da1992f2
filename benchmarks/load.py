"""Very large files from end to end: opened, surveyed, mended, proofed and released, each size in a process of its
own.
"""

from __future__ import annotations

import json
import math
import resource
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
import svgelements
from lxml import etree

from benchmarks.timing import Row
from unkelt.formats.svg.pathdata import format_path_data
from unkelt.geometry.path import CUBIC
from unkelt.geometry.path import Path as Curves

MOST_S = 900
STAGES = ("open", "survey", "mend", "proof", "release")
KINDS = {"segments": (10_000, 100_000, 1_000_000), "outlines": (1_000, 10_000, 100_000), "texts": (50, 500, 5_000)}


def made(kind: str, count: int) -> str:
    """A file of so many segments in outlines of forty, of so many small outlines, or of so many live texts."""
    number = count // 40 if kind == "segments" else count
    side = math.ceil(math.sqrt(number))
    cell = 24.0
    items = []
    for k in range(number):
        x, y = cell / 2 + cell * (k % side), cell / 2 + cell * (k // side)
        if kind == "texts":
            items.append(f'<text x="{x - 8:.1f}" y="{y:.1f}" font-family="Barlow" font-size="6">No {k}</text>')
        elif kind == "outlines":
            items.append(f'<path d="M{x:.2f} {y:.2f}h{6 + k % 7}v{5 + k % 5}h-4z"/>')
        else:
            turn = np.linspace(0, 2 * np.pi, 121)
            r = 9 + k % 7 / 7 + 1.5 * np.sin((4 + k % 3) * turn)
            ring = np.stack([x + r * np.cos(turn), y + r * np.sin(turn)], axis=1)
            points = np.stack([ring[0:-1:3], ring[1::3], ring[2::3], ring[3::3]], axis=1)
            path = Curves(points, np.full(40, CUBIC, np.uint8), np.zeros(1, np.intp), np.array([True]))
            items.append(f'<path d="{format_path_data(path, 3)}"/>')
    page = cell * side
    size = f'width="{page}mm" height="{page}mm" viewBox="0 0 {page} {page}"'
    return f'<svg xmlns="http://www.w3.org/2000/svg" {size}>{"".join(items)}</svg>'


def raw(path: Path) -> float:
    """Seconds in which lxml parses the file and svgelements reads its shapes, and no more."""
    start = time.perf_counter()
    etree.parse(str(path), etree.XMLParser(huge_tree=True))
    svgelements.SVG.parse(str(path))
    return time.perf_counter() - start


def one(path: str) -> None:
    """Prints seconds of each stage and the peak of memory as JSON, stage by stage, so that a stop loses none."""
    from unkelt import api
    from unkelt.job.ticket import Ticket
    from unkelt.job.workshop import standard_workshop
    from unkelt.release.delivering import in_package
    from unkelt.release.package import release
    from unkelt.verdict.case import Case

    workshop = standard_workshop(Ticket())
    source = Path(path)
    said: dict[str, float] = {"raw": raw(source)}

    def note(stage: str, start: float) -> None:
        said[stage] = time.perf_counter() - start
        said[f"{stage} MiB"] = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
        print(json.dumps(said), flush=True)

    start = time.perf_counter()
    sheet = api.read(source)
    note("open", start)
    start = time.perf_counter()
    api.survey(sheet)
    note("survey", start)
    start = time.perf_counter()
    mended = api.mend(sheet)
    note("mend", start)
    with tempfile.TemporaryDirectory() as folder:
        out = Path(folder) / "out.svg"
        api.write(mended.sheet, out)
        start = time.perf_counter()
        api.proof(out)
        note("proof", start)
        start = time.perf_counter()
        release(Case(source, sheet, workshop, mended.stages), Path(folder) / "to", in_package([".svg"]), reason="load")
        note("release", start)


def rows() -> list[Row]:
    found = []
    for kind, counts in KINDS.items():
        times: dict[str, list[tuple[int, float]]] = {stage: [] for stage in STAGES}
        for count in counts:
            with tempfile.TemporaryDirectory() as folder:
                path = Path(folder) / "a.svg"
                path.write_text(made(kind, count), encoding="utf-8")
                process = subprocess.Popen(
                    [sys.executable, "-m", "benchmarks.load", str(path)], stdout=subprocess.PIPE, text=True
                )
                try:
                    out, _ = process.communicate(timeout=MOST_S)
                except subprocess.TimeoutExpired:
                    process.kill()
                    out, _ = process.communicate()
                said = json.loads(out.strip().split("\n")[-1]) if out.strip() else {}
                for stage in STAGES:
                    if stage in said:
                        times[stage].append((count, said[stage]))
                        found.append(
                            Row(
                                stage,
                                f"{count:,} {kind}",
                                said[stage],
                                f"read by lxml and svgelements; peak {said[f'{stage} MiB']:.0f} MiB",
                                said["raw"],
                            )
                        )
                    else:
                        found.append(Row(f"{stage}: not in {MOST_S} s", f"{count:,} {kind}", math.nan, "", 0.0))
        for stage, points in times.items():
            if len(points) > 1:
                (n0, t0), (n1, t1) = points[-2:]
                exponent = math.log(max(t1, 1e-9) / max(t0, 1e-9)) / math.log(n1 / n0)
                found.append(Row(f"  {stage} of {kind} grows as n^{exponent:.2f}", "", t1, "", 0.0))
    return found


if __name__ == "__main__":
    one(sys.argv[1])
