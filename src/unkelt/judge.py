"""The one judge of a job: what is found on its sheet, what was lost on the way there, and what was tried and refused.

The window, the command line, proof and release all ask here, so that they come to one verdict.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from unkelt.account.changes import Change, Moves
from unkelt.account.whole import Whole, gathered, lost
from unkelt.formats.svg.write import places_for, write_svg
from unkelt.geometry.memo import ByIdentity
from unkelt.proof.pictures import Pictures, compare
from unkelt.recipe import Stage
from unkelt.sheet.model import Sheet
from unkelt.survey.check import Workshop
from unkelt.survey.checks import Progress, survey
from unkelt.survey.finding import Finding, Level, with_accepted

Refusals = Mapping[tuple[str, tuple[str, ...]], str]
"""Why a step was refused, by its name and the items that it was to work on."""


@dataclass(frozen=True)
class _Taken:
    sheet: Sheet
    changes: tuple[Change, ...]
    moves: Moves


def sheet_of(original: Sheet, stages: Sequence[Stage]) -> Sheet:
    """The sheet as it stands after some steps."""
    return stages[-1].sheet if stages else original


def whole_of(original: Sheet, stages: Sequence[Stage], workshop: Workshop) -> Whole:
    """All that the steps of a job declared and moved."""
    taken = [_Taken(s.outcome.sheet, s.outcome.changes, s.outcome.moves) for s in stages if s.outcome is not None]
    return gathered(original, taken, workshop.ticket, workshop.shelf)


def refusals_of(stages: Iterable[Stage]) -> dict[tuple[str, tuple[str, ...]], str]:
    """What was refused among some steps."""
    return {(stage.call.name, stage.call.items): stage.refused for stage in stages if stage.refused}


def findings_of(
    original: Sheet,
    stages: Sequence[Stage],
    workshop: Workshop,
    *,
    accepted: Mapping[str, str] | None = None,
    refusals: Refusals | None = None,
    progress: Progress | None = None,
) -> tuple[Finding, ...]:
    """Everything that is found on the sheet as it stands, with what was lost since it was received.

    A finding whose cure was refused says why. Findings accepted by their key are no more than notes.
    """
    sheet = sheet_of(original, stages)
    found = [*ink_lost(original, stages, workshop), *survey(sheet, workshop, progress)]
    return with_accepted(with_refusals(found, refusals or refusals_of(stages)), accepted or {})


def with_refusals(findings: Iterable[Finding], refusals: Refusals) -> tuple[Finding, ...]:
    """The findings, each with the reason why its cure was refused, where it was."""
    result = []
    for finding in findings:
        reasons = [
            reason
            for (name, items), reason in refusals.items()
            if name in finding.steps and (not items or set(items) & set(finding.items))
        ]
        result.append(replace(finding, refusal=reasons[0]) if reasons else finding)
    return tuple(result)


_LOST: ByIdentity[tuple[Finding, ...]] = ByIdentity(32)


def ink_lost(original: Sheet, stages: Sequence[Stage], workshop: Workshop) -> tuple[Finding, ...]:
    """What was painted or drawn when received, is gone now, and no step declared: from the account of the whole job."""
    if not any(stage.outcome for stage in stages):
        return ()
    sheet = sheet_of(original, stages)
    return _LOST.get(lambda: _looked_for(original, stages, workshop), original, sheet, workshop)


def _looked_for(original: Sheet, stages: Sequence[Stage], workshop: Workshop) -> tuple[Finding, ...]:
    whole = whole_of(original, stages, workshop)
    left = lost(whole, sheet_of(original, stages), workshop.ticket, workshop.shelf)
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
            headline=f"{left[0].material} is not what was received",
            detail=left[0].words().replace("would be", "was"),
            message="It was painted when it was received, and no step says that it changed this. Undo, and see which step did.",
            marks=marks,
        ),
    )


def pictures_of(
    received: bytes, source: Path, original: Sheet, stages: Sequence[Stage], workshop: Workshop
) -> Pictures:
    """The file as received and the sheet as it is written, painted by renderers of somebody else's, and where they differ."""
    sheet = sheet_of(original, stages)
    whole = whole_of(original, stages, workshop)
    written = write_svg(sheet, places_for(workshop.ticket.tolerance.chord_mm))
    return compare(received, source, original, written, sheet, whole, workshop.ticket, workshop.shelf)


def held_by(pictures: Pictures) -> tuple[str, ...]:
    """What holds of the differences that nothing explains, in lines as findings have them."""
    left = pictures.lost
    return (f"ink.lost: the picture differs from what was received: {left[0].words()}",) if left else ()
