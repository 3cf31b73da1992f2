"""The file, not our memory of it: written, read back by a stand-in importer, laid beside what was meant, and run
dry.
"""

from __future__ import annotations

import tempfile
from collections.abc import Generator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
import shapely
from fontTools.misc.transform import Transform

from unkelt.anatomy.pieces import coming_loose
from unkelt.geometry.cache import TopicOfObjects
from unkelt.geometry.measure import Box, bounds, join_boxes
from unkelt.job.destination import Destination
from unkelt.job.habit_names import PLAIN
from unkelt.job.importing import known_habits, plain_habits
from unkelt.job.ticket import Ticket
from unkelt.job.workshop import Workshop
from unkelt.language import grouped
from unkelt.messages import say, say_count
from unkelt.outgoing import outgoing
from unkelt.proof.dry_run import Mishaps, mishaps
from unkelt.proof.elsewhere import begin_reading
from unkelt.proof.holding import Holding, holdings
from unkelt.proof.imported import Body, Imported, as_sheet
from unkelt.proof.motion import STAND_IN, Device, DryRun
from unkelt.proof.proof import FILLED, Proof, bodies_of, in_words
from unkelt.proof.standin import StandIn
from unkelt.release.delivering import bytes_for, judged
from unkelt.release.suiting import Suited, suited
from unkelt.sheet.figures import figures
from unkelt.sheet.model import Outline, Sheet
from unkelt.survey.checks import find_code
from unkelt.survey.finding import Level

SCATTER = 0.12
"""Loose pieces are shown this share of their word's height apart: how importing scatters them can't be foretold."""


@dataclass(frozen=True)
class ReadBack:
    """What was meant and what was read, as sheets; differences in words; the verdict, and the dry run of what was read.

    `before` is the dry run of the file as it was received, None where that can't be read back.
    """

    importer: str
    meant: Sheet
    read: Sheet
    differences: tuple[str, ...]
    proof: Proof
    run: DryRun
    before: DryRun | None
    mishaps: Mishaps
    nodes: tuple[int, int]
    """The file as it was received, and now."""
    run_rows: tuple[tuple[str, str, str], ...] = ()
    held: tuple[Holding, ...] = ()
    """Pieces, and what holds them."""
    """The dry run in figures: as received, and now."""


_RECEIVED: TopicOfObjects[tuple[tuple[Body, ...], DryRun]] = TopicOfObjects("files as received", 2)
"""A file as it was received stays the same, whatever is looked at."""


def _unheld(sheet: Sheet, workshop: Workshop) -> list[str]:
    """What holds since nothing holds it: a format that knows lines alone can't tell."""
    return [in_words(each) for each in find_code("piece.unheld", sheet, workshop) if each.level is Level.HOLD]


@dataclass(frozen=True, slots=True)
class Reader:
    """Who reads the file back: a stand-in, which gets it plain, or one of the ticket's destinations, for which it is
    written.
    """

    destination: Destination
    name: str
    says: str
    is_stand_in: bool

    def given(self, sheet: Sheet, ticket: Ticket) -> Suited:
        """The sheet as this reader gets it."""
        if self.is_stand_in:
            return Suited(sheet)
        return suited(sheet, self.destination.habits, ticket.tolerance.chord_mm)

    def bytes_of(self, sheet: Sheet, ticket: Ticket) -> bytes:
        """The file that this reader gets. Raises InputError."""
        return bytes_for(sheet, ticket, Destination() if self.is_stand_in else self.destination)


def readers(ticket: Ticket) -> dict[str, Reader]:
    """The ticket's destinations, then the stand-ins, by the names that they are asked for by."""
    found = {
        f"to {each.name}": Reader(
            replace(each, each=(), marks=False, mirrored=()), each.name, each.in_one_line(), False
        )
        for each in ticket.destinations
    }
    for name, habits in known_habits().items():
        found[name] = Reader(Destination(habits=habits), habits.name, habits.says, True)
    return found


