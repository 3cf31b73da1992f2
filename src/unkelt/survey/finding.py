"""What a check reports."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from enum import StrEnum

from unkelt.geometry.measure import Box
from unkelt.messages import say


class Question(StrEnum):
    """The six questions that the survey answers."""

    ARRIVES = "Does it arrive?"
    ONE_BODY = "Is it one body?"
    CUTS_ONCE = "Does it cut once?"
    RUNS_SMOOTH = "Does it run smooth?"
    RIGHT_SIZE = "Is it the right size?"
    RIGHT_JOB = "Does each line do its job?"

    @property
    def short(self) -> str:
        """The name of its lamp."""
        return _SHORT[self]


_SHORT = {
    Question.ARRIVES: "Arrives",
    Question.ONE_BODY: "One body",
    Question.CUTS_ONCE: "Cuts once",
    Question.RUNS_SMOOTH: "Runs smooth",
    Question.RIGHT_SIZE: "Right size",
    Question.RIGHT_JOB: "Right job",
}


class Level(StrEnum):
    """How much a finding matters: `hold` stops release."""

    HOLD = "hold"
    WARN = "warn"
    NOTE = "note"


@dataclass(frozen=True, slots=True)
class Finding:
    """One thing found. `headline` says what is there, `detail` the figure that matters, `message` what will happen at
    the machine.

    `box` is where it lies on the sheet, `marks` the single places where there are several, `focus` the most telling one
    where that isn't the first. `value` is measured in `unit`. `case` tells apart what one code may find, where the cure
    is another: steps name the code, or code and case, that they cure. `choice` is on where it can be read in several
    ways, so that no cure is taken unasked. `refusal` says why a cure that was tried was refused, `accepted` why a
    person takes it as it is.
    """

    code: str
    level: Level
    items: tuple[str, ...]
    box: Box | None
    value: float | None
    unit: str | None
    headline: str
    detail: str
    message: str
    case: str = ""
    marks: tuple[Box, ...] = ()
    focus: Box | None = None
    choice: bool = False
    refusal: str = ""
    accepted: str = ""

    @property
    def question(self) -> Question:
        """Which of the six questions it answers with no."""
        return question_of(self.code)

    @property
    def key(self) -> str:
        """What it is told by from one survey to the next: its code and its items."""
        return " ".join([self.code, *self.items])


def with_accepted(findings: Iterable[Finding], reasons: Mapping[str, str]) -> tuple[Finding, ...]:
    """The findings, those accepted by their key no more than notes, which say why."""
    return tuple(
        replace(
            finding,
            level=Level.NOTE,
            detail=say("accepted: {reasons}", reasons=reasons[finding.key]),
            accepted=reasons[finding.key],
        )
        if finding.key in reasons
        else finding
        for finding in findings
    )


_QUESTIONS = {
    "text": Question.ARRIVES,
    "content": Question.ARRIVES,
    "overlap": Question.ONE_BODY,
    "compound": Question.ONE_BODY,
    "stroke": Question.ONE_BODY,
    "piece": Question.ONE_BODY,
    "job": Question.ARRIVES,
    "ink": Question.ARRIVES,
    "path": Question.CUTS_ONCE,
    "nodes": Question.RUNS_SMOOTH,
    "fine": Question.RUNS_SMOOTH,
    "size": Question.RIGHT_SIZE,
    "place": Question.RIGHT_SIZE,
    "line": Question.RIGHT_JOB,
}


def question_of(code: str) -> Question:
    """The question that a code belongs to, by its first word."""
    return _QUESTIONS[code.split(".")[0]]
