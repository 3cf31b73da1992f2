"""Drawings by other people, mended and judged: `python -m tests.drawings FOLDER [COUNT]` on a folder of SVG files.

Each file is given a width of 120 mm where it has none in mm, mended by all safe steps, written, and laid beside what
was received: both painted by resvg, colour by colour, and compared by the account of ink. A file in which something
changed that no step declares is a file changed without a word; it must either hold or not occur.
"""

from __future__ import annotations

import re
import sys
import time
from collections import Counter
from dataclasses import dataclass
from pathlib import Path

from unkelt.batch.pool import spread
from unkelt.errors import UnkeltError
from unkelt.formats.svg.read import parse_svg
from unkelt.job.ticket import Ticket
from unkelt.job.workshop import Workshop
from unkelt.lettering.faces import Shelf
from unkelt.lettering.shelves import bundled_faces
from unkelt.mending import mend
from unkelt.survey.finding import Level
from unkelt.verdict.case import Case
from unkelt.verdict.judge import findings_of
from unkelt.verdict.painted import held_by, pictures_of

WIDE_MM = 120


@dataclass(frozen=True)
class Judged:
    """What came of one drawing: how many paints it has, the steps taken and refused, what holds, and what the pictures
    hold.
    """

    name: str
    paints: int
    steps: tuple[str, ...]
    refused: tuple[str, ...]
    holds: tuple[str, ...]
    silent: tuple[str, ...]
    skipped: str
    declared: tuple[str, ...]
    seconds: float
    problem: str = ""


def prepare() -> None:
    """Nothing to make ready: every file is judged by itself."""


def judge(path: Path) -> Judged:
    """One file mended and laid beside what was received."""
    start = time.perf_counter()
    text = path.read_text(encoding="utf-8")
    if not re.search(r"<svg\b[^>]*\swidth=\"[\d.]+mm\"", text):
        text = re.sub(r"(<svg\b[^>]*?)\s(?:width|height)=\"[^\"]*\"", r"\1", text)
        text = re.sub(r"(<svg\b[^>]*?)\s(?:width|height)=\"[^\"]*\"", r"\1", text)
        text = text.replace("<svg", f'<svg width="{WIDE_MM}mm" height="{WIDE_MM}mm"', 1)
    data, workshop = text.encode(), Workshop(Ticket(), Shelf(bundled_faces()))
    try:
        original = parse_svg(data, path.name)
    except UnkeltError as problem:
        return Judged(path.name, 0, (), (), (), (), "", (), 0.0, str(problem))
    stages = mend(original, workshop)
    case = Case(path, original, workshop, tuple(stages), received=data)
    findings = findings_of(case)
    pictures = pictures_of(case)
    lost = [finding.detail for finding in findings if finding.code == "ink.lost"]
    return Judged(
        path.name,
        len({name for outline in original.outlines() for name in workshop.ticket.materials_of(outline.look)}),
        tuple(stage.call.name for stage in stages if stage.outcome),
        tuple(stage.refused for stage in stages if stage.refused),
        tuple(finding.code for finding in findings if finding.level is Level.HOLD),
        (*lost, *held_by(pictures)),
        pictures.skipped,
        tuple(dict.fromkeys(each.explained for each in pictures.differences if each.explained)),
        time.perf_counter() - start,
    )


def main() -> None:
    files = sorted(Path(sys.argv[1]).rglob("*.svg"))
    count = min(int(sys.argv[2]) if len(sys.argv) > 2 else len(files), len(files))
    chosen = [files[round(k * (len(files) - 1) / max(1, count - 1))] for k in range(count)]
    start = time.monotonic()
    found = list(spread(judge, chosen, prepare=prepare))
    rows = [done.answer for done in found if done.answer is not None]
    faults = [f"{done.task.name}: {done.problem}" for done in found if done.answer is None]
    several = [row for row in rows if row.paints > 1]
    print(
        f"{len(found)} files in {time.monotonic() - start:.0f} s, {len(several)} of several paints; {len(faults)} "
        f"faults",
        *faults[:9],
        sep="\n  ",
    )
    unread = [row for row in rows if row.problem]
    print("could not be read:", len(unread), *(f"{row.name}: {row.problem}" for row in unread[:5]), sep="\n  ")
    print("not painted by the renderer:", dict(Counter(row.skipped for row in rows if row.skipped).most_common(5)))
    print(
        "nothing holds:",
        sum(not row.holds and not row.silent for row in rows),
        " holds:",
        dict(Counter(code for row in rows for code in set(row.holds)).most_common(12)),
    )
    print("steps:", dict(Counter(step for row in rows for step in row.steps).most_common()))
    print(
        "refused:",
        dict(
            Counter(
                re.sub(r"[“\"].*?[”\"]|#\w+|[\d.]+", "…", words) for row in rows for words in row.refused
            ).most_common(12)
        ),
    )
    print(
        "declared where pictures differ:", dict(Counter(words for row in rows for words in row.declared).most_common())
    )
    print(
        f"seconds a file: mean {sum(row.seconds for row in rows) / max(1, len(rows)):.2f}, most "
        f"{max((row.seconds for row in rows), default=0):.1f}"
    )
    silent = [row for row in rows if row.silent]
    print("changed, and no step declares it:", len(silent))
    for row in silent[:40]:
        print(f"  {row.name}: {', '.join(row.steps)}: {row.silent[0]}")
    slow = sorted(rows, key=lambda row: -row.seconds)[:5]
    print("slowest:", *(f"{row.name} {row.seconds:.1f} s" for row in slow), sep="\n  ")


if __name__ == "__main__":
    main()
