"""Many jobs released, of a list or of a folder: gone through with what was done before, and said in the end."""

from __future__ import annotations

import sys
from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path
from typing import TypeVar

from unkelt.batch.folder import Row
from unkelt.batch.journal import Journal
from unkelt.batch.pool import spread
from unkelt.batch.releasing import Handing, in_order
from unkelt.batch.summary_page import write_summary
from unkelt.batch.together import as_one, ready, under_way
from unkelt.cli.many import say_rows
from unkelt.cli.progress_line import TerminalLine
from unkelt.errors import InputError

T = TypeVar("T")


def begun(how: Handing, title: str) -> Handing:
    """Where packages are made: in the folder itself or, together, in one of their own until all are there. Raises
    InputError.
    """
    to = under_way(how.to, title) if how.together else how.to
    try:
        to.mkdir(parents=True, exist_ok=True)
    except OSError as problem:
        raise InputError(str(to), f"can't be made: {problem.strerror}") from problem
    return replace(how, to=to)


def hand_over(
    function: Callable[[T], Row],
    tasks: Sequence[T],
    name_of: Callable[[T], str],
    facts_of: Callable[[T], object],
    *,
    title: str,
    how: Handing,
    to: Path,
    mark: str,
    prepare: Callable[..., None],
    orders: object,
    again: bool,
    jobs: int | None,
    json: bool,
) -> int:
    """Releases every task, but what was released before and is as it was; the exit status. `how` is what `begun` gave
    for the folder `to`, and `mark` tells orders apart.
    """
    journal = Journal(how.to, mark)
    rows: dict[str, Row] = {}
    todo: list[T] = []
    for task in tasks:
        known = None if again else journal.done(name_of(task), facts_of(task))
        if known is not None:
            rows[known.source] = known
        else:
            todo.append(task)
    progress = TerminalLine(len(todo))
    for number, done in enumerate(spread(function, todo, prepare=prepare, given=(orders,), processes=jobs), 1):
        row = done.answer or Row(name_of(done.task), problem=done.problem)
        rows[row.source] = row
        if row.problem is None:
            journal.add(row, facts_of(done.task))
        progress.say(number, sum(each.state != "clean" for each in rows.values()))
    progress.end()
    found = in_order([name_of(task) for task in tasks], rows)
    if not how.together:
        write_summary(found, to, title)
    elif len(ready(found)) == len(found):
        folder, found = as_one(how.to, to, title, found)
        print(f"unkelt: {folder}: all {len(found)} in one package", file=sys.stderr)
    else:
        left = len(found) - len(ready(found))
        write_summary(found, how.to, title)
        print(
            f"unkelt: {how.to}: no package yet, {left} of {len(found)} can't be released; mend them and run it again",
            file=sys.stderr,
        )
    return say_rows(found, json=json)
