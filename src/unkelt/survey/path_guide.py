"""`path.guide`"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from unkelt.anatomy.left_guides import guides
from unkelt.geometry.measure import bounds, lengths
from unkelt.job.workshop import Workshop
from unkelt.messages import say
from unkelt.sheet.model import Outline, Sheet
from unkelt.survey.check import check
from unkelt.survey.finding import Finding, Level


@check("path.guide")
def path_guide(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """The line that text was set on is still there. The tool cuts along it, through the feet of the letters."""
    for left in guides(sheet, workshop.ticket):
        guide, length = left.outline, float(lengths(left.outline.path).sum())
        if left.cut:
            yield _finding(
                guide,
                length,
                Level.NOTE,
                "Text was set on a line that is cut",
                "the ticket's key says so",
                "The ticket's key calls this colour cut, so the line stays.",
                "cut",
            )
        elif left.sure:
            yield _finding(
                guide,
                length,
                Level.HOLD,
                "A guide was left in the file",
                say("{length:.0f} mm of line under the letters", length=length),
                "Text was set on this line. The tool would cut along it, through the feet of the letters.",
                "sure",
            )
        else:
            yield replace(
                _finding(
                    guide,
                    length,
                    Level.HOLD,
                    "A guide, or an intended line?",
                    say("{length:.0f} mm of line under the letters", length=length),
                    "Letters stand on this line. If it is only the guide of the text, remove it: the tool would cut "
                    "through the feet of the letters. If the line is intended, accept it.",
                    "doubtful",
                ),
                choice=True,
            )


def _finding(
    guide: Outline, length: float, level: Level, headline: str, detail: str, message: str, case: str
) -> Finding:
    return Finding("path.guide", level, (guide.id,), bounds(guide.path), length, "mm", headline, detail, message, case)
