"""The verdict on a written file: what importing makes of it, judged by the same checks as a sheet in hand."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path as FilePath

import shapely

from unkelt.geometry.measure import Box, bounds, find_boxes, join_boxes, lengths, subpath_bounds
from unkelt.geometry.path import concat
from unkelt.geometry.region import clusters, parts, regions
from unkelt.job.ticket import Ticket
from unkelt.job.workshop import Workshop
from unkelt.lettering.faces import Shelf
from unkelt.messages import say, say_count
from unkelt.proof.dry_run import cut_twice_mm
from unkelt.proof.imported import Body, Imported, as_sheet
from unkelt.proof.importer import import_file
from unkelt.proof.motion import STAND_IN, Device, DryRun, Kind
from unkelt.sheet.appearance import Operation
from unkelt.sheet.model import Outline, Sheet
from unkelt.survey.checks import holding
from unkelt.survey.finding import Finding

STEP_MM = 0.025
"""A plotter's own step: on a drawing in such steps, nothing finer is judged."""


@dataclass(frozen=True, slots=True)
class Work:
    """What is done of one operation: the length of the lines that are followed, or burnt, and about how long it takes,
    with the ways there.
    """

    operation: Operation
    length_mm: float
    seconds: float


@dataclass(frozen=True, slots=True)
class Proof:
    """What importing makes of a file. Bodies are compound paths, pieces connected regions of material.

    `findings` are what holds of it by the survey, and `reasons` the same in lines, each as its code and a headline.
    """

    path: str
    size_mm: tuple[float, float]
    box_mm: Box | None
    bodies: int
    pieces: int
    counters: int
    text_left: int
    subpaths: int
    nodes: int
    cut_length_mm: float
    cut_twice_mm: float
    seconds: float
    work: tuple[Work, ...]
    reasons: tuple[str, ...]
    findings: tuple[Finding, ...] = ()
    area_mm2: float = 0.0
    """Of all bodies, overlaps counted once for each."""
    kind: str = "SVG"
    """Of the file: SVG, DXF, PDF or HPGL."""

    @property
    def verdict(self) -> str:
        """ "clean" where nothing holds, else "hold"."""
        return "hold" if self.reasons else "clean"

    def with_reasons(self, more: Sequence[str]) -> Proof:
        """The proof with more that holds."""
        return replace(self, reasons=tuple(dict.fromkeys([*self.reasons, *more])))


def prove(path: FilePath, ticket: Ticket, device: Device = STAND_IN) -> Proof:
    """Reads the file back and judges it. Raises InputError when it can't be read at all."""
    return judge(str(path), import_file(path), ticket, device)


def judge(path: str, found: Imported, ticket: Ticket, device: Device = STAND_IN) -> Proof:
    """The verdict on what an importer made of a file."""
    worked = _worked(as_sheet(found, ticket.key), ticket)
    form = _form(worked, ticket)
    findings = judged_by_survey(found, ticket)
    cut = [outline for outline in worked if ticket.is_cut(outline.look)]
    run = device.run(bodies_of(worked), ticket)
    return Proof(
        path=path,
        size_mm=form.size_mm,
        box_mm=form.box,
        bodies=len(worked),
        pieces=form.pieces,
        counters=form.counters,
        text_left=found.text_left,
        subpaths=sum(len(outline.path) for outline in worked),
        nodes=sum(outline.path.node_count for outline in worked),
        cut_length_mm=float(lengths(concat([outline.path for outline in cut])).sum()),
        cut_twice_mm=_cut_twice(cut, ticket),
        seconds=run.seconds,
        work=work_of(run),
        reasons=tuple(dict.fromkeys([*_ignored(found), *map(in_words, findings)])),
        findings=findings,
        area_mm2=form.area_mm2,
        kind=found.kind,
    )


@dataclass(frozen=True, slots=True)
class _Form:
    """What outlines come to: the box of their lines, the pieces of material, and the counters in these."""

    box: Box | None
    pieces: int
    counters: int
    area_mm2: float

    @property
    def size_mm(self) -> tuple[float, float]:
        return (self.box[2] - self.box[0], self.box[3] - self.box[1]) if self.box else (0.0, 0.0)


def _form(outlines: Sequence[Outline], ticket: Ticket) -> _Form:
    shapes = regions([(outline.path, outline.look.even_odd) for outline in outlines], ticket.tolerance.chord_mm / 2)
    material, _, holes, _ = parts(shapes, ticket.tolerance.sliver_mm2)
    find_boxes([outline.path for outline in outlines])
    box = join_boxes([b for outline in outlines if (b := bounds(outline.path))])
    area = float(shapely.area(shapes).sum()) if shapes else 0.0
    return _Form(box, len(clusters(material)), len(holes), area)


def _worked(sheet: Sheet, ticket: Ticket) -> list[Outline]:
    """The outlines that a machine does something about."""
    return [o for o in sheet.outlines() if len(o.path) and ticket.operation(o.look) is not Operation.LEAVE]


