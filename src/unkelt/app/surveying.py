"""What is found on the sheet shown, and on the jobs behind; one of the findings is chosen."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path

from psygnal import Signal

from unkelt.app.executor import Executor
from unkelt.app.jobs import Jobs
from unkelt.progress import Progress
from unkelt.session.entries import ledger, lengthy
from unkelt.session.job import Job
from unkelt.sheet.figures import Figures, figures
from unkelt.sheet.model import Sheet
from unkelt.survey.finding import Finding
from unkelt.verdict.judge import found_on, told

KEPT = 40
"""How many surveyed states are remembered, so that undo and looking back show their findings at once."""

Surveyed = tuple[tuple[Finding, ...], Figures]
"""What is found on a sheet, and its figures."""

Later = Callable[[Callable[[], None]], object]
"""Runs something once what was just said is shown."""


class Surveying:
    """Surveys the sheet shown on `executor`, the jobs behind on `behind`, one after another while nothing else is
    wanted. Of a lengthy sheet the first finding is chosen `later`: its marks and rows are enough for one turn.
    """

    found = Signal()  # the findings of the sheet shown are known
    chose = Signal()  # a finding is chosen

    def __init__(self, jobs: Jobs, executor: Executor, behind: Executor, later: Later) -> None:
        self._jobs, self._executor, self._behind, self._later = jobs, executor, behind, later
        self.findings: tuple[Finding, ...] | None = None
        self.chosen: int | None = None
        self.sums: Figures | None = None
        """The figures of the sheet shown, known with its findings."""
        self._judged: dict[Path, tuple[Sheet, tuple[Finding, ...]]] = {}
        self._surveyed: dict[int, tuple[Sheet, Surveyed]] = {}
        jobs.leaving.connect(self._clear)
        jobs.arrived.connect(self._look)
        jobs.outdated.connect(self._forget)
        jobs.closed.connect(self._let_go)

    @property
    def finding(self) -> Finding | None:
        """The finding that is chosen."""
        return self.findings[self.chosen] if self.findings and self.chosen is not None else None

    def choose(self, index: int) -> None:
        """The finding with this number is looked at; a number that none has changes nothing."""
        if self.findings and 0 <= index < len(self.findings) and index != self.chosen:
            self.chosen = index
            self.chose.emit()

    def choose_next(self, step: int, among: Sequence[int]) -> None:
        """The next or previous of some findings, round and round."""
        if not among:
            return
        now = among.index(self.chosen) if self.chosen in among else -1 if step > 0 else 0
        self.choose(among[(now + step) % len(among)])

    def accept(self, reason: str) -> None:
        """The chosen finding is accepted as it is; without a reason it no longer is."""
        job, finding = self._jobs.job, self.finding
        if job is None or finding is None:
            return
        others = {key: why for key, why in job.accepted.items() if key != finding.key}
        self._jobs.change(replace(job, accepted=others | ({finding.key: reason} if reason else {})))

    def judged(self, job: Job) -> tuple[Finding, ...] | None:
        """What is known to be found in a job as it stands, None where it wasn't looked over yet."""
        known = self._judged.get(job.path)
        return told(known[1], job.case) if known is not None and known[0] is job.sheet else None

    def look_at_others(self) -> None:
        """Looks over the jobs behind."""
        jobs = self._jobs
        job = next((job for job in jobs.all if self.judged(job) is None and job is not jobs.job), None)
        if job is None or self._behind.has("others"):
            return
        sheet, case = job.sheet, job.case

        def done(found: tuple[Finding, ...]) -> None:
            self._judged[job.path] = (sheet, found)
            jobs.tray.emit()
            self.look_at_others()

        self._behind.start("others", "", lambda progress: found_on(case, progress), done, jobs.said.emit)

    def _clear(self) -> None:
        self.findings, self.chosen, self.sums = None, None, None

    def _forget(self, jobs: Sequence[Job]) -> None:
        self._surveyed.clear()
        for job in jobs:
            self._judged.pop(job.path, None)

    def _let_go(self, path: Path) -> None:
        self._judged.pop(path, None)

    def _look(self) -> None:
        job = self._jobs.job
        assert job is not None
        sheet, workshop, case = job.shown, job.workshop, job.case_shown
        known = self._surveyed.get(id(sheet))
        if known is not None and known[0] is sheet:
            self._executor.stop("survey")
            self._take(sheet, known[1])
            return

        def work(progress: Progress) -> Surveyed:
            found = (
                found_on(case, progress),
                figures(sheet.outlines(), workshop.ticket.tolerance, workshop.ticket.is_cut),
            )
            if not lengthy(sheet):
                ledger(sheet, workshop)  # remembered for whoever turns to Compose
            return found

        self._executor.start("survey", "Surveying…", work, lambda found: self._take(sheet, found), self._jobs.said.emit)

    def _take(self, sheet: Sheet, surveyed: Surveyed) -> None:
        job = self._jobs.job
        if job is None or job.shown is not sheet:
            return
        if len(self._surveyed) > KEPT:
            self._surveyed.clear()
        self._surveyed[id(sheet)] = (sheet, surveyed)
        found, self.sums = surveyed
        if sheet is job.sheet:
            self._judged[job.path] = (sheet, found)
            self._jobs.tray.emit()
        shown = self.findings = told(found, job.case)
        self.found.emit()

        def choose_first() -> None:
            if self.findings is shown and self.chosen is None:
                self.choose(0)

        if found and lengthy(sheet):
            self._later(choose_first)
        elif found:
            choose_first()
        self.look_at_others()
