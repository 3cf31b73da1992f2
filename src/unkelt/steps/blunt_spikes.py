"""`blunt-spikes`"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated

from unkelt.account.changes import Reason
from unkelt.errors import StepRefused
from unkelt.geometry.edit.spikes import blunted, spikes
from unkelt.geometry.region import region
from unkelt.job.workshop import Workshop
from unkelt.messages import say, say_count
from unkelt.sheet.model import Item, Outline, Sheet
from unkelt.sheet.naming import name_of
from unkelt.steps.evidence import Evidence
from unkelt.steps.step import Field, On, Outcome, Purpose, step, targets


@dataclass(frozen=True, kw_only=True)
class Blunted(Evidence):
    """Spikes that were cut off, the longest of them, and the area that went with them."""

    spikes: int
    longest_cut_off_mm: float
    area_lost_mm2: float

    def caption(self) -> str:
        return say_count("{count} spike cut off", "{count} spikes cut off", self.spikes)


@step(
    "blunt-spikes",
    "Blunt the spikes",
    on=On.OUTLINES,
    purpose=Purpose.CLEAN,
    redraws=Reason.RESHAPED,
)
def blunt_spikes(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    width: Annotated[float, "a spike is cut off where it is this wide", Field("Width", first=True)] = 0.3,
) -> Outcome:
    """Cuts spikes straight off where they have a given width. Everything else stays in place.

    Proven: no area is added, only the points are removed, and the number of pieces stays. The evidence gives the
    longest point that was cut off.
    """
    if width <= 0:
        raise StepRefused("blunt-spikes", "the width must be greater than zero")
    tolerance = workshop.ticket.tolerance
    chord = tolerance.chord_mm / 10
    changes: dict[str, tuple[Item, ...]] = {}
    count, longest, lost = 0, 0.0, 0.0
    for outline in targets("blunt-spikes", sheet, items, Outline):
        before = region(outline.path, outline.look.even_odd, chord)
        found = spikes(outline.path, before)
        if not found:
            continue
        path, length = blunted(outline.path, found, width)
        after = region(path, outline.look.even_odd, chord)
        gone = before.difference(after).area
        most = len(found) * width * length  # a spike is no wider than where it is cut
        if after.difference(before).area > tolerance.sliver_mm2 or gone > most:
            raise StepRefused(
                "blunt-spikes", say("“{id}”: more would go than the spikes; try a smaller width", id=name_of(outline))
            )
        changes[outline.id] = (replace(outline, path=path),)
        count, longest, lost = count + len(found), max(longest, length), lost + gone
    if not changes:
        raise StepRefused("blunt-spikes", "there is no spike in these outlines")
    evidence = Blunted(
        spikes=count,
        longest_cut_off_mm=round(longest, 3),
        area_lost_mm2=round(float(lost), 4),
    )
    return Outcome(sheet.replaced(changes), tuple(changes), evidence)
