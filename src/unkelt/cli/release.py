"""`unkelt release`: proof, then the hand-off package."""

from __future__ import annotations

import sys
from dataclasses import dataclass
from pathlib import Path

from unkelt.app.work import mended, opened
from unkelt.cli.common import OnFiles, endings, say_json
from unkelt.cli.progress_line import Working
from unkelt.cli.speaking import say_refused, say_rows
from unkelt.cli.status import Status
from unkelt.job.destination import GROUP, MATERIAL, OPERATION
from unkelt.recipe import read_recipe
from unkelt.release.delivering import Wish
from unkelt.release.file_names import PATTERN
from unkelt.release.package import Held, Package, release
from unkelt.release.record import Delivered
from unkelt.report import release_report
from unkelt.steps.cures import cures_of
from unkelt.verdict.case import Case
from unkelt.verdict.judge import findings_of


@dataclass(frozen=True, kw_only=True)
class Asked(OnFiles):
    """`unkelt release`: what was asked for."""

    file: Path
    to: Path
    by_operation: bool = False
    by_group: bool = False
    by_material: bool = False
    straight: bool = False
    zip: bool = False
    recipe: Path | None = None
    reason: str = ""
    formats: str | None = None
    destination: list[str] | None = None
    name: str = PATTERN
    languages: str = "en"
    together: bool = False
    again: bool = False
    jobs: int | None = None

    @property
    def wish(self) -> Wish:
        """Where it is asked to go."""
        kinds = ((self.by_operation, OPERATION), (self.by_group, GROUP), (self.by_material, MATERIAL))
        return Wish(
            names=None if self.destination is None else tuple(self.destination),
            formats=endings(self.formats) if self.formats else None,
            each=tuple(kind for asked, kind in kinds if asked),
            straight=self.straight,
        )

    @property
    def tongues(self) -> tuple[str, ...]:
        """The languages of the inspection sheet."""
        return tuple(code.strip() for code in self.languages.split(",") if code.strip())


def run(asked: Asked) -> int:
    """Releases a file, or all files of a folder, with their inspection sheets; the exit status."""
    if asked.file.is_dir():
        return _folder(asked)
    beside = asked.ticket_for(asked.file)
    recipe = read_recipe(asked.recipe) if asked.recipe else None
    with Working(f"Reading {asked.file.name}") as working:
        case = opened(asked.file, asked.workshop(beside.ticket), asked.page)
        if recipe is not None:
            case = mended(case, recipe, working.tell)
    say_refused(asked.file, case.refused)
    try:
        with Working("Releasing") as working:
            package = release(
                case,
                asked.to,
                asked.wish.destinations(case.workshop.ticket),
                reason=asked.reason,
                pattern=asked.name,
                ticket_text=beside.ticket.source.encode(),
                zipped=asked.zip,
                languages=asked.tongues,
                progress=working.tell,
            )
    except Held as held:
        return _held(asked, held, case)
    _say(asked, package)
    return Status.HOLD if package.record.holds or package.left_out or case.refused else Status.CLEAN


def _folder(asked: Asked) -> int:
    from unkelt.batch.releasing import Handing
    from unkelt.cli.release_folder import release_folder

    return release_folder(
        asked.file,
        asked.ticket_for_all(),
        Handing(asked.to, asked.wish, asked.reason, asked.tongues, asked.together, asked.zip),
        faces=tuple(asked.faces),
        recipe=read_recipe(asked.recipe) if asked.recipe else None,
        page=asked.page,
        again=asked.again,
        jobs=asked.jobs,
        json=asked.json,
    )


def _held(asked: Asked, held: Held, case: Case) -> int:
    cures = {finding.code: cures_of(finding) for finding in findings_of(case)}
    for hold in held.holds:
        ways = cures.get(hold.split(":")[0])
        way_out = f" (cure: {', '.join(ways)})" if ways else ""
        print(f"unkelt: {asked.file}: on hold: {hold}{way_out}", file=sys.stderr)
    print(f"unkelt: {asked.file}: not released; mend it, or give a --reason", file=sys.stderr)
    if asked.json:
        say_json(release_report(str(asked.file), None, held.holds))
    return Status.HOLD


def _say(asked: Asked, package: Package) -> None:
    for sentence in package.left_out:
        print(f"unkelt: {asked.file}: not written: {sentence}", file=sys.stderr)
    if asked.json:
        say_json(release_report(str(asked.file), package, package.record.holds))
        return
    print(f"Released: {package.folder}")
    rows = [(each.proof.path, _purpose(each)) for each in package.record.delivered]
    say_rows([*rows, ("to sign", ", ".join(package.names[:2]))])


def _purpose(each: Delivered) -> str:
    """Where a file goes, how large it is, and what had to be done for it."""
    width, height = each.proof.size_mm
    where = each.destination.name or each.destination.in_one_line()
    return "; ".join([f"{where}, {width:.2f} × {height:.2f} mm", *each.told])
