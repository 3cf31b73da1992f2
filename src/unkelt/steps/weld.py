"""`weld`"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from typing import Annotated, Literal

import numpy as np
import shapely

from unkelt.account.changes import Change, Reason
from unkelt.anatomy.repeats import without_copies
from unkelt.anatomy.words import words
from unkelt.errors import GeometryRefused, NothingToDo, StepRefused, Swallowed
from unkelt.geometry.boolean.engine import Operand
from unkelt.geometry.boolean.judge import PROOF_CHORD
from unkelt.geometry.boolean.slits import slit_fillers
from unkelt.geometry.boolean.touching import touching
from unkelt.geometry.boolean.weld import WeldProof, covers_itself, crosses_itself, operand_regions
from unkelt.geometry.boolean.weld import weld as weld_paths
from unkelt.geometry.boolean.weld_many import Welded, weld_clusters
from unkelt.geometry.flatten import lines
from unkelt.geometry.matching import NONE, Matched, match_counters
from unkelt.geometry.measure import Box, bounds, join_boxes
from unkelt.geometry.path import Path, concat
from unkelt.geometry.region import clusters, counters, region, regions
from unkelt.job.workshop import Workshop
from unkelt.language import grouped
from unkelt.messages import say
from unkelt.sheet.appearance import Appearance, has_visible_stroke
from unkelt.sheet.materials import Family, is_thick
from unkelt.sheet.model import Item, Outline, Reads, Sheet
from unkelt.sheet.naming import called
from unkelt.sheet.pens import pen_of, stroke_region
from unkelt.steps.evidence import ByTwoEngines, Counted, Renoded, unlike_holes
from unkelt.steps.stacking import Stacking
from unkelt.steps.step import Field, On, Outcome, Purpose, step, targets
from unkelt.tolerance import Tolerance

By = Literal["operation", "word"]


@dataclass(frozen=True, kw_only=True)
class WeldedTogether(Renoded, ByTwoEngines):
    """Outlines that became fewer."""

    outlines_before: int
    outlines_after: int

    def caption(self) -> str:
        return say(
            "{outlines_before} → {outlines_after} outlines",
            outlines_before=grouped(self.outlines_before),
            outlines_after=grouped(self.outlines_after),
        )


@step(
    "weld",
    "Weld",
    on=On.OUTLINES,
    purpose=Purpose.SHAPE,
    likely=On.OUTLINES,
    of_several=True,
    safe=True,
)
def weld(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    by: Annotated[
        By,
        "what to weld together: everything of one material and operation, or only the letters of one word",
        Field("Weld together", first=True),
    ] = "operation",
    swallow: Annotated[
        bool,
        "an outline wholly inside another becomes part of it; it is not a counter",
        Field("Absorb what lies inside"),
    ] = False,
) -> Outcome:
    """Makes one outline of outlines that touch and are of one material, or of an outline that crosses itself.
    Curves stay curves.

    Outlines with a visible stroke are welded by their shape, and only with outlines of the same stroke in the same
    word. Lines without a fill are welded where they cross. Open subpaths stay as they are. Proven by a second
    engine: the same area, pieces and counters, and no line moves beyond the chord tolerance. No counter is filled,
    and no outline vanishes inside another. Otherwise the step is refused and nothing changes.
    """
    chosen: list[Outline] = targets("weld", sheet, items, Outline)
    tolerance, stacking, work = workshop.tolerance, Stacking(sheet, workshop), _Work(workshop)
    chord = tolerance.chord_mm * PROOF_CHORD
    plans = [
        _Plan.of(outlines, family, stacking, tolerance)
        for (family, _, _), outlines in _groups(sheet, chosen, workshop, by).items()
    ]
    _refuse_blocked(plans)
    for plan in plans:
        outlines, operands, found, shapes = plan.outlines, plan.operands, plan.clusters, plan.shapes
        fillers = [
            slit_fillers([operands[i].path for i in cluster], [shapes[i] for i in cluster], tolerance.same_shape_mm)
            for cluster in found
        ]
        asked = [
            [*(operands[i] for i in cluster), *map(Operand, slits)]
            for cluster, slits in zip(found, fillers, strict=True)
        ]
        made = _welded(asked, tolerance, swallow)
        regions([(each[0], False) for each in made if not isinstance(each, GeometryRefused)], chord)  # all at once
        for cluster, lead, slits, welded in zip(found, plan.leads, fillers, made, strict=True):
            result = welded
            if isinstance(result, GeometryRefused):
                result, slits = _without_copies([outlines[i] for i in cluster], result, slits, tolerance, swallow)
            if isinstance(result, GeometryRefused):
                way_out = "restore-counters" if isinstance(result, Swallowed) else ""
                box = _box_of(outlines[i] for i in cluster)
                raise StepRefused("weld", str(result), [box] if box else [], way_out) from result
            work.add([outlines[i] for i in cluster], [operands[i] for i in cluster], slits, lead, result)
    if not work.proofs:
        _refuse_open(chosen if items else [], tolerance)
        raise NothingToDo("weld", "no two of these outlines touch, and none crosses itself")
    return work.outcome(sheet)


@dataclass(frozen=True)
class _Plan:
    """Outlines of one group: the operand and the area of each, the clusters of them that are to be welded, in whose
    place each cluster will lie, and the clusters that something lies between.
    """

    outlines: list[Outline]
    operands: list[Operand]
    shapes: Sequence[shapely.Geometry]
    clusters: list[list[int]]
    leads: list[Outline]
    blocked: list[list[Outline]]

    @classmethod
    def of(cls, outlines: list[Outline], family: Family, stacking: Stacking, tolerance: Tolerance) -> _Plan:
        """What is to be done with outlines of one group. Raises StepRefused for what is open and filled."""
        operands = [_operand(outline, tolerance) for outline in outlines]
        found = [
            cluster
            for cluster in _meeting(operands, family, tolerance)
            if len(cluster) > 1 or _not_plain(operands[cluster[0]], tolerance)
        ]
        _refuse_open([outlines[i] for cluster in found for i in cluster], tolerance)
        shapes = operand_regions(operands, tolerance)
        leads = [stacking.lead([outlines[i] for i in cluster], [shapes[i] for i in cluster]) for cluster in found]
        blocked = [[outlines[i] for i in cluster] for cluster, lead in zip(found, leads, strict=True) if lead is None]
        return cls(outlines, operands, shapes, found, [lead for lead in leads if lead is not None], blocked)


def _refuse_blocked(plans: Iterable[_Plan]) -> None:
    """Raises StepRefused where something lies between; it takes far less time to say so than to weld first."""
    blocked = [members for plan in plans for members in plan.blocked]
    if blocked:
        raise StepRefused(
            "weld",
            "something of another material lies between them in the paint order",
            [box for members in blocked if (box := _box_of(members))],
        )


def _box_of(outlines: Iterable[Outline]) -> Box | None:
    return join_boxes([box for outline in outlines if (box := bounds(outline.path))])


Group = tuple[Family, object, Reads]
"""What may be welded together: one family, of one word where that matters, that reads the same way round."""


def _groups(sheet: Sheet, chosen: Sequence[Outline], workshop: Workshop, by: By) -> dict[Group, list[Outline]]:
    """The outlines by group; one that isn't seen, or has nothing closed, is left out."""
    ticket = workshop.ticket
    hairline, keyed = ticket.machine.hairline_mm, bool(ticket.key)
    word_of = {
        name: index for index, word in enumerate(words(sheet)) if by == "word" or word.is_lettering for name in word.ids
    }
    groups: dict[Group, list[Outline]] = {}
    for outline in chosen:
        if outline.look.shown and _closed(outline, ticket.tolerance).any():
            by_word = by == "word" or has_visible_stroke(outline.look, hairline, keyed)
            word = word_of.get(outline.id, outline.id) if by_word else None
            groups.setdefault((ticket.family(outline.look), word, outline.reads), []).append(outline)
    return groups


