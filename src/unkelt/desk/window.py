"""The window: puts the parts together, and turns what people do into new states of the job."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QKeySequence
from PySide6.QtWidgets import (
    QApplication,
    QButtonGroup,
    QDialog,
    QFileDialog,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QMenu,
    QMessageBox,
    QSplitter,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from unkelt import __version__
from unkelt.desk.bars import Lamps, MessageBar, RecipeStrip, VerdictPill
from unkelt.desk.docket import Docket
from unkelt.desk.drawing import Drawing, Lens
from unkelt.desk.icons import icon
from unkelt.desk.panel import FindingPanel, label, named
from unkelt.desk.table import LightTable
from unkelt.desk.theme import DARK, GAP, LIGHT, PAD, Palette, font, style_sheet
from unkelt.desk.worker import Bench, Progress
from unkelt.errors import UnkeltError
from unkelt.formats.files import write_whole
from unkelt.formats.formats import READERS, write_sheet
from unkelt.proof.proof import Proof, prove
from unkelt.recipe import Stage, dump_recipe, mend
from unkelt.session.actions import ACTIONS
from unkelt.session.job import Job, open_job, ticket_beside
from unkelt.session.preview import Preview, preview
from unkelt.session.words import Verdict, original_caption, saved_words, stage_caption, summary, totals, verdict
from unkelt.sheet.figures import figures
from unkelt.sheet.model import Sheet
from unkelt.sheet.ticket import Ticket, read_ticket
from unkelt.survey.check import Workshop, standard_workshop
from unkelt.survey.checks import survey
from unkelt.survey.finding import Finding

KEPT = 40
"""How many surveyed states are remembered, so that undo and looking back show their findings at once."""


class Desk(QMainWindow):
    """One window with one or more jobs, one of them in front."""

    def __init__(self, palette: Palette = LIGHT) -> None:
        super().__init__()
        self.colours = palette
        self.jobs: list[Job] = []
        self.front = -1
        self.findings: tuple[Finding, ...] | None = None
        self.chosen: int | None = None
        self.preview: Preview | None = None
        self.proof: Proof | None = None
        self.bench = Bench(self)
        self._surveyed: dict[int, tuple[Sheet, tuple[Finding, ...]]] = {}
        self._drawings: dict[int, Drawing] = {}
        self.actions_by_id: dict[str, QAction] = {}
        self.setWindowTitle("Unkelt")
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        self._make_actions()
        self._make_parts()
        self.bench.busy.connect(self._show_busy)
        self.bench.progressed.connect(self._show_progress)
        self._refresh()

    # construction

    def _make_actions(self) -> None:
        menus: dict[str, QMenu] = {}
        for entry in ACTIONS:
            menu = menus.get(entry.menu) or menus.setdefault(entry.menu, self.menuBar().addMenu(entry.menu))
            if entry.separated:
                menu.addSeparator()
            action = QAction(entry.words, self)
            if entry.short:
                action.setIconText(f" {entry.short}")
            else:
                action.setIconText(entry.words)
            keys = [key for name in entry.keys for key in _keys(name)]
            action.setShortcuts(list({key.toString(): key for key in keys}.values()))  # each once, or it is ambiguous
            if entry.icon:
                action.setIcon(icon(entry.icon, self.colours.text))
            action.triggered.connect(getattr(self, entry.id))
            menu.addAction(action)
            self.actions_by_id[entry.id] = action
        self._files_menu = QMenu("Open files", self)

    def _make_parts(self) -> None:
        p = self.colours
        self.title = QToolButton()
        self.title.setObjectName("title")
        self.title.setFont(font(15, 600))
        self.title.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.title.setAccessibleName("Open files")
        self.ticket_line = label("", 10.5, role="muted")
        self.verdict = VerdictPill(p)
        header = named(QWidget(), "header")
        header.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        row = QHBoxLayout(header)
        row.setContentsMargins(PAD - 6, GAP, PAD, GAP)
        row.addWidget(self.title)
        row.addWidget(self.ticket_line)
        row.addStretch(1)
        row.addWidget(self.verdict)

        self.lamps = Lamps(p)
        self.lamps.question_chosen.connect(self._go_to_question)
        bar = named(QWidget(), "bar")
        bar.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        row = QHBoxLayout(bar)
        row.setContentsMargins(PAD - 8, 2, PAD, 8)
        row.setSpacing(2)
        for name in ("open_file", "open_ticket", "save_as", "undo", "redo"):
            button = QToolButton()
            action = self.actions_by_id[name]
            button.setDefaultAction(action)
            if action.iconText() != action.text():
                button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
            button.setToolTip(f"{action.text()} ({action.shortcut().toString(QKeySequence.SequenceFormat.NativeText)})")
            button.setFont(font(10.5))
            button.setAccessibleName(self.actions_by_id[name].text())
            if name == "undo":
                row.addWidget(_upright())
            row.addWidget(button)
        row.addStretch(1)
        row.addWidget(self.lamps)

        self.message = MessageBar()
        self.docket = Docket(p)
        self.docket.chosen.connect(self.choose)
        self.docket.mend_asked.connect(self.mend_safe)
        self.table = LightTable(p)
        self.table.finding_chosen.connect(self.choose)
        self.table.pointed.connect(self._show_place)
        self.table.view_changed.connect(self._show_scale)
        self.panel = FindingPanel(p)
        self.panel.apply_here.connect(self.apply_here)
        self.panel.apply_alike.connect(self.apply_alike)
        self.panel.step_changed.connect(self._start_preview)
        self.panel.next_asked.connect(self.next_finding)
        self.strip = RecipeStrip(p)
        self.strip.stage_chosen.connect(self.look_at)

        middle = QWidget()
        over = QGridLayout(middle)
        over.setContentsMargins(0, 0, 0, 0)
        over.addWidget(self.table, 0, 0)
        over.addWidget(self._make_lenses(), 0, 0, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignBottom)
        self.place = QLabel("")
        self.place.setFont(font(9.5))
        self.place.setProperty("role", "muted")
        self.place.setStyleSheet("background: transparent; padding: 0 12px 14px 0;")
        self.place.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        over.addWidget(self.place, 0, 0, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom)
        split = QSplitter(Qt.Orientation.Horizontal)
        split.setHandleWidth(1)
        for widget in (self.docket, middle, self.panel):
            split.addWidget(widget)
        split.setStretchFactor(1, 1)
        split.setCollapsible(1, False)
        split.setSizes([296, 666, 318])

        whole = QWidget()
        layout = QVBoxLayout(whole)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        for part in (header, bar, self.message):
            layout.addWidget(part)
        layout.addWidget(split, 1)
        layout.addWidget(self.strip)
        self.setCentralWidget(whole)
        self.table.setFocus()

    def _make_lenses(self) -> QWidget:
        holder = named(QWidget(), "holder")
        outer = QHBoxLayout(holder)
        outer.setContentsMargins(38, 0, 0, 12)
        frame = named(QFrame(), "lenses")
        row = QHBoxLayout(frame)
        row.setContentsMargins(4, 3, 4, 3)
        row.setSpacing(2)
        self.lens_buttons = QButtonGroup(self)
        for lens in Lens:
            button = QToolButton()
            button.setText(lens.value)
            button.setFont(font(10, 500))
            button.setCheckable(True)
            button.setChecked(lens is self.table.lens)
            button.setToolTip(self.actions_by_id[f"lens_{lens.name.lower()}"].text())
            button.clicked.connect(lambda _=False, chosen=lens: self._set_lens(chosen))
            self.lens_buttons.addButton(button)
            row.addWidget(button)
        outer.addWidget(frame)
        return holder

    # the job in front

    @property
    def job(self) -> Job | None:
        return self.jobs[self.front] if 0 <= self.front < len(self.jobs) else None

    def open_paths(self, paths: list[Path], ticket: Path | None = None) -> None:
        """Opens files, the first in front; one that can't be opened is said, and the others are opened all the same."""
        refused: list[str] = []
        first: int | None = None
        for path in paths:
            try:
                beside = ticket or ticket_beside(path)
                job = open_job(path, standard_workshop(read_ticket(beside) if beside else Ticket()))
            except UnkeltError as problem:
                refused.append(str(problem))
                continue
            known = next((at for at, other in enumerate(self.jobs) if other.path == path), None)
            if known is None:
                self.jobs.append(job)
                known = len(self.jobs) - 1
            elif not self.jobs[known].stages:
                self.jobs[known] = job
            first = known if first is None else first
        if first is not None:
            self.bring_forward(first)
        if refused:
            self.message.say(" · ".join(refused))

    def bring_forward(self, index: int) -> None:
        self.front = index
        self.proof = None
        self.message.hide()
        self._show_job(fit=True)

    def _change(self, job: Job) -> None:
        """The job in front is now this one."""
        self.jobs[self.front] = job
        self._show_job(fit=False)

    def _show_job(self, *, fit: bool) -> None:
        job = self.job
        assert job is not None
        self.bench.stop("preview")
        self.findings, self.chosen, self.preview = None, None, None
        self.table.show_drawing(self._drawing(job.shown), fit=fit)
        self._refresh()
        known = self._surveyed.get(id(job.shown))
        if known is not None and known[0] is job.shown:
            self._take_findings(job.shown, known[1])
            return
        sheet, workshop = job.shown, job.workshop
        self.bench.start(
            "survey",
            "Surveying…",
            lambda progress: survey(sheet, workshop, progress),
            lambda found: self._take_findings(sheet, found),
            self.message.say,
        )

    def _drawing(self, sheet: Sheet) -> Drawing:
        job = self.job
        assert job is not None
        known = self._drawings.get(id(sheet))
        if known is None or known.sheet is not sheet or known.workshop is not job.workshop:
            if len(self._drawings) > KEPT:
                self._drawings.clear()
            known = self._drawings[id(sheet)] = Drawing(sheet, job.workshop)
        return known

    def _take_findings(self, sheet: Sheet, found: tuple[Finding, ...]) -> None:
        job = self.job
        if job is None or job.shown is not sheet:
            return
        if len(self._surveyed) > KEPT:
            self._surveyed.clear()
        self._surveyed[id(sheet)] = (sheet, found)
        self.findings = found
        self._refresh()
        if found:
            self.choose(0)

    # what is chosen, and what its step would do

    def choose(self, index: int) -> None:
        if not self.findings or not 0 <= index < len(self.findings) or index == self.chosen:
            return
        self.chosen = index
        job = self.job
        assert job is not None
        self.docket.choose(index)
        self.table.show_findings(self.findings, index)
        self.panel.show_finding(self.findings[index], self._drawing(job.shown), self._loupe_lens())
        self._start_preview()

    def _loupe_lens(self) -> Lens:
        finding = self.findings[self.chosen] if self.findings and self.chosen is not None else None
        return Lens.NODES if finding and finding.code.startswith("nodes.") else self.table.lens

    def _start_preview(self) -> None:
        job = self.job
        self.preview = None
        call = self.panel.call(alike=False)
        if job is None or call is None:
            self._show_strip()
            return
        if job.looking_at is not None:
            self.panel.after.look(None, None, self.table.lens, "an earlier state:\nlook at the latest\nto mend it")
            return
        sheet, workshop = job.sheet, job.workshop
        self.bench.start(
            "preview",
            "Trying the step…",
            lambda _: preview(call, sheet, workshop),
            self._take_preview,
            self.message.say,
        )

    def _take_preview(self, found: Preview) -> None:
        self.preview = found
        drawing = self._drawing(found.outcome.sheet) if found.outcome else None
        self.panel.show_preview(found, drawing, self._loupe_lens())
        self._show_strip()
        self._enable()

    # what people do: each is an entry of the table of actions

    def open_file(self) -> None:
        endings = " ".join(f"*{ending}" for ending in READERS)
        names, _ = QFileDialog.getOpenFileNames(self, "Open lettering files", self._folder(), f"Lettering ({endings})")
        if names:
            self.open_paths([Path(name) for name in names])

    def open_ticket(self) -> None:
        if self.job is None:
            return
        name, _ = QFileDialog.getOpenFileName(self, "Choose a ticket", self._folder(), "Ticket (*.toml)")
        if not name:
            return
        try:
            workshop = Workshop(read_ticket(Path(name)), self.job.workshop.shelf)
        except UnkeltError as problem:
            self.message.say(str(problem))
            return
        self.jobs[self.front] = Job(self.job.path, self.job.original, workshop, self.job.stages)
        self._surveyed.clear()
        self.proof = None
        self._show_job(fit=True)

    def save_as(self) -> None:
        job = self.job
        if job is None:
            return
        start = job.saved_path or job.path.with_name(f"{job.path.stem}-mended.svg")
        name, _ = QFileDialog.getSaveFileName(self, "Save the result", str(start), "SVG (*.svg)")
        if name:
            self.save_to(Path(name) if Path(name).suffix else Path(f"{name}.svg"))

    def save_to(self, path: Path) -> None:
        """Writes the sheet as it stands, reads it back with the independent reader, and shows what that finds."""
        job = self.job
        assert job is not None
        sheet, stages, ticket, original = job.sheet, job.stages, job.ticket, job.path

        def work(progress: Progress) -> Proof:
            progress(0.1, "Writing")
            write_sheet(sheet, path, never_over=original)
            progress(0.4, "Reading it back")
            return prove(path, ticket)

        def done(found: Proof) -> None:
            at = next(index for index, other in enumerate(self.jobs) if other.path == original)
            self.jobs[at] = self.jobs[at].with_saved(path, stages)
            if at == self.front:
                self.proof = found
                self._refresh()
                self.panel.show_proof(found)

        self.bench.start("save", "Saving and reading back…", work, done, self.message.say)

    def save_recipe(self) -> None:
        job = self.job
        if job is None or not job.stages:
            return
        start = str(job.path.with_name(f"{job.path.stem}-recipe.toml"))
        name, _ = QFileDialog.getSaveFileName(self, "Save the recipe", start, "Recipe (*.toml)")
        if name:
            try:
                write_whole(Path(name), dump_recipe(job.recipe).encode(), never_over=job.path)
            except UnkeltError as problem:
                self.message.say(str(problem))

    def undo(self) -> None:
        if self.job and self.job.stages:
            self._change(self.job.undo())

    def redo(self) -> None:
        if self.job and self.job.undone:
            self._change(self.job.redo())

    def next_finding(self) -> None:
        if self.findings:
            self.choose(((-1 if self.chosen is None else self.chosen) + 1) % len(self.findings))

    def previous_finding(self) -> None:
        if self.findings:
            self.choose(((self.chosen or 0) - 1) % len(self.findings))

    def apply_here(self) -> None:
        found = self.preview
        if self.job and found and found.outcome and self.job.looking_at is None:
            self._change(self.job.with_step(found.call, found.outcome))

    def apply_alike(self) -> None:
        """The step for every finding of this kind, as a rule that another file can follow."""
        job, call = self.job, self.panel.call(alike=True)
        if job is None or call is None or job.looking_at is not None or not self.panel.alike.isEnabled():
            return
        sheet, workshop = job.sheet, job.workshop

        def done(found: Preview) -> None:
            if found.outcome is None:
                self.message.say(f"Not done: {found.refusal}.")
            elif self.job is job:
                self._change(job.with_step(found.call, found.outcome))

        self.bench.start("apply", "Applying…", lambda _: preview(call, sheet, workshop), done, self.message.say)

    def mend_safe(self) -> None:
        job = self.job
        if job is None or job.looking_at is not None or (self.bench.is_busy() and self.findings is None):
            return
        sheet, workshop = job.sheet, job.workshop

        def done(stages: list[Stage]) -> None:
            if self.job is not job:
                return
            left = [stage.skipped for stage in stages if stage.skipped]
            if left:
                self.message.say("Left for you: " + " · ".join(left))
            elif not stages:
                self.message.say("There is nothing that can safely be mended without you.")
            if any(stage.outcome for stage in stages):
                self._change(job.with_stages(tuple(stages)))

        self.bench.start("mend", "Mending…", lambda progress: mend(sheet, workshop, progress), done, self.message.say)

    def stop_work(self) -> None:
        if self.bench.is_busy():
            self.bench.stop()
            if self.findings is None:
                self.docket.summary.setText("Stopped")
        else:
            self.message.hide()

    def zoom_in(self) -> None:
        self.table.zoom(1.25)

    def zoom_out(self) -> None:
        self.table.zoom(0.8)

    def zoom_fit(self) -> None:
        self.table.zoom_fit()

    def zoom_finding(self) -> None:
        finding = self.findings[self.chosen] if self.findings and self.chosen is not None else None
        if finding and finding.box:
            self.table.zoom_to(finding.box)

    def lens_ink(self) -> None:
        self._set_lens(Lens.INK)

    def lens_blade(self) -> None:
        self._set_lens(Lens.BLADE)

    def lens_nodes(self) -> None:
        self._set_lens(Lens.NODES)

    def look_original(self) -> None:
        self.look_at(0)

    def look_latest(self) -> None:
        if self.job:
            self.look_at(len(self.job.stages))

    def look_at(self, stage: int) -> None:
        if self.job and self.job.look_at(stage) != self.job:
            self._change(self.job.look_at(stage))

    def look_theme(self) -> None:
        self.set_palette(DARK if self.colours is LIGHT else LIGHT)

    def show_keys(self) -> None:
        dialog = QDialog(self)
        dialog.setWindowTitle("Keys")
        grid = QGridLayout(dialog)
        grid.setContentsMargins(24, 20, 24, 20)
        grid.setHorizontalSpacing(28)
        for row, entry in enumerate(a for a in ACTIONS if a.keys):
            grid.addWidget(label(entry.words, 10), row, 0)
            keys = self.actions_by_id[entry.id].shortcut().toString(QKeySequence.SequenceFormat.NativeText)
            grid.addWidget(label(keys, 10, 600), row, 1)
        dialog.exec()

    def show_about(self) -> None:
        QMessageBox.about(
            self,
            "About Unkelt",
            f"Unkelt {__version__}\n\nChecks, repairs and proves lettering files before they are cut.",
        )

    def close_window(self) -> None:
        self.close()

    # Qt's events

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        paths = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        tickets = [path for path in paths if path.suffix == ".toml"]
        self.open_paths([path for path in paths if path.suffix != ".toml"], tickets[0] if tickets else None)
        event.acceptProposedAction()

    def closeEvent(self, event: QCloseEvent) -> None:
        unsaved = [job.title for job in self.jobs if job.unsaved_changes]
        if unsaved and not self._may_discard(unsaved):
            event.ignore()
            return
        self.bench.wait()
        super().closeEvent(event)

    def _may_discard(self, titles: list[str]) -> bool:
        answer = QMessageBox.question(
            self,
            "Not saved",
            f"The steps taken on {', '.join(titles)} are not saved. Close all the same?",
            QMessageBox.StandardButton.Discard | QMessageBox.StandardButton.Cancel,
            QMessageBox.StandardButton.Cancel,
        )
        return answer == QMessageBox.StandardButton.Discard

    # showing the state

    def set_palette(self, palette: Palette) -> None:
        """Light or dark; all parts are made anew in the new colours."""
        self.colours = palette
        app = QApplication.instance()
        if isinstance(app, QApplication):
            app.setStyleSheet(style_sheet(palette))
        for entry in ACTIONS:
            if entry.icon:
                self.actions_by_id[entry.id].setIcon(icon(entry.icon, palette.text))
        lens = self.table.lens
        self._make_parts()
        self._set_lens(lens)
        self._refresh()
        if self.job:
            self._show_job(fit=True)

    def _refresh(self) -> None:
        """Everything but the table's drawing and the panel follows from the state; this shows it."""
        job = self.job
        judged = verdict(job, self.findings, self.proof) if job else Verdict("open", "")
        self.verdict.show_verdict(judged)
        self.title.setText(f"{job.title if job else 'Unkelt'}{'  ▾' if len(self.jobs) > 1 else ''}")
        self.title.setMenu(self._open_files_menu() if len(self.jobs) > 1 else None)  # type: ignore[arg-type]
        self.title.setPopupMode(
            QToolButton.ToolButtonPopupMode.InstantPopup
            if len(self.jobs) > 1
            else QToolButton.ToolButtonPopupMode.DelayedPopup
        )
        self.ticket_line.setText(job.ticket.in_one_line() if job else "no file open")
        self.setWindowTitle(f"{job.title} · {judged.words} · Unkelt" if job else "Unkelt")
        self.lamps.show_findings(self.findings if job else None)
        self.lamps.setVisible(job is not None)
        words = "" if job is None else "Looking…" if self.findings is None else summary(self.findings)
        self.docket.show_findings(self.findings or () if self.findings is not None else (), words)
        self.docket.list.setVisible(self.findings is not None)
        self.docket.mend.setVisible(bool(self.findings))
        self.table.show_findings(self.findings or (), self.chosen)
        if job is None:
            self.panel.show_nothing("", "")
        elif self.findings is None:
            self.panel.show_nothing("Looking it over…", "The drawing can already be looked at.")
        elif not self.findings:
            if self.proof is not None and job.saved:
                self.panel.show_proof(self.proof)
            else:
                self.panel.show_nothing(
                    "Nothing found",
                    "Save the result (Ctrl+S): the saved file is then read back by another reader, as importing software "
                    "would, and judged.",
                )
        self._show_strip()
        self._enable()

    def _show_strip(self) -> None:
        job = self.job
        self.strip.setVisible(job is not None)
        if job is None:
            return
        cards = [("as received", original_caption(job))]
        cards += [(stage.call.name, stage_caption(stage)) for stage in job.stages]
        shown = len(job.stages) if job.looking_at is None else job.looking_at
        coming = self.preview.call.name if self.preview and self.preview.outcome and job.looking_at is None else None
        self.strip.show_stages(cards, shown, coming)
        self.strip.totals.setText(
            totals(figures(job.shown.outlines(), job.ticket.tolerance)) if self.findings is not None else ""
        )
        self.strip.saved.setText(saved_words(job))

    def _enable(self) -> None:
        job = self.job
        latest = job is not None and job.looking_at is None
        ready = {
            "open_ticket": job is not None,
            "save_as": job is not None,
            "save_recipe": bool(job and job.stages),
            "undo": bool(job and job.stages),
            "redo": bool(job and job.undone),
            "next_finding": bool(self.findings),
            "previous_finding": bool(self.findings),
            "apply_here": latest and bool(self.preview and self.preview.outcome),
            "apply_alike": latest and bool(self.preview and self.preview.outcome),
            "mend_safe": latest and bool(self.findings),
            "zoom_finding": self.chosen is not None,
            "look_original": bool(job and job.stages),
            "look_latest": bool(job and job.looking_at is not None),
        }
        for name, value in ready.items():
            self.actions_by_id[name].setEnabled(value)
        self.docket.mend.setEnabled(ready["mend_safe"])

    def _open_files_menu(self) -> QMenu:
        self._files_menu.clear()
        for index, job in enumerate(self.jobs):
            action = self._files_menu.addAction(f"{job.title}    {job.path.name}")
            action.triggered.connect(lambda _=False, at=index: self.bring_forward(at))
        return self._files_menu

    def _set_lens(self, lens: Lens) -> None:
        self.table.set_lens(lens)
        for button in self.lens_buttons.buttons():
            button.setChecked(button.text() == lens.value)
        if self.job and self.findings and self.chosen is not None:
            self.panel.now.lens = self.panel.after.lens = self._loupe_lens()
            self.panel.now.update()
            self.panel.after.update()

    def _go_to_question(self, question: str) -> None:
        index = next((at for at, f in enumerate(self.findings or ()) if f.question.value == question), None)
        if index is not None:
            self.choose(index)

    def _show_place(self, x: float, y: float) -> None:
        if self.job:
            self.place.setText(f"{self.table.view.scale * 25.4 / 96 * 100:.0f} %  ·  {x:.1f}, {y:.1f} mm")

    def _show_scale(self) -> None:
        if self.job:
            self.place.setText(f"{self.table.view.scale * 25.4 / 96 * 100:.0f} %")

    def _show_busy(self, busy: bool, words: str) -> None:
        self.docket.progress.setVisible(True)
        self.docket.progress.setValue(60 if busy else 0)
        if busy and words:
            self.docket.progress.setAccessibleDescription(words)

    def _show_progress(self, share: float, words: str) -> None:
        self.docket.progress.setValue(int(1000 * share))
        self.docket.progress.setAccessibleDescription(words)

    def _folder(self) -> str:
        return str(self.job.path.parent) if self.job else str(Path.home())


def _keys(name: str) -> list[QKeySequence]:
    if name.startswith("StandardKey."):
        return list(QKeySequence.keyBindings(getattr(QKeySequence.StandardKey, name.removeprefix("StandardKey."))))
    return [QKeySequence(name)]


def _upright() -> QWidget:
    line = QFrame()
    line.setFixedSize(1, 20)
    line.setObjectName("rule")
    return line
