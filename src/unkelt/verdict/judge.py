"""What is found of a job, and what stands against it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

from unkelt.messages import say
from unkelt.progress import Progress
from unkelt.steps.cures import cures_of
from unkelt.survey.checks import survey
from unkelt.survey.finding import Finding, Level, with_accepted
from unkelt.verdict.case import Case
from unkelt.verdict.lost import ink_lost

if TYPE_CHECKING:
    from unkelt.proof.proof import Proof
    from unkelt.recipe import Stage


def refusals_of(stages: Iterable[Stage]) -> dict[tuple[str, tuple[str, ...]], str]:
    """What was refused among some steps."""
    return {(stage.call.name, stage.call.items): stage.refused for stage in stages if stage.refused}


def findings_of(case: Case, progress: Progress | None = None) -> tuple[Finding, ...]:
    """Everything that is found on the sheet as it stands, with what was lost since it was received.

    A finding whose cure was refused says why. Findings accepted by their key are no more than notes.
    """
    return told(found_on(case, progress), case)


def found_on(case: Case, progress: Progress | None = None) -> tuple[Finding, ...]:
    """What is found, as it is before anything was accepted or refused."""
    return (*ink_lost(case), *survey(case.sheet, case.workshop, progress))


def told(findings: Iterable[Finding], case: Case) -> tuple[Finding, ...]:
    """Findings of a job with the reasons why their cures were refused, those accepted no more than notes."""
    refusals = {**case.refusals, **refusals_of(case.stages)}
    result = []
    for finding in findings:
        reasons = [
            reason
            for (name, items), reason in refusals.items()
            if name in cures_of(finding) and (not items or set(items) & set(finding.items))
        ]
        result.append(replace(finding, refusal=reasons[0]) if reasons else finding)
    return with_accepted(result, case.accepted)


def against(findings: Sequence[Finding], proofs: Iterable[Proof], pictures: Iterable[str] = ()) -> tuple[str, ...]:
    """What stands against a job in lines, each once: findings that hold, and what proofs and pictures of its files
    object to.

    What a proof finds again was accepted where all findings of its kind were.
    """
    held = {finding.code for finding in findings if finding.level is Level.HOLD}
    accepted = {f.code for f in findings if f.accepted} - held
    said: list[str] = [
        say("{code}: {headline}", code=finding.code, headline=finding.headline)
        for finding in findings
        if finding.level is Level.HOLD
    ]
    said += [reason for proof in proofs for reason in proof.reasons if reason.split(":")[0] not in accepted]
    return tuple(dict.fromkeys([*said, *pictures]))
