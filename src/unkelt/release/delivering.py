"""Each destination's files: written for how it imports, read back that way, proven and painted beside what was
meant.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path

from unkelt.errors import InputError
from unkelt.formats.files import put
from unkelt.formats.formats import NUMBERED, WRITERS
from unkelt.job.cutting_order import in_operations
from unkelt.job.destination import Destination
from unkelt.job.importing import Habits, plain_habits
from unkelt.job.ticket import Ticket
from unkelt.job.workshop import Workshop
from unkelt.messages import listed, say, say_count
from unkelt.proof.imported import Imported
from unkelt.proof.motion import STAND_IN, Device
from unkelt.proof.pictures import compare_format, compare_read
from unkelt.proof.proof import Proof, as_meant, judge
from unkelt.proof.standin import StandIn
from unkelt.release.file_names import FORMATS
from unkelt.release.record import Delivered
from unkelt.release.sheets import Part, parts_of, slug
from unkelt.release.suiting import Suited, suited
from unkelt.sheet.appearance import Operation
from unkelt.sheet.model import Sheet
from unkelt.sheet.naming import called
from unkelt.verdict.painted import held_by


@dataclass(frozen=True, slots=True)
class Delivery:
    """All that was written, what could not be, each with its reason, and what the pictures of it hold against it."""

    delivered: tuple[Delivered, ...] = ()
    left_out: tuple[str, ...] = ()
    pictures: tuple[str, ...] = ()


NAMED = 6
"""So many outlines are named, where several are meant."""

OF_THE_FILE = {"size.units", "ink.lost"}
"""What holds of a file, whatever holds of the sheet."""


@dataclass(slots=True)
class _Delivering:
    """One release under way: its folder, title and workshop, and what stands against the job already."""

    folder: Path
    title: str
    workshop: Workshop
    known: frozenset[str]
    delivered: list[Delivered] = field(default_factory=list)
    left_out: list[str] = field(default_factory=list)
    pictures: list[str] = field(default_factory=list)

    def deliver(self, part: Part, destination: Destination, told: Sequence[str] = ()) -> None:
        """Writes one file and reads it back, or says why it can't be written; `told` is what is to be said of it
        besides.
        """
        ticket = self.workshop.ticket if part.is_whole else without_wholes(self.workshop.ticket)
        made = suited(part.sheet, destination.habits, ticket.tolerance.chord_mm)
        names = "-".join([slug(self.title), *part.names])
        path = self.folder / folder_of(destination) / f"{names}{destination.ending}"
        try:
            put(path, bytes_for(made.sheet, ticket, destination))
            found = StandIn(destination.habits).read(path)
            proof = judged(_within(path, self.folder), found, part.sheet, made, destination.habits, ticket)
            if destination.ending == ".pdf":
                as_svg = WRITERS[".svg"](part.sheet, ticket)
                painted = held_by(compare_format(path, as_svg, part.sheet, ticket))
            else:
                painted = held_by(compare_read(found, part.sheet, ticket))
        except InputError as problem:
            path.unlink(missing_ok=True)
            name = destination.name or part.called
            words = say("{ending}: {problem}", ending=destination.ending, problem=problem)
            self.left_out.append(say("{name}: {words}", name=name, words=words) if name else words)
            return
        if _too_heavy(made.sheet, destination.habits):  # which says enough
            painted = ()
        if not part.is_whole:  # what holds of the whole holds of its parts in fewer places
            held = {reason.split(":")[0] for reason in self.known} - OF_THE_FILE
            proof = replace(proof, reasons=tuple(each for each in proof.reasons if each.split(":")[0] not in held))
        proof = replace(proof, reasons=self._told_where(proof.reasons, destination))
        told = (*told, *made.told, *_out_of_order(made.sheet, destination, ticket))
        self.delivered.append(Delivered(destination, part, proof, told))
        self.pictures += self._told_where(painted, destination)

    def _told_where(self, reasons: Sequence[str], destination: Destination) -> tuple[str, ...]:
        """What holds of a destination alone says so."""
        where = destination.name
        return tuple(
            say("{reason} ({where})", reason=each, where=where) if where and each not in self.known else each
            for each in reasons
        )


def delivered(
    folder: Path,
    title: str,
    sheet: Sheet,
    workshop: Workshop,
    destinations: Sequence[Destination],
    known: Sequence[str],
    progress: Callable[[float, str], None],
) -> Delivery:
    """Writes all files of a sheet for each destination into a folder, those of a named one into a folder of its own.

    `known` is what stands against the job already, in lines as findings have them. Raises InputError where a
    destination asks for what can't be.
    """
    at = _Delivering(folder, title, workshop, frozenset(known))
    for number, destination in enumerate(destinations):
        if destination.ending not in WRITERS:
            raise InputError(
                destination.ending,
                say("is none of the endings that can be written ({listed})", listed=", ".join(WRITERS)),
            )
        where = destination.name or destination.ending
        progress(number / len(destinations), say("Writing and reading back {ending}", ending=where))
        parts = parts_of(sheet, workshop, destination)
        if len(parts) == 1 and destination.each and not destination.name:
            continue  # the whole is in the package already
        for part in parts:
            at.deliver(part, destination, _in_no_file(sheet, parts) if part is parts[0] else ())
    return Delivery(tuple(at.delivered), tuple(at.left_out), tuple(dict.fromkeys(at.pictures)))


def folder_of(destination: Destination) -> str:
    """What its folder in the package is called; the package itself has none. No other folder has that name."""
    name = slug(destination.name) if destination.name else ""
    return f"for-{name}" if name.lower() == "original" else name


def without_wholes(ticket: Ticket) -> Ticket:
    """The ticket for part of a job, of which the wishes for the whole say nothing."""
    return replace(ticket, width_mm=None, height_mm=None, pieces=None, mirrored=None, sheet_stays=False)


def bytes_for(sheet: Sheet, ticket: Ticket, destination: Destination) -> bytes:
    """The sheet in a destination's format and numbers. Raises InputError where the format can't carry it."""
    writer = NUMBERED.get(destination.ending)
    if writer is not None and destination.habits.per_inch is not None:
        return writer(sheet, ticket, destination.habits.number_mm)
    return WRITERS[destination.ending](sheet, ticket)


def _in_no_file(sheet: Sheet, parts: Sequence[Part]) -> tuple[str, ...]:
    """A sentence where outlines that are seen are in none of the parts: nothing is done with them."""
    there = {outline.id for part in parts for outline in part.sheet.outlines()}
    left = [outline for outline in sheet.outlines() if outline.look.shown and outline.id not in there]
    if not left:
        return ()
    names = listed(", ", [called(outline) for outline in left[:NAMED]])
    one, several = (
        "{names} is in no file, since nothing is done with it",
        "{names} are in no file, since nothing is done",
    )
    return (say_count(one, several, len(left), names=names),)


def _too_heavy(sheet: Sheet, habits: Habits) -> str:
    """A reason where a piece by itself has more nodes than the importer takes in a body; empty where none has."""
    most = habits.most_nodes
    heavy = next((o for o in sheet.outlines() if most is not None and o.path.node_count > most), None)
    if heavy is None or most is None:
        return ""
    words = say(
        "{name} has a piece of {count} nodes, and the importer takes no more than {most}: reduce its nodes",
        name=called(heavy),
        count=heavy.path.node_count,
        most=most,
    )
    return say("{code}: {words}", code="ink.lost", words=words)


def _out_of_order(sheet: Sheet, destination: Destination, ticket: Ticket) -> tuple[str, ...]:
    """A sentence where a file that is painted can't have the order of work, since something is painted on top."""
    if destination.ending not in (".svg", ".pdf") or not ticket.key:
        return ()
    worked = [o for o in sheet.outlines() if ticket.operation(o.look) is not Operation.LEAVE]
    if [o.id for o in in_operations(worked, ticket)] == [o.id for o in worked]:
        return ()
    words = "what is cut lies beneath something else, so that the file can't have it last; choose the order by colour"
    return (say(words),)


