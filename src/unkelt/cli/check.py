"""`unkelt check`: files surveyed. What serves many files or draws them is imported when it is asked for."""

from __future__ import annotations

import sys
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

from unkelt.batch import folder
from unkelt.batch.folder import Checked, Orders, Row, checked, failed, files_in
from unkelt.batch.summary import as_csv, in_one_line
from unkelt.cli.common import OnFiles, say_json
from unkelt.cli.progress_line import TerminalLine, Working
from unkelt.cli.speaking import say_findings, say_rows
from unkelt.cli.status import Status
from unkelt.formats.files import write_whole
from unkelt.report import check_report
from unkelt.sharing import copies_allowed
from unkelt.sheet.model import Sheet

FEW = 3
"""Up to so many files are done in this process: starting others would take longer."""


@dataclass(frozen=True, kw_only=True)
class Asked(OnFiles):
    """`unkelt check`: what was asked for."""

    paths: Sequence[Path]
    jobs: int | None = None
    csv: Path | None = None
    html: Path | None = None


def run(asked: Asked) -> int:
    """Surveys files, and says what it finds; the exit status."""
    status, reports, rows = Status.CLEAN, [], []
    orders = Orders(asked.ticket_for_all(), tuple(asked.faces), None, asked.page, draw=_drawn if asked.html else None)
    paths = [file for path in asked.paths for file in (files_in(path) if path.is_dir() else [path])]
    for one in _surveyed(paths, orders, asked.jobs):
        row = one.row
        rows.append(row)
        reports.append(one.report)
        if row.problem:
            print(f"unkelt: {row.problem}", file=sys.stderr)
        elif not asked.json:
            _say(one)
        status = max(status, Status.UNUSABLE if row.problem else Status.HOLD if row.holds else Status.CLEAN)
    _write_tables(rows, asked)
    if asked.json:
        say_json(check_report(reports))
    return status


def _surveyed(paths: Sequence[Path], orders: Orders, processes: int | None) -> Iterator[Checked]:
    """Files surveyed, in their order."""
    answers: Iterable[tuple[Path, Checked | None, str | None]]
    if len(paths) <= FEW and processes is None:
        folder.prepare(orders)
        answers = ((path, _with_line(path), None) for path in paths)
    else:
        from unkelt.batch.pool import spread

        spreading = spread(checked, paths, prepare=folder.prepare, given=(orders,), processes=processes)
        answers = ((done.task, done.answer, done.problem) for done in spreading)
    progress = TerminalLine(len(paths))
    held = 0
    for number, (path, answered, problem) in enumerate(answers, 1):
        answer = answered or failed(str(path), f"{path}: {problem}")
        held += answer.row.state == "hold"
        progress.say(number, held)
        yield answer
    progress.end()


def _with_line(path: Path) -> Checked:
    with Working(f"Surveying {path.name}"), copies_allowed():
        return checked(path)


def _say(one: Checked) -> None:
    """One file as people read it."""
    say_findings(one.row.source, one.report["findings"])
    said: dict[str, list[str]] = {}
    for kind, name, value in one.facts:
        said.setdefault(HEADS.get(kind, kind), []).append(f"{name} {value}".strip())
    say_rows([(head, words) for head, several in said.items() for words in _in_lines(head, several)])


HEADS = {"file": "The file", "read": "Reading it", "face": "Its faces"}


def _in_lines(head: str, several: Sequence[str]) -> Sequence[str]:
    """Figures of a file stand in one line, all else each in its own."""
    return [", ".join(several)] if head == HEADS["file"] else several


def _drawn(sheet: Sheet, longest_px: int) -> bytes:
    from unkelt.release.preview import preview_png

    return preview_png(sheet, longest_px)


def _write_tables(rows: Sequence[Row], asked: Asked) -> None:
    """The summary as the files that were asked for, and a line of it where there are several files."""
    if asked.csv:
        write_whole(asked.csv, as_csv(rows).encode())
    if asked.html:
        from unkelt.batch.summary_page import as_html

        write_whole(asked.html, as_html(rows, "Checked").encode())
    if len(rows) > 1 and not asked.json:
        print(in_one_line(rows))
