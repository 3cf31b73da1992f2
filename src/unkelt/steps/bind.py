"""`bind`"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Literal

import shapely

from unkelt.anatomy.words import words
from unkelt.errors import GeometryRefused, NothingToDo, StepRefused
from unkelt.geometry.matching import NONE, match_counters
from unkelt.geometry.orient import oriented
from unkelt.geometry.path import Path, concat
from unkelt.geometry.region import apart_mm2, counters, pieces, region, regions
from unkelt.job.workshop import Workshop
from unkelt.language import grouped
from unkelt.messages import say
from unkelt.sheet.appearance import has_visible_stroke
from unkelt.sheet.change import leaves
from unkelt.sheet.model import Group, Item, Outline, Sheet
from unkelt.sheet.naming import name_of
from unkelt.steps.evidence import Counted, Evidence
from unkelt.steps.stacking import Stacking
from unkelt.steps.step import Field, On, Outcome, Purpose, step, targets

By = Literal["word", "all"]


@dataclass(frozen=True, kw_only=True)
class Bound(Evidence):
    """Outlines that became compound paths of so many pieces."""

    outlines_before: int
    outlines_after: int
    subpaths: int
    pieces: int

    def caption(self) -> str:
        return say(
            "{outlines_before} → {outlines_after} outlines",
            outlines_before=grouped(self.outlines_before),
            outlines_after=grouped(self.outlines_after),
        )


@step(
    "bind",
    "Bind into one compound path",
    on=On.OUTLINES,
    purpose=Purpose.LAYERS,
    likely=On.OUTLINES,
    of_several=True,
    safe=True,
)
def bind(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    by: Annotated[
        By, "what forms one body: each word, or all named outlines", Field("One body for", first=True)
    ] = "word",
) -> Outcome:
    """Makes one compound path of outlines of one material, so that importing software keeps them together. Nothing
    moves.

    The rings are oriented so that even-odd and nonzero fill the same. Proven by both rules: pieces, counters and
    area stay the same. Refused while outlines overlap or have a visible stroke: weld or expand them first.
    """
    tolerance = workshop.ticket.tolerance
    chosen: list[Outline] = targets("bind", sheet, items, Outline)
    bodies = [body for body in _bodies(sheet, chosen, workshop, by) if len(body) > 1]
    if not bodies:
        raise NothingToDo("bind", "each of these is one outline already")
    chord, stacking = tolerance.chord_mm / 2, Stacking(sheet, workshop)
    changes: dict[str, tuple[Item, ...]] = {}
    made: list[Outline] = []
    matched, count = NONE, 0
    sole = _sole_groups(sheet)
    regions([(each.path, each.look.even_odd) for body in bodies for each in body], chord)  # all at once
    for body in bodies:
        _refuse_strokes(body, workshop)
        shapes = [region(outline.path, outline.look.even_odd, chord) for outline in body]
        path, after = _as_one(body, shapes, workshop)
        lead = stacking.lead(body, shapes)
        if lead is None:
            raise StepRefused("bind", "something of another material lies between these outlines in the paint order")
        count += len(pieces(after, tolerance.sliver_mm2))
        before = [hole for shape in shapes for hole in counters(shape, tolerance.sliver_mm2)]
        matched += match_counters(before, counters(after, tolerance.sliver_mm2), tolerance.sliver_mm2)
        bound = _bound(body, lead, path)
        group = sole.get(frozenset(outline.id for outline in body))
        if group is not None:
            changes[group.id] = (replace(bound, id=group.id, label=group.label),)
        else:
            changes |= {outline.id: () for outline in body}
            changes[lead.id] = (bound,)
        made.append(bound)
    evidence = Bound(
        outlines_before=sum(len(body) for body in bodies),
        outlines_after=len(made),
        subpaths=sum(len(outline.path) for outline in made),
        pieces=count,
        counters=Counted.of(matched),
        max_deviation_mm=0.0,
    )
    return Outcome(sheet.replaced(changes), tuple(outline.id for body in bodies for outline in body), evidence)


def _bodies(sheet: Sheet, chosen: Sequence[Outline], workshop: Workshop, by: By) -> list[list[Outline]]:
    """What is to be bound together: the outlines of a word, or all, as far as they are of one material and read
    alike.
    """
    wanted = {outline.id for outline in chosen}
    gathered = [list(chosen)]
    if by == "word":
        gathered = [[outline for outline in word.outlines if outline.id in wanted] for word in words(sheet)]
    bodies: list[list[Outline]] = []
    for outlines in gathered:
        alike: dict[object, list[Outline]] = {}
        for outline in outlines:
            alike.setdefault((workshop.ticket.family(outline.look), outline.reads), []).append(outline)
        bodies += alike.values()
    return bodies


def _refuse_strokes(body: Sequence[Outline], workshop: Workshop) -> None:
    hairline, keyed = workshop.ticket.machine.hairline_mm, bool(workshop.ticket.key)
    for outline in body:
        if has_visible_stroke(outline.look, hairline, keyed):
            raise StepRefused(
                "bind",
                say("“{name}” still has a visible stroke; make the stroke an outline first", name=name_of(outline)),
                way_out="expand-stroke",
            )


def _as_one(
    body: Sequence[Outline], shapes: Sequence[shapely.Geometry], workshop: Workshop
) -> tuple[Path, shapely.Geometry]:
    """The rings of all outlines run as one path, and the area it fills. Raises StepRefused where that isn't what they
    filled.
    """
    tolerance = workshop.ticket.tolerance
    chord = tolerance.chord_mm / 2
    before = shapely.disjoint_subset_union_all(shapes)
    try:
        [path] = oriented([concat([outline.path for outline in body])], chord)
    except GeometryRefused as problem:
        raise StepRefused("bind", str(problem)) from problem
    for even_odd in (False, True):
        after = region(path, even_odd, chord)
        if apart_mm2(after, before) > tolerance.sliver_mm2:
            raise StepRefused("bind", "an outline lies on another and would become a hole in it; weld first")
    return path, after


def _bound(body: Sequence[Outline], lead: Outline, path: Path) -> Outline:
    first = body[0]
    origin = first.origin if all(outline.origin == first.origin for outline in body) else None
    letters = "".join(outline.letters for outline in body)
    label = origin.text.strip() if origin else letters or first.label
    return replace(
        lead, path=path, look=replace(lead.look, even_odd=False), origin=origin, letters=letters, label=label
    )


def _sole_groups(sheet: Sheet) -> dict[frozenset[str], Group]:
    """The groups by what they hold, the outermost of those that hold the same: a compound path of all that takes its
    place and name.
    """
    found: dict[frozenset[str], Group] = {}
    for item in sheet.walk():  # outer ones first
        if isinstance(item, Group):
            found.setdefault(frozenset(leaves(sheet, [item.id])), item)
    return found
