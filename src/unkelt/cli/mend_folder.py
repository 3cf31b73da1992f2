"""`unkelt mend FOLDER`: a folder mended into another."""

from __future__ import annotations

from pathlib import Path

from unkelt.batch import folder
from unkelt.batch.folder import Orders, Row
from unkelt.batch.journal import Journal, facts_of
from unkelt.batch.mending import Mending, mark_of, mended, mendings
from unkelt.batch.pool import spread
from unkelt.batch.summary_page import write_summary
from unkelt.cli.many import say_rows
from unkelt.cli.progress_line import TerminalLine


def mend_folder(
    source: Path, output: Path, kind: str, orders: Orders, *, again: bool, jobs: int | None, json: bool
) -> int:
    """A folder into another, as files of one kind (svg, dxf …), with its summary beside the results. What was done
    before and is as it was, is kept. Returns the exit status.
    """
    tasks = mendings(source, output, f".{kind}")
    journal = Journal(output, f"{mark_of(orders)}-{kind}")
    rows: dict[str, Row] = {}
    todo: list[Mending] = []
    for task in tasks:
        known = None if again else journal.done(str(task.source), facts_of(task.source))
        if known is not None:
            rows[known.source] = known
        else:
            todo.append(task)
    progress = TerminalLine(len(todo))
    spread_out = spread(mended, todo, prepare=folder.prepare, given=(orders,), processes=jobs)
    for number, done in enumerate(spread_out, 1):
        row = done.answer or Row(str(done.task.source), problem=f"{done.task.source}: {done.problem}")
        rows[row.source] = row
        if row.problem is None:
            journal.add(row, facts_of(done.task.source))
        progress.say(number, sum(each.state == "hold" for each in rows.values()))
    progress.end()
    found = [rows[str(task.source)] for task in tasks]
    output.mkdir(parents=True, exist_ok=True)
    write_summary(found, output, f"Mended: {source.name}")
    return say_rows(found, json=json)