def read_back(sheet: Sheet, original: Sheet, workshop: Workshop, importer: str, device: Device = STAND_IN) -> ReadBack:
    """Writes the sheet, reads it as this importer does (a stand-in's name, or "to " and a destination's) and has this
    device run it. Raises InputError where it can't be written or read at all.
    """
    ticket = workshop.ticket
    reader = readers(ticket)[importer]
    intended = sheet if reader.is_stand_in else outgoing(sheet, workshop)
    made = reader.given(intended, ticket)
    sheet = made.sheet
    # As received it may hold what a destination's format can't carry: that is read as SVG.
    before_it = reader if reader.is_stand_in else readers(ticket)[PLAIN]
    known = _RECEIVED.known(original, ticket, device, also=before_it.name)
    answers = _read([(sheet, reader), *([] if known else [(original, before_it)])], workshop)
    found = next(answers)

    def run_before() -> tuple[tuple[Body, ...], DryRun]:
        bodies = next(answers).bodies
        return bodies, device.run(bodies, ticket)

    received, before = known or _RECEIVED.get(run_before, original, ticket, device, also=before_it.name)
    answers.close()
    read = scattered(as_sheet(found, ticket.key), sheet, workshop)
    bodies = bodies_of(read.outlines())
    run = device.run(bodies, workshop.ticket)
    nodes = sum(body.path.node_count for body in received), sum(body.path.node_count for body in found.bodies)
    # What a stand-in does to a plain file is no fault of the file's, so that nothing is allowed for its habits.
    habits = plain_habits() if reader.is_stand_in else reader.destination.habits
    proof = judged("the sheet", found, intended, made, habits, ticket, device)
    return ReadBack(
        importer,
        sheet,
        read,
        tuple(differences(sheet, found, workshop)),
        proof.with_reasons(_unheld(intended, workshop)),
        run,
        before,
        mishaps(bodies, workshop.ticket),
        nodes,
        tuple(_run_rows((before, run), nodes)),
        tuple(holdings(intended, ticket)),
    )


def _read(sheets: Sequence[tuple[Sheet, Reader]], workshop: Workshop) -> Generator[Imported, None, None]:
    """Each sheet written for its reader and read back; large ones at once, each in a process of its own."""
    with tempfile.TemporaryDirectory() as folder:
        answers = []
        for number, (sheet, reader) in enumerate(sheets):
            path = Path(folder) / f"sheet-{number}{reader.destination.ending}"
            path.write_bytes(reader.bytes_of(outgoing(sheet, workshop), workshop.ticket))
            answers.append(begin_reading(StandIn(reader.destination.habits), path))
        for answer in answers:
            yield answer()


def scattered(read: Sheet, meant: Sheet, workshop: Workshop) -> Sheet:
    """The bodies of words that aren't one compound path, moved apart, so that everyone sees why binding matters; and
    what nothing holds, out of its place.
    """
    order = {outline.id: number for number, outline in enumerate(_written(meant), 1)}
    moved: dict[str, tuple[Outline]] = {}
    for finding in find_code("compound.loose", meant, workshop):
        bodies = [
            body for item in finding.items if isinstance(body := read.find(f"body-{order.get(item, 0)}"), Outline)
        ]
        box = join_boxes([b for body in bodies if (b := bounds(body.path))])
        for number, body in enumerate(bodies[1:], 1):
            off = SCATTER * (box[3] - box[1]) if box else 0.0
            shift = Transform(1, 0, 0, 1, off * number * 0.6, off * (1 if number % 2 else -1))
            moved[body.id] = (replace(body, path=body.path.transformed(shift)),)
    return _without_hold(read.replaced(moved), meant, workshop.ticket)


def _without_hold(read: Sheet, meant: Sheet, ticket: Ticket) -> Sheet:
    """What nothing holds, moved out of its place. What is material, only the sheet that was meant tells: some formats
    know lines alone.
    """
    for number, area in enumerate(coming_loose(meant, ticket), 1):
        x0, y0, x1, y1 = area.bounds
        shift = Transform(1, 0, 0, 1, SCATTER * (x1 - x0), SCATTER * (y1 - y0) * (1 if number % 2 else -1))
        near = area.buffer(ticket.tolerance.chord_mm)
        for outline in read.outlines():
            begins = shapely.points(outline.path.points[outline.path.starts, 0])
            inside = np.flatnonzero(shapely.covers(near, begins)).tolist()
            if not inside:
                continue
            path = outline.path.select(inside).transformed(shift)
            rest = [at for at in range(len(outline.path)) if at not in inside]
            fallen = replace(outline, id=f"{outline.id}-loose-{number}", path=path)
            left = (replace(outline, path=outline.path.select(rest)),) if rest else ()
            read = read.replaced({outline.id: (*left, fallen)})
    return read


