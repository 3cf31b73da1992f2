"""`nodes.spike`"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from unkelt.geometry.edit.spikes import CANDIDATE, TIP_MM, corner_angles, spikes
from unkelt.geometry.measure import Box
from unkelt.geometry.path import concat
from unkelt.job.workshop import Workshop
from unkelt.messages import say, say_count
from unkelt.sheet.appearance import Operation
from unkelt.sheet.model import Sheet
from unkelt.survey.areas import filled_area
from unkelt.survey.check import check
from unkelt.survey.finding import Finding, Level


@check("nodes.spike", may_hold=False)
def nodes_spike(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """A corner runs out to a spike. It lifts, burns away, or drags the tool far past the shape."""
    filled = [
        outline
        for outline in sheet.outlines()
        if outline.look.fill is not None and workshop.ticket.operation(outline.look) is not Operation.LEAVE
    ]
    owner = np.repeat(np.arange(len(filled)), [len(outline.path.points) for outline in filled])
    sharp = np.flatnonzero(np.bincount(owner[corner_angles(concat([outline.path for outline in filled])) < CANDIDATE]))
    for outline in [filled[index] for index in sharp.tolist()]:
        found = spikes(outline.path, filled_area(outline, workshop.ticket))
        if not found:
            continue
        sharpest = min(found, key=lambda spike: spike.angle)
        marks: list[Box] = [(s.x - TIP_MM / 2, s.y - TIP_MM / 2, s.x + TIP_MM / 2, s.y + TIP_MM / 2) for s in found]
        yield Finding(
            code="nodes.spike",
            level=Level.WARN,
            items=(outline.id,),
            box=(sharpest.x, sharpest.y, sharpest.x, sharpest.y),
            value=sharpest.angle,
            unit="°",
            headline=say_count("A corner runs out to a spike", "{count} corners run out to spikes", len(found)),
            detail=say("the sharpest has {angle:.1f}°", angle=sharpest.angle),
            message=say(
                "A corner of {angle:.1f}° ends in a point too thin for any material. It lifts or burns away.",
                angle=sharpest.angle,
            ),
            marks=tuple(marks),
        )
