"""Files become jobs: opened one after another, or taken up as they were left."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from psygnal import Signal

from unkelt.app.executor import Executor
from unkelt.app.jobs import Jobs
from unkelt.app.keeping import Keeping
from unkelt.errors import UnkeltError
from unkelt.job.ticket import Ticket, read_ticket
from unkelt.job.workshop import Workshop
from unkelt.language import tr
from unkelt.lettering.faces import Shelf
from unkelt.lettering.shelves import shelf_again, standard_shelf
from unkelt.messages import listed, say
from unkelt.progress import Progress
from unkelt.session.job import Job
from unkelt.session.job_of_file import open_any
from unkelt.session.kept_jobs import Kept
from unkelt.session.new_sheet import NewSheet, new_job
from unkelt.sheet.model import Sheet

Prepare = Callable[[Sheet, Workshop], object]
"""What is done to a sheet, in the thread that it comes from, so that it can be shown at once."""


class Opening:
    """The first of the jobs that come together comes to the front; a file that can't be opened is said, and the others
    go on.
    """

    settled = Signal()  # nothing more is coming
    reshelved = Signal(object)  # faces were installed meanwhile: the new shelf

    def __init__(self, jobs: Jobs, keeping: Keeping, executor: Executor, behind: Executor, prepare: Prepare) -> None:
        self._jobs, self._keeping, self._executor, self._behind = jobs, keeping, executor, behind
        self._prepare = prepare
        self._coming: list[tuple[Path, Path | None]] = []
        self._opened: list[Path] = []
        self._refused: list[str] = []

    def open_paths(self, paths: Sequence[Path], ticket: Path | None = None) -> None:
        """Opens files one after another, by their full paths: a job that is restored keeps its folder, wherever the
        program is started then.
        """
        paths = [path.absolute() for path in paths]
        under_way = self._executor.has("open")
        if not under_way:
            self._coming, self._opened, self._refused = [], [], []
        self._coming += [(path, ticket) for path in paths]
        if not under_way:
            self._open_next()

    def take_up(self, kept: Sequence[Kept]) -> None:
        """Jobs that were left open come back as they were kept."""
        keeper = self._keeping.keeper
        assert keeper is not None

        def work(_: Progress) -> tuple[list[Job], list[str]]:
            jobs, said = [], []
            for each in kept:
                try:
                    job, words = keeper.give_back(each, standard_shelf())
                    self._prepare(job.shown, job.workshop)
                    jobs.append(job)
                    said += [words] if words else []
                except UnkeltError as problem:
                    said.append(str(problem))
            return jobs, said

        def done(found: tuple[list[Job], list[str]]) -> None:
            self._coming, self._opened, self._refused = [], [], found[1]
            for job in found[0]:
                self._add(job)
            self._open_next()

        self._executor.start("open", "Restoring open jobs…", work, done, self._jobs.said.emit)

    def begin(self, wanted: NewSheet, ticket: Path | None, folder: Path) -> None:
        """A new sheet made of words; where they can't be set, it is said, and nothing is opened."""

        def work(_: Progress) -> tuple[Job, list[str]]:
            asked = read_ticket(ticket) if ticket is not None else Ticket()
            workshop = Workshop(asked, standard_shelf())
            job = new_job(wanted, workshop, folder, [each.path for each in self._jobs.all])
            self._prepare(job.shown, job.workshop)
            return job, self._keeping.take(job)

        def done(found: tuple[Job, list[str]]) -> None:
            job, words = found
            self._jobs.add(job, front=True)
            self._jobs.changed.emit((job,))
            if words:
                self._jobs.said.emit(listed(" · ", words))
            self.settled.emit()

        self._executor.start("open", "Making the sheet…", work, done, self._jobs.said.emit)

    def take_ticket(self, path: Path) -> None:
        """Another ticket for the job in front, from a file."""
        try:
            ticket = read_ticket(path)
        except UnkeltError as problem:
            self._jobs.said.emit(str(problem))
        else:
            self._jobs.use_ticket(ticket)

    def look_for_faces(self) -> None:
        """Takes faces that were installed meanwhile onto the shelf of every job."""

        def done(shelf: Shelf) -> None:
            if self._jobs.use_shelf(shelf):
                self.reshelved.emit(shelf)
                self._jobs.said.emit(tr("The installed faces have changed. Unkelt checked all jobs again."))

        if self._jobs.all:
            self._behind.start("faces", "", lambda _: shelf_again(), done, self._jobs.said.emit)

    def _open_next(self) -> None:
        if self._coming:
            path, ticket = self._coming.pop(0)
            self._executor.start(
                "open",
                say("Opening {name}…", name=path.name),
                lambda _: self._open(path, ticket),
                self._take,
                self._skip,
            )
            return
        self._refused += self._keeping.remember(self._opened)
        if self._refused:
            self._jobs.said.emit(listed(" · ", self._refused))
        self.settled.emit()

    def _open(self, path: Path, ticket: Path | None) -> tuple[Job, list[str]]:
        """The job, kept from now on, and what is to be known of it."""
        job, words = open_any(path, ticket)
        self._prepare(job.shown, job.workshop)
        return job, [*([words] if words else []), *self._keeping.take(job)]

    def _take(self, found: tuple[Job, list[str]]) -> None:
        job, words = found
        self._refused += words
        self._add(job)
        self._open_next()

    def _skip(self, sentence: str) -> None:
        self._refused.append(sentence)
        self._open_next()

    def _add(self, job: Job) -> None:
        self._opened.append(job.path)
        self._jobs.add(job, front=len(self._opened) == 1)
