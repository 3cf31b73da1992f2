"""One file of many: surveyed, and said in a row of the summary."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING

from unkelt.app.received import intake
from unkelt.errors import InputError
from unkelt.facts import Facts
from unkelt.formats.formats import READERS, read_sheet
from unkelt.job.beside import Beside, ticket_beside
from unkelt.job.ticket import Ticket
from unkelt.job.workshop import Workshop
from unkelt.lettering.faces import Shelf
from unkelt.lettering.shelves import shelf_when_asked
from unkelt.messages import each_once, say
from unkelt.report import checked_file, failed_file
from unkelt.sheet.model import Sheet
from unkelt.survey.checks import survey
from unkelt.survey.finding import Finding, Level

if TYPE_CHECKING:
    from unkelt.recipe import Recipe

PICTURE_PX = 180

Draw = Callable[[Sheet, int], bytes]
"""A sheet as PNG, its longer side so many pixels."""


@dataclass(frozen=True)
class Orders:
    """What is done with every file; each process has them once. Without a ticket, each file has the one that lies
    beside it. `draw` makes the picture of the summary, where there is one.
    """

    ticket: Ticket | None
    faces: tuple[Path, ...] = ()
    recipe: Recipe | None = None
    page: int = 1
    draw: Draw | None = None


@dataclass(frozen=True, slots=True)
class Row:
    """One file in the summary. `before` and `after` are the codes found with how often; `problem` says why it is not
    done.
    """

    source: str
    output: str | None = None
    problem: str | None = None
    before: dict[str, int] = field(default_factory=dict)
    after: dict[str, int] = field(default_factory=dict)
    holds: int = 0
    steps: tuple[str, ...] = ()
    refused: tuple[str, ...] = ()
    nodes: tuple[int, int] = (0, 0)
    size_mm: tuple[float, float] | None = None
    seconds: float = 0.0
    picture: bytes = b""

    @property
    def refusals(self) -> list[str]:
        """What was refused, each sentence once."""
        return each_once(self.refused)

    @property
    def state(self) -> str:
        """ "clean", "hold" or "not done"."""
        return "not done" if self.problem else "hold" if self.holds or self.refused else "clean"

    def as_json(self) -> Facts:
        """All but the picture."""
        said = asdict(self)
        del said["picture"]
        return said | {"state": self.state}

    @classmethod
    def from_json(cls, said: Facts) -> Row:
        """The row that `as_json` told, without its picture. Raises KeyError or TypeError for anything else."""
        size = said["size_mm"]
        return cls(
            said["source"],
            said["output"],
            said["problem"],
            dict(said["before"]),
            dict(said["after"]),
            said["holds"],
            tuple(said["steps"]),
            tuple(said["refused"]),
            (said["nodes"][0], said["nodes"][1]),
            (size[0], size[1]) if size else None,
            said["seconds"],
        )


_orders: Orders
_shelf: Shelf


def prepare(orders: Orders) -> None:
    """Once in each process."""
    global _orders, _shelf  # a process has one set of orders, and a task can't carry the shelf of faces
    _orders, _shelf = orders, shelf_when_asked(orders.faces)


def orders_here() -> Orders:
    """Those that this process has."""
    return _orders


def workshop_for(path: Path) -> tuple[Workshop, Beside]:
    """What a file is judged with: the ticket of the orders, or else its own."""
    beside = Beside(_orders.ticket) if _orders.ticket is not None else ticket_beside(path)
    return Workshop(beside.ticket, _shelf), beside


def files_in(folder: Path) -> list[Path]:
    """All files in a folder and below it that can be read, in order. Raises InputError where there is none."""
    inside = sorted(path for path in folder.rglob("*") if path.suffix.lower() in READERS and path.is_file())
    if not inside:
        raise InputError(str(folder), say("holds no file that can be read ({listed})", listed=", ".join(READERS)))
    return inside


@dataclass(frozen=True, slots=True)
class Checked:
    """One file surveyed: its row, its part of the JSON report, and what came in, as (kind, name, value) for people."""

    row: Row
    report: Facts
    facts: tuple[tuple[str, str, str], ...] = ()


def failed(source: str, problem: str) -> Checked:
    """A file that can't be surveyed."""
    return Checked(Row(source, problem=problem), failed_file(source, problem))


def checked(path: Path) -> Checked:
    """One file surveyed."""
    start = time.perf_counter()
    try:
        workshop, beside = workshop_for(path)
        sheet = read_sheet(path, _orders.page)
    except InputError as problem:
        return failed(str(path), str(problem))
    findings = survey(sheet, workshop)  # nothing was done to it that the judge would have to know
    report = checked_file(str(path), sheet, findings, workshop, beside.path)
    codes = counted(findings)
    row = Row(
        str(path),
        before=codes,
        after=codes,
        holds=holding(findings),
        nodes=(report["sheet"]["nodes"],) * 2,
        size_mm=size_of(report["sheet"]["ink_mm"]),
        seconds=round(time.perf_counter() - start, 3),
        picture=picture_of(sheet),
    )
    came = intake(sheet, workshop.ticket, workshop.shelf)
    facts = [("read", "", note) for note in came.remarks]
    facts += [("read", "", say("ticket: {name}, which lies beside it", name=beside.path.name))] if beside.path else []
    facts += [("read", "", beside.words)] if beside.words else []
    facts += [("file", name, value) for name, value in (*came.file, *came.contents)]
    facts += [("face", face.name, face.found or "not here; nothing is put in its place") for face in came.faces]
    return Checked(row, report, tuple(facts))


def counted(findings: Sequence[Finding]) -> dict[str, int]:
    """How many findings there are of each code."""
    codes: dict[str, int] = {}
    for finding in findings:
        codes[finding.code] = codes.get(finding.code, 0) + 1
    return codes


def holding(findings: Sequence[Finding]) -> int:
    """How many findings hold."""
    return sum(finding.level is Level.HOLD for finding in findings)


def size_of(box: Sequence[float] | None) -> tuple[float, float] | None:
    """Width and height of a box (mm), as a row says them."""
    return (round(box[2] - box[0], 3), round(box[3] - box[1], 3)) if box else None


def picture_of(sheet: Sheet) -> bytes:
    """The picture of a row; empty where none is asked for."""
    return _orders.draw(sheet, PICTURE_PX) if _orders.draw else b""
