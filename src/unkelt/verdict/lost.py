"""What was received and is gone, and no step declared: from the account of the whole job."""

from __future__ import annotations

from dataclasses import dataclass

from unkelt.account.changes import Change, Moves
from unkelt.account.whole import Whole, gathered, lost
from unkelt.geometry.cache import TopicOfObjects
from unkelt.messages import say
from unkelt.sheet.model import Sheet
from unkelt.survey.finding import Finding, Level
from unkelt.verdict.case import Case


@dataclass(frozen=True)
class _Taken:
    sheet: Sheet
    changes: tuple[Change, ...]
    moves: Moves


def whole_of(case: Case) -> Whole:
    """All that the steps of a job declared and moved."""
    taken = [_Taken(s.outcome.sheet, s.outcome.changes, s.outcome.moves) for s in case.stages if s.outcome is not None]
    return gathered(case.original, taken, case.workshop.ticket, case.workshop.shelf)


_LOST: TopicOfObjects[tuple[Finding, ...]] = TopicOfObjects("lost ink", 32)


def ink_lost(case: Case) -> tuple[Finding, ...]:
    """What was painted or drawn when received, is gone now, and no step declared: from the account of the whole job."""
    if not any(stage.outcome for stage in case.stages):
        return ()
    return _LOST.get(lambda: _looked_for(case), case.original, case.sheet, case.workshop)


def _looked_for(case: Case) -> tuple[Finding, ...]:
    left = lost(whole_of(case), case.sheet, case.workshop.ticket, case.workshop.shelf)
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
