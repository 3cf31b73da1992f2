"""The summary of many files: as text, JSON and CSV."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence

from unkelt.batch.folder import Row
from unkelt.facts import Facts
from unkelt.messages import say_count

STATES = ("clean", "hold", "not done")


def counts(rows: Sequence[Row]) -> dict[str, int]:
    """How many files are in each state."""
    return {state: sum(row.state == state for row in rows) for state in STATES}


def in_one_line(rows: Sequence[Row]) -> str:
    """How many files there were and what came of them."""
    found = counts(rows)
    return say_count(
        "{count} file: {found} clean, {found_2} on hold, {found_3} not done",
        "{count} files: {found} clean, {found_2} on hold, {found_3} not done",
        len(rows),
        found=found["clean"],
        found_2=found["hold"],
        found_3=found["not done"],
    )


def as_text(rows: Sequence[Row]) -> str:
    """A table for a terminal."""
    lines = []
    for row in rows:
        what = (
            row.problem
            or ", ".join([*(f"{code} × {n}" if n > 1 else code for code, n in row.after.items()), *row.refusals])
            or "nothing found"
        )
        lines.append(f"{row.state:8}  {row.nodes[0]:>7} → {row.nodes[1]:<7} {row.source}: {what}")
    return "\n".join([*lines, in_one_line(rows)])


def as_json(rows: Sequence[Row]) -> Facts:
    """All rows, for scripts."""
    return {"schema": "unkelt.batch/1", "counts": counts(rows), "files": [row.as_json() for row in rows]}


def as_csv(rows: Sequence[Row]) -> str:
    """All rows, for a table."""
    file = io.StringIO()
    table = csv.writer(file, lineterminator="\n")
    table.writerow(
        [
            "state",
            "source",
            "output",
            "holds",
            "before",
            "after",
            "steps",
            "nodes before",
            "nodes after",
            "width mm",
            "height mm",
            "seconds",
            "problem",
        ]
    )
    for row in rows:
        width, height = row.size_mm or ("", "")
        table.writerow(
            [
                row.state,
                row.source,
                row.output or "",
                row.holds,
                " ".join(row.before),
                " ".join(row.after),
                " ".join(row.steps),
                *row.nodes,
                width,
                height,
                row.seconds,
                row.problem or "; ".join(row.refusals),
            ]
        )
    return file.getvalue()
