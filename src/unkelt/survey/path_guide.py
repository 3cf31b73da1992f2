"""`path.guide`"""

from __future__ import annotations

from collections.abc import Iterator

from unkelt.geometry.measure import bounds, lengths
from unkelt.sheet.guides import guides
from unkelt.sheet.model import Sheet
from unkelt.survey.check import Workshop, check
from unkelt.survey.finding import Finding, Level


@check("path.guide")
def path_guide(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """The line that text was set on is still there: the tool cuts along it, through the feet of the letters."""
    for guide in guides(sheet, workshop.ticket):
        length = float(lengths(guide.path).sum())
        yield Finding(
            code="path.guide",
            level=Level.HOLD,
            items=(guide.id,),
            box=bounds(guide.path),
            value=length,
            unit="mm",
            headline="A guide was left in the file",
            detail=f"{length:.0f} mm of line under the letters",
            message="Text was set on this line. The tool would cut along it, through the feet of the letters.",
            steps=("drop-guide",),
        )
