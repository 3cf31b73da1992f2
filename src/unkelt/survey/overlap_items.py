"""`overlap.items`"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

import shapely

from unkelt.anatomy.counters import counters_apart
from unkelt.anatomy.crossings import Crossing, crossings
from unkelt.anatomy.left_guides import guides
from unkelt.anatomy.repeats import copies
from unkelt.anatomy.words import words
from unkelt.geometry.measure import Box, join_boxes
from unkelt.geometry.region import clusters, connected
from unkelt.job.ticket import Ticket
from unkelt.job.workshop import Workshop
from unkelt.lettering.recognise import are_letters
from unkelt.messages import say, say_count
from unkelt.sheet.appearance import Operation, has_visible_stroke
from unkelt.sheet.model import Outline, Sheet
from unkelt.survey.areas import box_of, filled_areas
from unkelt.survey.check import check
from unkelt.survey.finding import Finding, Level

TWICE = {Operation.ENGRAVE: "engraves it twice, or leaves it blank", Operation.SCORE: "scores across the letters"}


@check("overlap.items")
def overlap_items(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """Two outlines of one material overlap. The tool cuts straight through the joint."""
    ticket = workshop.ticket
    guide_lines = {left.outline.id for left in guides(sheet, ticket) if not left.cut}  # a matter of path.guide
    working = [
        outline
        for outline in sheet.outlines()
        if outline.look.shown
        and outline.id not in guide_lines
        and ticket.operation(outline.look) is not Operation.LEAVE
    ]
    by_fill: dict[object, list[Outline]] = {}
    for outline in working:
        if outline.look.fill_paint is not None:
            by_fill.setdefault(ticket.family(outline.look), []).append(outline)
    for outlines in by_fill.values():
        yield from _areas_that_meet(sheet, outlines, workshop)
    word_of = {name: number for number, word in enumerate(words(sheet)) for name in word.ids}
    told: set[tuple[str, str]] = set()
    for outlines in ticket.by_material(working).values():
        again = copies(outlines, ticket.tolerance.same_shape_mm)
        outlines = [outline for outline in outlines if outline.id not in again]
        found = [c for c in crossings(outlines, ticket) if (outlines[c.first].id, outlines[c.second].id) not in told]
        told |= {(outlines[c.first].id, outlines[c.second].id) for c in found}
        yield from _lines_that_cross(outlines, found, word_of)
    worked = {outline.id for outline in working}
    for word in words(sheet):
        stroked = [outline for outline in word.outlines if outline.id in worked and _is_line(outline, ticket)]
        if len(stroked) > 1 and word.is_lettering:  # their shapes are one, before the stroke is expanded
            yield from _lines_that_cross(stroked, crossings(stroked, ticket, all_lines=True), word_of)


def _is_line(outline: Outline, ticket: Ticket) -> bool:
    """Whether a letter is drawn by a thick stroke alone."""
    look = outline.look
    visible = has_visible_stroke(look, ticket.machine.hairline_mm, bool(ticket.key))
    return look.fill is None and visible and bool(outline.path.closed.all())


def _areas_that_meet(sheet: Sheet, outlines: list[Outline], workshop: Workshop) -> Iterator[Finding]:
    ticket = workshop.ticket
    # Copies are a matter of path.duplicate; but where what they repeat is welded, they are welded with it.
    again = copies(outlines, ticket.tolerance.same_shape_mm)
    outlines = [outline for outline in outlines if outline.id not in again]
    shapes = filled_areas(outlines, ticket)
    apart = counters_apart(sheet, ticket, are_letters, outlines)  # a matter of compound.counter-apart
    held = {each.id for body in apart for each in (*body.counters, *body.islands)}
    for cluster in clusters(shapes):
        if len(cluster) > 1:
            yield from _overlaps([outlines[i] for i in cluster], [shapes[i] for i in cluster], held, again, workshop)


def _overlaps(
    outlines: list[Outline],
    shapes: list[shapely.Geometry],
    held: set[str],
    again: dict[str, str],
    workshop: Workshop,
) -> Iterator[Finding]:
    graze = workshop.ticket.tolerance.graze_mm2  # binding needs rings that don't cross at all
    first, second = shapely.STRtree(shapes).query(shapes, predicate="intersects")
    joints: list[shapely.Geometry] = []
    members: set[int] = set()
    for i, j in sorted(zip(first.tolist(), second.tolist(), strict=True)):
        if i >= j:
            continue
        if {outlines[i].id, outlines[j].id} & held and (shapes[i].within(shapes[j]) or shapes[j].within(shapes[i])):
            continue
        common = shapely.intersection(shapes[i], shapes[j])
        if common.area > graze:
            joints.append(common)
            members |= {i, j}
    if not joints:
        return
    area = float(shapely.area(joints).sum())
    named = [outlines[i].id for i in sorted(members)]
    named += [copy for copy, first in again.items() if first in set(named)]
    operation = workshop.ticket.operation(outlines[0].look)
    does = TWICE.get(operation, "cuts across the letters") if operation else "cuts across the letters"
    figure = say("{area} mm²", area=f"{area:.{1 if area >= 0.1 else 4}f}")
    yield Finding(
        code="overlap.items",
        level=Level.HOLD,
        items=tuple(named),
        box=box_of(
            shapely.multipolygons([p for j in joints for p in shapely.get_parts(j) if p.geom_type == "Polygon"])
        ),
        value=area,
        unit="mm²",
        case="areas",
        headline=say_count("Outlines overlap at {count} joint", "Outlines overlap at {count} joints", len(joints)),
        detail=say("{figure} lie under two outlines", figure=figure),
        message=say(
            "The tool follows every outline, so it {does} where they join. {figure} overlap.",
            does=does,
            figure=figure,
        ),
        marks=tuple(box_of(joint) for joint in joints),
    )


def _lines_that_cross(
    outlines: Sequence[Outline], found: Sequence[Crossing], word_of: dict[str, int]
) -> Iterator[Finding]:
    """One finding for all outlines that hang together by their crossings. Letters of one word are welded; of anything
    else a person says which line gives way.
    """
    pairs = {(each.first, each.second) for each in found}
    for group in connected(len(outlines), pairs):
        members, inside = [outlines[index] for index in group], set(group)
        if len(members) < 2:
            continue
        marks = tuple(_spots(each for each in found if each.first in inside))
        closed = all(outline.path.closed.all() for outline in members)
        lettering = {word_of.get(outline.id) for outline in members}
        one_word = len(lettering) == 1 and None not in lettering
        count = len(marks)
        yield Finding(
            code="overlap.items",
            level=Level.HOLD,
            items=tuple(outline.id for outline in members),
            box=join_boxes(list(marks)),
            value=float(count),
            unit="places",
            headline=say_count("Lines cross at {count} place", "Lines cross at {count} places", count),
            detail="the tool cuts through the joint" if one_word else "which one must change?",
            message="The tool follows every line to its end, so it cuts through the shape of the other line."
            + ("" if one_word else " Weld the shapes, let one into the other, or take a line out."),
            case="word" if one_word and closed else "closed" if closed else "open",
            marks=marks,
            choice=not (one_word and closed),
        )


def _spots(found: Iterable[Crossing]) -> Iterator[Box]:
    for each in found:
        for part in shapely.get_parts(each.places):
            yield box_of(part)
