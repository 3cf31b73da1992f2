"""`path.shared-edge`"""

from __future__ import annotations

from collections.abc import Iterator

import shapely

from unkelt.anatomy.shared_edges import SharedEdge, shared_edges
from unkelt.geometry.measure import join_boxes
from unkelt.job.workshop import Workshop
from unkelt.messages import say
from unkelt.sheet.model import Sheet
from unkelt.survey.areas import box_of
from unkelt.survey.check import check
from unkelt.survey.finding import Finding, Level


@check("path.shared-edge", may_hold=False)
def path_shared_edge(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """Two paths share a stretch of one line. It is cut twice, and the second cut burns or tears the edge."""
    by_pair: dict[tuple[str, ...], list[SharedEdge]] = {}
    for edge in shared_edges(sheet, workshop.ticket):
        by_pair.setdefault(tuple(dict.fromkeys([edge.first.id, edge.again.id])), []).append(edge)
    for items, edges in by_pair.items():
        length = sum(edge.length_mm for edge in edges)
        marks = tuple(box_of(part) for edge in edges for part in shapely.get_parts(edge.line))
        yield Finding(
            code="path.shared-edge",
            level=Level.WARN,
            items=items,
            box=join_boxes(list(marks)),
            value=length,
            unit="mm",
            headline="Two paths share an edge" if len(items) == 2 else "A path shares an edge with itself",
            detail=say("{length:.1f} mm of one line are there twice", length=length),
            message=say(
                "{length:.1f} mm are cut twice: the second pass burns the edge, or tears the film that is already "
                "free.",
                length=length,
            ),
            marks=marks,
        )
