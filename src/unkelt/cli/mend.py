"""`unkelt mend`: a file, or a folder of them, by all safe steps or by a recipe."""

from __future__ import annotations

import sys
from dataclasses import dataclass
from pathlib import Path

from unkelt.cli.common import OnFiles, say_findings, say_json
from unkelt.cli.status import Status
from unkelt.formats.files import write_whole
from unkelt.formats.formats import read_sheet, write_sheet
from unkelt.judge import Case, against, findings_of, held_by_pictures
from unkelt.recipe import Recipe, applied, dump_recipe, mend, read_recipe
from unkelt.recipe import run as run_recipe
from unkelt.report import checked_file, mend_report
from unkelt.sheet.budget import since_received
from unkelt.survey.checks import survey


@dataclass(frozen=True, kw_only=True)
class Asked(OnFiles):
    file: Path
    output: Path
    to: str = "svg"
    jobs: int | None = None
    again: bool = False
    recipe: Path | None = None
    save_recipe: Path | None = None


def run(asked: Asked) -> int:
    recipe = read_recipe(asked.recipe) if asked.recipe else None
    if asked.file.is_dir():
        return _mend_folder(asked, recipe)
    return _mend_file(asked, recipe)


def _mend_folder(asked: Asked, recipe: Recipe | None) -> int:
    # What draws the summary takes a while to import.
    from unkelt.batch.folder import Orders
    from unkelt.cli.mend_folder import mend_folder

    orders = Orders(asked.ticket_for_all(), tuple(asked.faces), recipe, asked.page, pictures=True)
    return mend_folder(asked.file, asked.output, asked.to, orders, again=asked.again, jobs=asked.jobs, json=asked.json)


def _mend_file(asked: Asked, recipe: Recipe | None) -> int:
    workshop = asked.workshop(asked.ticket_for(asked.file).ticket)
    sheet = read_sheet(asked.file, asked.page)
    before = survey(sheet, workshop)
    stages = mend(sheet, workshop) if recipe is None else run_recipe(recipe, sheet, workshop)
    case = Case(asked.file, sheet, workshop, tuple(stages))
    after = findings_of(case)
    write_sheet(case.sheet, asked.output, workshop.ticket, never_over=asked.file)
    pictures = held_by_pictures(case, asked.output)
    holds = against(after, (), pictures)
    if asked.save_recipe:
        write_whole(asked.save_recipe, dump_recipe(applied(stages)).encode(), never_over=asked.file)
    for stage in stages:
        if stage.refused:
            print(f"unkelt: {asked.file}: not done: {stage.refused}", file=sys.stderr)
    if asked.json:
        say_json(mend_report(case, str(asked.output), before, after, holds))
    else:
        for stage in stages:
            if stage.outcome:
                evidence = ", ".join(f"{name} {value}" for name, value in stage.outcome.evidence.figures().items())
                print(f"{stage.call.name:16} {evidence}")
        print(f"{'since received':16} {since_received(case.sheet)}")
        said = checked_file(str(asked.output), case.sheet, after, workshop)
        say_findings(str(asked.output), said["findings"], pictures)
    return Status.HOLD if holds or any(stage.refused for stage in stages) else Status.CLEAN
