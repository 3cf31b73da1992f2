"""`thicken`"""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Literal

import shapely

from unkelt.account.changes import Reason
from unkelt.errors import GeometryRefused, NothingToDo, StepRefused
from unkelt.geometry.offset import OffsetProof, offset_path
from unkelt.geometry.rails import Join
from unkelt.geometry.region import counters, pieces, region
from unkelt.sheet.model import Item, Outline, Sheet
from unkelt.steps.step import Outcome, step, targets
from unkelt.survey.check import Workshop

Corners = Literal["sharp", "round", "flat"]
_JOINS: dict[Corners, Join] = {"sharp": "miter", "round": "round", "flat": "bevel"}


@step("thicken", "Make bolder or thinner", cures=("fine.stroke", "fine.gap"), redraws=Reason.RESHAPED)
def thicken(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    amount: Annotated[float, "how far each side moves out; a negative amount makes thinner"] = 0.25,
    corners: Annotated[Corners, "sharp keeps them up to the limit, round and flat ease them"] = "sharp",
    limit: Annotated[
        float, "how long a sharp corner may grow, as a ratio to the amount; longer ones are cut flat", "number"
    ] = 4.0,
    close_counters: Annotated[bool, "let counters close, or shrink below the ticket's smallest gap"] = False,
) -> Outcome:
    """Moves every edge by a set amount, outward or inward, exact at any size of lettering; no stray inner lines.

    Proven: every edge lies at the amount from where it was, within the chord tolerance; a second engine finds the same
    pieces and counters. Refused when a counter would close or fall below the ticket's smallest gap, unless that is
    allowed, and when a part of the letter would vanish.
    """
    if amount == 0:
        raise NothingToDo("thicken", "an amount of 0 changes nothing")
    if limit < 1:
        raise StepRefused("thicken", "the limit of a corner can't be below 1")
    tolerance = workshop.ticket.tolerance
    chosen: list[Outline] = targets("thicken", sheet, items, Outline)
    changes: dict[str, tuple[Item, ...]] = {}
    proofs: list[OffsetProof] = []
    before = after = 0
    for outline in chosen:
        if not outline.path.closed.all():
            raise StepRefused("thicken", f"“{outline.id}” has an open subpath, which has no inside; close it first")
        try:
            path, proof = offset_path(outline.path, amount, tolerance, _JOINS[corners], limit, outline.look.even_odd)
        except GeometryRefused as problem:
            raise StepRefused("thicken", f"“{outline.id}”: {problem}") from problem
        was = region(outline.path, outline.look.even_odd, tolerance.chord_mm / 10)
        _guard(outline, was, proof, region(path, False, tolerance.chord_mm / 10), workshop, amount, close_counters)
        before += len(counters(was, tolerance.sliver_mm2))
        after += proof.counters
        changes[outline.id] = (replace(outline, path=path, look=replace(outline.look, even_odd=False)),)
        proofs.append(proof)
    evidence = {
        "amount_per_side_mm": round(amount, 5),
        "nodes_before": sum(outline.path.node_count for outline in chosen),
        "nodes_after": sum(
            item.path.node_count for new in changes.values() for item in new if isinstance(item, Outline)
        ),
        "counters_before": before,
        "counters_after": after,
        "area_mm2": round(sum(proof.area_mm2 for proof in proofs), 4),
        "area_second_engine_mm2": round(sum(proof.area_second_mm2 for proof in proofs), 4),
        "max_deviation_mm": round(max(proof.max_deviation_mm for proof in proofs), 5),
    }
    return Outcome(sheet.replaced(changes), tuple(changes), evidence)


def _guard(
    outline: Outline,
    was: shapely.Geometry,
    proof: OffsetProof,
    now: shapely.Geometry,
    workshop: Workshop,
    amount: float,
    close_counters: bool,
) -> None:
    """Refuses what would ruin a letter: counters closed or too small to weed, parts gone."""
    tolerance, gap = workshop.ticket.tolerance, workshop.ticket.machine.smallest_gap_mm
    if amount < 0:
        before = pieces(was, tolerance.sliver_mm2)
        left = shapely.STRtree(shapely.get_parts(now)).query(before, predicate="intersects")[0]
        lost = len(before) - len(set(left.tolist()))
        if lost:
            raise StepRefused("thicken", f"“{outline.id}”: {lost} of its pieces would vanish")
        return
    holes = counters(was, tolerance.sliver_mm2)
    closed = len(holes) - sum(bool(hole.difference(now).area > tolerance.sliver_mm2) for hole in holes)
    if closed and not close_counters:
        raise StepRefused(
            "thicken", f"“{outline.id}”: {closed} of {len(holes)} counters would close; allow it with close_counters"
        )
    if gap and not close_counters:
        narrow = sum(hole.buffer(-gap / 2).is_empty for hole in counters(now, tolerance.sliver_mm2))
        if narrow:
            raise StepRefused(
                "thicken",
                f"“{outline.id}”: {narrow} of {proof.counters} counters would be narrower than the ticket's smallest "
                f"gap, {gap:g} mm; allow it with close_counters",
            )
