"""How far lines lie from where they were received."""

from __future__ import annotations

from unkelt.job.budget import moved_mm
from unkelt.messages import say
from unkelt.steps.steps import STEPS
from unkelt.verdict.case import Case

TOLD_MM = 5e-4
"""Less is said to be no movement: a µm is the last place that is said."""


def since_received(case: Case) -> str:
    """How far lines moved, for people; what steps joined or took out on purpose, over a longer way, beside that."""
    farthest = moved_mm(case.sheet)
    moved = farthest >= TOLD_MM
    bounds = (
        stage.outcome.evidence.max_deviation_mm or 0.0
        for stage in case.stages
        if stage.outcome is not None and not STEPS[stage.call.name].keeps_lines
    )
    apart = max(bounds, default=0.0)
    if apart <= max(farthest, TOLD_MM):
        return say("no line moved more than {farthest:.3f} mm", farthest=farthest) if moved else "no line moved"
    if not moved:
        return say("no line moved, but for what was joined or taken out ({apart:.3f} mm)", apart=apart)
    return say(
        "no line moved more than {farthest:.3f} mm, but for what was joined or taken out ({apart:.3f} mm)",
        farthest=farthest,
        apart=apart,
    )