def work_of(run: DryRun) -> tuple[Work, ...]:
    """What a run does, by operation, in the order of work."""
    kinds: dict[Operation, tuple[Kind, ...]] = {
        Operation.ENGRAVE: ("engrave", "raster"),
        Operation.SCORE: ("score",),
        Operation.CUT: ("cut",),
    }
    lengths_mm = {operation: run.length_mm(*each) for operation, each in kinds.items()}
    return tuple(
        Work(operation, length, run.seconds_of(*kinds[operation])) for operation, length in lengths_mm.items() if length
    )


SAME_SIZE, SAME_SIZE_MM = 1e-3, 0.05
"""A size that differs by less than this share, or so many mm, arrived as it was meant."""


def as_meant(proof: Proof, meant: Sheet, ticket: Ticket) -> Proof:
    """The proof with reasons where what was read is of another size than what was meant, or bodies are missing: an
    importer that takes the file's numbers otherwise, or leaves out what is too much for it, may read all else right.
    """
    outlines = _worked(meant, ticket)
    form = _form(outlines, ticket)
    reasons: list[str] = []
    if any(abs(a - b) > max(SAME_SIZE * a, SAME_SIZE_MM) for a, b in zip(form.size_mm, proof.size_mm, strict=True)):
        words = say(
            "{w0:.2f} × {h0:.2f} mm were meant, {w1:.2f} × {h1:.2f} mm arrived",
            w0=form.size_mm[0],
            h0=form.size_mm[1],
            w1=proof.size_mm[0],
            h1=proof.size_mm[1],
        )
        reasons.append(say("{code}: {words}", code="size.units", words=words))
    least = 2 * STEP_MM if proof.kind == "HPGL" else 0.0  # what is smaller than its steps, a plotter can't draw
    subpaths = sum(_larger_than(least, outline) for outline in outlines)
    if proof.subpaths < subpaths:
        words = say_count(
            "{count} subpath was meant, {arrived} arrived",
            "{count} subpaths were meant, {arrived} arrived",
            subpaths,
            arrived=proof.subpaths,
        )
        reasons.append(say("{code}: {words}", code="ink.lost", words=words))
    # Rounding may part what touches in a point; where nothing else happened the area is the same.
    same = abs(form.area_mm2 - proof.area_mm2) <= SAME_SIZE * form.area_mm2 + ticket.tolerance.sliver_mm2
    filled = all(outline.look.fill for outline in outlines) and not same
    for name, wanted, arrived in (("pieces", form.pieces, proof.pieces), ("counters", form.counters, proof.counters)):
        if proof.kind in FILLED and filled and wanted != arrived:
            words = say("{before} {name} were meant, {after} arrived", before=wanted, name=say(name), after=arrived)
            reasons.append(say("{code}: {words}", code="compound.winding", words=words))
    return proof.with_reasons(reasons)


def _larger_than(least_mm: float, outline: Outline) -> int:
    """How many of an outline's subpaths are longer or higher than that."""
    if not least_mm:
        return len(outline.path)
    boxes = subpath_bounds(outline.path)
    return int(((boxes[:, 2:] - boxes[:, :2]).max(axis=1) > least_mm).sum())


FILLED = ("SVG", "PDF")
"""Formats that say what is filled; the others know lines alone."""


def in_words(finding: Finding) -> str:
    """A finding that holds, in a line."""
    return say("{code}: {headline}", code=finding.code, headline=finding.headline)


def judged_by_survey(found: Imported, ticket: Ticket) -> tuple[Finding, ...]:
    """What holds of the sheet that importing comes to. A size is judged only where no text is missing from it."""
    if found.kind == "HPGL":
        coarse = replace(ticket.tolerance, chord_mm=max(ticket.tolerance.chord_mm, 2 * STEP_MM))
        ticket = replace(ticket, tolerance=coarse)
    said = holding(as_sheet(found, ticket.key), Workshop(ticket, Shelf(())))
    missing = {"size.off-ticket", "job.empty"} if found.text_left else set()
    if found.kind == "HPGL":  # its lines have no colours: which of them are of one material is for the sheet to tell
        missing |= {"overlap.items", "overlap.self", "line.colour-unknown"}
    return tuple(finding for finding in said if finding.code not in missing)


def _ignored(found: Imported) -> list[str]:
    """What importing leaves out, after the codes of the findings that stand for it."""
    one, several = "one live text is ignored and arrives blank", "{count} live texts are ignored and arrive blank"
    said = [("text.live", say_count(one, several, found.text_left))] if found.text_left else []
    if found.pictures:
        said.append(("content.picture", say_count("a raster picture", "{count} raster pictures", found.pictures)))
    return [say("{code}: {words}", code=code, words=words) for code, words in said]


def _cut_twice(cut: Sequence[Outline], ticket: Ticket) -> float:
    """Length in mm that is cut twice, material by material."""
    tolerance = ticket.tolerance
    return sum(
        cut_twice_mm([outline.path for outline in outlines], tolerance.same_shape_mm, tolerance.chord_mm / 2)
        for outlines in ticket.by_material(cut).values()
    )


def bodies_of(outlines: Sequence[Outline]) -> list[Body]:
    """Outlines as bodies, for a dry run."""
    return [Body(o.path, o.look.fill, o.look.stroke, o.look.even_odd, o.look.stroke_width_mm) for o in outlines]
