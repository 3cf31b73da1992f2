"""`unkelt release`: proof, then the hand-off package."""

from __future__ import annotations

import sys
from dataclasses import dataclass
from pathlib import Path

from unkelt.app.work import mended, opened
from unkelt.cli.common import OnFiles, endings, say_json
from unkelt.cli.status import Status
from unkelt.recipe import read_recipe
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
    formats: str = ",".join(FORMATS)
    name: str = PATTERN


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
            reason=asked.reason,
            formats=endings(asked.formats),
            pattern=asked.name,
            ticket_text=beside.ticket.source.encode(),
            by_operation=asked.by_operation,
            by_group=asked.by_group,
            by_material=asked.by_material,
            straight=asked.straight,
            zipped=asked.zip,
        )
    except Held as held:
        return _held(asked, held)
    _say(asked, package)
    return Status.HOLD if package.record.holds or package.left_out or case.refused else Status.CLEAN


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
