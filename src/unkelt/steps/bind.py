"""`bind`"""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Literal

import shapely

from unkelt.errors import GeometryRefused, StepRefused
from unkelt.geometry.orient import oriented
from unkelt.geometry.path import Path, concat
from unkelt.geometry.region import apart_mm2, counters, pieces, region, regions
from unkelt.sheet.change import leaves
from unkelt.sheet.model import Group, Item, Outline, Sheet
from unkelt.sheet.words import words
from unkelt.steps.step import Outcome, step, targets
from unkelt.survey.check import Workshop

By = Literal["word", "all"]


@step("bind", "Bind into one compound path", cures=("compound.loose",), safe=True)
def bind(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    by: Annotated[By, "what forms one body: each word by itself, or all the outlines named"] = "word",
) -> Outcome:
    """Makes one compound path of outlines, which importing keeps together; nothing moves.

    Rings are oriented so that even-odd and nonzero fill the same. Proven: pieces, counters and area are those of the
    outlines before, by both rules. Refused while outlines overlap: weld first.
    """
    tolerance = workshop.ticket.tolerance
    chosen: list[Outline] = targets("bind", sheet, items, Outline)
    wanted = {outline.id for outline in chosen}
    bodies = [chosen]
    if by == "word":
        bodies = [[o for o in word.outlines if o.id in wanted] for word in words(sheet)]
    bodies = [body for body in bodies if len(body) > 1]
    if not bodies:
        raise StepRefused("bind", "there are no two outlines of one word")
    changes: dict[str, tuple[Item, ...]] = {}
    made: list[Outline] = []
    totals = {"pieces": 0, "counters_before": 0, "counters_after": 0}
    chord = tolerance.chord_mm / 2
    sole = _sole_groups(sheet)
    regions([(each.path, each.look.even_odd) for body in bodies for each in body], chord)  # all at once
    for body in bodies:
        if len({workshop.ticket.operation(outline.look) for outline in body}) > 1:
            raise StepRefused("bind", "these outlines have different operations; a compound path has only one")
        shapes = [region(outline.path, outline.look.even_odd, chord) for outline in body]
        before = shapely.disjoint_subset_union_all(shapes)
        try:
            [path] = oriented([concat([outline.path for outline in body])], chord)
        except GeometryRefused as problem:
            raise StepRefused("bind", str(problem)) from problem
        for even_odd in (False, True):
            after = region(path, even_odd, chord)
            if apart_mm2(after, before) > tolerance.sliver_mm2:
                raise StepRefused("bind", "an outline lies on another and would become a hole in it; weld first")
        totals["pieces"] += len(pieces(after, tolerance.sliver_mm2))
        totals["counters_before"] += sum(len(counters(shape, tolerance.sliver_mm2)) for shape in shapes)
        totals["counters_after"] += len(counters(after, tolerance.sliver_mm2))
        bound = _bound(body, path)
        group = sole.get(frozenset(outline.id for outline in body))
        if group is not None:
            changes[group.id] = (replace(bound, id=group.id, label=group.label),)
        else:
            changes |= {outline.id: () for outline in body}
            changes[body[0].id] = (bound,)
        made.append(bound)
    evidence = {
        "outlines_before": sum(len(body) for body in bodies),
        "outlines_after": len(made),
        "subpaths": sum(len(outline.path) for outline in made),
        **totals,
        "max_deviation_mm": 0.0,
    }
    return Outcome(sheet.replaced(changes), tuple(outline.id for body in bodies for outline in body), evidence)


def _bound(body: list[Outline], path: Path) -> Outline:
    first = body[0]
    origin = first.origin if all(outline.origin == first.origin for outline in body) else None
    letters = "".join(outline.letters for outline in body)
    label = origin.text.strip() if origin else letters or first.label
    return replace(
        first, path=path, look=replace(first.look, even_odd=False), origin=origin, letters=letters, label=label
    )


def _sole_groups(sheet: Sheet) -> dict[frozenset[str], Group]:
    """The groups by what they hold, the outermost of those that hold the same: a compound path of all that takes its place
    and name.
    """
    found: dict[frozenset[str], Group] = {}
    for item in sheet.walk():  # outer ones first
        if isinstance(item, Group):
            found.setdefault(frozenset(leaves(sheet, [item.id])), item)
    return found
