"""One file of many: surveyed, or mended into another folder, and said in a row of the summary."""

from __future__ import annotations

import hashlib
import sys
import time
from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass, field
from pathlib import Path

from unkelt import __version__
from unkelt.app import work
from unkelt.app.received import intake
from unkelt.errors import InputError
from unkelt.facts import Facts
from unkelt.formats.formats import READERS
from unkelt.job.beside import Beside, ticket_beside
from unkelt.job.ticket import Ticket
from unkelt.job.workshop import Workshop
from unkelt.lettering.faces import Shelf
from unkelt.lettering.shelves import standard_shelf
from unkelt.messages import say
from unkelt.recipe import Recipe, dump_recipe
from unkelt.report import checked_file, failed_file
from unkelt.sheet.model import Sheet
from unkelt.survey.checks import survey
from unkelt.survey.finding import Finding, Level
from unkelt.verdict import findings_of

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

    @property
    def mark(self) -> str:
        """Changes where the answers might."""
        said = [
            __version__,
            repr(self.ticket),
            dump_recipe(self.recipe) if self.recipe else "",
            str(self.page),
            repr(self.faces),
        ]
        return hashlib.sha256("\0".join(said).encode()).hexdigest()[:16]


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


@dataclass(frozen=True, slots=True)
class Mending:
    """A file and where its result goes."""

    source: Path
    output: Path


_orders: Orders
_shelf: Shelf


def prepare(orders: Orders) -> None:
    """Once in each process."""
    global _orders, _shelf  # a process has one set of orders, and a task can't carry the shelf of faces
    _orders, _shelf = orders, standard_shelf(orders.faces)


def _workshop_for(path: Path) -> tuple[Workshop, Beside]:
    """What a file is judged with: the ticket of the orders, or else its own."""
    beside = Beside(_orders.ticket) if _orders.ticket is not None else ticket_beside(path)
    return Workshop(beside.ticket, _shelf), beside


def files_in(folder: Path) -> list[Path]:
    """All files in a folder and below it that can be read, in order. Raises InputError where there is none."""
    inside = sorted(path for path in folder.rglob("*") if path.suffix.lower() in READERS and path.is_file())
    if not inside:
        raise InputError(str(folder), say("holds no file that can be read ({listed})", listed=", ".join(READERS)))
    return inside


def mendings(source: Path, output: Path, ending: str) -> list[Mending]:
    """Where each file of a folder goes: to the same place below the other folder, with its own ending in the name where
    two would have one name. Raises InputError where the one folder lies in the other.
    """
    if output.resolve().is_relative_to(source.resolve()) or source.resolve().is_relative_to(output.resolve()):
        raise InputError(str(output), "and the folder that is read must lie apart, so that no original is written over")
    files = files_in(source)
    names: dict[Path, int] = {}
    for path in files:
        name = path.relative_to(source).with_suffix("")
        names[name] = names.get(name, 0) + 1
    found = []
    for path in files:
        name = path.relative_to(source).with_suffix("")
        stem = f"{name.name}-{path.suffix.lstrip('.').lower()}" if names[name] > 1 else name.name
        found.append(Mending(path, output / name.with_name(stem + ending)))
    return found


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
        workshop, beside = _workshop_for(path)
        case = work.opened(path, workshop, _orders.page)
    except InputError as problem:
        return failed(str(path), str(problem))
    sheet, findings = case.sheet, findings_of(case)
    report = checked_file(str(path), sheet, findings, workshop, beside.path)
    codes = counted(findings)
    row = Row(
        str(path),
        before=codes,
        after=codes,
        holds=holding(findings),
        nodes=(report["sheet"]["nodes"],) * 2,
        size_mm=_size(report["sheet"]["ink_mm"]),
        seconds=round(time.perf_counter() - start, 3),
        picture=_picture(sheet),
    )
    came = intake(sheet, workshop.ticket, workshop.shelf)
    facts = [("read", "", note) for note in came.remarks]
    facts += [("read", "", say("ticket: {name}, which lies beside it", name=beside.path.name))] if beside.path else []
    facts += [("read", "", beside.words)] if beside.words else []
    facts += [("file", name, value) for name, value in (*came.file, *came.contents)]
    facts += [("face", face.name, face.found or "not here; nothing is put in its place") for face in came.faces]
    return Checked(row, report, tuple(facts))


def mended(task: Mending) -> Row:
    """One file mended, written and surveyed again."""
    start = time.perf_counter()
    try:
        workshop, beside = _workshop_for(task.source)
        if beside.words:
            print(say("unkelt: {source}: {words}", source=task.source, words=beside.words), file=sys.stderr)
        received = work.opened(task.source, workshop, _orders.page)
        before = survey(received.sheet, workshop)
        case = work.mended(received, _orders.recipe)
        task.output.parent.mkdir(parents=True, exist_ok=True)
        result = work.written(case, task.output)
    except InputError as problem:
        return Row(str(task.source), problem=str(problem))
    except OSError as problem:
        return Row(
            str(task.source),
            problem=say("{output}: can't be written: {strerror}", output=task.output, strerror=problem.strerror),
        )
    return Row(
        str(task.source),
        str(task.output),
        before=counted(before),
        after=counted(result.findings),
        holds=result.held,
        steps=tuple(stage.call.name for stage in case.done),
        refused=(*case.refused, *result.pictures),
        nodes=(_nodes(received.sheet), _nodes(case.sheet)),
        size_mm=_size(case.sheet.drawn_box()),
        seconds=round(time.perf_counter() - start, 3),
        picture=_picture(case.sheet),
    )


def counted(findings: Sequence[Finding]) -> dict[str, int]:
    """How many findings there are of each code."""
    codes: dict[str, int] = {}
    for finding in findings:
        codes[finding.code] = codes.get(finding.code, 0) + 1
    return codes


def holding(findings: Sequence[Finding]) -> int:
    """How many findings hold."""
    return sum(finding.level is Level.HOLD for finding in findings)


def _nodes(sheet: Sheet) -> int:
    return sum(outline.path.node_count for outline in sheet.outlines())


def _size(box: Sequence[float] | None) -> tuple[float, float] | None:
    return (round(box[2] - box[0], 3), round(box[3] - box[1], 3)) if box else None


def _picture(sheet: Sheet) -> bytes:
    return _orders.draw(sheet, PICTURE_PX) if _orders.draw else b""
