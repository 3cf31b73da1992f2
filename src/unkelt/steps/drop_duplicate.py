"""`drop-duplicate`"""

from __future__ import annotations

from dataclasses import replace

from unkelt.errors import StepRefused
from unkelt.sheet.model import Item, Outline, Sheet
from unkelt.sheet.repeats import repeats
from unkelt.steps.step import Outcome, step, targets
from unkelt.survey.check import Workshop


@step("drop-duplicate", "Drop the duplicate", cures=("path.duplicate",), safe=True)
def drop_duplicate(sheet: Sheet, items: tuple[str, ...], workshop: Workshop) -> Outcome:
    """Takes out subpaths that repeat another of the same operation, and keeps the first, as it is.

    Proven: every line taken out lies within the same-shape tolerance of one that stays, both ways.
    """
    chosen: list[Outline] = targets("drop-duplicate", sheet, items, Outline)
    groups: dict[object, list[Outline]] = {}
    for outline in chosen:
        groups.setdefault(workshop.ticket.operation(outline.look), []).append(outline)
    drop: dict[str, set[int]] = {}
    apart = 0.0
    for outlines in groups.values():
        for repeat in repeats(outlines, workshop.ticket.tolerance.same_shape_mm):
            drop.setdefault(repeat.again_id, set()).update(repeat.indices)
            apart = max(apart, repeat.apart_mm)
    if not drop:
        raise StepRefused("drop-duplicate", "none of these outlines repeats another")
    changes: dict[str, tuple[Item, ...]] = {}
    for outline in chosen:
        if outline.id in drop:
            keep = [index for index in range(len(outline.path)) if index not in drop[outline.id]]
            changes[outline.id] = (replace(outline, path=outline.path.select(keep)),) if keep else ()
    evidence = {
        "subpaths_dropped": sum(len(indices) for indices in drop.values()),
        "outlines_dropped": sum(not change for change in changes.values()),
        "max_deviation_mm": round(apart, 5),
    }
    return Outcome(sheet.replaced(changes), tuple(drop), evidence)