def _closed(outline: Outline, tolerance: Tolerance) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
    """(s,) which subpaths are closed, or have ends that meet."""
    return outline.path.closed | (outline.path.end_gaps_mm() <= tolerance.same_point_mm)


def _operand(outline: Outline, tolerance: Tolerance) -> Operand:
    """The closed subpaths. Lines without a fill say by their nesting what is inside."""
    closed = _closed(outline, tolerance)
    path = outline.path if closed.all() else outline.path.select(closed)
    return Operand(path, outline.look.even_odd or outline.look.fill is None)


def _meeting(operands: Sequence[Operand], family: Family, tolerance: Tolerance) -> list[list[int]]:
    """Clusters of outlines that meet: filled ones where their areas do, lines where they cross or touch."""
    if family.fill is not None:
        return touching(operands, tolerance)
    return clusters(shapely.boundary(operand_regions(operands, tolerance)))


def _not_plain(operand: Operand, tolerance: Tolerance) -> bool:
    return crosses_itself(operand, tolerance) or covers_itself(operand, tolerance)


def _refuse_open(outlines: Sequence[Outline], tolerance: Tolerance) -> None:
    """Open subpaths are left as they are; but where one is filled, its fill would be left out of the weld."""
    for outline in outlines:
        left = outline.path.select(~_closed(outline, tolerance))
        if outline.look.fill is not None and len(left):
            area = region(left, outline.look.even_odd, tolerance.chord_mm * PROOF_CHORD).area
            if area > tolerance.sliver_mm2:
                raise StepRefused(
                    "weld",
                    say("{name} has an open subpath that is filled; join or close its ends first", name=_name(outline)),
                    [box for box in [bounds(left)] if box],
                    way_out="close-subpath",
                )


