"""Which steps cure a finding: what their declarations say, asked in one place."""

from __future__ import annotations

from unkelt.steps.step import Step
from unkelt.steps.steps import STEPS
from unkelt.survey.finding import Finding


def cures_of(finding: Finding) -> tuple[str, ...]:
    """The names of the steps that would cure it, the likeliest first: those that name its case before those for every
    case of its code, either in the order of the registry.
    """
    case, every = f"{finding.code}:{finding.case}", finding.code
    named = [step.name for step in STEPS.values() if case in step.cures]
    return (*named, *(step.name for step in STEPS.values() if every in step.cures and step.name not in named))


def leading_codes(step: Step) -> tuple[str, ...]:
    """The codes of which it is the likeliest cure in some case: what "Mend what is safe" looks for."""
    return tuple(dict.fromkeys(cure.split(":")[0] for cure in step.cures if _first(*cure.split(":")) is step))


def _first(code: str, case: str = "") -> Step:
    exact = [step for step in STEPS.values() if case and f"{code}:{case}" in step.cures]
    return exact[0] if exact else next(step for step in STEPS.values() if code in step.cures)
