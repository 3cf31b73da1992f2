"""`weld`"""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Literal

from unkelt.errors import GeometryRefused, StepRefused
from unkelt.geometry.engine import Operand
from unkelt.geometry.path import Path
from unkelt.geometry.touching import touching
from unkelt.geometry.weld import WeldProof, covers_itself, crosses_itself
from unkelt.geometry.weld_many import weld_clusters
from unkelt.sheet.model import Item, Outline, Sheet
from unkelt.sheet.words import words
from unkelt.steps.step import Outcome, step, targets
from unkelt.survey.check import Workshop
from unkelt.tolerance import Tolerance

By = Literal["operation", "word"]


@step("weld", "Weld", cures=("overlap.items", "overlap.self", "compound.winding"), safe=True)
def weld(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    by: Annotated[
        By, "what may be welded together: all of one operation, or only the letters of one word"
    ] = "operation",
) -> Outcome:
    """Makes one outline of outlines that touch and have the same operation, or of one that crosses itself; curves stay curves.

    Proven by a second engine: the same area, pieces and counters, no line moved beyond the chord tolerance. No counter
    is filled and no outline vanishes inside another. Refused, with nothing changed, when any of this fails.
    """
    ticket = workshop.ticket
    chosen: list[Outline] = targets("weld", sheet, items, Outline)
    groups: dict[object, list[Outline]] = {}
    word_of = {item_id: index for index, word in enumerate(words(sheet)) for item_id in word.ids}
    for outline in chosen:
        family = word_of.get(outline.id, outline.id) if by == "word" else None
        groups.setdefault((ticket.operation(outline.look), family), []).append(outline)
    changes: dict[str, tuple[Item, ...]] = {}
    proofs: list[WeldProof] = []
    worked: list[Outline] = []
    for outlines in groups.values():
        operands = [Operand(outline.path, outline.look.even_odd) for outline in outlines]
        clusters = [
            cluster
            for cluster in touching(operands, ticket.tolerance)
            if len(cluster) > 1 or _not_plain(operands[cluster[0]], ticket.tolerance)
        ]
        results = weld_clusters([[operands[i] for i in cluster] for cluster in clusters], ticket.tolerance)
        for cluster, result in zip(clusters, results, strict=True):
            if isinstance(result, GeometryRefused):
                raise StepRefused("weld", str(result)) from result
            path, proof = result
            members = [outlines[i] for i in cluster]
            changes |= {member.id: () for member in members}
            changes[members[0].id] = (_joined(members, path),)
            proofs.append(proof)
            worked += members
    if not proofs:
        raise StepRefused("weld", "no two of these outlines touch, and none crosses itself")
    new = [item for change in changes.values() for item in change if isinstance(item, Outline)]
    before, after = sum(p.counters_before for p in proofs), sum(p.counters for p in proofs)
    evidence = {
        "outlines_before": len(worked),
        "outlines_after": len(new),
        "nodes_before": sum(outline.path.node_count for outline in worked),
        "nodes_after": sum(outline.path.node_count for outline in new),
        "counters_before": before,
        "counters_after": after,
        "counters_at_joints": after - before,
        "area_mm2": round(sum(p.area_mm2 for p in proofs), 4),
        "area_second_engine_mm2": round(sum(p.area_second_mm2 for p in proofs), 4),
        "max_deviation_mm": round(max(p.max_deviation_mm for p in proofs), 5),
    }
    return Outcome(sheet.replaced(changes), tuple(outline.id for outline in worked), evidence)


def _not_plain(operand: Operand, tolerance: Tolerance) -> bool:
    return crosses_itself(operand, tolerance) or covers_itself(operand, tolerance)


def _joined(members: list[Outline], path: Path) -> Outline:
    first = members[0]
    origin = first.origin if all(member.origin == first.origin for member in members) else None
    letters = "".join(member.letters for member in members)
    return replace(
        first,
        path=path,
        look=replace(first.look, even_odd=False),
        origin=origin,
        letters=letters,
        label=letters or first.label,
    )