def judged(
    path: str, found: Imported, meant: Sheet, made: Suited, habits: Habits, ticket: Ticket, device: Device = STAND_IN
) -> Proof:
    """The proof of a file that was made to suit an importer, against what was meant before that. What was parted,
    because the importer takes no more, is not held for being parted.
    """
    proof = as_meant(judge(path, found, ticket, device), meant, ticket)
    if heavy := _too_heavy(made.sheet, habits):
        return replace(proof, reasons=(heavy,))
    if not made.told:
        return proof
    return replace(proof, reasons=tuple(each for each in proof.reasons if not each.startswith("compound.loose")))


def in_package(formats: Sequence[str], each: Sequence[str] = (), *, straight: bool = False) -> tuple[Destination, ...]:
    """The package itself as destinations: the whole in each format and, beside that, what gets files of its own of
    each of these kinds. `straight` writes DXF without curves.
    """
    habits = {ending: replace(plain_habits(), curves=not (straight and ending == ".dxf")) for ending in formats}
    whole = [Destination(ending=ending, habits=habits[ending]) for ending in formats]
    apart = [Destination(ending=ending, habits=habits[ending], each=(kind,)) for kind in each for ending in formats]
    return (*whole, *apart)


@dataclass(frozen=True, kw_only=True)
class Wish:
    """Where a release was asked to go: `names` of the ticket's destinations (None: all of them), `formats` of the
    package itself (None: all, where the ticket names no destination), and what gets files of its own there, too.
    """

    names: tuple[str, ...] | None = None
    formats: tuple[str, ...] | None = None
    each: tuple[str, ...] = ()
    straight: bool = False

    def destinations(self, ticket: Ticket) -> tuple[Destination, ...]:
        """All destinations. Raises InputError where the ticket has none of a name."""
        given = ticket.sent_to(self.names)
        formats = self.formats if self.formats is not None else () if given else FORMATS
        if self.each and not formats:  # the kinds ask for files in the package itself
            formats = FORMATS
        return (*given, *in_package(formats, self.each, straight=self.straight))


def _within(path: Path, folder: Path) -> str:
    return str(path.relative_to(folder))
