"""`merge-nodes`"""

from __future__ import annotations

from dataclasses import dataclass, replace

from unkelt.errors import NothingToDo
from unkelt.geometry.measure import Box
from unkelt.geometry.reduce.merge import merge_micro, merged
from unkelt.job.workshop import Workshop
from unkelt.messages import listed, say
from unkelt.sheet.model import Item, Outline, Sheet
from unkelt.steps.evidence import Renoded
from unkelt.steps.step import On, Outcome, Purpose, step, targets


@dataclass(frozen=True, kw_only=True)
class Merged(Renoded):
    """Nodes that were left where merging would move a line too far, and where the first of them lie."""

    left_as_they_were: int
    left_at: str | None = None


@step(
    "merge-nodes",
    "Merge crowded nodes",
    on=On.OUTLINES,
    purpose=Purpose.CLEAN,
    safe=True,
    by_length=True,
)
def merge_nodes(sheet: Sheet, items: tuple[str, ...], workshop: Workshop) -> Outcome:
    """Merges nodes that lie closer together than the chord tolerance. All other nodes stay in place.

    Proven: no line moves by more than the tolerance, measured in both directions on the curves. Rings that didn't
    cross still don't, and stay nested as before. Where this fails, the nodes stay, and the evidence says how many
    and where.
    """
    shorter, allowed = workshop.ticket.tolerance.chord_mm, workshop.tolerance.chord_mm
    changes: dict[str, tuple[Item, ...]] = {}
    before = after = 0
    moved, left = 0.0, list[Box]()
    for outline in targets("merge-nodes", sheet, items, Outline):
        if merge_micro(outline.path, shorter).node_count == outline.path.node_count:
            continue
        made = merged(outline.path, shorter, allowed)
        left += made.left
        if made.path.node_count == outline.path.node_count:
            continue
        changes[outline.id] = (replace(outline, path=made.path),)
        before, after = before + outline.path.node_count, after + made.path.node_count
        moved = max(moved, made.moved_mm)
    places = listed(", ", (say("{box:.1f}, {box_2:.1f} mm", box=box[0], box_2=box[1]) for box in left[:3]))
    if not changes:
        reason = (
            say("a line would move too far at {places}", places=places)
            if left
            else say("no nodes lie closer than {shorter:g} mm", shorter=shorter)
        )
        raise NothingToDo("merge-nodes", reason)
    evidence = Merged(
        nodes_before=before,
        nodes_after=after,
        left_as_they_were=len(left),
        max_deviation_mm=round(moved, 5),
    )
    if left:
        evidence = replace(evidence, left_at=places)
    return Outcome(sheet.replaced(changes), tuple(changes), evidence)
