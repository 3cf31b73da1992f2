"""Which steps cure a finding: what their list says, asked in one place."""

from __future__ import annotations

from unkelt.steps.steps import STEPS
from unkelt.survey.finding import Finding


def cures_of(finding: Finding) -> tuple[str, ...]:
    """The names of the steps that would cure it, the likeliest first: those that name its case before those for every
    case of its code, either in the order of the registry.
    """
    case, every = f"{finding.code}:{finding.case}", finding.code
    named = [name for name in STEPS if case in STEPS.cures(name)]
    return (*named, *(name for name in STEPS if every in STEPS.cures(name) and name not in named))


def leading_codes(step: str) -> tuple[str, ...]:
    """The codes of which a step is the likeliest cure in some case: what "Mend what is safe" looks for."""
    return tuple(dict.fromkeys(cure.split(":")[0] for cure in STEPS.cures(step) if _first(*cure.split(":")) == step))


def _first(code: str, case: str = "") -> str:
    exact = [name for name in STEPS if case and f"{code}:{case}" in STEPS.cures(name)]
    return exact[0] if exact else next(name for name in STEPS if code in STEPS.cures(name))
