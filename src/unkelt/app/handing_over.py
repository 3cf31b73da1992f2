"""What leaves the desk: written, read back, painted, burnt, released."""

from __future__ import annotations

from collections.abc import Callable, Collection
from pathlib import Path
from typing import Any

from psygnal import Signal

from unkelt.app.executor import Executor
from unkelt.app.jobs import Jobs
from unkelt.app.opening import Prepare
from unkelt.formats.files import write_whole
from unkelt.formats.formats import write_sheet
from unkelt.job.workshop import Workshop
from unkelt.language import tr
from unkelt.messages import listed, say
from unkelt.messages import sentence as as_sentence
from unkelt.outgoing import outgoing, outlined_to_save
from unkelt.progress import Progress
from unkelt.proof.burn import burn
from unkelt.proof.imported import Body
from unkelt.proof.proof import Proof, prove
from unkelt.release.package import Held, Package, release
from unkelt.session.job import Job
from unkelt.session.painted import Painted, painted
from unkelt.session.proofing import ReadBack, read_back
from unkelt.session.states import only as part_of
from unkelt.session.working_file import ENDING, save_working
from unkelt.verdict.painted import held_by_pictures


class HandingOver:
    """Hands over the job in front: each action needs one. Its answer goes to the job of the same file."""

    proved = Signal()  # the saved file was read back
    released = Signal()  # a package was written, and nothing stands against it

    def __init__(self, jobs: Jobs, executor: Executor, prepare: Prepare) -> None:
        self._jobs, self._executor, self._prepare = jobs, executor, prepare
        self.proof: Proof | None = None
        self.is_newest = False
        """Whether the proof was told, and nothing was chosen or changed since."""
        jobs.leaving.connect(self.put_behind)
        jobs.fronted.connect(self._forget)

    def put_behind(self) -> None:
        """Something else is looked at than the proof."""
        self.is_newest = False

    def tell_proof(self) -> None:
        """The proof is said, or said again."""
        self.is_newest = self.proof is not None
        self.proved.emit()

    def look_as(self, importer: str, tell: Callable[[ReadBack, Workshop], None], refuse: Callable[[str], None]) -> None:
        """Writes the sheet shown, reads it as an importer does, and tells what came of it; or, in a sentence, why it
        can't be written or read.
        """
        job = self._job()
        sheet, original, workshop = job.shown, job.original, job.workshop

        def work(_: Progress) -> ReadBack:
            found = read_back(sheet, original, workshop, importer)
            for each in (found.meant, found.read):
                self._prepare(each, workshop)
            return found

        self._executor.start("look", "Reading it back…", work, lambda found: tell(found, workshop), refuse)

    def paint(self, tell: Callable[[Painted], None]) -> None:
        """Paints the file as received and as it stands, and tells where they differ."""
        case = self._job().case_shown
        self._executor.start("paint", "Painting both…", lambda _: painted(case), tell, self._jobs.said.emit)

    def save_burn(self, path: Path, pitch_mm: float = 0.1) -> None:
        """Writes the engraving as it would burn, at its true resolution, as a PNG."""
        job = self._job()
        sheet, ticket, original = job.shown, job.ticket, job.path

        def work(_: Progress) -> str:
            bodies = [Body(o.path, o.look.fill, o.look.stroke, o.look.even_odd) for o in sheet.outlines()]
            found = burn(bodies, ticket, pitch_mm)
            if found is None:
                return tr("Nothing on this sheet is engraved.")
            write_whole(path, found.png(), never_over=original)
            twice = tr(", {area:.1f} mm² of it more than once").format(area=found.twice_mm2) if found.twice_mm2 else ""
            return tr("{name}: {area:.1f} mm² burnt{twice}, lines {pitch:g} mm apart.").format(
                name=path.name, area=found.burnt_mm2, twice=twice, pitch=found.pitch_mm
            )

        self._executor.start("save", "Burning…", work, self._jobs.said.emit, self._jobs.said.emit)

    def save_to(self, path: Path, only: Collection[str] = ()) -> None:
        """Writes the sheet as it stands, or only some items of it, and reads it back with the independent reader."""
        job, original = self._job(), self._job().path
        job = part_of(job, only) if only else job
        sheet, stages, ticket = job.sheet, job.stages, job.ticket

        def work(progress: Progress) -> Proof | None:
            progress(0.1, tr("Writing"))
            if path.suffix.lower() == ENDING:
                save_working(job, path)
                return None
            write_sheet(outgoing(sheet, job.workshop), path, ticket, never_over=job.own_file)
            progress(0.4, tr("Reading it back"))
            found = prove(path, ticket)
            progress(0.7, tr("Painting both"))
            return found.with_reasons(held_by_pictures(job.case, path))

        def done(found: Proof | None) -> None:
            at = self._jobs.place(original)
            if at is None:
                return
            if only:  # a part of the job is not the job
                self._jobs.said.emit(say("Saved only what is chosen as {name}.", name=path.name))
                return
            self._jobs.put(self._jobs.all[at].with_saved(path, stages))
            if at == self._jobs.front:
                self.proof = found
                self.tell_proof()
            if path.suffix.lower() == ".svg" and (outlined := outlined_to_save(sheet)):
                self._jobs.said.emit(" ".join(as_sentence(each) for each in outlined))

        self._executor.start("save", "Saving and reading back…", work, done, self._jobs.said.emit)

    def release_to(
        self,
        folder: Path,
        ask: Callable[[tuple[str, ...]], str],
        reason: str = "",
        tell: Callable[[Package], None] | None = None,
        only: Collection[str] = (),
        **wanted: Any,
    ) -> None:
        """Writes the package, of all or of some items alone; where something holds, `ask` is given what does and
        answers with a reason, or with nothing.

        `wanted` are the options of `release`: destinations, pattern, zipped, languages.
        """
        whole = self._job()
        job = part_of(whole, only) if only else whole
        ticket = job.ticket.source.encode()

        def work(progress: Progress) -> Package | Held:
            try:
                return release(job.case, folder, reason=reason, ticket_text=ticket, progress=progress, **wanted)
            except Held as held:
                return held

        def done(result: Package | Held) -> None:
            if isinstance(result, Held):
                if given := ask(result.holds):
                    self.release_to(folder, ask, given, tell, only, **wanted)
                else:
                    self._jobs.said.emit(tr("Not released. Nothing was written."))
                return
            at = self._jobs.place(job.path)
            if at is not None and not only and not result.record.holds:
                self._jobs.put(self._jobs.all[at].with_released(result.folder, job.stages, job.ticket))
                self.released.emit()
            left = (
                tr(" Not written: {listed}.").format(listed=listed(" · ", result.left_out)) if result.left_out else ""
            )
            if tell is not None:
                tell(result)
            else:
                self._jobs.said.emit(tr("Released: {folder}.{left}").format(folder=result.folder, left=left))

        self._executor.start("save", "Releasing…", work, done, self._jobs.said.emit)

    def _forget(self) -> None:
        """What is in front wasn't read back yet."""
        self.proof = None

    def _job(self) -> Job:
        assert self._jobs.job is not None
        return self._jobs.job
