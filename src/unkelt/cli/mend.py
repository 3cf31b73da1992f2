"""`unkelt mend`: a file, or a folder of them, by all safe steps or by a recipe."""

from __future__ import annotations

import sys
from dataclasses import dataclass
from pathlib import Path

from unkelt.account.changes import summed
from unkelt.app.work import Written, mended, opened, written
from unkelt.cli.common import OnFiles, say_json
from unkelt.cli.progress_line import Working
from unkelt.cli.speaking import say_findings, say_refused, say_rows
from unkelt.cli.status import Status
from unkelt.formats.files import write_whole
from unkelt.messages import sentence as as_sentence
from unkelt.recipe import Recipe, applied, dump_recipe, read_recipe
from unkelt.report import checked_file, mend_report
from unkelt.sharing import copies_allowed
from unkelt.steps.steps import STEPS
from unkelt.survey.checks import survey
from unkelt.verdict.moved import since_received


@dataclass(frozen=True, kw_only=True)
class Asked(OnFiles):
    """`unkelt mend`: what was asked for."""

    file: Path
    output: Path
    to: str = "svg"
    jobs: int | None = None
    again: bool = False
    recipe: Path | None = None
    save_recipe: Path | None = None


def run(asked: Asked) -> int:
    """Mends a file by a recipe or by what is safe, and writes it; the exit status."""
    recipe = read_recipe(asked.recipe) if asked.recipe else None
    if asked.file.is_dir():
        return _mend_folder(asked, recipe)
    return _mend_file(asked, recipe)


def _mend_folder(asked: Asked, recipe: Recipe | None) -> int:
    # What draws the summary takes a while to import.
    from unkelt.batch.folder import Orders
    from unkelt.cli.mend_folder import mend_folder
    from unkelt.release.preview import preview_png

    orders = Orders(asked.ticket_for_all(), tuple(asked.faces), recipe, asked.page, draw=preview_png)
    return mend_folder(asked.file, asked.output, asked.to, orders, again=asked.again, jobs=asked.jobs, json=asked.json)


def _mend_file(asked: Asked, recipe: Recipe | None) -> int:
    workshop = asked.workshop(asked.ticket_for(asked.file).ticket)
    with Working(f"Reading {asked.file.name}") as working, copies_allowed():
        received = opened(asked.file, workshop, asked.page)
        before = survey(received.sheet, received.workshop) if asked.json else ()
        case = mended(received, recipe, working.tell)
        working.tell(0.0, f"Writing {asked.output.name} and comparing pictures")
        result = written(case, asked.output)
    if asked.save_recipe:
        write_whole(asked.save_recipe, dump_recipe(applied(list(case.stages))).encode(), never_over=asked.file)
    say_refused(asked.file, case.refused)
    for sentence in result.outlined:
        print(f"unkelt: {asked.output}: {sentence}", file=sys.stderr)
    if asked.json:
        say_json(mend_report(case, str(asked.output), before, result.findings, result.holds))
    else:
        _say(result)
    return Status.HOLD if result.holds or case.refused else Status.CLEAN


def _say(result: Written) -> None:
    rows = [
        (STEPS[stage.call.name].title, stage.outcome.evidence.in_a_sentence())
        for stage in result.case.done
        if stage.outcome is not None
    ]
    declared = summed(change for stage in result.case.done if stage.outcome for change in stage.outcome.changes)
    if declared:
        rows.append(("What differs", f"{declared}."))
    rows.append(("Since received", as_sentence(since_received(result.case))))
    if result.unseen:
        rows.append(("Pictures", as_sentence(f"not compared by a second program: {result.unseen}")))
    say_rows(rows)
    said = checked_file(str(result.output), result.case.sheet, result.findings, result.case.workshop)
    say_findings(str(result.output), said["findings"], result.pictures)