def _name(outline: Outline) -> str:
    return called(outline)


def _without_copies(
    outlines: Sequence[Outline], refused: GeometryRefused, slits: list[Path], tolerance: Tolerance, swallow: bool
) -> tuple[Welded, list[Path]]:
    """Tries again with one of each outline that is there twice: copies a hair apart are full of slits. With the slits
    then filled.
    """
    kept = without_copies(outlines, tolerance.same_shape_mm)
    if len(kept) == len(outlines):
        return refused, slits
    return _welded([[_operand(outline, tolerance) for outline in kept]], tolerance, swallow)[0], []


def _welded(asked: Sequence[Sequence[Operand]], tolerance: Tolerance, swallow: bool) -> list[Welded]:
    if not swallow:
        return weld_clusters(asked, tolerance)
    found: list[Welded] = []
    for cluster in asked:
        try:
            found.append(weld_paths(cluster, tolerance, guard=False))
        except GeometryRefused as problem:
            found.append(problem)
    return found


@dataclass
class _Work:
    """What was welded so far: the changes of the sheet, what they declare, and their proofs."""

    workshop: Workshop
    changes: dict[str, tuple[Item, ...]] = field(default_factory=dict)
    declared: list[Change] = field(default_factory=list)
    proofs: list[WeldProof] = field(default_factory=list)
    worked: list[Outline] = field(default_factory=list)
    matched: Matched = NONE

    def add(
        self,
        members: Sequence[Outline],
        operands: Sequence[Operand],
        slits: Sequence[Path],
        lead: Outline,
        result: tuple[Path, WeldProof],
    ) -> None:
        """One cluster: its members give way to what was made of them, in the lead's place."""
        path, proof = result
        tolerance = self.workshop.tolerance
        left_open = [member.path.select(~_closed(member, tolerance)) for member in members]
        joined = _joined(members, lead, concat([path, *left_open]))
        self.changes |= {member.id: () for member in members}
        self.changes[lead.id] = (joined,)
        self.declared += _declared(members, operands, slits, path, self.workshop)
        self.proofs.append(proof)
        self.worked += members
        before = [
            hole for shape in operand_regions(operands, tolerance) for hole in counters(shape, tolerance.sliver_mm2)
        ]
        after = counters(region(path, False, tolerance.chord_mm * PROOF_CHORD), tolerance.sliver_mm2)
        self.matched += match_counters(unlike_holes(before, tolerance), after, tolerance.sliver_mm2)

    def outcome(self, sheet: Sheet) -> Outcome:
        new = [item for change in self.changes.values() for item in change if isinstance(item, Outline)]
        evidence = WeldedTogether(
            outlines_before=len(self.worked),
            outlines_after=len(new),
            nodes_before=sum(outline.path.node_count for outline in self.worked),
            nodes_after=sum(outline.path.node_count for outline in new),
            counters=Counted.of(self.matched),
            area_mm2=round(sum(p.area_mm2 for p in self.proofs), 4),
            area_second_engine_mm2=round(sum(p.area_second_mm2 for p in self.proofs), 4),
            max_deviation_mm=round(max(p.max_deviation_mm for p in self.proofs), 5),
        )
        worked = tuple(outline.id for outline in self.worked)
        return Outcome(sheet.replaced(self.changes), worked, evidence, tuple(self.declared))


def _joined(members: Sequence[Outline], lead: Outline, path: Path) -> Outline:
    first = members[0]
    origin = first.origin if all(member.origin == first.origin for member in members) else None
    letters = "".join(member.letters for member in members)
    return replace(
        lead,
        path=path,
        look=replace(lead.look, even_odd=False),
        origin=origin,
        letters=letters,
        label=letters or first.label,
    )


