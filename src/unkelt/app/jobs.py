"""The jobs that are open, one of them in front. Whoever changes a job changes it here, and others are told."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from pathlib import Path

from psygnal import Signal

from unkelt.job.ticket import Ticket
from unkelt.job.workshop import Workshop
from unkelt.lettering.faces import Shelf
from unkelt.session.job import Job
from unkelt.session.snapping import GuideLine


class Jobs:
    """Another sheet to be shown is told in three turns: `leaving`, while what is known of the last one is forgotten;
    `shown`, when it can be drawn (True where the view is to fit it); `arrived`, when it is to be looked over.
    """

    leaving = Signal()
    shown = Signal(bool)
    arrived = Signal()
    fronted = Signal()  # another job is in front, or the same with another ticket
    changed = Signal(tuple)  # jobs in another state, worth keeping
    outdated = Signal(tuple)  # jobs whose findings no longer hold, though their sheets are the same
    closed = Signal(Path)  # the job of a file was closed
    tray = Signal()  # jobs came, went, or were looked over
    emptied = Signal()  # the last job was closed
    guided = Signal()  # other guide lines lie across the sheet
    said = Signal(str)  # a sentence for the person

    def __init__(self) -> None:
        self.all: list[Job] = []
        self.front = -1

    @property
    def job(self) -> Job | None:
        """The job in front."""
        return self.all[self.front] if 0 <= self.front < len(self.all) else None

    @property
    def at_latest(self) -> bool:
        """Whether the sheet shown is the one as it stands, which alone can be mended."""
        return self.job is not None and self.job.looking_at is None

    def place(self, path: Path) -> int | None:
        """Which job is of that file; none where it was closed meanwhile."""
        return next((index for index, job in enumerate(self.all) if job.path == path), None)

    # coming and going

    def add(self, job: Job, *, front: bool) -> None:
        """A job comes onto the desk, and to the front where that is wanted. A file that is open already stays as it is,
        unless nothing was done to it.
        """
        known = self.place(job.path)
        if known is None:
            self.all.append(job)
            known = len(self.all) - 1
        elif not self.all[known].stages:
            self.all[known] = job
        if front:
            self.bring_forward(known)
        else:
            self.tray.emit()

    def bring_forward(self, index: int) -> None:
        """The job with this number is the one that is worked on."""
        self.front = index
        self.fronted.emit()
        self.show(fit=True)

    def close(self, index: int) -> None:
        """Takes a job off the desk; what was not saved of it is gone."""
        job = self.all.pop(index)
        self.closed.emit(job.path)
        if not self.all:
            self.front = -1
            self.fronted.emit()
            self.leaving.emit()
            self.emptied.emit()
        elif index == self.front:
            self.bring_forward(min(index, len(self.all) - 1))
        else:
            self.front -= index < self.front
            self.tray.emit()

    # changing

    def show(self, *, fit: bool) -> None:
        """The sheet of the job in front is shown, and looked over."""
        self.leaving.emit()
        self.shown.emit(fit)
        self.arrived.emit()

    def change(self, job: Job) -> None:
        """The job in front is now this one."""
        if job is not self.job:
            self.all[self.front] = job
            self.show(fit=False)
            self.changed.emit((job,))

    def put(self, job: Job) -> None:
        """A job as it is known now, whether in front or behind. Its sheet is the same."""
        at = self.place(job.path)
        if at is not None:
            self.all[at] = job

    def put_mended(self, pairs: Iterable[tuple[Job, Job]]) -> None:
        """Jobs after what was done to several of them; one that was closed or changed meanwhile stays as it is."""
        for was, now in pairs:
            at = next((index for index, other in enumerate(self.all) if other is was), None)
            if at is not None:
                self.all[at] = now
        self.changed.emit(tuple(job for job in self.all if job.stages))
        self.show(fit=False)
        self.tray.emit()

    def use_ticket(self, ticket: Ticket) -> None:
        """A ticket for the job in front; its steps stay, its findings are looked for anew."""
        if self.job is None:
            return
        job = replace(self.job, workshop=Workshop(ticket, self.job.workshop.shelf))
        self.all[self.front] = job
        self.outdated.emit((job,))
        self.fronted.emit()
        self.show(fit=True)
        self.changed.emit((job,))

    def use_shelf(self, shelf: Shelf) -> bool:
        """Faces that were installed meanwhile, for every job; whether there are any."""
        if not self.all or all(job.workshop.shelf is shelf for job in self.all):
            return False
        self.all = [replace(job, workshop=replace(job.workshop, shelf=shelf)) for job in self.all]
        self.outdated.emit(tuple(self.all))
        self.show(fit=False)
        return True

    def lay_guides(self, guides: tuple[GuideLine, ...]) -> None:
        """Guide lines of the job in front; they change nothing on the sheet."""
        if self.job is not None and guides != self.job.guides:
            self.all[self.front] = replace(self.job, guides=guides)
            self.guided.emit()
            self.changed.emit((self.job,))
