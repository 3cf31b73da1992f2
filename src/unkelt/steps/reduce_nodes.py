"""`reduce-nodes`"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Literal

from unkelt.errors import NothingToDo, StepRefused
from unkelt.geometry.path import Path
from unkelt.geometry.reduce import reduce
from unkelt.geometry.reduce.merge import micro_segments, without_crowding
from unkelt.job.budget import RESERVE, Budget
from unkelt.job.workshop import Workshop
from unkelt.messages import say
from unkelt.sheet.model import Item, Outline, Sheet
from unkelt.steps.evidence import Renoded
from unkelt.steps.step import Field, On, Outcome, Purpose, step, targets


@dataclass(frozen=True, kw_only=True)
class Reduced(Renoded):
    """Nothing but nodes, and how far lines moved for that."""


@step(
    "reduce-nodes",
    "Reduce nodes",
    on=On.OUTLINES,
    purpose=Purpose.CLEAN,
    safe=True,
    by_length=True,
)
def reduce_nodes(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    chord: Annotated[
        float | None,
        "a line never moves further; without it, the ticket's chord tolerance",
        Field("Tolerance", first=True),
    ] = None,
    nodes: Annotated[
        Literal["fewest", "level"],
        "as few nodes as possible, or a node wherever a curve is horizontal or vertical, as type designers do",
        Field("Nodes", first=True),
    ] = "fewest",
) -> Outcome:
    """Draws the same lines with fewer nodes. Corners stay in place, and their angles change by at most 4 degrees.

    Every new segment has a two-sided bound on its distance from the old line, never above the tolerance. Rings that
    were apart stay apart and nested as before; otherwise the outline stays as it is. In traced lines, noise of up
    to a third of the tolerance is not taken for corners.
    """
    if chord is not None and chord <= 0:
        raise StepRefused("reduce-nodes", "the tolerance must be greater than zero")
    chosen: list[Outline] = targets("reduce-nodes", sheet, items, Outline)
    budget = Budget(sheet, workshop.ticket)
    by_tolerance: dict[float, list[Outline]] = {}
    for outline in chosen:
        allowed = budget.left_mm(outline.moved_mm, RESERVE) if chord is None else chord
        by_tolerance.setdefault(allowed, []).append(outline)
    changes: dict[str, tuple[Item, ...]] = {}
    before = after = 0
    bound = 0.0
    for tolerance, outlines in by_tolerance.items():
        paths = [outline.path for outline in outlines]
        found = _without_crowding(paths, workshop, tolerance, level=nodes == "level")
        for outline, (path, moved) in zip(outlines, found, strict=True):
            if path != outline.path:
                changes[outline.id] = (replace(outline, path=path, moved_mm=outline.moved_mm + moved),)
            before += outline.path.node_count
            after += path.node_count
            bound = max(bound, moved)
    if not changes:
        raise NothingToDo("reduce-nodes", say("no node can go within {most:g} mm", most=max(by_tolerance)))
    evidence = Reduced(nodes_before=before, nodes_after=after, max_deviation_mm=round(bound, 5))
    return Outcome(sheet.replaced(changes), tuple(changes), evidence)


SHARES = (1.0, 0.75, 0.5)
"""Of the tolerance, tried in turn where nodes that were left crowd, and can't be merged within all of it."""


def _without_crowding(
    paths: Sequence[Path], workshop: Workshop, tolerance_mm: float, *, level: bool
) -> list[tuple[Path, float]]:
    """Each path reduced, then without segments that no machine resolves, with how far it moved; with them where no
    share of the tolerance does without.
    """
    shorter = workshop.ticket.tolerance.chord_mm
    found: dict[int, tuple[Path, float]] = {}
    left = list(range(len(paths)))
    for share in SHARES:
        tried = reduce.reduce_many([paths[k] for k in left], share * tolerance_mm, level=level)
        crowded = []
        for k, reduced in zip(left, tried, strict=True):
            path, moved = reduced.path, reduced.bound_mm
            merged = None if path == paths[k] else without_crowding(paths[k], path, moved, shorter, tolerance_mm)
            settled = merged is not None or path == paths[k] or not micro_segments(path, shorter).any()
            if settled or share == SHARES[0]:
                found[k] = merged or (path, moved)
            if not settled:
                crowded.append(k)
        left = crowded
    return [found[k] for k in range(len(paths))]
