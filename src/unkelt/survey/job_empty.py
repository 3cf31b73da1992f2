"""`job.empty`"""

from __future__ import annotations

from collections.abc import Iterator

from unkelt.job.workshop import Workshop
from unkelt.sheet.appearance import Operation
from unkelt.sheet.model import Sheet
from unkelt.survey.check import check
from unkelt.survey.finding import Finding, Level


@check("job.empty")
def job_empty(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """The sheet has nothing to cut, score or engrave."""
    ticket = workshop.ticket
    if sheet.letterings() or any(
        ticket.operation(o.look) is not Operation.LEAVE for o in sheet.outlines() if len(o.path)
    ):
        return
    left = bool(sheet.outlines())
    yield Finding(
        code="job.empty",
        level=Level.HOLD,
        items=(),
        box=None,
        value=None,
        unit=None,
        headline="Nothing to cut",
        detail="everything is hidden or left alone" if left else "the sheet is empty",
        message="The machine has nothing to do: no outline is cut, scored or engraved.",
        case="left" if left else "blank",
        choice=True,
    )
