"""One open file: the original, the steps taken, and which of its states is being looked at.

A Job never changes: whatever a person does makes a new one, so that the window can always show a whole state, and
long work in another thread reads what nobody writes.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path

from unkelt.formats.formats import read_sheet
from unkelt.recipe import Call, Recipe, Stage, applied, run
from unkelt.sheet.model import Lettering, Outline, Sheet
from unkelt.sheet.ticket import Ticket
from unkelt.steps.step import Outcome
from unkelt.survey.check import Workshop


@dataclass(frozen=True)
class Job:
    """`undone` are the stages taken back, the latest first; `looking_at` is the stage shown, None for the latest."""

    path: Path
    original: Sheet
    workshop: Workshop
    stages: tuple[Stage, ...] = ()
    undone: tuple[Stage, ...] = ()
    looking_at: int | None = None
    saved_stages: tuple[Stage, ...] | None = None
    saved_path: Path | None = None

    @property
    def ticket(self) -> Ticket:
        return self.workshop.ticket

    @property
    def title(self) -> str:
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
    def recipe(self) -> Recipe:
        return applied(list(self.stages))

    @property
    def saved(self) -> bool:
        """Whether the sheet as it stands is what was last written."""
        return self.saved_stages is not None and self.saved_stages == self.stages

    @property
    def unsaved_changes(self) -> bool:
        return bool(self.stages) and not self.saved

    def with_step(self, call: Call, outcome: Outcome) -> Job:
        return self.with_stages((Stage(call, outcome.sheet, outcome),))

    def with_stages(self, stages: tuple[Stage, ...]) -> Job:
        done = tuple(stage for stage in stages if stage.outcome is not None)
        return replace(self, stages=(*self.stages, *done), undone=(), looking_at=None) if done else self

    def with_step_at(self, place: int, call: Call) -> tuple[Job, tuple[str, ...]]:
        """A step put in after the first `place` steps, and all that follow taken again; and what was skipped, with why.

        A step that is skipped is taken out, and said.
        """
        before = self.stages[:place]
        sheet = before[-1].sheet if before else self.original
        again = run(Recipe((call, *(stage.call for stage in self.stages[place:]))), sheet, self.workshop)
        done = tuple(stage for stage in again if stage.outcome is not None)
        skipped = tuple(stage.skipped for stage in again if stage.skipped)
        return replace(self, stages=(*before, *done), undone=(), looking_at=None), skipped

    def lettering_stage(self, item_id: str) -> int | None:
        """The last state in which the text that an outline was made from was still live; None where there is none."""
        item = self.shown.find(item_id)
        origin = item.origin if isinstance(item, Outline) else None
        if origin is None:
            return None
        sheets = [self.original, *(stage.sheet for stage in self.stages)]
        live = [at for at, sheet in enumerate(sheets) if isinstance(sheet.find(origin.id), Lettering)]
        return max(live, default=None)

    def undo(self) -> Job:
        if not self.stages:
            return self
        return replace(self, stages=self.stages[:-1], undone=(self.stages[-1], *self.undone), looking_at=None)

    def redo(self) -> Job:
        if not self.undone:
            return self
        return replace(self, stages=(*self.stages, self.undone[0]), undone=self.undone[1:], looking_at=None)

    def look_at(self, stage: int | None) -> Job:
        """Looks back at stage number `stage`: 0 is the original, None (or the last) how it stands."""
        return replace(self, looking_at=None if stage is None or stage >= len(self.stages) else stage)

    def with_saved(self, path: Path, stages: tuple[Stage, ...]) -> Job:
        return replace(self, saved_path=path, saved_stages=stages)


def open_job(path: Path, workshop: Workshop) -> Job:
    """Reads a file as a new job. Raises InputError."""
    return Job(path, read_sheet(path), workshop)


def ticket_beside(path: Path) -> Path | None:
    """The ticket that lies beside a file under the same name, if there is one."""
    beside = path.with_suffix(".toml")
    return beside if beside.is_file() else None
