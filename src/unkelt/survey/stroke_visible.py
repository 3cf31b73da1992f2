"""`stroke.visible`"""

from __future__ import annotations

from collections.abc import Iterator

from unkelt.geometry.measure import bounds
from unkelt.job.workshop import Workshop
from unkelt.messages import say
from unkelt.sheet.appearance import has_visible_stroke
from unkelt.sheet.model import Sheet
from unkelt.survey.check import check
from unkelt.survey.finding import Finding, Level

LINE_MM = 0.5
"""A closed line without a fill that is no thicker may be a line to cut along: nobody makes it a shape unasked."""


@check("stroke.visible", may_hold=False)
def stroke_visible(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """A stroke has a thickness that is not part of the outline. A machine follows the path, and strokes don't scale
    with the drawing.
    """
    for outline in sheet.outlines():
        look = outline.look
        if not has_visible_stroke(look, workshop.ticket.machine.hairline_mm, keyed=bool(workshop.ticket.key)):
            continue
        width = look.stroke_width_mm
        a_line = look.fill is None and width <= LINE_MM and bool(outline.path.closed.all())
        what = "half of its stroke" if look.fill else "its whole stroke"
        skewed = " It was skewed, too, so that its width differs along the line." if look.pen else ""
        yield Finding(
            code="stroke.visible",
            level=Level.WARN,
            items=(outline.id,),
            box=bounds(outline.path),
            value=width,
            unit="mm",
            headline=say(
                "A stroke {width:.2f} mm wide in dashes" if look.dashes_mm else "A stroke {width:.2f} mm wide",
                width=width,
            ),
            detail="its thickness is not part of the outline",
            message=say(
                "The machine follows the middle of the line, so {what} of {width:.2f} mm is not cut. The stroke also "
                "keeps its width when the drawing is scaled.{skewed}",
                what=what,
                width=width / (2 if look.fill else 1),
                skewed=skewed,
            ),
            case="line" if a_line else "",
            choice=a_line,
        )
