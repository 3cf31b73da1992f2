"""`bridge`"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Literal

import shapely

from unkelt.account.changes import Reason
from unkelt.account.declare import within
from unkelt.anatomy.bridges import Between, Strip, strips
from unkelt.anatomy.pieces import Falling, Loose, bounds_material, falling_counters, material_regions, pieces_of
from unkelt.errors import GeometryRefused, NothingToDo, StepRefused
from unkelt.geometry.boolean.combine import combine
from unkelt.geometry.boolean.engine import Operand
from unkelt.geometry.boolean.weld import weld
from unkelt.geometry.measure import Box
from unkelt.geometry.path import Path
from unkelt.geometry.region import apart_mm2, clusters, parts, region
from unkelt.job.ticket import Ticket
from unkelt.job.workshop import Workshop
from unkelt.messages import say, say_count
from unkelt.sheet.model import Item, Outline, Sheet
from unkelt.sheet.naming import called
from unkelt.steps.evidence import Evidence
from unkelt.steps.grip import Grip, Handle, Handles, InHand, written_mm
from unkelt.steps.step import Field, On, Outcome, Purpose, step, targets

USUAL_WIDTH_MM = 1.0
"""Where neither the person nor the ticket's smallest stroke says another."""

PROPOSED = 2
"""So many bridges a piece, where there is room for them: one alone lets it swing. Common practice, no source."""

Holds = Literal["as the ticket says", "pieces", "counters"]


@dataclass(frozen=True, kw_only=True)
class Bridged(Evidence):
    """Bridges that were laid, for so many pieces or counters, so wide; the longest of them (mm)."""

    bridges: int
    held: int
    width_mm: float
    longest_mm: float

    def caption(self) -> str:
        return say_count("{count} bridge", "{count} bridges", self.bridges)


@dataclass(frozen=True, slots=True)
class _Laid:
    """What one thing is held by: strips that are added to these outlines, or cut out of them."""

    outlines: tuple[Outline, ...]
    strips: tuple[Strip, ...]
    cut_out: bool


def _in_hand(held: InHand) -> Handles:
    """A handle on each bridge as it would be laid."""
    items = tuple(item.id for item in held.chosen)
    place = None if held["x"] is None or held["y"] is None else (held["x"], held["y"])
    try:
        laid = _plan(held.sheet, items, held.workshop, held["holds"], held["width"], held["count"], place)
    except (StepRefused, NothingToDo):
        return Handles()
    found = [strip for each in laid for strip in each.strips]
    return Handles(tuple(Handle(f"bridge-{n}", *strip.middle, "a bridge") for n, strip in enumerate(found, 1)))


def _dragged(_held: InHand, _handle: Handle, to: tuple[float, float], _along: Sequence[Handle]) -> dict[str, str]:
    return {"x": written_mm(to[0]), "y": written_mm(to[1])}


@step(
    "bridge",
    "Hold it by bridges",
    on=On.OUTLINES,
    purpose=Purpose.SHAPE,
    lines="closed",
    grip=Grip(_in_hand, _dragged),
)
def bridge(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    width: Annotated[
        float | None,
        "how wide each bridge is; without it, the ticket's smallest stroke, or 1 mm",
        Field("Bridge width", first=True),
    ] = None,
    count: Annotated[
        int | None,
        "how many bridges each piece gets; without it, two where there is room, else one",
        Field("Bridges each", first=True),
    ] = None,
    holds: Annotated[
        Holds,
        "what is held: pieces, by strips of material, or counters, by strips of the sheet across the letter",
        Field("What is held", first=True),
    ] = "as the ticket says",
    x: Annotated[float | None, "the place of one bridge; without it, the shortest are laid", Field("Place x")] = None,
    y: Annotated[float | None, "its place from the top of the page", Field("Place y")] = None,
) -> Outcome:
    """Holds by bridges what would fall out: loose pieces by strips of their material, and counters, where the sheet is
    to stay whole, by strips across the letter. The shortest are proposed, never at a corner or at a thin place. With a
    place, one bridge is laid there.

    Proven: what was loose is held, and apart from the bridges nothing is painted otherwise.
    """
    place = None if x is None or y is None else (x, y)
    laid = _plan(sheet, items, workshop, holds, width, count, place)
    ticket = workshop.ticket
    changes: dict[str, tuple[Item, ...]] = {}
    deviation = 0.0
    current = {outline.id: outline for outline in sheet.outlines()}
    for each in _together(laid):
        members = [current[outline.id] for outline in each.outlines]
        path, off = _made(members, each, ticket)
        lead = members[0]
        letters = "".join(member.letters for member in members)
        changes |= {member.id: () for member in members}
        made = replace(lead, path=path, look=replace(lead.look, even_odd=False), letters=letters)
        changes[lead.id] = (made,)
        deviation = max(deviation, off)
    after = sheet.replaced(changes)
    used = [strip for each in laid for strip in each.strips]
    _refuse_unproven(sheet, after, laid, ticket)
    seen = dict.fromkeys(m for each in laid for outline in each.outlines for m in ticket.materials_of(outline.look))
    where = shapely.union_all([strip.area() for strip in used]).buffer(ticket.tolerance.chord_mm, quad_segs=2)
    evidence = Bridged(
        bridges=len(used),
        held=len(laid),
        width_mm=round(used[0].width_mm, 4),
        longest_mm=round(max(strip.length_mm for strip in used), 3),
        max_deviation_mm=round(deviation, 5),
    )
    reason = Reason.CUT_OUT if laid[0].cut_out else Reason.MADE
    amount = float(sum(strip.area().area for strip in used))
    marks: tuple[Box, ...] = tuple(strip.area().bounds for strip in used)
    return Outcome(after, tuple(changes), evidence, (within(reason, where, tuple(seen), amount=amount),), marks=marks)


