"""Unkelt as a library: the few functions that a script needs. What they take and give is the model in `unkelt.sheet`.

    from unkelt import api

    sheet = api.read("name.svg")
    for finding in api.survey(sheet):
        print(finding.level, finding.code, finding.headline)
    mended = api.mend(sheet)
    api.write(mended.sheet, "out.svg")
    print(api.proof("out.svg").verdict)

All lengths are mm. Every error is an `unkelt.errors.UnkeltError` whose text is one sentence. Nothing is written over
that is the source of a sheet. Names that are not listed here may change between minor versions.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from unkelt.app import work
from unkelt.formats.formats import read_sheet, write_sheet
from unkelt.job.ticket import Ticket, parse_ticket, read_ticket
from unkelt.job.workshop import Workshop
from unkelt.lettering.shelves import standard_shelf
from unkelt.outgoing import outgoing
from unkelt.progress import Progress
from unkelt.proof.proof import Proof, prove
from unkelt.recipe import Recipe, Stage, applied, parse_recipe, read_recipe
from unkelt.sheet.model import Sheet
from unkelt.survey.checks import survey as survey_sheet
from unkelt.survey.finding import Finding
from unkelt.verdict.case import Case


@dataclass(frozen=True)
class Mended:
    """What came of steps: the sheet as it stands after them, the steps with their evidence, and what was not done and
    why.
    """

    sheet: Sheet
    stages: tuple[Stage, ...]

    @property
    def recipe(self) -> Recipe:
        """The steps that were taken, for another sheet."""
        return applied(list(self.stages))

    @property
    def refused(self) -> tuple[str, ...]:
        """Why steps that were tried were refused, each in one sentence."""
        return tuple(stage.refused for stage in self.stages if stage.refused)


def read(path: str | Path, page: int = 1) -> Sheet:
    """The sheet of an SVG, PDF or DXF file. What reading left out or guessed is in `sheet.source.notes`. Raises
    InputError.
    """
    return read_sheet(Path(path), page)


def ticket(source: str | Path) -> Ticket:
    """A ticket from a file, or from TOML text where it has several lines. Raises InputError."""
    return parse_ticket(source) if isinstance(source, str) and "\n" in source else read_ticket(Path(source))


def recipe(source: str | Path) -> Recipe:
    """A recipe from a file, or from TOML text where it has several lines. Raises InputError."""
    return parse_recipe(source) if isinstance(source, str) and "\n" in source else read_recipe(Path(source))


def survey(sheet: Sheet, ticket: Ticket | None = None, faces: Sequence[Path] = ()) -> tuple[Finding, ...]:
    """All findings, in the order of the six questions. `faces` are files or folders of faces beside the installed
    ones.
    """
    return survey_sheet(sheet, _workshop(ticket, faces))


def mend(
    sheet: Sheet, ticket: Ticket | None = None, faces: Sequence[Path] = (), progress: Progress | None = None
) -> Mended:
    """All safe steps. One that can't prove its promise changes nothing and is in `refused`."""
    return _mended(work.mended(_case(sheet, ticket, faces), None, progress))


def run(recipe: Recipe, sheet: Sheet, ticket: Ticket | None = None, faces: Sequence[Path] = ()) -> Mended:
    """The steps of a recipe, in order. One whose target isn't there is skipped and is in `refused`."""
    return _mended(work.mended(_case(sheet, ticket, faces), recipe))


def write(sheet: Sheet, path: str | Path, ticket: Ticket | None = None, source: str | Path | None = None) -> None:
    """Writes SVG, DXF, PDF or HPGL by the ending, whole or not at all, and never over `source`. Raises InputError."""
    workshop = _workshop(ticket, ())
    write_sheet(outgoing(sheet, workshop), Path(path), workshop.ticket, never_over=Path(source) if source else None)


def proof(path: str | Path, ticket: Ticket | None = None) -> Proof:
    """A written file as importing software sees it, by readers that share no code with `read`. Raises InputError."""
    return prove(Path(path), ticket or Ticket())


def _workshop(ticket: Ticket | None, faces: Sequence[Path]) -> Workshop:
    return Workshop(ticket or Ticket(), standard_shelf(tuple(faces)))


def _case(sheet: Sheet, ticket: Ticket | None, faces: Sequence[Path]) -> Case:
    return Case(Path(), sheet, _workshop(ticket, faces), received=b"")


def _mended(case: Case) -> Mended:
    return Mended(case.sheet, case.stages)
