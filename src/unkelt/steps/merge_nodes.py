"""`merge-nodes`"""

from __future__ import annotations

from dataclasses import replace

from unkelt.errors import StepRefused
from unkelt.geometry.distance import line_distance
from unkelt.geometry.flatten import lines
from unkelt.geometry.merge import merge_micro
from unkelt.geometry.nesting import ring_nesting, ring_nestings
from unkelt.sheet.model import Item, Outline, Sheet
from unkelt.steps.step import Outcome, step, targets
from unkelt.survey.check import Workshop


@step("merge-nodes", "Merge crowded nodes", cures=("nodes.crowded",), safe=True)
def merge_nodes(sheet: Sheet, items: tuple[str, ...], workshop: Workshop) -> Outcome:
    """Merges nodes that lie closer together than the chord tolerance. All other nodes stay where they are.

    Proven: no line moves by more than the tolerance, measured both ways on the curves; rings that didn't cross still don't,
    in the same nesting. An outline for which that fails is left as it was, and where it is the only one, refused.
    """
    chord = workshop.ticket.tolerance.chord_mm
    changes: dict[str, tuple[Item, ...]] = {}
    before = after = 0
    moved, failed = 0.0, 0
    fine = chord / 10
    merged = [(each, merge_micro(each.path, chord)) for each in targets("merge-nodes", sheet, items, Outline)]
    merged = [(outline, path) for outline, path in merged if path.node_count != outline.path.node_count]
    ring_nestings([both for outline, path in merged for both in (outline.path, path)], fine)  # all at once
    for outline, path in merged:
        away = line_distance(lines(outline.path, fine), lines(path, fine)) + 2 * fine
        was, now = ring_nesting(outline.path, fine)[2], ring_nesting(path, fine)[2]
        if away > chord or (was is not None and (now is None or now.containers != was.containers)):
            failed += 1
            continue
        changes[outline.id] = (replace(outline, path=path),)
        before, after = before + outline.path.node_count, after + path.node_count
        moved = max(moved, away)
    if not changes:
        reason = "a line would move too far" if failed else f"no nodes lie closer than {chord:g} mm"
        raise StepRefused("merge-nodes", reason)
    evidence = {
        "nodes_before": before,
        "nodes_after": after,
        "left_as_they_were": failed,
        "max_deviation_mm": round(moved, 5),
    }
    return Outcome(sheet.replaced(changes), tuple(changes), evidence)