def _plan(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    holds: str,
    width: float | None,
    count: int | None,
    place: tuple[float, float] | None,
) -> list[_Laid]:
    """All bridges, thing by thing. Raises StepRefused where one can't be laid, NothingToDo where all is held."""
    ticket = workshop.ticket
    wide = width if width is not None else ticket.machine.smallest_stroke_mm or USUAL_WIDTH_MM
    if wide <= 0 or count == 0:
        raise StepRefused("bridge", "width and count must be greater than zero")
    chosen = {outline.id for outline in targets("bridge", sheet, items, Outline)}
    counters = holds == "counters" or (holds != "pieces" and ticket.sheet_stays)
    if counters:
        things = [_of_counter(each) for each in falling_counters(sheet, ticket) if each.outline.id in chosen]
    else:
        found = pieces_of(sheet, ticket).loose
        things = [
            thing
            for each in found
            if chosen & {each.frame.id, *(outline.id for outline in each.outlines)}
            for thing in _of_loose(each, sheet, ticket)
        ]
        if not things:
            things = _of_many(sheet, chosen, ticket)
    if not things:
        raise NothingToDo("bridge", "nothing here would fall out")
    if place is not None:
        things = [min(things, key=lambda thing: thing[1].loose.distance(shapely.Point(place)))]
    laid: list[_Laid] = []
    for outlines, between in things:
        there = [strip.area() for each in laid for strip in each.strips]
        between = replace(between, others=shapely.union_all([between.others, *there]))
        laid.append(_laid(outlines, between, counters, wide, count, place))
    return laid


Thing = tuple[tuple[Outline, ...], Between]


def _laid(
    outlines: tuple[Outline, ...],
    between: Between,
    cut_out: bool,
    width_mm: float,
    count: int | None,
    place: tuple[float, float] | None,
) -> _Laid:
    found = strips(between, width_mm, 1 if place is not None else count or PROPOSED, place)
    if not found or (count is not None and place is None and len(found) < count):
        room = say_count("there is room for {count} bridge", "there is room for {count} bridges", len(found))
        none = say("every place is at a corner, too thin or too near to something else")
        raise StepRefused(
            "bridge",
            say(
                "{name} can't be held by bridges of {width:g} mm: {why}; try narrower ones, or choose a place by hand",
                name=called(outlines[-1]),
                width=width_mm,
                why=room if found else none,
            ),
        )
    return _Laid(outlines, tuple(found), cut_out)


def _of_counter(falling: Falling) -> Thing:
    """A counter, held to what lies around its letter, across the letter."""
    return (falling.outline,), Between(falling.island, falling.around, falling.letter, falling.others)


def _of_loose(loose: Loose, sheet: Sheet, ticket: Ticket) -> list[Thing]:
    """Each loose piece, held to its frame across the opening."""
    members = (loose.frame, *loose.outlines)
    _refuse_unlike(members, ticket)
    everything = material_regions(sheet, ticket, members[0])
    frame = region(loose.frame.path, loose.frame.look.even_odd or loose.frame.look.fill is None, _chord(ticket))
    things: list[Thing] = []
    for piece in loose.pieces:
        own = [outline for outline in loose.outlines if _area(outline, ticket).intersects(piece)]
        rest = [each for each in shapely.get_parts(everything) if not each.intersects(frame | piece)]
        around = shapely.box(*frame.bounds)
        things.append(
            ((loose.frame, *own), Between(piece, frame, around.difference(everything), shapely.union_all(rest)))
        )
    return things


