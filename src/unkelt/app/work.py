"""From a file to a written one: read it, take steps, write it, and judge what was written."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path

from unkelt.formats.formats import read_sheet, write_sheet
from unkelt.job.workshop import Workshop
from unkelt.mending import mend
from unkelt.outgoing import outgoing, outlined_to_save
from unkelt.progress import Progress
from unkelt.recipe import Recipe, run
from unkelt.sharing import begun
from unkelt.survey.checks import survey
from unkelt.survey.finding import Finding, Level
from unkelt.verdict.case import Case
from unkelt.verdict.judge import against, findings_of, told
from unkelt.verdict.lost import ink_lost
from unkelt.verdict.painted import held_by, pictures_of_file


def opened(path: Path, workshop: Workshop, page: int = 1) -> Case:
    """A file as it was received, nothing done; `page` counts from 1. Raises InputError."""
    return Case(path, read_sheet(path, page), workshop)


def mended(case: Case, recipe: Recipe | None = None, progress: Progress | None = None) -> Case:
    """The case with the steps of a recipe taken, or, without one, all safe steps. A step that can't prove what it
    promises changes nothing and is in `refused`.
    """
    if recipe is not None:
        stages = run(recipe, case.original, case.workshop)
    else:
        stages = mend(case.original, case.workshop, progress)
    return replace(case, stages=tuple(stages))


@dataclass(frozen=True)
class Written:
    """A case that was written to a file: what is found now, and what its pictures hold against it, in lines as findings
    have them. `unseen` says why there are no pictures to compare, empty where there are.
    """

    case: Case
    output: Path
    findings: tuple[Finding, ...]
    pictures: tuple[str, ...]
    unseen: str = ""

    @property
    def outlined(self) -> tuple[str, ...]:
        """What was written as outlines, since its format can't say it as text, in sentences."""
        return outlined_to_save(self.case.sheet) if self.output.suffix.lower() == ".svg" else ()

    @property
    def holds(self) -> tuple[str, ...]:
        """All that stands against it, in lines."""
        return against(self.findings, (), self.pictures)

    @property
    def held(self) -> int:
        """How many findings hold, those of the pictures among them."""
        return sum(finding.level is Level.HOLD for finding in self.findings) + len(self.pictures)


WORTH_A_COPY = 2000
"""From so many segments on, another process surveys what was written; below that, threads share the work as well."""


def written(case: Case, output: Path) -> Written:
    """Writes the sheet in the format of the output's ending, whole or not at all and never over the file that it came
    from; paints both and surveys the sheet. Raises InputError.
    """
    sheet = outgoing(case.sheet, case.workshop)
    write_sheet(sheet, output, case.workshop.ticket, never_over=case.own_file)
    same = sheet is case.sheet

    def found() -> tuple[Finding, ...]:
        # What is judged is what was written: text that went out as outlines is no live text in the file.
        return findings_of(case) if same else told((*ink_lost(case), *survey(sheet, case.workshop)), case)

    segments = sum(len(outline.path.points) for outline in sheet.outlines())
    with begun(found, segments >= WORTH_A_COPY) as findings:
        pictures = pictures_of_file(case, output)
        unseen = next((each.skipped for each in pictures if each.skipped), "")
        return Written(case, output, findings(), held_by(*pictures), unseen)
