"""`drop-scraps`"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from unkelt.account.changes import Reason
from unkelt.account.declare import going
from unkelt.anatomy.scraps import doubtful, scraps
from unkelt.errors import NothingToDo
from unkelt.job.workshop import Workshop
from unkelt.sheet.model import Item, Outline, Sheet
from unkelt.steps.evidence import Dropped
from unkelt.steps.step import On, Outcome, Purpose, step, targets


@dataclass(frozen=True, kw_only=True)
class ScrapsDropped(Dropped):
    """Scraps that went, the largest so large (mm); outlines that were nothing else."""

    outlines_dropped: int
    largest_dropped_mm: float


@step(
    "drop-scraps",
    "Remove scraps",
    on=On.OUTLINES,
    purpose=Purpose.CLEAN,
    safe=True,
    by_length=True,
)
def drop_scraps(sheet: Sheet, items: tuple[str, ...], workshop: Workshop) -> Outcome:
    """Removes lone points, specks and rings without area. Everything else stays exactly as it is.

    Specks that are larger than a scrap but smaller than the tool's own line are removed only if they are named and
    no scrap is left. The evidence gives the size of the largest removed part.
    """
    changes: dict[str, tuple[Item, ...]] = {}
    gone: list[Outline] = []
    dropped, largest = 0, 0.0
    for outline in targets("drop-scraps", sheet, items, Outline):
        found = scraps(outline, workshop.ticket)
        if not len(found) and items:
            found = doubtful(outline, sheet, workshop.ticket)
        if not len(found):
            continue
        keep = np.ones(len(outline.path), bool)
        keep[found.indices] = False
        gone.append(replace(outline, path=outline.path.select(~keep)))
        changes[outline.id] = (replace(outline, path=outline.path.select(keep)),) if keep.any() else ()
        dropped, largest = dropped + len(found), max(largest, found.largest_mm)
    if not changes:
        raise NothingToDo("drop-scraps", "there is no scrap in these outlines")
    evidence = ScrapsDropped(
        subpaths_dropped=dropped,
        outlines_dropped=sum(not change for change in changes.values()),
        largest_dropped_mm=round(largest, 4),
        max_deviation_mm=0.0,
    )
    declared = going(Reason.SCRAP, gone, workshop.ticket, workshop.shelf)
    return Outcome(sheet.replaced(changes), tuple(changes), evidence, declared)
