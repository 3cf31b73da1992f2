"""`unkelt release`: proof, then the hand-off package."""

from __future__ import annotations

import sys
from dataclasses import dataclass
from pathlib import Path

from unkelt.app.work import mended, opened
from unkelt.cli.common import OnFiles, endings, say_json
from unkelt.cli.status import Status
from unkelt.job.destination import GROUP, MATERIAL, OPERATION, Destination
from unkelt.job.ticket import Ticket
from unkelt.recipe import read_recipe
from unkelt.release.delivering import in_package, named
from unkelt.release.file_names import FORMATS, PATTERN
from unkelt.release.package import Held, Package, release
from unkelt.report import release_report


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


def run(asked: Asked) -> int:
    """Releases a file with its inspection sheet; the exit status."""
    beside = asked.ticket_for(asked.file)
    case = opened(asked.file, asked.workshop(beside.ticket), asked.page)
    if asked.recipe:
        case = mended(case, read_recipe(asked.recipe))
    for sentence in case.refused:
        print(f"unkelt: {asked.file}: not done: {sentence}", file=sys.stderr)
    try:
        package = release(
            case,
            asked.to,
            _destinations(asked, case.workshop.ticket),
            reason=asked.reason,
            pattern=asked.name,
            ticket_text=beside.ticket.source.encode(),
            zipped=asked.zip,
            languages=[code.strip() for code in asked.languages.split(",") if code.strip()],
        )
    except Held as held:
        return _held(asked, held)
    _say(asked, package)
    return Status.HOLD if package.record.holds or package.left_out or case.refused else Status.CLEAN


def _destinations(asked: Asked, ticket: Ticket) -> tuple[Destination, ...]:
    """Where it goes: the ticket's destinations or those that are named, and the package itself in the formats asked
    for; in all of them where the ticket names no destination. Raises InputError.
    """
    given = named(ticket, asked.destination)
    formats = endings(asked.formats) if asked.formats else () if given else FORMATS
    kinds = ((asked.by_operation, OPERATION), (asked.by_group, GROUP), (asked.by_material, MATERIAL))
    each = [kind for wanted, kind in kinds if wanted]
    if each and not formats:  # the kinds ask for files in the package itself
        formats = FORMATS
    return (*given, *in_package(formats, each, straight=asked.straight))


def _held(asked: Asked, held: Held) -> int:
    for hold in held.holds:
        print(f"unkelt: {asked.file}: on hold: {hold}", file=sys.stderr)
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
    print(package.folder)
    for name, total in package.record.sums.items():
        print(f"  {total[:12]}  {name}")
    print(f"  to sign: {', '.join(package.names[:2])}")
