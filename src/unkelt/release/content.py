"""What an inspection sheet says, in sentences and figures: the same for every form and language of it."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from unkelt.account.changes import summed
from unkelt.account.ink import Ink, ink_of
from unkelt.errors import GeometryRefused
from unkelt.language import grouped
from unkelt.messages import listed, say, say_count
from unkelt.proof.holding import holdings, pieces_in_words
from unkelt.proof.motion import STAND_IN
from unkelt.proof.proof import Proof, Work, bodies_of, work_of
from unkelt.release.record import Delivered, FaceUsed, Record
from unkelt.sheet.appearance import Operation
from unkelt.sheet.model import Lettering, Outline, Reads, Sheet
from unkelt.sheet.naming import called
from unkelt.steps.steps import STEPS
from unkelt.survey.finding import Finding, Level, Question
from unkelt.verdict.lost import whole_of
from unkelt.verdict.moved import since_received

Row = tuple[str, ...]

NAMED = 8
"""So many pieces are named in a row; of more, their number is said."""


LEVELS = {Level.HOLD: "{count} on hold", Level.WARN: "{count} to look at", Level.NOTE: "{count} noted"}


@dataclass(frozen=True, slots=True)
class Table:
    """A heading, the heads of its columns (none where there is nothing to say above them), and rows."""

    title: str
    heads: Row
    rows: Sequence[Row]
    shares: tuple[float, ...]
    """Of the width, for each column."""


@dataclass(frozen=True, slots=True)
class Content:
    """All that is said: the verdict, a line on where it comes from, why it was released over a hold, and tables."""

    title: str
    verdict: str
    origin: str
    holds: tuple[str, ...]
    reason: str
    tables: list[Table]
    seal: str
    """The check sum of all files, which the code on the sheet holds."""


def content(record: Record) -> Content:
    """The record in words. Tables of which there is nothing to say are left out."""
    tables = [
        _questions(record),
        _figures(record),
        _work_of_operations(record),
        _ink(record),
        _pieces(record),
        _reads(record),
        _destinations(record),
        _steps(record),
        Table(say("Left as it is"), (), [_left(finding) for finding in record.after], (0.16, 0.84)),
        Table(say("Faces"), (), [(used.name, _licence(used)) for used in record.faces()], (0.28, 0.72)),
        Table(say("Files"), (say("file"), "SHA-256"), list(record.sums.items()), (0.4, 0.6)),
    ]
    origin = (
        record.workshop.ticket.in_one_line(),
        say("from {source}", source=record.source),
        say("revision {revision}", revision=record.revision),
        f"{record.made:%Y-%m-%d %H:%M}",
    )
    return Content(
        title=record.title,
        verdict=say("released over a hold") if record.holds else say("clean"),
        origin=listed(" · ", origin),
        holds=record.holds,
        reason=record.reason,
        tables=[table for table in tables if table.rows],
        seal=seal_of(record),
    )


def seal_of(record: Record) -> str:
    """One sum over all files: SHA-256 of their own sums and names, as SHA256SUMS lists them."""
    lines = "".join(f"{total}  {name}\n" for name, total in record.sums.items())
    return hashlib.sha256(lines.encode()).hexdigest()


def _questions(record: Record) -> Table:
    rows = [
        (say(question.value), _counted(record, record.before, question), _counted(record, record.after, question))
        for question in Question
    ]
    return Table(say("The six questions"), ("", say("received"), say("released")), rows, (0.44, 0.28, 0.28))


def _counted(record: Record, findings: tuple[Finding, ...], question: Question) -> str:
    counts = record.counts(findings, question)
    said = [say(LEVELS[level], count=count) for level, count in counts.items() if count]
    return listed(", ", said) if said else say("nothing")


def _figures(record: Record) -> Table:
    before, after = record.figures()
    came, first = record.received, record.whole
    rows = [
        (say("size, mm"), _size(came), _size(first)),
        (say("nodes"), grouped(before.nodes), grouped(after.nodes)),
        (say("pieces"), str(before.pieces), str(after.pieces)),
        (say("counters"), str(before.counters), str(after.counters)),
        (say("moved since received, at most"), "", since_received(record.case)),
    ]
    return Table(say("Figures"), ("", say("received"), say("released")), rows, (0.44, 0.28, 0.28))


def _size(proof: Proof | None) -> str:
    return f"{proof.size_mm[0]:.2f} × {proof.size_mm[1]:.2f}" if proof and proof.bodies else ""


def _work_of_operations(record: Record) -> Table:
    """Length and time by material and operation, as received and as released."""
    ticket = record.workshop.ticket

    def done(sheet: Sheet) -> dict[tuple[str, Operation], Work]:
        return {
            (material, work.operation): work
            for material, outlines in ticket.by_material(sheet.outlines()).items()
            for work in work_of(STAND_IN.run(bodies_of(_worked(outlines, record)), ticket))
        }

    was, now = done(record.original), done(record.sheet)
    rows = [
        (material, say(operation.value), _work(was.get((material, operation))), _work(now.get((material, operation))))
        for material, operation in dict.fromkeys([*now, *was])
    ]
    heads = (say("material"), say("operation"), say("received"), say("released"))
    return Table(say("What the machine does"), heads, rows, (0.28, 0.16, 0.28, 0.28))


def _worked(outlines: Iterable[Outline], record: Record) -> list[Outline]:
    ticket = record.workshop.ticket
    return [o for o in outlines if len(o.path) and ticket.operation(o.look) is not Operation.LEAVE]


def _work(work: Work | None) -> str:
    if work is None:
        return "–"
    return say("{length:.2f} m, about {seconds:.0f} s", length=work.length_mm / 1000, seconds=work.seconds)


def _ink(record: Record) -> Table:
    """What was received of each colour, at the size that it goes out in, what is released, and why that differs."""
    ticket, shelf = record.workshop.ticket, record.workshop.shelf
    heads = (say("colour"), say("received, at this size"), say("released"), say("why it differs"))
    whole = whole_of(record.case)
    try:
        was, now = ink_of(whole.reference, ticket, shelf), ink_of(record.sheet, ticket, shelf)
    except GeometryRefused:
        return Table(say("Account of ink"), heads, [], (0.2, 0.2, 0.2, 0.4))
    rows = [
        (
            name,
            _amount(was.get(name)),
            _amount(now.get(name)),
            summed(change for change in whole.changes if change.speaks_of(name)),
        )
        for name in dict.fromkeys([*was, *now])
    ]
    return Table(say("Account of ink"), heads, rows, (0.18, 0.22, 0.22, 0.38))


def _amount(ink: Ink | None) -> str:
    if ink is None:
        return "–"
    words = [say("{area} mm²", area=grouped(ink.area_mm2, 1))] if ink.area_mm2 else []
    words += [say("{length:.2f} m of line", length=ink.line_mm / 1000)] if ink.line_mm else []
    return listed(", ", words) if words else "–"


def _pieces(record: Record) -> Table:
    ticket = record.workshop.ticket
    rows: list[Row] = [(each.words(),) for each in holdings(record.sheet, ticket)]
    return Table(say("Pieces: {words}", words=pieces_in_words(record.sheet, ticket)), (), rows, (1.0,))


def _reads(record: Record) -> Table:
    """Which way round each piece reads, on the sheet and wherever a file shows it the other way."""
    rows = [_way(say("the sheet"), way, outlines) for way, outlines in _by_way(record.sheet).items()]
    for each in record.delivered:
        if each.part.is_mirrored:
            rows += [_way(each.proof.path, way, outlines) for way, outlines in _by_way(each.part.sheet).items()]
    return Table(say("Which way it reads"), (say("where"), say("piece"), say("reads")), rows, (0.34, 0.42, 0.24))


def _by_way(sheet: Sheet) -> dict[Reads, list[str]]:
    found: dict[Reads, list[str]] = {}
    items: list[Outline | Lettering] = [*sheet.outlines(), *sheet.letterings()]
    for item in items:
        found.setdefault(item.reads, []).append(called(item))
    return found


def _way(where: str, way: Reads, names: list[str]) -> Row:
    shown = listed(", ", names) if len(names) <= NAMED else say_count("{count} piece", "{count} pieces", len(names))
    return where, shown, say(way.value)


def _destinations(record: Record) -> Table:
    known = [say("{code}: {headline}", code=f.code, headline=f.headline) for f in record.after]
    rows = [_delivered(each, known) for each in record.delivered]
    heads = (say("file"), say("for"), say("size, mm"), say("read back"))
    return Table(say("Destinations"), heads, rows, (0.34, 0.23, 0.15, 0.28))


def _delivered(each: Delivered, known: Sequence[str]) -> Row:
    proof = each.proof
    bodies = say_count("{count} body", "{count} bodies", proof.bodies)
    pieces = say_count("{count} piece", "{count} pieces", proof.pieces)
    otherwise = [reason for reason in proof.reasons if reason not in known]
    state = listed("; ", otherwise) if otherwise else say("as meant")
    told = [each.destination.in_one_line(), *each.told]
    name = each.destination.name
    purpose = listed(": ", (name, listed("; ", told))) if name else listed("; ", told)
    length = sum(work.length_mm for work in proof.work)
    work = say("{length:.2f} m, about {seconds:.0f} s", length=length / 1000, seconds=proof.seconds)
    return proof.path, purpose, _size(proof), listed(", ", (state, bodies, pieces, work))


def _steps(record: Record) -> Table:
    done = [stage for stage in record.stages if stage.outcome is not None]
    rows: list[Row] = [
        (say(STEPS[stage.call.name].title), stage.outcome.evidence.in_a_sentence()) for stage in done if stage.outcome
    ]
    return Table(say("What was done"), (), rows or [(say("Nothing: it goes out as it came in."), "")], (0.28, 0.72))


LEFT = {Level.HOLD: "on hold", Level.WARN: "to look at", Level.NOTE: "noted"}


def _left(finding: Finding) -> Row:
    words = say("{headline}: {detail}", headline=finding.headline, detail=finding.detail)
    return say(LEFT[finding.level]), say(
        "{words} ({code})", words=words if finding.detail else finding.headline, code=finding.code
    )


def _licence(used: FaceUsed) -> str:
    if used.licence is None:
        return say("its licence can't be read")
    words = used.licence.words or used.licence.description[:160]
    return listed("; ", filter(None, (words, say("embedding: {embedding}", embedding=used.licence.embedding))))
