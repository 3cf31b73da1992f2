"""What was received and is gone, and no step declared: from the account of the whole job."""

from __future__ import annotations

from unkelt.account.whole import Whole, gathered, lost
from unkelt.messages import say
from unkelt.steps.step import Outcome
from unkelt.survey.finding import Finding, Level
from unkelt.verdict.case import Case


def whole_of(case: Case) -> Whole:
    """All that the steps of a job declared and moved."""
    return gathered(case.original, _taken(case), case.workshop.ticket, case.workshop.shelf)


def _taken(case: Case) -> list[Outcome]:
    return [stage.outcome for stage in case.stages if stage.outcome is not None]


def ink_lost(case: Case) -> tuple[Finding, ...]:
    """What was painted or drawn when received, is gone now, and no step declared: from the account of the whole job."""
    left = lost(case.original, _taken(case), case.workshop.ticket, case.workshop.shelf)
    if not left:
        return ()
    marks = tuple(each.box for each in left)
    return (
        Finding(
            code="ink.lost",
            level=Level.HOLD,
            items=(),
            box=marks[0],
            value=left[0].amount,
            unit=left[0].unit,
            headline=say("{material} is not what was received", material=left[0].material),
            detail=left[0].words(done=True),
            message="It was painted when it was received, and no step says that it changed this. Undo, and see which "
            "step did.",
            marks=marks,
        ),
    )
