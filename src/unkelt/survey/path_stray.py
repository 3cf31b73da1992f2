"""`path.stray`"""

from __future__ import annotations

from collections.abc import Iterator

from unkelt.anatomy.scraps import doubtful, scraps
from unkelt.geometry.measure import join_boxes
from unkelt.job.workshop import Workshop
from unkelt.messages import say, say_count
from unkelt.sheet.model import Sheet
from unkelt.survey.check import check
from unkelt.survey.finding import Finding, Level


@check("path.stray", may_hold=False)
def path_stray(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """Lone points, lines of no length or rings of no area. The tool stops, dips and marks the material."""
    for outline in sheet.outlines():
        found, choice = scraps(outline, workshop.ticket), False
        if not len(found):
            found, choice = doubtful(outline, sheet, workshop.ticket), True
        if not len(found):
            continue
        marks = tuple((float(x0), float(y0), float(x1), float(y1)) for x0, y0, x1, y1 in found.boxes)
        yield Finding(
            code="path.stray",
            level=Level.WARN,
            items=(outline.id,),
            box=join_boxes(list(marks)),
            value=float(len(found)),
            unit="subpaths",
            headline=say_count("A stray scrap", "{count} stray scraps", len(found)),
            detail=say("none larger than {largest_mm:.2f} mm", largest_mm=found.largest_mm),
            message="These are smaller than the width of the tool's own line. They may be scraps that leave a mark, "
            "or intended dots. Only you can tell."
            if choice
            else "They are invisible on a screen, but the tool goes there and leaves a mark.",
            marks=marks,
            choice=choice,
        )
