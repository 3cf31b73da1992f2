"""The window: puts the parts together, and turns what people do into new states of the job."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from platformdirs import user_config_path
from PySide6.QtCore import QEvent, QEventLoop, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import (
    QApplication,
    QGridLayout,
    QHBoxLayout,
    QInputDialog,
    QLabel,
    QMainWindow,
    QMenu,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from unkelt.app.desktop import Desktop
from unkelt.desk.common.bars import MessageBar, RecipeStrip
from unkelt.desk.common.canvas import finish_drawing
from unkelt.desk.common.drawing import Drawing, Lens, drawing_of, make_ready
from unkelt.desk.common.parts import named
from unkelt.desk.common.switch import Switch
from unkelt.desk.common.theme import DARK, LIGHT, Palette, font, px, set_text_size, style_sheet, system_text_size
from unkelt.desk.common.worker import Bench, after_this_turn
from unkelt.desk.compose.controller import Composing
from unkelt.desk.compose.view import ComposeView
from unkelt.desk.filing import Filing
from unkelt.desk.head import ActionRow, JobRow
from unkelt.desk.helping import Helping
from unkelt.desk.inspect.docket import Docket
from unkelt.desk.inspect.panel import FindingPanel
from unkelt.desk.intake.controller import Intaking
from unkelt.desk.intake.view import IntakeView
from unkelt.desk.intake.watch import Watcher
from unkelt.desk.looking import Looking
from unkelt.desk.menus import colour_icons, make_actions
from unkelt.desk.proof.view import ProofView
from unkelt.desk.reciping import Reciping
from unkelt.desk.release.view import ReleaseView
from unkelt.desk.screening import Screening
from unkelt.desk.start import StartView
from unkelt.desk.table.comparing import Compare
from unkelt.desk.table.table import LightTable
from unkelt.desk.views import View
from unkelt.errors import UnkeltError
from unkelt.language import said, tr
from unkelt.session.availability import enabled
from unkelt.session.keeping import Keeper, Kept
from unkelt.session.picking import items_at, said_about
from unkelt.session.reading import UNITS
from unkelt.session.settings import Settings, keep_settings, read_settings, text_step
from unkelt.session.shop import Shop
from unkelt.session.words import Verdict, original_caption, saved_words, stage_caption, summary, totals, verdict
from unkelt.sheet.model import Lettering, Outline, Picture, Sheet

LATER = 3
"""Turns that what nobody waits for begins later, so that a view is there before its small pictures."""

WARM_MS = 150
"""Views are made ready one after another, so long apart."""


class Desk(QMainWindow):
    """One window with one or more jobs, one of them in front."""

    def __init__(
        self, palette: Palette = LIGHT, keeper: Keeper | None = None, settings_path: Path | None = None
    ) -> None:
        super().__init__()
        self.settings_path = settings_path
        self.settings = read_settings(settings_path) if settings_path else Settings()
        self.colours = palette
        self.bench, self.behind, self.archive = Bench(self), Bench(self, threads=1, later=LATER), Bench(self, threads=1)
        """For what is waited for, what nobody waits for, and what is kept of it all, which never waits for the others."""
        self.state = Desktop(
            keeper, self.bench, self.behind, self.archive, make_ready, lambda begin: after_this_turn(self, begin)
        )
        self.watcher = Watcher(self)
        self.watcher.arrived.connect(self.state.opening.open_paths)
        self.setWindowTitle("Unkelt")
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        self.filing, self.helping = Filing(self), Helping(self)
        self.looking, self.reciping, self.screening = Looking(self), Reciping(self), Screening(self)
        doers = (self, self.filing, self.helping, self.looking, self.reciping, self.screening)
        self.actions_by_id = make_actions(self, doers, palette.text)
        self._files_menu = QMenu(tr("Open files"), self)
        self._warming = QTimer(self)
        self._warming.setInterval(WARM_MS)
        self._warming.timeout.connect(self._warm)
        self._making = False
        for _ in self._make():
            pass
        for signal, slot in (
            (self.state.on_desk.shown, self._show_sheet),
            (self.state.surveying.found, self._refresh),
            (self.state.surveying.chose, self._show_finding),
            (self.state.stepping.previewed, self._show_preview),
            (self.state.handing.proved, self._show_proof),
            (self.state.handing.released, self._refresh),
            (self.state.on_desk.said, self._say),
            (self.state.on_desk.emptied, self._show_empty),
            (self.state.on_desk.tray, self._show_tray),
            (self.state.on_desk.guided, self.looking.show_guides),
            (self.bench.busy, self._show_busy),
            (self.bench.progressed, self._show_progress),
        ):
            signal.connect(self._while_shown(slot))
        for bench in (self.bench, self.behind):
            bench.held = lambda: self.table.canvas.busy
        self._refresh()
        self.looking.read_in(UNITS[self.settings.unit])

    def _while_shown(self, slot: Callable[..., object]) -> Callable[..., None]:
        """What is said while all parts are made anew is shown when they are there."""

        def show(*what: object) -> None:
            if not self._making:
                slot(*what)

        return show

    # construction

    def _make(self) -> Iterator[None]:
        """Makes all that is in the window, in an order in which each finds what it needs; stops wherever others may
        have a turn.
        """
        self._make_rows()
        yield
        for view, make in (
            (View.INTAKE, self._make_intake),
            (View.INSPECT, self._make_inspect),
            (View.COMPOSE, self._make_compose),
            (View.PROOF, self._make_proof),
            (View.RELEASE, self._make_release),
            (View.START, self._make_start),
        ):
            page = make()
            yield
            at = self.pages.addWidget(page)
            assert at == view
            yield
        self._put_together()
        yield

    def _make_rows(self) -> None:
        """The rows above and below the views, and room for these."""
        p = self.colours
        self.head = JobRow(p)
        self.verdict, self.title = self.head.verdict, self.head.title
        views = [
            (view.action, view.name.capitalize(), self.actions_by_id[view.action].text())
            for view in View
            if view is not View.START
        ]
        self.bar = ActionRow(p, self.actions_by_id, views)
        self.bar.views.switched.connect(lambda name: getattr(self, name)())
        self.lamps = self.bar.lamps
        self.lamps.question_chosen.connect(self._go_to_question)
        self.message = MessageBar()
        self.pages = QStackedWidget()
        self.pages.hide()  # until all are there
        self.strip = RecipeStrip(p)
        self.strip.stage_chosen.connect(self.looking.look_at)
        self.strip.menu_asked.connect(self.reciping.show_menu)
        whole = QWidget()
        layout = QVBoxLayout(whole)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        for part in (self.head, self.bar, self.message):
            layout.addWidget(part)
        layout.addWidget(self.pages, 1)
        layout.addWidget(self.strip)
        self.setCentralWidget(whole)

    def _make_intake(self) -> QWidget:
        self.intake = IntakeView(self.colours)
        self.intake.inspect_asked.connect(self.view_inspect)
        self.intake.form.colours_asked.connect(self.filing.set_colours)
        self.intaking = Intaking(self.intake, self.state, Shop(user_config_path("unkelt") / "tickets"), self.watcher)
        return self.intake

    def _make_inspect(self) -> QWidget:
        p = self.colours
        self.docket = Docket(p)
        self.docket.chosen.connect(self.state.surveying.choose)
        self.docket.mend_asked.connect(self.mend_safe)
        self.table = LightTable(p)
        self.table.finding_chosen.connect(self.state.surveying.choose)
        self.table.clicked.connect(self._pick)
        self.table.encircled.connect(self.looking.zoom_to_ring)
        self.table.pointed.connect(self.looking.show_place)
        self.table.view_changed.connect(self.looking.show_scale)
        self.table.guides_changed.connect(self.state.on_desk.lay_guides)
        self.panel = FindingPanel(p)
        self.panel.apply_here.connect(self.apply_here)
        self.panel.apply_alike.connect(self.apply_alike)
        self.panel.step_changed.connect(self._try_step)
        self.panel.next_asked.connect(self.next_finding)
        self.panel.explain_asked.connect(self.helping.explain)

        middle = QWidget()
        over = QGridLayout(middle)
        over.setContentsMargins(0, 0, 0, 0)
        over.addWidget(self.table, 0, 0)
        self.lens_holder = self._make_lenses()
        over.addWidget(self.lens_holder, 0, 0, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignBottom)
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
        split.setSizes([px(296), 666, px(318)])
        return split

    def _make_compose(self) -> QWidget:
        self.compose = ComposeView(self.colours)
        self.compose.table.guides_changed.connect(self.state.on_desk.lay_guides)
        self.composer = Composing(self.compose, self.state, self.drawing, self._show_strip)
        self.panel.offers = self.composer.offers
        return self.compose

    def _make_proof(self) -> QWidget:
        self.proofing = ProofView(self.colours)
        self.proofing.asked.connect(self._look_as)
        return self.proofing

    def _make_release(self) -> QWidget:
        self.releasing = ReleaseView(self.colours)
        self.releasing.asked.connect(self._release)
        return self.releasing

    def _make_start(self) -> QWidget:
        """The page for when there is no job."""
        self.starting = StartView(self.colours)
        self.starting.open_asked.connect(self.filing.open_file)
        self.starting.demo_asked.connect(self.filing.open_demo)
        self.starting.chosen.connect(self.state.opening.open_paths)
        self.starting.taken_up.connect(self.state.opening.take_up)
        self.starting.thrown_away.connect(self._throw_away)
        return self.starting

    def _put_together(self) -> None:
        """What needs all parts."""
        self._show_start()
        self.looking.show_snapping()
        self.looking.take_parts()
        self._cold = [self.pages.widget(at) for at in range(self.pages.count())]
        self._warming.start()
        self.pages.show()
        self.table.setFocus()

    def _warm(self) -> None:
        """Lays one view out and draws it unseen, while no file is open yet: the first time takes longest."""
        if self.state.jobs or self.bench.is_busy():
            self._cold.clear()
        if self._cold:
            page = self._cold.pop()
            if page is not None and not page.isVisible():
                page.resize(self.pages.size())
                page.grab()
        if not self._cold:
            self._warming.stop()

    def _make_lenses(self) -> QWidget:
        holder = named(QWidget(), "holder")
        outer = QHBoxLayout(holder)
        outer.setContentsMargins(38, 0, 0, 12)
        entries = [(lens.value, lens.value, self.actions_by_id[f"lens_{lens.name.lower()}"].text()) for lens in Lens]
        self.lenses = Switch("lenses", entries, self.table.lens.value)
        self.lenses.switched.connect(lambda value: self.looking.set_lens(Lens(value)))
        outer.addWidget(self.lenses)
        self.table.foot = self.lenses.sizeHint().height()
        return holder

    # what the state says

    def _show_start(self) -> None:
        """The page for when no file is open."""
        keeper = self.state.keeping.keeper
        if keeper:
            self.starting.show_start(keeper.left(), keeper.recent(), keeper.together())
        else:
            self.starting.show_start((), ())
        self.pages.setCurrentIndex(View.START)

    def _show_empty(self) -> None:
        self._show_start()
        self._refresh()

    def _show_tray(self) -> None:
        self.intaking.show_tray()
        self._show_head()

    def _throw_away(self, left: Sequence[Kept]) -> None:
        keeper = self.state.keeping.keeper
        if keeper is not None and self.filing.may_discard([kept.path.name for kept in left]):
            for kept in left:
                keeper.throw_away(kept)
            self._show_start()

    def _show_sheet(self, fit: bool) -> None:
        job = self.state.job
        assert job is not None
        if fit:
            self.message.hide()
        if self.view is View.START:
            self.view_inspect()
        self.table.show_drawing(self.drawing(job.shown), fit=fit)
        self.looking.show_guides()
        if fit or self.table.comparison.mode:
            for table in (self.table, self.compose.table):
                mode = Compare.OFF if fit else table.comparison.mode
                table.comparison.show(self.drawing(job.original), mode)
        self.composer.show_ledger(fit=fit)
        if self.view is View.PROOF:
            self.proofing.ask()
        if self.view is View.RELEASE:
            self.view_release()
        self.intaking.show()
        self._refresh()

    def drawing(self, sheet: Sheet) -> Drawing:
        job = self.state.job
        assert job is not None
        return drawing_of(sheet, job.workshop)

    def _show_finding(self) -> None:
        job, finding = self.state.job, self.state.finding
        assert job is not None
        assert finding is not None
        self.docket.choose(self.state.chosen)
        self.table.show_findings(self.state.findings or (), self.state.chosen)
        self.panel.show_finding(finding, self.drawing(job.shown), self.loupe_lens())
        self._try_step()

    def loupe_lens(self) -> Lens:
        finding = self.state.finding
        return Lens.NODES if finding and finding.code.startswith("nodes.") else self.table.lens

    def _try_step(self) -> None:
        if self.composing:
            return
        self.state.stepping.try_step(self.panel.call(alike=False))
        if not self.state.at_latest:
            words = tr("an earlier state:\nlook at the latest\nto mend it")
            self.panel.after.look(None, None, self.table.lens, words)
        self._show_strip()
        self._enable()

    def _show_preview(self) -> None:
        tried = self.state.preview
        assert tried is not None
        self.table.show_tried(tried.marks)
        drawing = self.drawing(tried.outcome.sheet) if tried.outcome else None
        if self.composing:
            self.composer.show_preview(tried)
            self._show_strip()
            return
        self.panel.show_preview(tried, drawing, self.loupe_lens())
        self._show_strip()
        self._enable()

    def _show_proof(self) -> None:
        self._refresh()
        if self.state.proof is not None:
            self.panel.show_proof(self.state.proof)

    def _say(self, sentence: str) -> None:
        self.message.say(sentence)

    # what people do: each is an entry of the table of actions

    def undo(self) -> None:
        if self.state.job:
            self.state.on_desk.change(self.state.job.undo())

    def redo(self) -> None:
        if self.state.job:
            self.state.on_desk.change(self.state.job.redo())

    def next_finding(self) -> None:
        self.state.surveying.choose_next(1, self.docket.shown())

    def previous_finding(self) -> None:
        self.state.surveying.choose_next(-1, self.docket.shown())

    def apply_here(self) -> None:
        self.state.stepping.apply_preview()

    def apply_alike(self) -> None:
        """The step for every finding of this kind, as a rule that another file can follow."""
        call = self.panel.call(alike=True)
        if call is not None and self.panel.alike.isEnabled():
            self.state.stepping.apply(call)

    def mend_all(self) -> None:
        self.state.stepping.mend_all()

    def mend_safe(self) -> None:
        self.state.stepping.mend_safe()

    def stop_work(self) -> None:
        if self.bench.is_busy():
            self.bench.stop()
            if self.state.findings is None:
                self.docket.summary.setText(tr("Stopped"))
        else:
            self.message.hide()

    def view_intake(self) -> None:
        self._turn_to(View.INTAKE)
        after_this_turn(self.intaking, self.intaking.show)  # the page first, so that both are there soon

    def view_inspect(self) -> None:
        self._turn_to(View.INSPECT)
        self._try_step()

    def view_compose(self) -> None:
        self._turn_to(View.COMPOSE)
        self.compose.items.setFocus()  # not the filter: single keys are commands
        self.composer.show_ledger(fit=True)

    def view_proof(self) -> None:
        self._turn_to(View.PROOF)
        self.proofing.ask()

    def _look_as(self, importer: str) -> None:
        if self.state.job and self.view is View.PROOF:
            self.proofing.show_waiting()
            self.state.handing.look_as(importer, self.proofing.show_look)
            self.state.handing.paint(self.proofing.show_painted)

    @property
    def view(self) -> View:
        return View(self.pages.currentIndex())

    @property
    def composing(self) -> bool:
        return self.view is View.COMPOSE

    def _turn_to(self, view: View) -> None:
        if self.state.job:
            self.pages.setCurrentIndex(view)
            self.bar.views.turn_to(view.action)
            self._show_strip()

    def look_theme(self) -> None:
        self.set_palette(DARK if self.colours is LIGHT else LIGHT)
        self.choose(theme="dark" if self.colours is DARK else "light")

    def text_larger(self) -> None:
        self._resize_text(1)

    def text_smaller(self) -> None:
        self._resize_text(-1)

    def _resize_text(self, step: int) -> None:
        """The next size of text up or down; all parts are made anew in it."""
        size = text_step(self.settings.text, system_text_size(), step)
        self.choose(text=size)
        set_text_size(int(size) / 100)
        self.set_palette(self.colours)

    def choose(self, **chosen: Any) -> None:
        """Remembers what was chosen for all jobs."""
        self.settings = replace(self.settings, **chosen)
        if self.settings_path is not None:
            try:
                keep_settings(self.settings_path, self.settings)
            except UnkeltError as problem:
                self.message.say(str(problem))

    def accept_finding(self) -> None:
        """Asks why a finding may stay; an empty reason takes an earlier one back."""
        job, finding = self.state.job, self.state.finding
        if job is None or finding is None:
            return
        words = tr("{headline}.\n\nThe reason why it may stay as it is:").format(headline=finding.headline)
        was = job.accepted.get(finding.key, "")
        reason, sure = QInputDialog.getText(self, tr("Accept it as it is"), words, text=was)
        if sure:
            self.state.surveying.accept(reason.strip())

    def release_job(self) -> None:
        """To where it is released from."""
        self.view_release()

    def view_release(self) -> None:
        job = self.state.job
        if job:
            self._turn_to(View.RELEASE)
            self.releasing.show_job(job, self.state.findings or (), self.drawing(job.sheet))

    def _release(self, folder: str, reason: str, wanted: dict[str, object]) -> None:
        self.state.handing.release_to(
            Path(folder), self.filing.ask_reason, reason, self.releasing.show_package, **wanted
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
        self.state.opening.open_paths(
            [path for path in paths if path.suffix != ".toml"], tickets[0] if tickets else None
        )
        event.acceptProposedAction()

    def closeEvent(self, event: QCloseEvent) -> None:
        unsaved = [job.title for job in self.state.jobs if job.unsaved_changes]
        if unsaved and not self.filing.may_discard(unsaved):
            event.ignore()
            return
        self.bench.wait()
        self.behind.wait()
        self.archive.wait()
        finish_drawing()
        self.state.keeping.end()
        super().closeEvent(event)

    # showing the state

    def set_palette(self, palette: Palette) -> None:
        """Light or dark; all parts are made anew in the new colours, and in the size of text that was chosen."""
        self.colours = palette
        after_this_turn(self, self._make_anew)  # not while an old part is still at it

    def _make_anew(self) -> None:
        """The old parts go first, as dressing them anew would take longest; the others come one after another, while
        the window goes on but for keys and the pointer, which are looked at when all are there.
        """
        if self._making:
            after_this_turn(self, self._make_anew)
            return
        self._making = True
        lens, view = self.table.lens, self.view
        self.behind.stop("picture")  # what is under way for parts that are about to go
        for purpose in ("ledger", "look", "trial"):
            self.bench.stop(purpose)
        self._warming.stop()
        old = self.centralWidget()
        self.setCentralWidget(QWidget())  # which asks for the old one to be deleted
        QApplication.sendPostedEvents(old, QEvent.Type.DeferredDelete.value)
        self._dress()
        _let_others_on()
        for _ in self._make():
            _let_others_on()
        self._making = False
        self._take_up(lens, view)

    def _dress(self) -> None:
        app = QApplication.instance()
        if isinstance(app, QApplication):
            app.setFont(font())
            app.setStyleSheet(style_sheet(self.colours))
        colour_icons(self.actions_by_id, self.colours.text)

    def _take_up(self, lens: Lens, view: View) -> None:
        """Parts that were made anew show what the old ones showed."""
        self.looking.read_in(UNITS[self.settings.unit])
        self.looking.set_lens(lens)
        self._refresh()
        if self.state.job:
            self.state.show_again()
            getattr(self, view.action)()

    def _show_head(self) -> None:
        """The job in front and its verdict."""
        job = self.state.job
        judged = verdict(job, self.state.findings, self.state.proof) if job else Verdict("open", "")
        self.verdict.show_verdict(judged)
        several = len(self.state.jobs) > 1
        ticket = job.ticket.in_one_line() if job else tr("no file open")
        self.head.show_job(job.title if job else "Unkelt", ticket, self._open_files_menu() if several else None)
        self.setWindowTitle(
            tr("{title} · {words} · Unkelt").format(title=job.title, words=judged.words) if job else "Unkelt"
        )

    def _refresh(self) -> None:
        """Everything but the table's drawing and the panel follows from the state; this shows it."""
        job = self.state.job
        self._show_head()
        self.lamps.show_findings(self.state.findings if job else None)
        for part in (self.lamps, self.docket, self.panel, self.lens_holder, self.bar.views):
            part.setVisible(job is not None)
        words = "" if job is None else tr("Looking…") if self.state.findings is None else summary(self.state.findings)
        self.docket.show_findings(self.state.findings or () if self.state.findings is not None else (), words)
        self.docket.list.setVisible(self.state.findings is not None)
        self.docket.mend.setVisible(bool(self.state.findings))
        self.table.show_findings(self.state.findings or (), self.state.chosen)
        if job is None:
            self.panel.show_nothing("", "")
        elif self.state.findings is None:
            self.panel.show_nothing(tr("Looking it over…"), tr("The drawing can already be looked at."))
        elif not any(isinstance(item, Outline | Lettering | Picture) for item in job.shown.walk()):
            self.panel.show_nothing(
                tr("There is nothing on this sheet"),
                tr(
                    "The file was read to its end and draws nothing: the view Intake says what was left out of it, if anything."
                ),
            )
        elif not self.state.findings:
            if self.state.proof is not None and job.saved:
                self.panel.show_proof(self.state.proof)
            else:
                self.panel.show_nothing(
                    tr("Nothing found"),
                    tr(
                        "Save the result (Ctrl+S): the saved file is then read back by another reader, as importing software "
                        "would, and judged."
                    ),
                )
        self._show_strip()
        self._enable()

    def _show_strip(self) -> None:
        job = self.state.job
        self.strip.setVisible(job is not None)
        if job is None:
            return
        cards = [(tr("as received"), original_caption(job), "")]
        cards += [(stage.call.name, stage_caption(stage), stage.refused or "") for stage in job.stages]
        shown = len(job.stages) if job.looking_at is None else job.looking_at
        tried = self.state.preview
        seen = self.view in (View.INSPECT, View.COMPOSE) and job.looking_at is None
        coming = tried.call.name if seen and tried and tried.outcome else None
        self.strip.show_stages(cards, shown, coming)
        self.strip.totals.setText(said(totals(self.state.sums)) if self.state.sums is not None else "")
        self.strip.saved.setText(said(saved_words(job)))

    def _enable(self) -> None:
        state = self.state
        ready = enabled(state.job, state.findings, state.chosen, state.preview)
        for name, value in ready.items():
            self.actions_by_id[name].setEnabled(value)
        self.docket.mend.setEnabled(ready["mend_safe"])

    def _open_files_menu(self) -> QMenu:
        self._files_menu.clear()
        for index, job in enumerate(self.state.jobs):
            action = self._files_menu.addAction(f"{job.title}    {job.path.name}")
            action.triggered.connect(lambda _=False, at=index: self.state.on_desk.bring_forward(at))
        return self._files_menu

    def _go_to_question(self, question: str) -> None:
        index = next((at for at, f in enumerate(self.state.findings or ()) if f.question.value == question), None)
        if index is not None:
            self.state.surveying.choose(index)

    def _pick(self, x: float, y: float) -> None:
        """A finding about what lies there is chosen."""
        job = self.state.job
        if job is None:
            return
        items = items_at(job.shown, job.workshop, x, y, self.table.reach_mm)
        number = said_about(items, self.state.findings or (), self.state.chosen)
        if number is not None:
            self.state.surveying.choose(number)

    def _show_busy(self, busy: bool, words: str) -> None:
        self.docket.progress.show_share(0.06 if busy else 0.0)
        if busy and words:
            self.docket.progress.setAccessibleDescription(said(words))

    def _show_progress(self, share: float, words: str) -> None:
        self.docket.progress.show_share(share)
        self.docket.progress.setAccessibleDescription(said(words))


def _let_others_on() -> None:
    """What is waiting has its turn, but for keys and the pointer."""
    QApplication.processEvents(QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents)
