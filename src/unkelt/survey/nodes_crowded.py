"""`nodes.crowded`"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from unkelt.geometry.measure import join_boxes
from unkelt.geometry.reduce.merge import merge_micro, micro_segments
from unkelt.job.workshop import Workshop
from unkelt.messages import say, say_count
from unkelt.sheet.model import Sheet
from unkelt.survey.check import check
from unkelt.survey.finding import Finding, Level


@check("nodes.crowded", may_hold=False)
def nodes_crowded(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """Segments are shorter than the machine resolves. The head stutters and burns or tears the edge."""
    shortest = workshop.ticket.tolerance.chord_mm
    for outline in sheet.outlines():
        if merge_micro(outline.path, shortest).node_count == outline.path.node_count:
            continue
        micro = outline.path.points[micro_segments(outline.path, shortest)]
        marks = tuple(
            (float(x0), float(y0), float(x1), float(y1))
            for (x0, y0), (x1, y1) in zip(micro.min(axis=1), micro.max(axis=1), strict=True)
        )
        yield Finding(
            code="nodes.crowded",
            level=Level.WARN,
            items=(outline.id,),
            box=join_boxes(list(marks)),
            value=float(len(micro)),
            unit="segments",
            headline=say_count("A segment of almost no length", "{count} segments of almost no length", len(micro)),
            detail=say(
                "the shortest is {length:.1f} µm",
                length=float(np.linalg.norm(micro[:, 3] - micro[:, 0], axis=1).min()) * 1000,
            ),
            message=say(
                "These segments are shorter than {shortest:g} mm, which no machine resolves. The head stutters and "
                "marks the edge.",
                shortest=shortest,
            ),
            marks=marks[:200],
        )
