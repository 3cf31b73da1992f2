"""What the window shows, and the work that changes it: jobs, findings, the finding chosen, the preview, the proof.

Signals say what changed; the window's parts show it. Long work runs on the bench, reads immutable sheets only, and its
answer is taken when it still belongs to what is shown.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, Signal

from unkelt.desk.common.drawing import make_ready
from unkelt.desk.common.worker import Bench, after_this_turn
from unkelt.errors import UnkeltError
from unkelt.formats.files import write_whole
from unkelt.formats.formats import write_sheet
from unkelt.job.workshop import Workshop
from unkelt.judge import found_on, held_by_pictures, told
from unkelt.language import tr
from unkelt.lettering.faces import Shelf
from unkelt.lettering.shelves import shelf_again, standard_shelf
from unkelt.progress import Progress
from unkelt.proof.burn import burn
from unkelt.proof.imported import Body
from unkelt.proof.proof import Proof, prove
from unkelt.recipe import Call, Stage, mend
from unkelt.release.package import Held, Package, release
from unkelt.session.job import Job
from unkelt.session.keeping import Keeper, Kept
from unkelt.session.ledger import ledger, lengthy
from unkelt.session.opening import open_any
from unkelt.session.painted import Painted, painted
from unkelt.session.preview import Preview, preview
from unkelt.session.proofing import Look, look
from unkelt.session.snapping import GuideLine
from unkelt.session.working_file import ENDING, save_working
from unkelt.sheet.change import addressed
from unkelt.sheet.figures import Figures, figures
from unkelt.sheet.model import Sheet
from unkelt.sheet.ticket import Ticket, read_ticket
from unkelt.survey.finding import Finding

KEPT = 40
"""How many surveyed states are remembered, so that undo and looking back show their findings at once."""

LATER = 3
"""Turns that what nobody waits for begins later, so that a view is there before its small pictures."""


Surveyed = tuple[tuple[Finding, ...], Figures]
"""What is found on a sheet, and its figures."""


class DeskState(QObject):
    """The jobs on the desk, one of them in front, and what is known of it."""

    shown = Signal(bool)  # another sheet is shown; True where the view is to fit it
    found = Signal()  # its findings are known
    chose = Signal()  # a finding is chosen
    previewed = Signal()  # what its step would do is known
    proved = Signal()  # the saved file was read back
    released = Signal()  # a package was written, and nothing stands against it
    said = Signal(str)  # a sentence for the person
    guided = Signal()  # other guide lines lie across the sheet
    tray = Signal()  # jobs came, went, or were looked over
    emptied = Signal()  # the last job was closed

    def __init__(self, parent: QObject, keeper: Keeper | None = None) -> None:
        super().__init__(parent)
        self.keeper = keeper
        self.jobs: list[Job] = []
        self.front = -1
        self.findings: tuple[Finding, ...] | None = None
        self.chosen: int | None = None
        self.preview: Preview | None = None
        self.proof: Proof | None = None
        self.proof_is_newest = False  # it was told, and nothing was chosen or changed since
        self.bench, self.behind, self.keeping = Bench(self), Bench(self, threads=1, later=LATER), Bench(self, threads=1)
        """What is waited for, what nobody waits for, and what is kept of it all, which never waits for the others."""
        self._coming: list[tuple[Path, Path | None]] = []
        self._opened: list[Path] = []
        self._refused: list[str] = []
        self._judged: dict[Path, tuple[Sheet, tuple[Finding, ...]]] = {}
        self._surveyed: dict[int, tuple[Sheet, Surveyed]] = {}
        self.sums: Figures | None = None
        """The figures of the sheet shown, known with its findings."""

    @property
    def job(self) -> Job | None:
        """The job in front."""
        return self.jobs[self.front] if 0 <= self.front < len(self.jobs) else None

    @property
    def finding(self) -> Finding | None:
        """The finding that is chosen."""
        return self.findings[self.chosen] if self.findings and self.chosen is not None else None

    @property
    def at_latest(self) -> bool:
        """Whether the sheet shown is the one as it stands, which alone can be mended."""
        return self.job is not None and self.job.looking_at is None

    # jobs

    def open_paths(self, paths: Sequence[Path], ticket: Path | None = None) -> None:
        """Opens files one after another, the first in front; one that can't be opened is said, and the others go on."""
        if not self.bench.has("open"):
            self._coming, self._opened, self._refused = [], [], []
        self._coming += [(path, ticket) for path in paths]
        if not self.bench.has("open"):
            self._open_next()

    def _open_next(self) -> None:
        if not self._coming:
            self._remember()
            if self._refused:
                self.said.emit(" · ".join(self._refused))
            self._survey_others()
            return
        path, ticket = self._coming.pop(0)
        self.bench.start(
            "open", f"Opening {path.name}…", lambda _: self._opening(path, ticket), self._take_job, self._skip_job
        )

    def _opening(self, path: Path, ticket: Path | None) -> tuple[Job, list[str]]:
        """In the bench's thread: the job, kept from now on, and what is to be known of it."""
        job, words = open_any(path, ticket)
        make_ready(job.shown, job.workshop)
        return job, [*([words] if words else []), *self._take_keeping(job)]

    def _skip_job(self, sentence: str) -> None:
        self._refused.append(sentence)
        self._open_next()

    def _take_job(self, found: tuple[Job, list[str]]) -> None:
        job, words = found
        self._refused += words
        self.add(job)
        self._open_next()

    def add(self, job: Job) -> None:
        """A job comes onto the desk; the first of those that come together comes to the front.

        A file that is open already stays as it is, unless nothing was done to it.
        """
        known = next((at for at, other in enumerate(self.jobs) if other.path == job.path), None)
        if known is None:
            self.jobs.append(job)
            known = len(self.jobs) - 1
        elif not self.jobs[known].stages:
            self.jobs[known] = job
        self._opened.append(job.path)
        if len(self._opened) == 1:
            self.bring_forward(known)
        else:
            self.tray.emit()

    def close_job(self, index: int) -> None:
        """Takes a job off the desk; what was not saved of it is gone."""
        job = self.jobs.pop(index)
        if self.keeper is not None:
            self.keeper.drop(job.path)
        self._judged.pop(job.path, None)
        if not self.jobs:
            self.front, self.findings, self.chosen, self.preview, self.proof = -1, None, None, None, None
            self.sums = None
            self.bench.stop()
            self.emptied.emit()
        elif index == self.front:
            self.bring_forward(min(index, len(self.jobs) - 1))
        else:
            self.front -= index < self.front
            self.tray.emit()

    # what is kept in case the program or the machine ends

    def _take_keeping(self, job: Job) -> list[str]:
        """Begins to keep a job; a sentence where that can't be."""
        if self.keeper is None:
            return []
        try:
            if self.keeper.take(job.path, job.received):
                return []
        except UnkeltError as problem:
            return [
                tr("{name} can't be kept in case of a crash: {problem}").format(name=job.path.name, problem=problem)
            ]
        return [
            tr(
                "{name} is open in another window too: what is done here isn't kept in case of a crash, and whoever saves last wins."
            ).format(name=job.path.name)
        ]

    def _keep(self) -> None:
        if self.job is not None:
            self._keep_all([self.job])

    def _remember(self) -> None:
        if self.keeper is not None and self._opened:
            try:
                self.keeper.remember(self._opened)
            except UnkeltError as problem:
                self._refused.append(str(problem))

    def take_up(self, kept: Sequence[Kept]) -> None:
        """Jobs that were left open come back as they were kept."""
        keeper = self.keeper
        assert keeper is not None

        def work(_: Progress) -> tuple[list[Job], list[str]]:
            jobs, said = [], []
            for each in kept:
                try:
                    job, words = keeper.give_back(each, standard_shelf())
                    make_ready(job.shown, job.workshop)
                    jobs.append(job)
                    said += [words] if words else []
                except UnkeltError as problem:
                    said.append(str(problem))
            return jobs, said

        def done(found: tuple[list[Job], list[str]]) -> None:
            self._coming, self._opened, self._refused = [], [], found[1]
            for job in found[0]:
                self.add(job)
            self._open_next()

        self.bench.start("open", "Taking up what was left…", work, done, self.said.emit)

    # the jobs that aren't in front

    def judged(self, job: Job) -> tuple[Finding, ...] | None:
        """What is known to be found in a job as it stands, None where it wasn't looked over yet."""
        known = self._judged.get(job.path)
        return told(known[1], job.case) if known is not None and known[0] is job.sheet else None

    def _survey_others(self) -> None:
        """Looks over the jobs behind, one after another, while nothing else is wanted."""
        job = next((job for job in self.jobs if self.judged(job) is None and job is not self.job), None)
        if job is None or self.behind.has("others"):
            return
        sheet, case = job.sheet, job.case

        def done(found: tuple[Finding, ...]) -> None:
            self._judged[job.path] = (sheet, found)
            self.tray.emit()
            self._survey_others()

        self.behind.start("others", "", lambda progress: found_on(case, progress), done, self.said.emit)

    def bring_forward(self, index: int) -> None:
        self.front, self.proof = index, None
        self._show(fit=True)

    def show_again(self) -> None:
        """Everything of the job in front is said again, to parts that were made anew."""
        findings, chosen, proof_is_newest = self.findings, self.chosen, self.proof_is_newest
        self._show(fit=True)
        if chosen is not None and self.findings == findings:
            self.choose(chosen)
        if proof_is_newest:
            self._tell_proof()

    def take_ticket(self, path: Path) -> None:
        """Another ticket for the job in front; its steps stay, its findings are looked for anew."""
        if self.job is None:
            return
        try:
            ticket = read_ticket(path)
        except UnkeltError as problem:
            self.said.emit(str(problem))
            return
        self.use_ticket(ticket)

    def use_ticket(self, ticket: Ticket) -> None:
        """A ticket for the job in front, whose findings are looked for anew."""
        if self.job is None:
            return
        workshop = Workshop(ticket, self.job.workshop.shelf)
        self.jobs[self.front] = replace(self.job, workshop=workshop)
        self._surveyed.clear()
        self._judged.pop(self.job.path, None)
        self.proof = None
        self._show(fit=True)
        self._keep()

    def look_for_faces(self) -> None:
        """Takes faces that were installed meanwhile onto the shelf of every job, and says so."""
        if not self.jobs:
            return

        def done(shelf: Shelf) -> None:
            if not self.jobs or all(job.workshop.shelf is shelf for job in self.jobs):
                return
            self.jobs = [replace(job, workshop=replace(job.workshop, shelf=shelf)) for job in self.jobs]
            self._surveyed.clear()
            self._judged.clear()
            self._show(fit=False)
            self._survey_others()
            self.said.emit(tr("The faces on this machine have changed; all jobs were looked at again."))

        self.behind.start("faces", "", lambda _: shelf_again(), done, self.said.emit)

    def change(self, job: Job) -> None:
        """The job in front is now this one."""
        if job is not self.job:
            self.jobs[self.front] = job
            self._show(fit=False)
            self._keep()

    def _show(self, *, fit: bool) -> None:
        job = self.job
        assert job is not None
        self.bench.stop("preview")
        self.findings, self.chosen, self.preview, self.sums = None, None, None, None
        self.proof_is_newest = False
        self.shown.emit(fit)
        sheet, workshop, case = job.shown, job.workshop, job.case_shown
        known = self._surveyed.get(id(sheet))
        if known is not None and known[0] is sheet:
            self.bench.stop("survey")
            self._take_findings(sheet, known[1])
            return

        def work(progress: Progress) -> Surveyed:
            found = found_on(case, progress), figures(sheet.outlines(), workshop.ticket.tolerance)
            if not lengthy(sheet):
                ledger(sheet, workshop)  # remembered for whoever turns to Compose
            return found

        self.bench.start("survey", "Surveying…", work, lambda found: self._take_findings(sheet, found), self.said.emit)

    def _take_findings(self, sheet: Sheet, surveyed: Surveyed) -> None:
        if self.job is None or self.job.shown is not sheet:
            return
        if len(self._surveyed) > KEPT:
            self._surveyed.clear()
        self._surveyed[id(sheet)] = (sheet, surveyed)
        found, self.sums = surveyed
        if sheet is self.job.sheet:
            self._judged[self.job.path] = (sheet, found)
            self.tray.emit()
        self.findings = told(found, self.job.case)
        self.found.emit()
        shown = self.findings

        def choose_first() -> None:
            if self.findings is shown and self.chosen is None:
                self.choose(0)

        if found and lengthy(sheet):  # its marks and rows are enough for one turn
            after_this_turn(self, choose_first)
        elif found:
            choose_first()
        self._survey_others()

    def accept(self, reason: str) -> None:
        """The chosen finding is accepted as it is; without a reason it no longer is."""
        job, finding = self.job, self.finding
        if job is None or finding is None:
            return
        others = {key: why for key, why in job.accepted.items() if key != finding.key}
        self.change(replace(job, accepted=others | ({finding.key: reason} if reason else {})))

    def lay_guides(self, guides: tuple[GuideLine, ...]) -> None:
        """Guide lines of the job in front; they change nothing on the sheet."""
        if self.job is not None and guides != self.job.guides:
            self.jobs[self.front] = replace(self.job, guides=guides)
            self.guided.emit()
            self._keep()

    # the finding chosen, and what its step would do

    def choose(self, index: int) -> None:
        if self.findings and 0 <= index < len(self.findings) and index != self.chosen:
            self.chosen, self.preview, self.proof_is_newest = index, None, False
            self.chose.emit()

    def choose_next(self, step: int, among: Sequence[int]) -> None:
        """The next or previous of some findings, round and round."""
        if not among:
            return
        now = among.index(self.chosen) if self.chosen in among else -1 if step > 0 else 0
        self.choose(among[(now + step) % len(among)])

    def try_step(self, call: Call | None, *, anywhere: bool = False) -> None:
        """Starts the preview of a step on the latest state, or on any that is looked at; nothing to try clears it."""
        self.bench.stop("preview")
        self.preview = None
        job = self.job
        if job is None or call is None or not (self.at_latest or anywhere):
            return
        sheet, workshop = job.shown, job.workshop
        call = replace(call, items=addressed(sheet, call.items))
        self.bench.start(
            "preview",
            "Trying the step…",
            lambda progress: _tried(call, sheet, workshop, progress),
            self._take_preview,
            self.said.emit,
        )

    def trial(self, sheet: Sheet) -> Callable[[Call, Callable[[Preview], None]], None]:
        """Tries calls on a sheet of the job, the last one asked for only, and tells what came of it."""
        job = self.job
        assert job is not None
        workshop = job.workshop

        def attempt(call: Call, tell: Callable[[Preview], None]) -> None:
            self.bench.start(
                "trial",
                "Trying the step…",
                lambda progress: _tried(call, sheet, workshop, progress),
                tell,
                self.said.emit,
            )

        return attempt

    def _take_preview(self, found: Preview) -> None:
        self.preview = found
        self.previewed.emit()

    # steps

    def apply_preview(self) -> None:
        """Takes the step that was tried, with the outcome that was shown."""
        if self.job and self.at_latest and self.preview and self.preview.outcome:
            self.change(self.job.with_step(self.preview.call, self.preview.outcome))

    def put_in(self) -> None:
        """Takes the step that was tried after the state that is looked at; the steps that follow are taken again."""
        job, tried = self.job, self.preview
        if job is None or tried is None or tried.outcome is None:
            return
        if job.looking_at is None:
            self.apply_preview()
            return
        place, call = job.looking_at, tried.call

        def done(result: tuple[Job, tuple[str, ...]]) -> None:
            if self.job is job:
                self.change(result[0])
                if result[1]:
                    self.said.emit(tr("Left out, since it no longer applies: ") + " · ".join(result[1]))

        self.bench.start(
            "apply", "Taking the steps again…", lambda _: job.with_step_at(place, call), done, self.said.emit
        )

    def edit(self, change: Callable[[], Job]) -> None:
        """Changes the recipe in its middle; what follows is taken again, and what no longer applies is said."""
        job = self.job

        def done(changed: Job) -> None:
            if self.job is job:
                self.change(changed)
                stale = [stage.refused for stage in changed.stages if stage.refused]
                if stale:
                    self.said.emit(tr("No longer applies: ") + " · ".join(stale))

        def work(_: Progress) -> Job:
            changed = change()
            make_ready(changed.shown, changed.workshop)
            return changed

        self.bench.start("apply", "Taking the steps again…", work, done, self.said.emit)

    def back_to_lettering(self, item_id: str) -> None:
        """Looks at the last state in which the text behind an outline was live."""
        job = self.job
        stage = job.lettering_stage(item_id) if job else None
        if job is None or stage is None:
            self.said.emit(tr("The text behind these outlines is not in this recipe, so that it can't be shown."))
        else:
            self.change(job.look_at(stage))

    def apply(self, call: Call) -> None:
        """Runs a step and takes it, or says why not."""
        job = self.job
        if job is None or not self.at_latest:
            return
        sheet, workshop = job.sheet, job.workshop

        def done(tried: Preview) -> None:
            if tried.outcome is None:
                self.said.emit(tr("Not done: {refusal}.").format(refusal=tried.refusal))
            elif self.job is job:
                self.change(job.with_step(tried.call, tried.outcome))

        self.bench.start(
            "apply", "Applying…", lambda progress: _tried(call, sheet, workshop, progress), done, self.said.emit
        )

    def mend_safe(self) -> None:
        """Takes all safe steps; what was refused is said and left."""
        job = self.job
        if job is None or not self.at_latest or self.findings is None:
            return
        sheet, workshop = job.sheet, job.workshop

        def done(stages: list[Stage]) -> None:
            if self.job is not job:
                return
            left = [stage.skipped for stage in stages if stage.skipped]
            if stages:
                self.change(job.with_stages(tuple(stages)).with_refusals(stages))
            if left:
                self.said.emit(tr("Left for you: ") + " · ".join(left))
            elif not stages:
                self.said.emit(tr("There is nothing that can safely be mended without you."))

        def work(progress: Progress) -> list[Stage]:
            stages = mend(sheet, workshop, progress)
            for stage in stages:
                if stage.outcome:
                    make_ready(stage.outcome.sheet, workshop)
            return stages

        self.bench.start("mend", "Mending…", work, done, self.said.emit)

    def mend_all(self) -> None:
        """Takes all safe steps on every job on the desk, one after another."""
        todo = [job for job in self.jobs if job.looking_at is None]

        def work(progress: Progress) -> list[tuple[Job, list[Stage]]]:
            found = []
            for number, job in enumerate(todo):
                progress(
                    number / len(todo),
                    tr("Mending {title}, {value} of {count}").format(
                        title=job.title, value=number + 1, count=len(todo)
                    ),
                )
                found.append((job, mend(job.sheet, job.workshop)))
            return found

        def done(found: list[tuple[Job, list[Stage]]]) -> None:
            mended = left = 0
            for job, stages in found:
                at = next((index for index, other in enumerate(self.jobs) if other is job), None)
                if at is None:  # closed or changed meanwhile
                    continue
                left += any(stage.skipped for stage in stages)
                mended += any(stage.outcome for stage in stages)
                if stages:
                    self.jobs[at] = job.with_stages(tuple(stages)).with_refusals(stages)
            self._keep_all([job for job in self.jobs if job.stages])
            self._show(fit=False)
            self.tray.emit()
            self._survey_others()
            self.said.emit(
                tr("{mended} of {count} jobs mended; in {left} something was left for you.").format(
                    mended=mended, count=len(found), left=left
                )
            )

        self.bench.start("mend", "Mending all…", work, done, self.said.emit)

    def _keep_all(self, jobs: Sequence[Job]) -> None:
        keeper = self.keeper
        if keeper is None:
            return

        def keep(job: Job) -> Callable[[Progress], None]:
            return lambda _: keeper.keep(job)

        for job in jobs:  # each by itself: a later state of one doesn't stop the others from being kept
            self.keeping.start(str(job.path), "", keep(job), lambda _: None, self.said.emit)

    def look_as(self, importer: str, tell: Callable[[Look, Workshop], None]) -> None:
        """Writes the sheet shown, reads it as a stand-in does, and tells what came of it."""
        job = self.job
        assert job is not None
        sheet, original, workshop = job.shown, job.original, job.workshop

        def work(_: Progress) -> Look:
            found = look(sheet, original, workshop, importer)
            for each in (found.meant, found.read):
                make_ready(each, workshop)
            return found

        self.bench.start(
            "look",
            "Reading it back…",
            work,
            lambda found: tell(found, workshop),
            self.said.emit,
        )

    def paint(self, tell: Callable[[Painted], None]) -> None:
        """Paints the file as received and as it stands, and tells where they differ."""
        job = self.job
        assert job is not None
        case = job.case_shown
        self.bench.start("paint", "Painting both…", lambda _: painted(case), tell, self.said.emit)

    def save_burn(self, path: Path, pitch_mm: float = 0.1) -> None:
        """Writes the engraving as it would burn, at its true resolution, as a PNG."""
        job = self.job
        assert job is not None
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

        self.bench.start("save", "Burning…", work, self.said.emit, self.said.emit)

    def release_to(
        self,
        folder: Path,
        ask: Callable[[tuple[str, ...]], str],
        reason: str = "",
        tell: Callable[[Package], None] | None = None,
        **wanted: Any,
    ) -> None:
        """Writes the package; where something holds, `ask` is given what does and answers with a reason, or with
        nothing.

        `wanted` are the options of `release`: formats, pattern, straight, by_operation, by_group, by_material, zipped.
        """
        job = self.job
        assert job is not None
        ticket = job.ticket.source.encode()

        def work(progress: Progress) -> Package | Held:
            try:
                return release(job.case, folder, reason=reason, ticket_text=ticket, progress=progress, **wanted)
            except Held as held:
                return held

        def done(result: Package | Held) -> None:
            if isinstance(result, Held):
                if given := ask(result.holds):
                    self.release_to(folder, ask, given, tell, **wanted)
                else:
                    self.said.emit(tr("Not released: nothing was written."))
                return
            at = self._place(job.path)
            if at is not None and not result.record.holds:
                self.jobs[at] = self.jobs[at].with_released(result.folder, job.stages, job.ticket)
                self.released.emit()
            left = tr(" Not written: {listed}.").format(listed=" · ".join(result.left_out)) if result.left_out else ""
            if tell is not None:
                tell(result)
            else:
                self.said.emit(tr("Released: {folder}.{left}").format(folder=result.folder, left=left))

        self.bench.start("save", "Releasing…", work, done, self.said.emit)

    def save_to(self, path: Path) -> None:
        """Writes the sheet as it stands, and reads it back with the independent reader."""
        job = self.job
        assert job is not None
        sheet, stages, ticket, original = job.sheet, job.stages, job.ticket, job.path

        def work(progress: Progress) -> Proof | None:
            progress(0.1, tr("Writing"))
            if path.suffix.lower() == ENDING:
                save_working(job, path)
                return None
            write_sheet(sheet, path, ticket, never_over=original)
            progress(0.4, tr("Reading it back"))
            found = prove(path, ticket)
            progress(0.7, tr("Painting both"))
            return found.with_reasons(held_by_pictures(job.case, path))

        def done(found: Proof | None) -> None:
            at = self._place(original)
            if at is None:
                return
            self.jobs[at] = self.jobs[at].with_saved(path, stages)
            if at == self.front:
                self.proof = found
                self._tell_proof()

        self.bench.start("save", "Saving and reading back…", work, done, self.said.emit)

    def _place(self, path: Path) -> int | None:
        """Which job is of that file; none where it was closed meanwhile."""
        return next((index for index, job in enumerate(self.jobs) if job.path == path), None)

    def _tell_proof(self) -> None:
        self.proof_is_newest = self.proof is not None
        self.proved.emit()


def _tried(call: Call, sheet: Sheet, workshop: Workshop, progress: Progress) -> Preview:
    """A step tried, and its outcome made ready to be looked at."""
    tried = preview(call, sheet, workshop, progress)
    if tried.outcome is not None:
        make_ready(tried.outcome.sheet, workshop)
    return tried