def _of_many(sheet: Sheet, chosen: set[str], ticket: Ticket) -> list[Thing]:
    """More pieces than the ticket says: the nearest are joined, until there are so many."""
    if ticket.pieces is None:
        return []
    by_material = ticket.by_material(sheet.outlines())
    excess = pieces_of(sheet, ticket).count - ticket.pieces
    things: list[tuple[float, Thing]] = []
    for outlines in by_material.values():
        cut = [outline for outline in outlines if bounds_material(outline, ticket) and ticket.is_cut(outline.look)]
        solid, owner, _, _ = parts([_area(outline, ticket) for outline in cut], ticket.tolerance.sliver_mm2)
        groups = clusters(solid)
        shapes = [shapely.union_all(solid[group]) for group in groups]
        named = [tuple(cut[k] for k in sorted({int(owner[place]) for place in group})) for group in groups]
        whole = shapely.box(*shapely.total_bounds(shapes)) if shapes else shapely.box(0, 0, 0, 0)
        empty = whole.difference(shapely.union_all(shapes))
        joined = list(range(len(shapes)))
        pairs = [(shapes[i].distance(shapes[j]), i, j) for i in range(len(shapes)) for j in range(i)]
        for away, i, j in sorted(pairs):
            if joined[i] == joined[j] or not chosen & {o.id for o in (*named[i], *named[j])}:
                continue
            joined = [joined[i] if mark == joined[j] else mark for mark in joined]
            rest = [shape for k, shape in enumerate(shapes) if k not in (i, j)]
            own = {outline.id for outline in (*named[i], *named[j])}
            members = tuple(outline for outline in cut if outline.id in own)
            things.append((away, (members, Between(shapes[i], shapes[j], empty, shapely.union_all(rest)))))
    made = [thing for _, thing in sorted(things, key=lambda pair: pair[0])[: max(0, excess)]]
    for members, _ in made:
        _refuse_unlike(members, ticket)
    return made


def _refuse_unlike(members: Sequence[Outline], ticket: Ticket) -> None:
    for other in members[1:]:
        if ticket.family(other.look) != ticket.family(members[0].look):
            words = say(
                "{one} and {other} are of different materials or operations, and can't be one piece",
                one=called(members[0]),
                other=called(other),
            )
            raise StepRefused("bridge", words)


def _together(laid: Sequence[_Laid]) -> list[_Laid]:
    """What works on the same outlines, directly or through others, as one."""
    groups: list[_Laid] = []
    for each in laid:
        own = {outline.id for outline in each.outlines}
        meets = [group for group in groups if own & {outline.id for outline in group.outlines}]
        outlines = tuple({o.id: o for group in (*meets, each) for o in group.outlines}.values())
        found = tuple(strip for group in (*meets, each) for strip in group.strips)
        groups = [group for group in groups if group not in meets] + [_Laid(outlines, found, each.cut_out)]
    return groups


def _made(members: Sequence[Outline], laid: _Laid, ticket: Ticket) -> tuple[Path, float]:
    """The outlines with their bridges as one, and how far a line may have moved (mm). Raises StepRefused."""
    tools = [Operand(strip.path()) for strip in laid.strips]
    operands = [Operand(member.path, member.look.even_odd or member.look.fill is None) for member in members]
    try:
        if laid.cut_out:
            path, proof = combine("difference", operands, tools, ticket.tolerance)
        else:
            path, proof = weld([*operands, *tools], ticket.tolerance, guard=False)
    except GeometryRefused as problem:
        raise StepRefused("bridge", str(problem)) from problem
    return path, proof.max_deviation_mm


def _refuse_unproven(before: Sheet, after: Sheet, laid: Sequence[_Laid], ticket: Ticket) -> None:
    """By the second engine: what was loose is held, and but for the bridges the material is what it was."""
    names = {outline.id for each in laid for outline in each.outlines}
    was = shapely.union_all([_area(outline, ticket) for outline in before.outlines() if outline.id in names])
    now = shapely.union_all([_area(outline, ticket) for outline in after.outlines() if outline.id in names])
    bridges = shapely.union_all([strip.area() for each in laid for strip in each.strips])
    meant = was.difference(bridges) if laid[0].cut_out else was.union(bridges)
    edges = ticket.tolerance.chord_mm * (was.length + bridges.length)
    if apart_mm2(meant, now) > ticket.tolerance.sliver_mm2 + edges:
        raise StepRefused("bridge", "more than the bridges would change")
    if laid[0].cut_out:
        left = len(falling_counters(after, ticket))
        if left > len(falling_counters(before, ticket)) - len(laid):
            raise StepRefused("bridge", "a counter would still fall out")
        return
    loose, still = (sum(len(each.pieces) for each in pieces_of(sheet, ticket).loose) for sheet in (before, after))
    count = [pieces_of(sheet, ticket).count for sheet in (before, after)]
    if still > loose or count[1] > count[0] - len(laid):
        raise StepRefused("bridge", "a piece would still fall out")


def _area(outline: Outline, ticket: Ticket) -> shapely.Geometry:
    path = outline.path.select(outline.path.closed)
    return region(path, outline.look.even_odd or outline.look.fill is None, _chord(ticket))


def _chord(ticket: Ticket) -> float:
    return ticket.tolerance.chord_mm / 4
