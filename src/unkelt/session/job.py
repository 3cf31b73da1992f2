"""One open file: the original, the steps taken, and which of its states is being looked at.

A Job never changes: whatever a person does makes a new one, so that the window can always show a whole state, and
long work in another thread reads what nobody writes.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path

from unkelt.formats.formats import read_sheet
from unkelt.job.ticket import Ticket
from unkelt.job.workshop import Workshop
from unkelt.recipe import Call, Recipe, Stage, applied, run
from unkelt.session.snapping import GuideLine
from unkelt.sheet.model import Sheet
from unkelt.steps.step import Outcome
from unkelt.verdict.case import Case, Refusals
from unkelt.verdict.judge import refusals_of

Stages = tuple[Stage, ...]


@dataclass(frozen=True)
class Job:
    """`past` and `future` are the recipes that undo and redo lead to, the nearest last; `looking_at` is the stage
    shown, None for the latest. A stage without an outcome is stale: it stays in the recipe, and changes nothing.
    """

    path: Path
    original: Sheet
    workshop: Workshop
    stages: tuple[Stage, ...] = ()
    past: tuple[Stages, ...] = ()
    future: tuple[Stages, ...] = ()
    looking_at: int | None = None
    saved_stages: tuple[Stage, ...] | None = None
    saved_path: Path | None = None
    released_as: tuple[Path, Stages, Ticket] | None = None
    """The package that was released last with nothing against it, of what, and for which ticket."""
    accepted: Mapping[str, str] = field(default_factory=dict)
    """Findings that are accepted as they are, by their key, each with its reason."""
    guides: tuple[GuideLine, ...] = ()
    """Guide lines that were laid across the sheet: how one looks at it, not what is on it."""
    received: bytes | None = None
    """The original's bytes, where they came in a working file and not from a file of their own."""
    refusals: Refusals = field(default_factory=dict)
    """What was tried and refused when this job was last mended."""

    @property
    def ticket(self) -> Ticket:
        """What the job must be."""
        return self.workshop.ticket

    @property
    def own_file(self) -> Path | None:
        """The file that it came from, which is never written over; None where it was made from nothing."""
        return None if self.received == b"" else self.path

    @property
    def title(self) -> str:
        """What it is called: by its ticket, else by its file."""
        return self.ticket.name or self.path.stem

    @property
    def sheet(self) -> Sheet:
        """The sheet as it stands: after the last step."""
        return self.stages[-1].sheet if self.stages else self.original

    @property
    def shown(self) -> Sheet:
        """The sheet being looked at, which may be an earlier one."""
        if self.looking_at is None:
            return self.sheet
        return self.original if self.looking_at == 0 else self.stages[self.looking_at - 1].sheet

    @property
    def case(self) -> Case:
        """The job as it stands, to be judged."""
        return self._case(self.stages)

    @property
    def case_shown(self) -> Case:
        """The job as it is looked at, to be judged."""
        return self._case(self.stages[: self.looking_at])

    def _case(self, stages: Stages) -> Case:
        return Case(self.path, self.original, self.workshop, stages, self.accepted, self.refusals, self.received)

    @property
    def recipe(self) -> Recipe:
        """The steps that were taken."""
        return applied(list(self.stages))

    @property
    def saved(self) -> bool:
        """Whether the sheet as it stands is what was last written."""
        return self.saved_stages is not None and self.saved_stages == self.stages

    @property
    def released(self) -> bool:
        """Whether the sheet as it stands is what was last released, for the ticket that it has."""
        return self.released_as is not None and self.released_as[1:] == (self.stages, self.ticket)

    @property
    def unsaved_changes(self) -> bool:
        """Whether something was done that no file has."""
        return bool(self.stages) and not self.saved and not self.released

    def with_step(self, call: Call, outcome: Outcome) -> Job:
        """The job after one more step; what could be redone is gone."""
        return self.with_stages((Stage(call, outcome.sheet, outcome),))

    def with_stages(self, stages: tuple[Stage, ...]) -> Job:
        """The job after more steps, as far as they did something."""
        done = tuple(stage for stage in stages if stage.outcome is not None)
        return self._now((*self.stages, *done)) if done else self

    def with_refusals(self, stages: Sequence[Stage]) -> Job:
        """The job that knows what was refused when it was mended, which its findings say until it is done or
        accepted.
        """
        return replace(self, refusals=refusals_of(stages))

    def _now(self, stages: Stages) -> Job:
        """Several steps added are taken back one by one, a change in the middle at once."""
        count = len(self.stages)
        added = [stages[:at] for at in range(count + 1, len(stages))] if stages[:count] == self.stages else []
        return replace(self, stages=stages, past=(*self.past, self.stages, *added), future=(), looking_at=None)

    def edited(self, calls: Sequence[Call]) -> Job:
        """The recipe with these calls instead. What is the same up to some step is kept; all that follows is taken
        again.

        A call that no longer applies stays in the recipe as stale, with the reason.
        """
        kept = 0
        while kept < min(len(calls), len(self.stages)) and calls[kept] == self.stages[kept].call:
            kept += 1
        before = self.stages[:kept]
        sheet = before[-1].sheet if before else self.original
        stages = (*before, *run(Recipe(tuple(calls[kept:])), sheet, self.workshop))
        return self._now(stages) if stages != self.stages else self

    def with_changed(self, place: int, call: Call | None) -> Job:
        """The step at a place, counted from 0, changed, or taken out where `call` is None."""
        calls = [stage.call for stage in self.stages]
        calls[place : place + 1] = [call] if call is not None else []
        return self.edited(calls)

    def with_moved(self, place: int, by: int) -> Job:
        """The step at a place moved earlier or later by so many places."""
        calls = [stage.call for stage in self.stages]
        if not 0 <= place + by < len(calls):
            return self
        calls.insert(place + by, calls.pop(place))
        return self.edited(calls)

    def with_step_at(self, place: int, call: Call) -> tuple[Job, tuple[str, ...]]:
        """A step put in after the first `place` steps, and all that follow taken again; and what was skipped, with why.

        A step that is skipped is taken out, and said.
        """
        before = self.stages[:place]
        sheet = before[-1].sheet if before else self.original
        again = run(Recipe((call, *(stage.call for stage in self.stages[place:]))), sheet, self.workshop)
        done = tuple(stage for stage in again if stage.outcome is not None or stage.idle)
        skipped = tuple(stage.refused for stage in again if stage.refused)
        return self._now((*before, *done)), skipped

    def undo(self) -> Job:
        """Takes the last change of the recipe back: a step taken, or one changed in its middle."""
        if not self.past:
            return self
        return replace(
            self, stages=self.past[-1], past=self.past[:-1], future=(*self.future, self.stages), looking_at=None
        )

    def redo(self) -> Job:
        """The job with the step again that was taken back last."""
        if not self.future:
            return self
        return replace(
            self, stages=self.future[-1], future=self.future[:-1], past=(*self.past, self.stages), looking_at=None
        )

    def look_at(self, stage: int | None) -> Job:
        """Looks back at stage number `stage`: 0 is the original, None (or the last) how it stands."""
        return replace(self, looking_at=None if stage is None or stage >= len(self.stages) else stage)

    def with_saved(self, path: Path, stages: tuple[Stage, ...]) -> Job:
        """The job as it was just written to a file."""
        return replace(self, saved_path=path, saved_stages=stages)

    def with_released(self, folder: Path, stages: Stages, ticket: Ticket) -> Job:
        """The job as it was just released."""
        return replace(self, released_as=(folder, stages, ticket))


def open_job(path: Path, workshop: Workshop) -> Job:
    """Reads a file as a new job. Raises InputError."""
    return Job(path, read_sheet(path), workshop)
