"""`unkelt series`: a package for every line of a list, and a contact sheet of all."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from unkelt.batch import series
from unkelt.batch.folder import Row
from unkelt.batch.pool import spread
from unkelt.batch.summary import write_summary
from unkelt.cli.common import OnFiles, endings
from unkelt.cli.many import say_rows
from unkelt.cli.progress_line import TerminalLine
from unkelt.errors import InputError
from unkelt.recipe import read_recipe


@dataclass(frozen=True, kw_only=True)
class Asked(OnFiles):
    """`unkelt series`: what was asked for."""

    recipe: Path
    list: Path
    to: Path
    base: Path | None = None
    formats: str = "svg"
    reason: str = ""
    jobs: int | None = None


def run(asked: Asked) -> int:
    """Makes a package for each row of a list; the exit status."""
    ticket = asked.ticket_for(asked.base or asked.list).ticket
    recipe, lines = read_recipe(asked.recipe), series.read_lines(asked.list)
    series.check_columns(recipe, lines)
    written = endings(asked.formats)
    orders = series.Orders(recipe, ticket, asked.to, asked.base, tuple(asked.faces), written, asked.reason)
    try:
        asked.to.mkdir(parents=True, exist_ok=True)
    except OSError as problem:
        raise InputError(str(asked.to), f"can't be made: {problem.strerror}") from problem
    progress = TerminalLine(len(lines))
    rows: list[Row] = []
    for done in spread(series.made, lines, prepare=series.prepare, given=(orders,), processes=asked.jobs):
        rows.append(done.answer or Row(done.task.name, problem=done.problem))
        progress.say(len(rows), sum(row.state != "clean" for row in rows))
    progress.end()
    write_summary(rows, asked.to, f"Series: {asked.list.stem}")
    return say_rows(rows, json=asked.json)