def _declared(
    members: Sequence[Outline], operands: Sequence[Operand], slits: Sequence[Path], path: Path, workshop: Workshop
) -> Iterator[Change]:
    """What a weld changes of what is seen: lines inside it go, slits are closed, and translucent paints no longer add
    up.
    """
    ticket, look = workshop.ticket, members[0].look
    chord = workshop.tolerance.chord_mm * PROOF_CHORD
    if look.stroke_paint is not None:
        drawn = shapely.multilinestrings(
            [part for operand in operands for part in shapely.get_parts(lines(operand.path, chord))]
        )
        inner = shapely.difference(drawn, lines(path, chord).buffer(ticket.tolerance.chord_mm, quad_segs=2))
        if inner.length > ticket.tolerance.same_shape_mm:
            reach = pen_of(look).width_mm / 2 + ticket.tolerance.chord_mm
            # Each by itself: all at once, thousands of pieces that cross take GEOS fifty times as long.
            where = shapely.union_all(shapely.buffer(shapely.get_parts(inner), reach, quad_segs=4))
            if look.stroke_side != "centre":
                where, gained = _one_sided(look, operands, path, (inner, where), workshop)
                around = (ticket.material(look.stroke_paint),)
                yield Change(Reason.INNER_LINES, gained, around, float(gained.area), "mm²", loses=False, gains=True)
            yield Change(Reason.INNER_LINES, where, (ticket.material(look.stroke_paint),), float(inner.length), "mm")
    if slits:
        where = shapely.union_all([region(slit, False, chord) for slit in slits])
        length = where.length / 2
        yield Change(Reason.SLIT, where, ticket.materials_of(look), float(length), "mm", loses=False, gains=True)
    translucent = [paint for paint in (look.fill_paint, look.stroke_paint) if paint and not paint.opaque]
    if translucent and len(operands) > 1:
        twice = _twice(_seen(members, operands, workshop))
        if twice.area > ticket.tolerance.sliver_mm2:
            materials = tuple(ticket.material(paint) for paint in translucent)
            yield Change(Reason.EVENED, twice, materials, float(twice.area), "mm²", loses=True, gains=True)


CORNERS = 4.0
"""A band that runs round a corner between two letters reaches so many of its widths from there at most."""


def _one_sided(
    look: Appearance,
    operands: Sequence[Operand],
    path: Path,
    inner: tuple[shapely.Geometry, shapely.Geometry],
    workshop: Workshop,
) -> tuple[shapely.Geometry, shapely.Geometry]:
    """Where a stroke on one side of its edges goes with the lines inside a weld, and where it comes: an outer one has
    no place in another letter any more, and an inner one runs round the corners between two.
    """
    chord = workshop.tolerance.chord_mm
    lines_in, where = inner
    bands = shapely.union_all([stroke_region(operand.path, look, chord) for operand in operands])
    whole = region(path, look.even_odd, chord)
    ends = shapely.boundary(shapely.line_merge(lines_in)).buffer(CORNERS * look.stroke_width_mm, quad_segs=4)
    gained = shapely.intersection(stroke_region(path, look, chord), ends)
    if look.stroke_side == "outside":
        where = shapely.union(where, shapely.intersection(bands, whole).buffer(chord, quad_segs=2))
    return where, gained.buffer(chord, quad_segs=2)


def _seen(members: Sequence[Outline], operands: Sequence[Operand], workshop: Workshop) -> list[shapely.Geometry]:
    """What is painted of each member: its area, and with a stroke that has a width the stroke around it."""
    shapes, look, chord = operand_regions(operands, workshop.tolerance), members[0].look, workshop.tolerance.chord_mm
    if look.stroke_paint is None or not is_thick(look, workshop.ticket.machine.hairline_mm):
        return shapes
    bands = [stroke_region(operand.path, look, chord) for operand in operands]
    return [shape.union(band) if look.fill_paint else band for shape, band in zip(shapes, bands, strict=True)]


def _twice(shapes: Sequence[shapely.Geometry]) -> shapely.Geometry:
    """Where two areas or more lie on each other."""
    first, second = shapely.STRtree(shapes).query(shapes, predicate="intersects")
    array = np.array(shapes, object)
    return shapely.union_all(shapely.intersection(array[first[first < second]], array[second[first < second]]))
