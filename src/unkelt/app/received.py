"""What came in: the facts of a file as written and as understood, in words for people."""

from __future__ import annotations

from dataclasses import dataclass

from unkelt.job.extent import measured_box
from unkelt.job.ticket import Ticket
from unkelt.language import grouped
from unkelt.lettering.faces import Shelf
from unkelt.messages import say
from unkelt.sheet.model import FaceQuery, Group, Picture, Sheet
from unkelt.units import FILE_UNITS, unit_factor


@dataclass(frozen=True, slots=True)
class FaceFact:
    """A face that the file names, and whether it is to be had."""

    name: str
    found: str | None
    texts: int


@dataclass(frozen=True, slots=True)
class Intake:
    """Rows of (name, value) about the file and what is in it, the faces named, and what was left out and why.

    `units` are the choices where the size isn't `sure`, each with what it would make of the page; `likely` is the one
    that something speaks for.
    """

    file: tuple[tuple[str, str], ...]
    contents: tuple[tuple[str, str], ...]
    faces: tuple[FaceFact, ...]
    remarks: tuple[str, ...]
    sure: bool
    units: tuple[tuple[str, str], ...]
    likely: str


def intake(sheet: Sheet, ticket: Ticket, shelf: Shelf) -> Intake:
    """All that is known of a file before anything is done to it."""
    source = sheet.source
    width, height = sheet.page_mm
    box = measured_box(sheet, ticket)
    units = {"none": "none given", "px": "px, 96 to the inch"}.get(source.units, source.units)
    understood = "mm" if source.scale.sure else "mm, by an assumption"
    file = [
        ("kind", source.kind + (say(", {pages} pages", pages=source.pages) if source.pages > 1 else "")),
        ("units as written", units),
        ("units as understood", understood),
        ("page", say("{width:.2f} × {height:.2f} mm", width=width, height=height)),
        (
            "drawing",
            say("{width:.2f} × {height:.2f} mm", width=box[2] - box[0], height=box[3] - box[1])
            if box
            else "no outlines yet",
        ),
    ]
    if source.scale.evidence:
        file.append(("evidence", source.scale.evidence))
    items = list(sheet.walk())
    outlines = sheet.outlines()
    contents = [
        ("texts", str(len(sheet.letterings()))),
        ("outlines", grouped(len(outlines))),
        ("subpaths", grouped(sum(len(outline.path) for outline in outlines))),
        ("nodes", grouped(sum(outline.path.node_count for outline in outlines))),
        ("pictures", str(sum(isinstance(item, Picture) for item in items))),
        ("groups", str(sum(isinstance(item, Group) for item in items))),
        ("hidden outlines", str(sum(not outline.look.visible for outline in sheet.outlines()))),
    ]
    named: dict[FaceQuery, int] = {}
    embedded = 0
    for lettering in sheet.letterings():
        if lettering.drawn:
            embedded += 1
            continue
        for query in {run.face for run in lettering.runs}:
            named[query] = named.get(query, 0) + 1
    faces = [FaceFact(_name(query), _found(query, shelf), count) for query, count in named.items()]
    if embedded:
        faces.append(FaceFact("embedded in the file", "its own curves", embedded))
    likely = (
        say("{per_inch} to the inch", per_inch=source.scale.per_inch)
        if source.scale.per_inch
        else "96 to the inch"
        if source.kind == "SVG"
        else "mm"
    )
    return Intake(
        tuple(file), tuple(contents), tuple(faces), source.notes, source.scale.sure, _unit_choices(sheet), likely
    )


def _unit_choices(sheet: Sheet) -> tuple[tuple[str, str], ...]:
    """What the units may be, each with the page it would give."""
    choices = []
    for units in FILE_UNITS:
        factor = unit_factor(units, sheet.source.kind)
        if factor is not None:
            width, height = (value * factor for value in sheet.page_mm)
            choices.append(
                (units, say("{units}  ·  page {width:.1f} × {height:.1f} mm", units=units, width=width, height=height))
            )
    return tuple(choices)


def _name(query: FaceQuery) -> str:
    style = [str(query.weight)] if query.weight != 400 else []
    return " ".join(
        [query.families[0] if query.families else "no face named", *style, *(["italic"] if query.italic else [])]
    )


def _found(query: FaceQuery, shelf: Shelf) -> str | None:
    face = shelf.match(query)
    return f"{face.name}{', bundled' if face.bundled else ''}" if face else None
