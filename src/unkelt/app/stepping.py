"""Steps tried, taken, changed and put in: what turns a job into its next state."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

from psygnal import Signal

from unkelt.app.executor import Executor
from unkelt.app.jobs import Jobs
from unkelt.app.opening import Prepare
from unkelt.job.workshop import Workshop
from unkelt.language import tr
from unkelt.mending import mend
from unkelt.messages import listed
from unkelt.progress import Progress
from unkelt.recipe import Call, Recipe, Stage, run
from unkelt.session.job import Job
from unkelt.session.preview import Preview, preview
from unkelt.session.states import lettering_stage
from unkelt.sheet.change import addressed
from unkelt.sheet.model import Sheet


class Stepping:
    """On the sheet shown. An answer is taken only while the job that it was made for is still in front."""

    previewed = Signal()  # what the step tried would do is known

    def __init__(self, jobs: Jobs, executor: Executor, prepare: Prepare) -> None:
        self._jobs, self._executor, self._prepare = jobs, executor, prepare
        self.preview: Preview | None = None
        jobs.leaving.connect(self.clear)

    def clear(self) -> None:
        """Nothing is tried."""
        self._executor.stop("preview")
        self.preview = None

    # trying

    def try_step(self, call: Call | None, *, anywhere: bool = False) -> None:
        """Starts the preview of a step on the latest state, or on any that is looked at; nothing to try clears it."""
        self.clear()
        job = self._jobs.job
        if job is None or call is None or not (self._jobs.at_latest or anywhere):
            return
        call = replace(call, items=addressed(job.shown, call.items))
        self._start_trial("preview", call, job.shown, job.workshop, self._take_preview)

    def trial(self, sheet: Sheet) -> Callable[[Call, Callable[[Preview], None]], None]:
        """Tries calls on a sheet of the job, the last one asked for only, and tells what came of it."""
        job = self._jobs.job
        assert job is not None
        workshop = job.workshop
        return lambda call, tell: self._start_trial("trial", call, sheet, workshop, tell)

    def _start_trial(
        self, purpose: str, call: Call, sheet: Sheet, workshop: Workshop, tell: Callable[[Preview], None]
    ) -> None:
        def work(progress: Progress) -> Preview:
            return self._tried(call, sheet, workshop, progress)

        self._executor.start(purpose, "Trying the step…", work, tell, self._jobs.said.emit)

    def _tried(self, call: Call, sheet: Sheet, workshop: Workshop, progress: Progress) -> Preview:
        """A step tried, and its outcome made ready to be looked at."""
        tried = preview(call, sheet, workshop, progress)
        if tried.outcome is not None:
            self._prepare(tried.outcome.sheet, workshop)
        return tried

    def _take_preview(self, found: Preview) -> None:
        self.preview = found
        self.previewed.emit()

    # taking

    def apply_preview(self) -> None:
        """Takes the step that was tried, with the outcome that was shown."""
        job, tried = self._jobs.job, self.preview
        if job and self._jobs.at_latest and tried and tried.outcome:
            self._jobs.change(job.with_step(tried.call, tried.outcome))

    def apply(
        self,
        call: Call,
        came: Callable[[Sequence[str]], None] = lambda _ids: None,
        refused: Callable[[], None] = lambda: None,
    ) -> None:
        """Runs a step and takes it, or says why not. Before the sheet is shown `came` is told the ids on it; `refused`
        is called where nothing was done.
        """
        job = self._jobs.job
        if job is None or not self._jobs.at_latest:
            return
        sheet, workshop = job.sheet, job.workshop

        def done(tried: Preview) -> None:
            if tried.outcome is None:
                refused()
                if not tried.idle:
                    self._jobs.said.emit(tr("Not done: {refusal}.").format(refusal=tried.refusal))
            elif self._jobs.job is job:
                came([item.id for item in tried.outcome.sheet.walk()])
                self._jobs.change(job.with_step(tried.call, tried.outcome))

        self._executor.start(
            "apply",
            "Applying…",
            lambda progress: self._tried(call, sheet, workshop, progress),
            done,
            self._jobs.said.emit,
        )

    def undo(self) -> None:
        """Takes the last step back."""
        if self._jobs.job:
            self._jobs.change(self._jobs.job.undo())

    def redo(self) -> None:
        """Takes a step again that was taken back."""
        if self._jobs.job:
            self._jobs.change(self._jobs.job.redo())

    # the middle of the recipe

    def put_in(self) -> None:
        """Takes the step that was tried after the state that is looked at; the steps that follow are taken again."""
        job, tried = self._jobs.job, self.preview
        if job is None or tried is None or tried.outcome is None:
            return
        if job.looking_at is None:
            self.apply_preview()
            return
        place, call = job.looking_at, tried.call

        def done(result: tuple[Job, tuple[str, ...]]) -> None:
            if self._jobs.job is job:
                self._jobs.change(result[0])
                if result[1]:
                    self._jobs.said.emit(tr("Left out, no longer possible: ") + listed(" · ", result[1]))

        self._executor.start(
            "apply", "Repeating the steps…", lambda _: job.with_step_at(place, call), done, self._jobs.said.emit
        )

    def edit(self, change: Callable[[], Job]) -> None:
        """Changes the recipe in its middle; what follows is taken again, and what no longer applies is said."""
        job = self._jobs.job

        def done(changed: Job) -> None:
            if self._jobs.job is job:
                self._jobs.change(changed)
                stale = [stage.refused for stage in changed.stages if stage.refused]
                if stale:
                    self._jobs.said.emit(tr("No longer possible: ") + listed(" · ", stale))

        def work(_: Progress) -> Job:
            changed = change()
            self._prepare(changed.shown, changed.workshop)
            return changed

        self._executor.start("apply", "Repeating the steps…", work, done, self._jobs.said.emit)

    def back_to_lettering(self, item_id: str) -> None:
        """Looks at the last state in which the text behind an outline was live."""
        job = self._jobs.job
        stage = lettering_stage(job, item_id) if job else None
        if job is None or stage is None:
            self._jobs.said.emit(tr("This recipe doesn't contain the text of these outlines."))
        else:
            self._jobs.change(job.look_at(stage))

    # all safe steps

    def mend_safe(self) -> None:
        """Takes all safe steps; what was refused is said and left."""

        def done(job: Job, stages: list[Stage]) -> None:
            left = [stage.skipped for stage in stages if stage.skipped]
            if stages:
                self._jobs.change(job.with_stages(tuple(stages)).with_refusals(stages))
            if left:
                self._jobs.said.emit(tr("Your decision: ") + listed(" · ", left))
            elif not stages:
                self._jobs.said.emit(tr("Nothing here can be mended safely without your decision."))

        self._take_several("Mending…", mend, done)

    def run_recipe(self, recipe: Recipe) -> None:
        """Takes the steps of a recipe, one after another; those that are not possible here are said and left."""

        def done(job: Job, stages: list[Stage]) -> None:
            left = [stage.refused for stage in stages if stage.refused]
            if any(stage.outcome for stage in stages):
                self._jobs.change(job.with_stages(tuple(stages)))
                if left:
                    self._jobs.said.emit(tr("Left out, not possible here: ") + listed(" · ", left))
            else:
                self._jobs.said.emit(tr("No step of this recipe changes anything here.") + listed(" ", ["", *left]))

        self._take_several("Taking the steps…", lambda sheet, workshop, _: run(recipe, sheet, workshop), done)

    def _take_several(
        self,
        words: str,
        take: Callable[[Sheet, Workshop, Progress], list[Stage]],
        done: Callable[[Job, list[Stage]], None],
    ) -> None:
        """Takes steps on the latest state, makes each ready to be looked at, and tells where the job is still in
        front.
        """
        job = self._jobs.job
        if job is None or not self._jobs.at_latest:
            return
        sheet, workshop = job.sheet, job.workshop

        def work(progress: Progress) -> list[Stage]:
            stages = take(sheet, workshop, progress)
            for stage in stages:
                if stage.outcome:
                    self._prepare(stage.outcome.sheet, workshop)
            return stages

        def taken(stages: list[Stage]) -> None:
            if self._jobs.job is job:
                done(job, stages)

        self._executor.start("mend", words, work, taken, self._jobs.said.emit)

    def mend_all(self) -> None:
        """Takes all safe steps on every job that is open, one after another."""
        todo = [job for job in self._jobs.all if job.looking_at is None]

        def work(progress: Progress) -> list[tuple[Job, list[Stage]]]:
            found = []
            for number, job in enumerate(todo):
                words = tr("Mending {title}, {value} of {count}")
                progress(number / len(todo), words.format(title=job.title, value=number + 1, count=len(todo)))
                found.append((job, mend(job.sheet, job.workshop)))
            return found

        def done(found: list[tuple[Job, list[Stage]]]) -> None:
            still = [(job, stages) for job, stages in found if any(other is job for other in self._jobs.all)]
            self._jobs.put_mended(
                (job, job.with_stages(tuple(stages)).with_refusals(stages)) for job, stages in still if stages
            )
            self._jobs.said.emit(
                tr("{mended} of {count} jobs mended. Jobs that need your decision: {left}.").format(
                    mended=sum(any(stage.outcome for stage in stages) for _, stages in still),
                    count=len(found),
                    left=sum(any(stage.skipped for stage in stages) for _, stages in still),
                )
            )

        self._executor.start("mend", "Mending all…", work, done, self._jobs.said.emit)
