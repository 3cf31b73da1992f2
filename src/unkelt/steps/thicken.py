"""`thicken`"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Literal

import numpy as np
import shapely

from unkelt.account.changes import Reason
from unkelt.errors import GeometryRefused, NothingToDo, StepRefused
from unkelt.geometry.matching import match_counters
from unkelt.geometry.measure import Box
from unkelt.geometry.offset.offset import OffsetProof, offset_path
from unkelt.geometry.region import box_of, counters, pieces, region
from unkelt.geometry.trace.rails import Join
from unkelt.job.workshop import Workshop
from unkelt.messages import say
from unkelt.sheet.model import Item, Outline, Sheet
from unkelt.sheet.naming import name_of
from unkelt.steps.evidence import ByTwoEngines, Renoded, small
from unkelt.steps.grip import outward
from unkelt.steps.step import Field, On, Outcome, Purpose, step, targets
from unkelt.tolerance import Tolerance

Corners = Literal["sharp", "round", "flat"]
_JOINS: dict[Corners, Join] = {"sharp": "miter", "round": "round", "flat": "bevel"}


@dataclass(frozen=True, kw_only=True)
class Thickened(Renoded, ByTwoEngines):
    """How far every edge moved (mm), and the most that closes no counter."""

    amount_per_side_mm: float
    largest_amount_mm: float | None = None

    def caption(self) -> str:
        return say("{amount:+.3g} mm on each side", amount=self.amount_per_side_mm)

    def bound(self) -> str | None:
        return say(
            "every edge moved by {amount_per_side_mm:.3g} mm, to within {small}",
            amount_per_side_mm=self.amount_per_side_mm,
            small=small(self.max_deviation_mm or 0.0),
        )

    def proof_lines(self) -> tuple[str, ...]:
        room = self.largest_amount_mm
        return (
            *super().proof_lines(),
            *([say("up to {room:.3g} mm closes no counter", room=room)] if room is not None else []),
        )


AmountOption = Annotated[
    float, "how far each edge moves outward; negative makes thinner", Field("Each side by", first=True)
]
CornersOption = Annotated[
    Corners, "sharp keeps corners up to the limit; round and flat ease them", Field("Corners", first=True)
]
LimitOption = Annotated[
    float,
    "how long a sharp corner may grow, as a ratio to the amount; longer ones are cut flat",
    "number",
    Field("Corner limit", when=("corners", "sharp")),
]
CloseCountersOption = Annotated[
    bool, "let counters close, or shrink below the ticket's smallest gap", Field("Allow counters to close")
]


@step(
    "thicken",
    "Make bolder or thinner",
    on=On.OUTLINES,
    purpose=Purpose.SHAPE,
    lines="closed",
    grip=outward("amount", "how far each edge moves", None),
    likely=On.OUTLINES,
    redraws=Reason.RESHAPED,
)
def thicken(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    amount: AmountOption = 0.25,
    corners: CornersOption = "sharp",
    limit: LimitOption = 4.0,
    close_counters: CloseCountersOption = False,
) -> Outcome:
    """Moves every edge by a set amount, outward or inward, exactly, at any size of lettering. No stray inner lines
    appear.

    Proven: every edge lies at that amount from its old place, within the chord tolerance, and a second engine finds
    the same pieces and counters. Refused if a counter would close or become smaller than the ticket's smallest gap,
    unless you allow it, and if a part of a letter would vanish. The refusal gives the largest amount that works.
    """
    if amount == 0:
        raise NothingToDo("thicken", "an amount of 0 changes nothing")
    if limit < 1:
        raise StepRefused("thicken", "the limit of a corner can't be below 1")
    tolerance = workshop.ticket.tolerance
    chosen: list[Outline] = targets("thicken", sheet, items, Outline)
    changes: dict[str, tuple[Item, ...]] = {}
    proofs: list[OffsetProof] = []
    room = math.inf
    for outline in chosen:
        if not outline.path.closed.all():
            raise StepRefused(
                "thicken",
                say("“{id}” has an open subpath, which has no inside; close it first", id=name_of(outline)),
                way_out="close-subpath",
            )
        try:
            path, proof = offset_path(outline.path, amount, tolerance, _JOINS[corners], limit, outline.look.even_odd)
        except GeometryRefused as problem:
            raise StepRefused(
                "thicken", say("“{name}”: {problem}", name=name_of(outline), problem=problem)
            ) from problem
        was = region(outline.path, outline.look.even_odd, tolerance.chord_mm / 10)
        now = region(path, False, tolerance.chord_mm / 10)
        if amount < 0:
            _guard_pieces(outline, was, now, tolerance)
        else:
            room = min(room, _guard_counters(outline, was, now, workshop, amount, close_counters=close_counters))
        changes[outline.id] = (replace(outline, path=path, look=replace(outline.look, even_odd=False)),)
        proofs.append(proof)
    evidence = Thickened(
        amount_per_side_mm=round(amount, 5),
        nodes_before=sum(outline.path.node_count for outline in chosen),
        nodes_after=sum(item.path.node_count for new in changes.values() for item in new if isinstance(item, Outline)),
        area_mm2=round(sum(proof.area_mm2 for proof in proofs), 4),
        area_second_engine_mm2=round(sum(proof.area_second_mm2 for proof in proofs), 4),
        max_deviation_mm=round(max(proof.max_deviation_mm for proof in proofs), 5),
    )
    if room < math.inf:
        evidence = replace(evidence, largest_amount_mm=_rounded_down(room))
    return Outcome(sheet.replaced(changes), tuple(changes), evidence)


def _guard_pieces(outline: Outline, was: shapely.Geometry, now: shapely.Geometry, tolerance: Tolerance) -> None:
    """Refuses to lose a part of a letter."""
    before = pieces(was, tolerance.sliver_mm2)
    left = set(shapely.STRtree(shapely.get_parts(now)).query(before, predicate="intersects")[0].tolist())
    lost = [piece for number, piece in enumerate(before) if number not in left]
    if lost:
        raise StepRefused(
            "thicken",
            say("“{id}”: {count} of its pieces would vanish", id=name_of(outline), count=len(lost)),
            _boxes(lost),
        )


def _guard_counters(
    outline: Outline,
    was: shapely.Geometry,
    now: shapely.Geometry,
    workshop: Workshop,
    amount: float,
    *,
    close_counters: bool,
) -> float:
    """Refuses to close counters, or to make them too small to weed. Returns the largest amount (mm) that does neither,
    which is what the largest circle within each counter leaves; infinite where there is none.
    """
    tolerance, gap = workshop.ticket.tolerance, workshop.ticket.machine.smallest_gap_mm or 0.0
    holes = counters(was, tolerance.sliver_mm2)
    if not holes:
        return math.inf
    radii = shapely.length(shapely.maximum_inscribed_circle(np.array(holes), tolerance.chord_mm))
    room = float(radii.min())
    matched = match_counters(holes, counters(now, tolerance.sliver_mm2), tolerance.sliver_mm2)
    if matched.closed and not close_counters:
        raise StepRefused(
            "thicken",
            say(
                "“{name}”: {count} of {total} counters would close; up to {room:g} mm none does. "
                "Use less, or allow counters to close",
                name=name_of(outline),
                count=len(matched.closed),
                total=len(holes),
                room=_rounded_down(room),
            ),
            _boxes(matched.closed),
        )
    narrow = [holes[i] for i in np.flatnonzero(radii - amount < gap / 2).tolist()] if gap else []
    if narrow and not close_counters:
        raise StepRefused(
            "thicken",
            say(
                "“{name}”: {count} of {total} counters would be narrower than the ticket's smallest gap, {gap:g} mm; "
                "up to {room:g} mm none is. Use less, or allow counters to close",
                name=name_of(outline),
                count=len(narrow),
                total=len(holes),
                gap=gap,
                room=_rounded_down(max(room - gap / 2, 0)),
            ),
            _boxes(narrow),
        )
    return room - gap / 2


def _rounded_down(mm: float) -> float:
    return math.floor(mm * 1000) / 1000


def _boxes(shapes: Sequence[shapely.Geometry]) -> list[Box]:
    return [box for shape in shapes if (box := box_of(shape))]
