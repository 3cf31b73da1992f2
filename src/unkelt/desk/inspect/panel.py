"""The right-hand panel: a finding in a sentence, its loupe, figures now → after, options, and the step; or the
proof.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from unkelt.desk.common.drawing import Drawing, Lens
from unkelt.desk.common.loupe import LEAST, Loupe
from unkelt.desk.common.options import OptionForm
from unkelt.desk.common.proof_box import FigureRows, ProofBox
from unkelt.desk.common.theme import PAD, font, px
from unkelt.desk.common.widgets import label, named, scrolling
from unkelt.language import said, tr
from unkelt.proof.proof import Proof
from unkelt.recipe import Call
from unkelt.session.offers import Offers
from unkelt.session.preview import Preview
from unkelt.session.sentences import explained, proof_rows
from unkelt.session.viewport import loupe_box, moved_box
from unkelt.steps.cures import cures_of
from unkelt.steps.steps import STEPS
from unkelt.survey.finding import Finding

GAP = 10
"""Pixels between what stands under each other in the panel."""


class _Inside(QWidget):
    """What the panel scrolls; it says when it asks for another height, or has another width."""

    asks = Signal()

    def event(self, event: QEvent) -> bool:
        done = super().event(event)
        if event.type() in (QEvent.Type.LayoutRequest, QEvent.Type.Resize):
            self.asks.emit()
        return done


NARROWEST = 318
"""With text of any size, where the window is narrow."""


class FindingPanel(QWidget):
    """Shows one of: nothing yet, a finding with the preview of its step, or the proof of the saved file."""

    step_changed = Signal()
    apply_here = Signal()
    apply_alike = Signal()
    next_asked = Signal()
    explain_asked = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setMinimumWidth(NARROWEST)
        self.setMaximumWidth(px(318))
        self.finding: Finding | None = None
        self.offers: Callable[[Sequence[str]], Offers] | None = None
        """What a step on some items may be chosen from."""

        self.inside, self.footer = _Inside(), named(QWidget(), "footer")
        self.inside.asks.connect(self._fit)
        self.footer.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(1, 0, 0, 0)
        outer.setSpacing(0)
        self.area = scrolling(self.inside, upright=True)
        outer.addWidget(self.area, 1)
        outer.addWidget(self.footer)
        self.headline = label("", 14, 600, wrap=True)
        self.message = label("", 10, role="muted", wrap=True)
        self.message.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self._make_loupes()
        self.figures = FigureRows()
        self.proofbox = ProofBox()
        self.choice = QComboBox()
        self.choice.setFont(font(10))
        self.choice.setAccessibleName(tr("Step"))
        self.choice.currentIndexChanged.connect(self._step_chosen)
        self.options = OptionForm(dense=True)
        self.options.changed.connect(self.step_changed)
        layout = QVBoxLayout(self.inside)
        layout.setContentsMargins(PAD, PAD, PAD, PAD)
        layout.setSpacing(GAP)
        above: list[QWidget] = [self.headline, self.message, self.loupes]
        self.parts = [*above, self.choice, self.options, self.figures, self.proofbox]
        for widget in self.parts:
            layout.addWidget(widget)
        layout.addStretch(1)
        self._make_footer()
        self.show_nothing("", "")

    def _make_loupes(self) -> None:
        """The place now and after the step, beside each other."""
        self.now, self.after = Loupe("now"), Loupe("after")
        for loupe in (self.now, self.after):
            loupe.moved.connect(self._look_around)
        self.after_words = label(tr("after"), 9, role="muted")
        self.loupes = QWidget()
        self.beside = grid = QGridLayout(self.loupes)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(3)
        grid.addWidget(self.now, 0, 0)
        grid.addWidget(self.after, 0, 1)
        grid.addWidget(label(tr("now"), 9, role="muted"), 1, 0)
        grid.addWidget(self.after_words, 1, 1)

    def _make_footer(self) -> None:
        """The buttons that take the step, and the links under them."""
        self.here = QPushButton(tr("Apply"))
        self.here.setProperty("role", "primary")
        self.here.setFont(font(10.5, 600))
        self.here.clicked.connect(self.apply_here)
        self.alike = QPushButton(tr("All alike"))
        self.alike.setFont(font(10.5, 500))
        self.alike.clicked.connect(self.apply_alike)
        self.next = QPushButton(tr("Next finding  J"))
        self.explain = QPushButton(tr("What this means"))
        for link, asked in ((self.next, self.next_asked), (self.explain, self.explain_asked)):
            link.setProperty("role", "link")
            link.setFont(font(9.5))
            link.clicked.connect(asked)
        self.buttons = QWidget()
        row = QHBoxLayout(self.buttons)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.here, 1)
        row.addWidget(self.alike, 1)
        foot = QVBoxLayout(self.footer)
        foot.setContentsMargins(PAD, 12, PAD, 8)
        foot.setSpacing(4)
        foot.addWidget(self.buttons)
        links = QHBoxLayout()
        links.addWidget(self.explain)
        links.addStretch(1)
        links.addWidget(self.next)
        foot.addLayout(links)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        """The pictures give way, as far as they can, so that the proof stands above the buttons: there is a scroll bar
        only where that isn't enough. What is asked here doesn't depend on how high the pictures are, so that nothing
        goes to and fro.
        """
        if self.loupes.isHidden():
            self.area.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
            return
        room = self.area.maximumViewportSize()
        width = room.width() - 2 * PAD
        others = [part for part in self.parts if part is not self.loupes and not part.isHidden()]
        under = self.beside.verticalSpacing() + self.after_words.sizeHint().height()
        taken = sum(
            GAP + (part.heightForWidth(width) if part.hasHeightForWidth() else part.sizeHint().height())
            for part in others
        )
        left = min((width - self.beside.horizontalSpacing()) // 2, room.height() - taken - under - 2 * PAD)
        for loupe in (self.now, self.after):
            loupe.setMaximumHeight(max(left, px(LEAST)))
        self.area.setVerticalScrollBarPolicy(
            Qt.ScrollBarPolicy.ScrollBarAlwaysOff if left >= px(LEAST) else Qt.ScrollBarPolicy.ScrollBarAsNeeded
        )

    # what is shown

    def show_nothing(self, headline: str, message: str) -> None:
        """No finding is chosen."""
        self.finding = None
        self._say(headline, message)
        for widget in (self.loupes, self.figures, self.proofbox, self.choice, self.options, self.footer):
            widget.hide()

    def show_finding(self, finding: Finding, drawing: Drawing, lens: Lens) -> None:
        """A finding, what it means, and what would cure it."""
        self.finding = finding
        self._say(finding.headline, explained(finding))
        self.now.look(drawing, loupe_box(finding), lens, tr("nowhere on the sheet"))
        self.after.look(None, None, lens, "…" if cures_of(finding) else tr("no step\ncures this"))
        self.loupes.show()
        self.footer.show()
        self.figures.hide()
        self.proofbox.hide()
        cures = cures_of(finding)
        self._offer(cures)
        self.buttons.setVisible(bool(cures))
        self.here.setEnabled(False)
        self.alike.setEnabled(False)

    def show_preview(self, preview: Preview, drawing: Drawing | None, lens: Lens) -> None:
        """What the cure that is tried would do."""
        if self.finding is None:
            return
        self.after.look(drawing, self.now.box, lens, tr("stays as it is"))
        self.figures.show_preview(preview)
        self.proofbox.show_preview(preview)
        self.here.setEnabled(preview.refusal is None)
        self.alike.setEnabled(preview.refusal is None)

    def show_proof(self, proof: Proof) -> None:
        """What reading the saved file back said."""
        self.finding = None
        clean = proof.verdict == "clean"
        self._say(
            tr("Read back: clean") if clean else tr("Read back: on hold"),
            tr(
                "A second, independent reader opened the saved file as importing software does: it ignores text and "
                "makes one body of each compound path."
            ),
        )
        for widget in (self.loupes, self.choice, self.options, self.footer):
            widget.hide()
        self.figures.show_rows([(name, "", value) for name, value in proof_rows(proof)])
        self.proofbox.say(proof.verdict, [tr("The file imports as intended.")] if clean else list(proof.reasons))

    def show_lens(self, lens: Lens) -> None:
        """Both loupes through this lens."""
        for loupe in (self.now, self.after):
            loupe.lens = lens
            loupe.update()

    def call(self, alike: bool) -> Call | None:
        """The step as it is set in the panel, for this finding or for all of its kind."""
        if self.finding is None or not cures_of(self.finding):
            return None
        name = self.step_name()
        items, rule = ((), self.finding.code) if alike else (self.finding.items, None)
        return Call(name, items, rule, self.options.values())

    def step_name(self) -> str:
        """The cure that is chosen."""
        assert self.finding is not None
        return str(self.choice.currentData() or cures_of(self.finding)[0])

    # parts

    def _look_around(self, right: float, down: float, factor: float) -> None:
        if self.now.box is not None:
            box = moved_box(self.now.box, right, down, factor)
            for loupe in (self.now, self.after):
                loupe.box = box
                loupe.update()

    def _say(self, headline: str, message: str) -> None:
        self.headline.setText(said(headline))
        self.message.setText(said(message))

    def _offer(self, steps: tuple[str, ...]) -> None:
        """The choice of steps where there are several, and the options of the one chosen."""
        self.choice.blockSignals(True)
        self.choice.clear()
        for name in steps:
            self.choice.addItem(said(STEPS[name].title), name)
        self.choice.blockSignals(False)
        self.choice.setVisible(len(steps) > 1)
        self._offer_options(steps[0] if steps else None)

    def _step_chosen(self) -> None:
        self._offer_options(self.step_name())
        self.step_changed.emit()

    def _offer_options(self, name: str | None) -> None:
        step = STEPS[name] if name else None
        if step:
            self.here.setText(said(step.title) if len(step.title) < 16 else tr("Apply here"))
            self.here.setToolTip(said(step.promise))
        finding = self.finding
        offers = self.offers(finding.items) if finding and self.offers else None
        self.options.show_step(step, None, offers)
