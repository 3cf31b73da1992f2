"""What is in the window: the rows, the views and who works in them, put together and joined to the state."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import Any

from platformdirs import user_config_path
from PySide6.QtWidgets import QMenu, QStackedWidget, QVBoxLayout, QWidget

from unkelt.desk.benching import Benching
from unkelt.desk.common.bars import MessageBar, RecipeStrip
from unkelt.desk.common.drawing import Drawing, drawing_of
from unkelt.desk.common.specimens import PictureStrip
from unkelt.desk.common.worker import Bench, after_this_turn
from unkelt.desk.compose.controller import Composing
from unkelt.desk.compose.hands import Hands
from unkelt.desk.compose.view import ComposeView
from unkelt.desk.compose.writing import WritingOnTable
from unkelt.desk.filing import Filing
from unkelt.desk.frame import Frame
from unkelt.desk.head import ActionRow, JobRow
from unkelt.desk.helping import Helping
from unkelt.desk.inspect.controller import Inspecting
from unkelt.desk.intake.controller import Intaking
from unkelt.desk.intake.view import IntakeView
from unkelt.desk.intake.watch import Watcher
from unkelt.desk.laying import Laying
from unkelt.desk.looking import Looking
from unkelt.desk.proof.view import ProofView
from unkelt.desk.reciping import Reciping
from unkelt.desk.release.view import ReleaseView
from unkelt.desk.start import StartView
from unkelt.desk.tables import Tables
from unkelt.desk.views import View
from unkelt.desk.warming import Warming
from unkelt.desk.zooming import Zooming
from unkelt.language import tr
from unkelt.session.availability import enabled
from unkelt.session.kept_jobs import Kept
from unkelt.session.sentences import Verdict, verdict
from unkelt.session.shop import Shop
from unkelt.sheet.model import Sheet


class Room(QWidget):
    """Made in turns (`furnish`), so that a window that is shown already goes on meanwhile. What the state says is shown
    once all is there, until `leave`.
    """

    def __init__(self, window: Frame, bench: Bench, watcher: Watcher) -> None:
        super().__init__()
        self.frame, self.state, self._bench, self._watcher = window, window.state, bench, watcher
        self._heard: list[tuple[Any, Callable[..., object]]] = []  # signals of Qt and of psygnal

    # put together

    def furnish(self, *, grid: bool = False) -> Iterator[None]:
        """Makes all parts, in an order in which each finds what it needs; stops wherever others may have a turn."""
        self._make_rows()
        yield
        state, actions = self.state, self.frame.actions_by_id
        self.filing = Filing(self.frame)
        self.intake = IntakeView()
        self.intaking = Intaking(self.intake, state, Shop(user_config_path("unkelt") / "tickets"), self._watcher)
        yield
        self.inspecting = Inspecting(state, actions, self.drawing, self._step_set)
        yield
        self.compose = ComposeView()
        do = self.frame.do
        self.composer = Composing(self.compose, state, self.drawing, self._step_set, do)
        self.hands, self.writing = Hands(self.composer), WritingOnTable(self.composer)
        yield
        self.proofing = ProofView()
        yield
        self.releasing, self.starting = ReleaseView(), StartView()
        yield
        for view, page in (
            (View.INTAKE, self.intake),
            (View.INSPECT, self.inspecting),
            (View.COMPOSE, self.compose),
            (View.PROOF, self.proofing),
            (View.RELEASE, self.releasing),
            (View.START, self.starting),
        ):
            assert self.pages.addWidget(page) == view
            yield
        self._put_together(grid=grid)
        self._listen()
        yield

    def _make_rows(self) -> None:
        """The rows above and below the views, and room for these."""
        actions = self.frame.actions_by_id
        views = [(view.action, view.name.capitalize(), actions[view.action].text()) for view in View.all()]
        self.head, self.bar = JobRow(), ActionRow(actions, views)
        self.message, self.pages, self.strip = MessageBar(), QStackedWidget(), RecipeStrip()
        self.pages.hide()  # until all are there
        self.files = QMenu(tr("Open files"), self)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        for part in (self.head, self.bar, self.message):
            layout.addWidget(part)
        layout.addWidget(self.pages, 1)
        layout.addWidget(self.strip)

    def _put_together(self, *, grid: bool) -> None:
        """Those who work in several views, and what one view asks of another."""
        inspecting, proof = self.inspecting, self.proofing
        self.tables = Tables(
            (inspecting.table, self.compose.table, proof.meant, proof.read),
            {View.INSPECT: inspecting.table, View.COMPOSE: self.compose.table, View.PROOF: proof.read},
            lambda: self.view,
        )
        self.helping = Helping(self.frame, self.compose)
        self.zooming = Zooming(self.frame, self.tables)
        self.laying = Laying(self.frame, self.tables, self.composer, grid=grid)
        self.looking = Looking(self.frame, self.tables, inspecting, self.compose, self.drawing)
        self.benching = Benching(self.frame, self.composer, self.hands, self.writing, inspecting, self.looking)
        self.benching.changed.connect(self._step_set)
        self.reciping = Reciping(
            self.frame,
            self.strip,
            self.looking.look_at,
            self.benching.change_step,
            lambda: self.composer.changing,
        )
        inspecting.panel.offers = self.composer.offers
        for signal, slot in (
            (self.bar.views.switched, lambda name: self.turn_to(View.by_action(name))),
            (self.bar.lamps.question_chosen, inspecting.go_to_question),
            (self.intake.inspect_asked, lambda: self.turn_to(View.INSPECT)),
            (self.intake.form.colours_asked, self.filing.set_colours),
            (inspecting.panel.explain_asked, self.helping.explain),
            (self.compose.table.hand.guides_changed, self.state.on_desk.lay_guides),
            (self.compose.table.hand.nudged, self.hands.nudge),
            (self.compose.chosen_changed, self.benching.chosen_changed),
            (self.compose.figures_asked, self.benching.show_figures),
            (self.compose.lens_asked, lambda lens: self.frame.do(f"lens_{lens.lower()}")),
            (proof.asked, self._look_as),
            (self.releasing.asked, self._release),
            (self.releasing.ticket_made, self.state.on_desk.use_ticket),
            (self.starting.open_asked, self.filing.open_file),
            (self.starting.new_asked, self.filing.new_sheet),
            (self.starting.demo_asked, self.filing.open_demo),
            (self.starting.chosen, self.state.opening.open_paths),
            (self.starting.taken_up, self.state.opening.take_up),
            (self.starting.thrown_away, self._throw_away),
        ):
            signal.connect(slot)
        self._show_start()
        self.looking.show_unit()
        self.refresh()
        self._warming = Warming(self.pages, lambda: bool(self.state.jobs) or self._bench.is_busy())
        self.pages.show()
        inspecting.table.setFocus()

    def _listen(self) -> None:
        state = self.state
        self._heard = [
            (state.on_desk.shown, self._show_sheet),
            (state.on_desk.said, self.message.say),
            (state.on_desk.emptied, self._show_empty),
            (state.on_desk.tray, self._show_tray),
            (state.on_desk.guided, self.laying.show_guides),
            (state.opening.reshelved, self.compose.options.show_shelf),
            (state.opening.reshelved, self.inspecting.panel.options.show_shelf),
            (state.surveying.found, self.refresh),
            (state.surveying.chose, self._show_finding),
            (state.stepping.previewed, self._show_preview),
            (state.handing.proved, self._show_proof),
            (state.handing.released, self.refresh),
            (self._bench.busy, self._show_busy),
            (self._bench.progressed, self.inspecting.show_share),
        ]
        for signal, slot in self._heard:
            signal.connect(slot)

    def leave(self) -> None:
        """Nothing that is said from now on is shown here."""
        for signal, slot in self._heard:
            signal.disconnect(slot)
        self._heard.clear()
        self._warming.stop()

    # the views

    @property
    def view(self) -> View:
        """The view that is shown."""
        return View(self.pages.currentIndex())

    def turn_to(self, view: View) -> None:
        """Shows a view of the job in front, and what it has to show."""
        job = self.state.job
        if job is None:
            return
        self.pages.setCurrentIndex(view)
        self.bar.views.turn_to(view.action)
        self.reciping.show()
        match view:
            case View.INTAKE:
                after_this_turn(self.intaking, self.intaking.show)  # the page first, so that both are there soon
            case View.INSPECT:
                self.inspecting.try_step()
            case View.COMPOSE:
                self.state.stepping.clear()  # what is tried in Inspect
                self.compose.table.setFocus()  # not the filter: single keys are commands
                self.composer.show_ledger(fit=True)
                self._step_set()
            case View.PROOF:
                self.proofing.show_readers(job.ticket)
                self.proofing.ask()
            case View.RELEASE:
                self.releasing.show_job(job, self.state.findings, self.drawing(job.sheet), self.composer.chosen_ids)

    def drawing(self, sheet: Sheet) -> Drawing:
        """A sheet of the job in front, made ready to be drawn."""
        job = self.state.job
        assert job is not None
        return drawing_of(sheet, job.workshop)

    def show_palette(self) -> None:
        """Pictures that were painted in the window's colours are painted anew."""
        self.compose.paint_anew()
        for strip in self.findChildren(PictureStrip):
            strip.paint_anew()
        self.proofing.pair.show_again()

    # what the state says

    def refresh(self) -> None:
        """Everything but the tables' drawings follows from the state; this shows it."""
        self._show_head()
        there = self.state.job is not None
        self.bar.lamps.show_findings(self.state.findings if there else None)
        for part in (self.bar.lamps, self.bar.views):
            part.setVisible(there)
        self.inspecting.refresh()
        if self.view is View.RELEASE and self.state.job is not None:
            self.releasing.show_findings(self.state.job, self.state.findings)
        self._step_set()

    def _show_head(self) -> None:
        """The job in front and its verdict."""
        job = self.state.job
        judged = verdict(job, self.state.findings, self.state.proof) if job else Verdict("open", "")
        self.head.verdict.show_verdict(judged)
        ticket = job.ticket.in_one_line() if job else tr("no file open")
        several = len(self.state.jobs) > 1
        self.head.show_job(job.title if job else "Unkelt", ticket, self._files_menu() if several else None)
        self.frame.itself.setWindowTitle(
            tr("{title} · {words} · Unkelt").format(title=job.title, words=judged.words) if job else "Unkelt"
        )

    def _files_menu(self) -> QMenu:
        self.files.clear()
        for index, job in enumerate(self.state.jobs):
            action = self.files.addAction(f"{job.title}    {job.path.name}")
            action.triggered.connect(lambda _=False, at=index: self.state.on_desk.bring_forward(at))
        return self.files

    def _step_set(self) -> None:
        """What is tried, or could be, is another."""
        self.reciping.show()
        state = self.state
        items = len(self.compose.chosen()) if self.view is View.COMPOSE else None
        ready = enabled(state.job, state.findings, state.chosen, state.preview, items)
        for name, value in ready.items():
            self.frame.actions_by_id[name].setEnabled(value)
        self.inspecting.docket.mend.setEnabled(ready["mend_safe"])

    def _show_sheet(self, fit: bool) -> None:
        job = self.state.job
        assert job is not None
        if fit:
            self.message.hide()
        if self.view is View.START:
            self.turn_to(View.INSPECT)
        self.inspecting.table.show_drawing(self.drawing(job.shown), fit=fit)
        self.laying.show_guides()
        for table in (self.inspecting.table, self.compose.table):
            self.looking.compare_again(table, off=fit)
        self.composer.sheet_shown()
        self.composer.show_ledger(fit=fit)
        if self.view is View.PROOF:
            self.proofing.show_readers(job.ticket)
            self.proofing.ask()
        if self.view is View.RELEASE:
            self.turn_to(View.RELEASE)
        self.intaking.show()
        self.refresh()

    def _show_finding(self) -> None:
        if self.view is not View.COMPOSE:  # what is tried there has nothing to do with the findings
            self.state.stepping.clear()
        self.inspecting.show_finding()

    def _show_preview(self) -> None:
        tried = self.state.preview
        assert tried is not None
        self.inspecting.table.show_tried(tried.marks)
        if self.view is View.COMPOSE:
            self.composer.show_preview(tried)
        else:
            self.inspecting.show_preview()
        self._step_set()

    def _show_proof(self) -> None:
        self.refresh()
        if self.state.proof is not None:
            self.inspecting.panel.show_proof(self.state.proof)

    def _show_tray(self) -> None:
        self.intaking.show_tray()
        self._show_head()

    def _show_empty(self) -> None:
        self._show_start()
        self.refresh()

    def _show_start(self) -> None:
        """The page for when no file is open."""
        keeper = self.state.keeping.keeper
        if keeper:
            self.starting.show_start(keeper.left(), keeper.recent(), keeper.together())
        else:
            self.starting.show_start((), ())
        self.pages.setCurrentIndex(View.START)

    def _show_busy(self, busy: bool, words: str) -> None:
        self.inspecting.show_share(0.06 if busy else 0.0, words if busy else "")

    # what views ask

    def _throw_away(self, left: Sequence[Kept]) -> None:
        keeper = self.state.keeping.keeper
        if keeper is not None and self.filing.may_discard([kept.path.name for kept in left]):
            for kept in left:
                keeper.throw_away(kept)
            self._show_start()

    def _look_as(self, importer: str) -> None:
        if self.state.job and self.view is View.PROOF:
            self.proofing.show_waiting()
            self.state.handing.look_as(importer, self.proofing.show_look, self.proofing.show_refused)
            self.state.handing.paint(self.proofing.show_painted)

    def _release(self, folder: str, reason: str, wanted: dict[str, Any]) -> None:  # the options of `release`
        self.state.handing.release_to(
            Path(folder), self.filing.ask_reason, reason, self.releasing.show_package, **wanted
        )
