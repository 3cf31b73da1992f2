"""The commands for many files: check and mend of folders, series, and a watched folder."""

from __future__ import annotations

import argparse
import sys
import time
from collections.abc import Iterator, Sequence
from pathlib import Path

from unkelt.batch import folder, series
from unkelt.batch.arrivals import Arrivals
from unkelt.batch.folder import Checked, Mending, Orders, Row, checked, failed, files_in, mended, mendings
from unkelt.batch.journal import Journal
from unkelt.batch.pool import Done, spread
from unkelt.batch.summary import as_csv, as_html, as_text, in_one_line, write_summary
from unkelt.errors import InputError
from unkelt.formats.files import write_whole
from unkelt.recipe import Recipe, read_recipe
from unkelt.sheet.ticket import Ticket

FEW = 3
"""Up to so many files are done in this process: starting others would take longer."""


class Progress:
    """A line on a terminal's stderr that is written over; nothing where nobody looks."""

    def __init__(self, total: int) -> None:
        self.total, self.start, self.shown = total, time.monotonic(), sys.stderr.isatty()

    def say(self, done: int, held: int) -> None:
        if self.shown and done:
            left = (time.monotonic() - self.start) / done * (self.total - done)
            print(f"\r{done} of {self.total} · {held} on hold · about {left:.0f} s left   ", end="", file=sys.stderr, flush=True)  # fmt: skip

    def end(self) -> None:
        if self.shown:
            print("\r" + " " * 60 + "\r", end="", file=sys.stderr, flush=True)


def listed(paths: Sequence[Path]) -> list[Path]:
    """Files as named; of folders, all files inside that can be read."""
    return [file for path in paths for file in (files_in(path) if path.is_dir() else [path])]


def check_many(paths: Sequence[Path], orders: Orders, processes: int | None) -> Iterator[Checked]:
    """Files surveyed, in their order."""
    answers: Iterator[Done[Path, Checked]]
    if len(paths) <= FEW and processes is None:
        folder.prepare(orders)
        answers = (Done(path, checked(path)) for path in paths)
    else:
        answers = spread(checked, paths, prepare=folder.prepare, given=(orders,), processes=processes)
    progress = Progress(len(paths))
    held = 0
    for number, done in enumerate(answers, 1):
        answer = done.answer or failed(str(done.task), f"{done.task}: {done.problem}")
        held += answer.row.state == "hold"
        progress.say(number, held)
        yield answer
    progress.end()


def mend_folder(options: argparse.Namespace, ticket: Ticket | None, recipe: Recipe | None) -> list[Row]:
    """A folder mended into another, with its summary beside the results. What was done before and is as it was, is kept."""
    tasks = mendings(options.file, options.output, f".{options.to.lstrip('.')}")
    orders = Orders(ticket, tuple(options.faces), recipe, options.page, pictures=True)
    journal = Journal(options.output, f"{orders.mark}-{options.to}")
    rows: dict[str, Row] = {}
    todo: list[Mending] = []
    for task in tasks:
        known = None if options.again else journal.done(task.source)
        if known is not None:
            rows[known.source] = known
        else:
            todo.append(task)
    progress = Progress(len(todo))
    for number, done in enumerate(
        spread(mended, todo, prepare=folder.prepare, given=(orders,), processes=options.jobs), 1
    ):
        row = done.answer or Row(str(done.task.source), problem=f"{done.task.source}: {done.problem}")
        rows[row.source] = row
        if row.problem is None:
            journal.add(row)
        progress.say(number, sum(each.state == "hold" for each in rows.values()))
    progress.end()
    found = [rows[str(task.source)] for task in tasks]
    options.output.mkdir(parents=True, exist_ok=True)
    write_summary(found, options.output, f"Mended: {options.file.name}")
    return found


def make_series(options: argparse.Namespace, ticket: Ticket) -> list[Row]:
    """A package for every line of a list, and a contact sheet of all."""
    recipe, lines = read_recipe(options.recipe), series.read_lines(options.list)
    series.check_columns(recipe, lines)
    endings = tuple(f".{ending.strip().lstrip('.')}" for ending in options.formats.split(",") if ending.strip())
    orders = series.Orders(recipe, ticket, options.to, options.base, tuple(options.faces), endings, options.reason)
    try:
        options.to.mkdir(parents=True, exist_ok=True)
    except OSError as problem:
        raise InputError(str(options.to), f"can't be made: {problem.strerror}") from problem
    progress = Progress(len(lines))
    rows: list[Row] = []
    for done in spread(series.made, lines, prepare=series.prepare, given=(orders,), processes=options.jobs):
        rows.append(done.answer or Row(done.task.name, problem=done.problem))
        progress.say(len(rows), sum(row.state != "clean" for row in rows))
    progress.end()
    write_summary(rows, options.to, f"Series: {options.list.stem}")
    return rows


def watch(options: argparse.Namespace, ticket: Ticket | None, recipe: Recipe | None) -> None:
    """Surveys, or mends, what arrives in a folder, until it is stopped (or `--once` has looked at what is there)."""
    if not options.folder.is_dir():
        raise InputError(str(options.folder), "there is no such folder")
    if options.output is not None and options.output.resolve() == options.folder.resolve():
        raise InputError(str(options.output), "is the folder that is watched: its results would arrive in it again")
    orders = Orders(ticket, tuple(options.faces), recipe, options.page)
    folder.prepare(orders)
    arrivals = Arrivals(options.folder)
    while True:
        for path in arrivals.look():
            if options.output is not None:
                row = mended(Mending(path, options.output / f"{path.stem}.svg"))
            else:
                row = checked(path).row
            print(as_text([row]).split("\n")[0], flush=True)
        if options.once and not arrivals.expecting:
            return
        time.sleep(options.every)


def write_tables(rows: Sequence[Row], options: argparse.Namespace) -> None:
    """The summary as the files that were asked for, and a line of it where there are several files."""
    if options.csv:
        write_whole(options.csv, as_csv(rows).encode())
    if options.html:
        write_whole(options.html, as_html(rows, "Checked").encode())
    if len(rows) > 1 and not options.json:
        print(in_one_line(rows))
