"""What goes on in the Inspect view: its docket, table and panel follow the findings, and what people do there is tried
and taken.
"""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QInputDialog, QLabel, QSplitter, QWidget

from unkelt.app.desktop import Desktop
from unkelt.desk.common.drawing import Drawing, Lens
from unkelt.desk.common.switch import Switch
from unkelt.desk.common.theme import font, px
from unkelt.desk.common.widgets import named
from unkelt.desk.inspect.docket import Docket
from unkelt.desk.inspect.panel import FindingPanel
from unkelt.desk.table.table import LightTable
from unkelt.language import said, tr
from unkelt.session.picking import items_at, said_about
from unkelt.session.sentences import summary
from unkelt.sheet.model import Lettering, Outline, Picture, Sheet


class Inspecting(QSplitter):
    """The view itself, and what is done in it. `drawing` makes a sheet ready to be drawn; `tried` is told after a step
    was set.
    """

    def __init__(
        self,
        state: Desktop,
        actions: dict[str, QAction],
        drawing: Callable[[Sheet], Drawing],
        tried: Callable[[], None],
    ) -> None:
        super().__init__(Qt.Orientation.Horizontal)
        self.state, self._drawing, self._tried = state, drawing, tried
        self.docket, self.table, self.panel = Docket(), LightTable(), FindingPanel()
        self.docket.chosen.connect(state.surveying.choose)
        self.docket.mend_asked.connect(state.stepping.mend_safe)
        self.table.hand.finding_chosen.connect(state.surveying.choose)
        self.table.hand.clicked.connect(self._pick)
        self.table.hand.encircled.connect(self._zoom_to_ring)
        self.table.hand.guides_changed.connect(state.on_desk.lay_guides)
        self.panel.apply_here.connect(self.apply_here)
        self.panel.apply_alike.connect(self.apply_alike)
        self.panel.step_changed.connect(self.try_step)
        self.panel.next_asked.connect(self.next_finding)
        self.lenses = self._make_lenses(actions)
        self.place = QLabel("")
        self._lay_out()

    def _make_lenses(self, actions: dict[str, QAction]) -> Switch:
        entries = [(lens.value, lens.value, actions[f"lens_{lens.name.lower()}"].text()) for lens in Lens]
        lenses = Switch("lenses", entries, self.table.lens.value)
        self.table.sight.foot = lenses.sizeHint().height()
        return lenses

    def _lay_out(self) -> None:
        self.lens_holder = named(QWidget(), "holder")
        row = QHBoxLayout(self.lens_holder)
        row.setContentsMargins(38, 0, 0, 12)
        row.addWidget(self.lenses)
        self.place.setFont(font(9.5))
        self.place.setProperty("role", "muted")
        self.place.setStyleSheet("background: transparent; padding: 0 12px 14px 0;")
        self.place.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        middle = QWidget()
        over = QGridLayout(middle)
        over.setContentsMargins(0, 0, 0, 0)
        over.addWidget(self.table, 0, 0)
        over.addWidget(self.lens_holder, 0, 0, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignBottom)
        over.addWidget(self.place, 0, 0, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom)
        self.setHandleWidth(1)
        for widget in (self.docket, middle, self.panel):
            self.addWidget(widget)
        self.setStretchFactor(1, 1)
        self.setCollapsible(1, False)
        self.setSizes([px(296), 666, px(318)])

    # what is shown

    def refresh(self) -> None:
        """Docket, marks and panel follow from the findings."""
        job, findings = self.state.job, self.state.findings
        for part in (self.docket, self.panel, self.lens_holder):
            part.setVisible(job is not None)
        words = "" if job is None else tr("Looking…") if findings is None else summary(findings)
        self.docket.show_findings(findings or (), words)
        self.docket.list.setVisible(findings is not None)
        self.docket.mend.setVisible(bool(findings))
        self.table.show_findings(findings or (), self.state.chosen)
        if job is None:
            self.panel.show_nothing("", "")
        elif findings is None:
            self.panel.show_nothing(tr("Checking…"), tr("You can already look at the drawing."))
        elif not any(isinstance(item, Outline | Lettering | Picture) for item in job.shown.walk()):
            self.panel.show_nothing(
                tr("There is nothing on this sheet"),
                tr("The file draws nothing. The Intake view lists what was left out, if anything."),
            )
        elif not findings and self.state.proof is not None and job.saved:
            self.panel.show_proof(self.state.proof)
        elif not findings:
            self.panel.show_nothing(
                tr("Nothing found"),
                tr(
                    "Save the result (Ctrl+S). A second, independent reader then opens the saved file as importing "
                    "software would."
                ),
            )

    def show_finding(self) -> None:
        """The finding that is chosen, and a trial of its step."""
        job, finding = self.state.job, self.state.finding
        assert job is not None
        assert finding is not None
        self.docket.choose(self.state.chosen)
        self.table.show_findings(self.state.findings or (), self.state.chosen)
        self.panel.show_finding(finding, self._drawing(job.shown), self.loupe_lens())
        self.try_step()

    def show_preview(self) -> None:
        """What the cure that is tried would do."""
        tried = self.state.preview
        assert tried is not None
        drawing = self._drawing(tried.outcome.sheet) if tried.outcome else None
        self.panel.show_preview(tried, drawing, self.loupe_lens())

    def show_lens(self, lens: Lens) -> None:
        """Through what one looks, on table and loupe."""
        self.table.set_lens(lens)
        self.lenses.turn_to(lens.value)
        if self.state.finding is not None:
            self.panel.show_lens(self.loupe_lens())

    def loupe_lens(self) -> Lens:
        """The lens that the loupe looks through."""
        finding = self.state.finding
        return Lens.NODES if finding and finding.code.startswith("nodes.") else self.table.lens

    def show_share(self, share: float, words: str = "") -> None:
        """How far what is waited for has come."""
        self.docket.progress.show_share(share)
        if words:
            self.docket.progress.setAccessibleDescription(said(words))

    def say(self, words: str) -> None:
        """In the corner of the table, where there is room beside the lenses."""
        self.place.setText(words)
        self.place.setVisible(self.lens_holder.sizeHint().width() + self.place.sizeHint().width() <= self.table.width())

    # what people do

    def try_step(self) -> None:
        """Tries the step that is set in the panel."""
        if not self.isVisible():
            return
        self.state.stepping.try_step(self.panel.call(alike=False))
        if not self.state.at_latest:
            words = tr("earlier state:\nshow the sheet as it is now\nto mend it")
            self.panel.after.look(None, None, self.table.lens, words)
        self._tried()

    def next_finding(self) -> None:
        """Chooses the next finding."""
        self.state.surveying.choose_next(1, self.docket.shown())

    def previous_finding(self) -> None:
        """Chooses the finding before."""
        self.state.surveying.choose_next(-1, self.docket.shown())

    def apply_here(self) -> None:
        """Takes the cure that is tried."""
        self.state.stepping.apply_preview()

    def apply_alike(self) -> None:
        """The step for every finding of this kind, as a rule that another file can follow."""
        call = self.panel.call(alike=True)
        if call is not None and self.panel.alike.isEnabled():
            self.state.stepping.apply(call)

    def accept_finding(self) -> None:
        """Asks why a finding may stay; an empty reason takes an earlier one back."""
        job, finding = self.state.job, self.state.finding
        if job is None or finding is None:
            return
        words = tr("{headline}.\n\nReason for accepting it:").format(headline=finding.headline)
        was = job.accepted.get(finding.key, "")
        reason, sure = QInputDialog.getText(self, tr("Accept as it is"), words, text=was)
        if sure:
            self.state.surveying.accept(reason.strip())

    def zoom_finding(self) -> None:
        """Brings the finding near."""
        finding = self.state.finding
        if finding and finding.box:
            self.table.sight.close_to(finding.box)

    def go_to_question(self, question: str) -> None:
        """To the first finding of a question."""
        index = next((at for at, f in enumerate(self.state.findings or ()) if f.question.value == question), None)
        if index is not None:
            self.state.surveying.choose(index)

    def _pick(self, x: float, y: float) -> None:
        """A finding about what lies there is chosen."""
        job = self.state.job
        if job is None:
            return
        items = items_at(job.shown, job.workshop, x, y, self.table.sight.reach_mm)
        number = said_about(items, self.state.findings or (), self.state.chosen)
        if number is not None:
            self.state.surveying.choose(number)

    def _zoom_to_ring(self, ring: list[tuple[float, float]]) -> None:
        xs, ys = zip(*ring, strict=True)
        self.table.sight.close_to((min(xs), min(ys), max(xs), max(ys)))
