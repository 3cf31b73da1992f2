"""What is kept of the open jobs in case the program or the machine ends."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from contextlib import suppress
from pathlib import Path

from unkelt.app.executor import Executor
from unkelt.app.jobs import Jobs
from unkelt.errors import UnkeltError
from unkelt.language import tr
from unkelt.progress import Progress
from unkelt.session.job import Job
from unkelt.session.kept_jobs import Keeper
from unkelt.session.working_file import comes_back_from


class Keeping:
    """Keeps each state of each job, off whoever works on it; nothing where there is no keeper."""

    def __init__(self, jobs: Jobs, keeper: Keeper | None, executor: Executor) -> None:
        self.keeper = keeper
        self._jobs, self._executor = jobs, executor
        jobs.changed.connect(self._keep)
        jobs.closed.connect(self._drop)

    def take(self, job: Job) -> list[str]:
        """Begins to keep a job; a sentence where that can't be. Called in any thread."""
        if self.keeper is None:
            return []
        try:
            if self.keeper.take(job.path, job.received):
                return []
        except UnkeltError as problem:
            return [
                tr("Changes to {name} will not survive a crash: {problem}").format(name=job.path.name, problem=problem)
            ]
        return [
            tr(
                "{name} is also open in another window. Changes here are not kept after a crash, and the last save "
                "wins."
            ).format(name=job.path.name)
        ]

    def remember(self, opened: Sequence[Path]) -> list[str]:
        """Files that were opened together, among the recent ones; a sentence where that can't be."""
        if self.keeper is not None and opened:
            try:
                self.keeper.remember(list(opened))
            except UnkeltError as problem:
                return [str(problem)]
        return []

    def end(self) -> None:
        """All jobs are closed on purpose; which they were is remembered."""
        if self.keeper is not None:
            with suppress(UnkeltError):  # a list of names is not worth keeping a window open for
                self.keeper.remember([comes_back_from(job) for job in self._jobs.all], together=True)
            self.keeper.close()

    def _keep(self, jobs: Sequence[Job]) -> None:
        keeper = self.keeper
        if keeper is None:
            return

        def keep(job: Job) -> Callable[[Progress], None]:
            return lambda _: keeper.keep(job)

        for job in jobs:  # each by itself: a later state of one doesn't stop the others from being kept
            self._executor.start(str(job.path), "", keep(job), lambda _: None, self._jobs.said.emit)

    def _drop(self, path: Path) -> None:
        if self.keeper is not None:
            self.keeper.drop(path)