def differences(meant: Sheet, found: Imported, workshop: Workshop) -> list[str]:
    """What came out otherwise than it was meant, in sentences; none where all is as meant."""
    tolerance = workshop.ticket.tolerance
    outlines = _written(meant)
    read = as_sheet(found)
    now, then = figures(outlines, tolerance), figures(read.outlines(), tolerance)
    said: list[str] = []
    texts = len(meant.letterings())
    if texts:
        said.append(
            say_count(
                "{count} live text did not arrive: importing ignores text",
                "{count} live texts did not arrive: importing ignores text",
                texts,
            )
        )
    told = found.kind in FILLED
    counts = (
        ("bodies", now.outlines, then.outlines),
        ("pieces", now.pieces, then.pieces),
        ("counters", now.counters, then.counters),
        ("nodes", now.nodes, then.nodes),
    )
    for name, before, after in counts if told else ():  # the others know lines alone
        if before != after:
            said.append(say("{before} {name} were meant, {after} arrived", before=before, name=name, after=after))
    sizes = [_size(_box_of(listed)) for listed in (outlines, read.outlines())]
    if any(abs(a - b) > 0.01 for a, b in zip(*sizes, strict=True)):
        (w0, h0), (w1, h1) = sizes
        said.append(
            say("{w0:.2f} × {h0:.2f} mm were meant, {w1:.2f} × {h1:.2f} mm arrived", w0=w0, h0=h0, w1=w1, h1=h1)
        )
    if told and abs(now.area_mm2 - then.area_mm2) > 1e-4 * max(now.area_mm2, 1.0) and now.outlines == then.outlines:
        said.append(
            say(
                "{area_mm2:.1f} mm² of material were meant, {area_mm2_2:.1f} mm² arrived",
                area_mm2=now.area_mm2,
                area_mm2_2=then.area_mm2,
            )
        )
    return said


def _written(sheet: Sheet) -> list[Outline]:
    return [outline for outline in sheet.outlines() if len(outline.path)]


def _box_of(outlines: Sequence[Outline]) -> Box | None:
    return join_boxes([box for outline in outlines if (box := bounds(outline.path))])


def _size(box: Box | None) -> tuple[float, float]:
    return (box[2] - box[0], box[3] - box[1]) if box else (0.0, 0.0)


def run_words(found_back: ReadBack, ticket: Ticket) -> list[str]:
    """What would go wrong in the dry run, in sentences; none where nothing would."""
    found, said = found_back.mishaps, list[str]()
    twice = sum(float(np.linalg.norm(np.diff(line, axis=0), axis=1).sum()) for line in found.twice)
    if twice > ticket.tolerance.joint_mm:
        said.append(say("{twice:.0f} mm would be cut twice: drawn thick", twice=twice))
    if found.through:
        said.append("It cuts through material of other bodies: drawn thick")
    if found.falling:
        count = len(found.falling)
        said.append(
            say_count(
                "{count} piece lies in a counter and would fall out with it: hatched",
                "{count} pieces lie in a counter and would fall out with it: hatched",
                count,
            )
        )
    if found_back.run.pinched:
        count = len(found_back.run.pinched)
        said.append(
            say_count(
                "{count} line is too narrow for a kerf of {kerf_mm:g} mm: ringed",
                "{count} lines are too narrow for a kerf of {kerf_mm:g} mm: ringed",
                count,
                kerf_mm=ticket.machine.kerf_mm,
            )
        )
    return said


def head_words(ticket: Ticket) -> str:
    """How the head runs beside or ahead of the lines, where it does."""
    machine = ticket.machine
    if machine.blade_offset_mm:
        return say("The blade trails {blade_offset_mm:g} mm behind the head.", blade_offset_mm=machine.blade_offset_mm)
    if machine.kerf_mm:
        return say(
            "The kerf is {kerf_mm:g} mm: the head runs {kerf_mm_2:g} mm outside parts and inside counters.",
            kerf_mm=machine.kerf_mm,
            kerf_mm_2=machine.kerf_mm / 2,
        )
    return ""


def _run_rows(runs: Sequence[DryRun | None], nodes: tuple[int, int]) -> list[tuple[str, str, str]]:
    def row(name: str, of: str) -> tuple[str, str, str]:
        values = []
        for run in runs:
            if run is None:
                values.append("–")
            elif of == "time":
                values.append(clock(run.seconds))
            elif of == "travel":
                values.append(f"{run.length_mm('travel') / 1000:.2f}")
            elif of == "pierces":
                values.append(str(sum(move.kind == "pierce" for move in run.moves)))
            elif of == "burnt":
                values.append(f"{run.length_mm('raster') / 1000:.2f}")
            else:
                values.append(f"{run.length_mm('cut', 'score', 'engrave', 'lead') / 1000:.2f}")
        return name, values[0], values[1]

    return [
        ("", "received", "now"),
        row("time, about", "time"),
        ("nodes", grouped(nodes[0]), grouped(nodes[1])),
        row("lines, m", "line"),
        *([row("burnt lines, m", "burnt")] if any(run and run.length_mm("raster") for run in runs) else []),
        row("travel, m", "travel"),
        row("starts", "pierces"),
    ]


def clock(seconds: float) -> str:
    """“1:07 min” or “12.4 s”."""
    return (
        say("{seconds}:{seconds_2:02d} min", seconds=int(seconds // 60), seconds_2=int(seconds % 60))
        if seconds >= 60
        else f"{seconds:.1f} s"
    )
