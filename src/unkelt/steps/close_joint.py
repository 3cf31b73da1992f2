"""`close-joint`"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Annotated

from unkelt.account.changes import Reason
from unkelt.anatomy.joints import Missed, missed_joints
from unkelt.anatomy.words import words
from unkelt.errors import GeometryRefused, NothingToDo, StepRefused
from unkelt.geometry.boolean.engine import Operand
from unkelt.geometry.boolean.weld import weld as weld_paths
from unkelt.geometry.path import Path, polygon
from unkelt.job.workshop import Workshop
from unkelt.messages import say_count
from unkelt.sheet.model import Item, Outline, Sheet
from unkelt.steps.evidence import Evidence
from unkelt.steps.step import Field, On, Outcome, Purpose, step, targets

WIDTH_TO_GAP = 6.0
"""A bridge is this many times as wide as the gap it closes, where nothing else is asked for."""

LEAST_WIDTH_MM = 0.3


@dataclass(frozen=True, kw_only=True)
class Bridged(Evidence):
    """Bridges over joints, the widest so wide (mm)."""

    bridges: int
    widest_gap_mm: float

    def caption(self) -> str:
        return say_count("{count} bridge", "{count} bridges", self.bridges)


@step(
    "close-joint",
    "Bridge the joint",
    on=On.OUTLINES,
    purpose=Purpose.SHAPE,
    redraws=Reason.MADE,
)
def close_joint(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    width: Annotated[
        float | None,
        "how wide the bridge is; without it, the ticket's smallest stroke, or six times the gap",
        Field("Bridge width", first=True),
    ] = None,
) -> Outcome:
    """Bridges pieces that nearly meet, and welds them into one outline. Nothing else moves.

    Proven by the weld: both engines agree on the area, no counter is filled, and each bridge leaves one piece less.
    """
    chosen: list[Outline] = targets("close-joint", sheet, items, Outline)
    wanted = {outline.id for outline in chosen}
    bodies = [tuple(o for o in word.outlines if o.id in wanted) for word in words(sheet)]
    in_bodies = {outline.id for body in bodies for outline in body}
    bodies += [(outline,) for outline in chosen if outline.id not in in_bodies]
    changes: dict[str, tuple[Item, ...]] = {}
    bridges, deviation, added = 0, 0.0, 0.0
    for body in bodies:
        missed = missed_joints(body, workshop.ticket)
        if not missed:
            continue
        joined = {item for each in missed for item in each.items}
        members = [outline for outline in body if outline.id in joined]
        if len({workshop.ticket.operation(member.look) for member in members}) > 1:
            raise StepRefused("close-joint", "these outlines have different operations")
        patches = [_patch(each, _width(each, width, workshop)) for each in missed]
        operands = [Operand(member.path, member.look.even_odd) for member in members]
        try:
            path, proof = weld_paths([*operands, *map(Operand, patches)], workshop.ticket.tolerance)
        except GeometryRefused as problem:
            raise StepRefused("close-joint", str(problem)) from problem
        look = replace(members[0].look, even_odd=False)
        letters = "".join(member.letters for member in members)
        changes |= {member.id: () for member in members}
        changes[members[0].id] = (replace(members[0], path=path, look=look, letters=letters),)
        bridges += len(missed)
        deviation = max(deviation, proof.max_deviation_mm)
        added = max(added, *[each.gap_mm for each in missed])
    if not changes:
        raise NothingToDo("close-joint", "no two pieces nearly meet here")
    evidence = Bridged(bridges=bridges, widest_gap_mm=round(added, 4), max_deviation_mm=round(deviation, 5))
    return Outcome(sheet.replaced(changes), tuple(changes), evidence)


def _width(missed: Missed, asked_mm: float | None, workshop: Workshop) -> float:
    if asked_mm is not None:
        if asked_mm <= 0:
            raise StepRefused("close-joint", "the width must be greater than zero")
        return asked_mm
    return workshop.ticket.machine.smallest_stroke_mm or max(LEAST_WIDTH_MM, WIDTH_TO_GAP * missed.gap_mm)


def _patch(missed: Missed, width_mm: float) -> Path:
    """A square-ended bar over the gap that reaches into both pieces by half its width."""
    (x0, y0), (x1, y1) = missed.start, missed.end
    length = math.hypot(x1 - x0, y1 - y0)
    ux, uy = ((x1 - x0) / length, (y1 - y0) / length) if length > 1e-9 else (1.0, 0.0)
    reach, half = width_mm / 2 + (0 if length > 1e-9 else width_mm / 2), width_mm / 2
    ax, ay, bx, by = x0 - ux * reach, y0 - uy * reach, x1 + ux * reach, y1 + uy * reach
    nx, ny = -uy * half, ux * half
    return polygon((ax + nx, ay + ny), (bx + nx, by + ny), (bx - nx, by - ny), (ax - nx, ay - ny))
