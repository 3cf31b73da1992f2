"""The Compose view: the ledger of items, the light table with what a step would do, and the steps for what is
chosen.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QComboBox,
    QLineEdit,
    QPushButton,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from unkelt.desk.common.drawing import Drawing, Lens
from unkelt.desk.common.options import OptionForm
from unkelt.desk.common.proof_box import FigureRows, ProofBox
from unkelt.desk.common.theme import PAD, font, px
from unkelt.desk.common.widgets import label, named, scrolling
from unkelt.desk.common.worker import after_this_turn
from unkelt.desk.compose.ledger import Ledger
from unkelt.desk.compose.nodes import NodeBar
from unkelt.desk.table.table import LightTable
from unkelt.language import said, tr, tr_count
from unkelt.recipe import Call
from unkelt.session.entries import Entry, sentence, steps_for
from unkelt.session.offers import Offers
from unkelt.session.preview import Preview
from unkelt.steps.edit_nodes import edits_of, with_edit
from unkelt.steps.steps import STEPS


class ComposeView(QWidget):
    """Signals ask for a preview, for the step itself, and for the way back to the text that outlines came from."""

    tried = Signal()
    trial_asked = Signal()
    apply_asked = Signal()
    lettering_asked = Signal(str)
    looks_changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self._offers: Callable[[Sequence[str]], Offers] | None = None
        self._drawing: Drawing | None = None
        self.table = LightTable()
        self.table.lens = Lens.INK
        self.ledger = Ledger()
        self.items = self.ledger.table
        self.ledger.changed.connect(self._selected)
        self.ledger.shown.connect(self.looks_changed)
        split = QSplitter(Qt.Orientation.Horizontal)
        split.setHandleWidth(1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(split)
        panel = named(QWidget(), "panel")
        for part in (self.ledger, self.table, panel):
            split.addWidget(part)
        split.setStretchFactor(1, 1)
        self._make_steps(panel)
        split.setSizes([476, 486, 318])

    def _make_steps(self, panel: QWidget) -> None:
        inside, footer = QWidget(), named(QWidget(), "footer")
        footer.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        panel.setFixedWidth(px(318))
        outer = QVBoxLayout(panel)
        outer.setContentsMargins(1, 0, 0, 0)
        outer.setSpacing(0)
        outer.addWidget(scrolling(inside, upright=True), 1)
        outer.addWidget(footer)
        self.headline = label("", 14, 600, wrap=True)
        self.choice = QComboBox()
        self.choice.setFont(font(10.5))
        self.choice.setAccessibleName(tr("What to do"))
        self.choice.currentIndexChanged.connect(self._step_chosen)
        self.words = label("", 10, role="muted", wrap=True)
        self.options = OptionForm()
        self.options.changed.connect(self.tried)
        self.nodes = NodeBar()
        self.nodes.asked.connect(self._edit_node)
        self.figures, self.proof = FigureRows(), ProofBox()
        self.back = QPushButton(tr("Back to the lettering"))
        self.back.setToolTip(
            tr("Shows the text as it was before it became outlines. When you change it, Unkelt repeats all later steps")
        )
        self.back.setFont(font(10))
        self.back.clicked.connect(self._back)
        self.apply = QPushButton(tr("Apply"))
        self.apply.setProperty("role", "primary")
        self.apply.setFont(font(10.5, 600))
        self.apply.clicked.connect(self._pressed)
        self._untried = False
        self._behind = False
        """Whether the panel hasn't caught up with the sheet yet."""
        layout = QVBoxLayout(inside)
        layout.setContentsMargins(PAD, PAD, PAD, PAD)
        layout.setSpacing(10)
        for widget in (self.headline, self.choice, self.words, self.options, self.nodes, self.figures, self.proof):
            layout.addWidget(widget)
        layout.addStretch(1)
        foot = QVBoxLayout(footer)
        foot.setContentsMargins(PAD, 12, PAD, 12)
        foot.setSpacing(8)
        foot.addWidget(self.apply)
        foot.addWidget(self.back)

    # what is shown

    def show_sheet(
        self, entries: list[Entry], offers: Callable[[Sequence[str]], Offers], drawing: Drawing, *, fit: bool
    ) -> None:
        """The items of a sheet; those that were chosen and are still there stay chosen. `offers` says what a step on
        some of them may be chosen from.
        """
        self._offers, self._drawing = offers, drawing
        self.ledger.show_entries(entries)
        self.table.show_drawing(drawing, fit=fit)
        self._behind = True
        after_this_turn(self, self._catch_up)  # the panel in a turn of its own, so that both are there soon

    def _catch_up(self) -> None:
        if self._behind:
            self._selected()

    @property
    def entries(self) -> list[Entry]:
        """All that is on the sheet."""
        return self.ledger.entries

    def choose(self, index: int) -> None:
        """Chooses the item at a place in the sheet's order, beside what is chosen."""
        self.ledger.choose(index)

    def chosen(self) -> list[Entry]:
        """What is chosen."""
        return self.ledger.chosen()

    def pick(self, items: Sequence[str], *, more: bool) -> None:
        """Chooses what has these ids."""
        self.ledger.pick(items, more=more)

    def pick_all(self, items: Sequence[str]) -> None:
        """Chooses all of some items, and no others."""
        self.ledger.pick_all(items)

    def offer_trial(self) -> None:
        """The step would take long: it is tried when the button is pressed, and taken when it is pressed again."""
        self._untried = True
        self.apply.setText(tr("Try it"))
        self.apply.setEnabled(True)
        self.proof.say("open", [tr("A lot of outlines"), tr("large sheet: press “Try it”")])

    def _pressed(self) -> None:
        if self._untried:
            self._set_tried()
            self.trial_asked.emit()
        else:
            self.apply_asked.emit()

    def _set_tried(self) -> None:
        self._untried = False
        self.apply.setText(tr("Apply"))
        self.apply.setEnabled(False)
        self.proof.say("clean", [])

    def show_preview(self, preview: Preview, drawing: Drawing | None) -> None:
        """What the step that is tried would do."""
        self.figures.show_preview(preview)
        self.proof.show_preview(preview)
        self.table.show_drawing(drawing or self._drawing, fit=False)
        self.apply.setEnabled(preview.refusal is None)

    def call(self) -> Call | None:
        """The step as it is set, for what is chosen."""
        name = self.choice.currentData()
        if not name:
            return None
        return Call(str(name), tuple(entry.id for entry in self.chosen()), None, self.options.values())

    # reactions

    def _selected(self) -> None:
        self._behind = False
        chosen = self.chosen()
        self.table.show_chosen([entry.box for entry in chosen if entry.box])
        self.headline.setText(_headline(chosen, len(self.entries)))
        self.back.setVisible(bool(chosen) and all(entry.origin for entry in chosen))
        names = steps_for(chosen)
        was = self.choice.currentData()
        self.choice.blockSignals(True)
        self.choice.clear()
        for name in names:
            self.choice.addItem(said(STEPS[name].title), name)
        if was in names:
            self.choice.setCurrentIndex(names.index(str(was)))
        self.choice.blockSignals(False)
        self._step_chosen()

    def _step_chosen(self) -> None:
        name = self.choice.currentData()
        self.words.setText(said(sentence(str(name))) if name else "")
        chosen = self.chosen()
        step = STEPS[str(name)] if name else None
        hints = step.hints([entry.name.strip("“”") for entry in chosen]) if step and step.hints else {}
        offers = self._offers([entry.id for entry in chosen]) if self._offers else None
        self.options.show_step(step, hints, offers)
        self.nodes.setVisible(bool(step and step.grip and step.grip.nodes))
        self.table.hand.picked = ()
        self.figures.hide()
        self._set_tried()
        self.table.show_drawing(self._drawing, fit=False)
        self.tried.emit()

    def _edit_node(self, word: str) -> None:
        """One of the node bar's edits on the nodes that are picked."""
        nodes = list(dict.fromkeys(name.split()[-1] for name in self.table.hand.picked if ":" in name))
        if nodes:
            field = self.options.control("edits")
            edits = field.text() if isinstance(field, QLineEdit) else ""
            self.table.hand.picked = tuple(nodes) if word in ("smooth", "corner") else ()
            if more := edits_of(word, nodes):
                self.options.put({"edits": with_edit(edits, *more)})

    def _back(self) -> None:
        chosen = self.chosen()
        if chosen:
            self.lettering_asked.emit(chosen[0].id)


def _headline(chosen: list[Entry], count: int) -> str:
    if not chosen:
        return tr_count("The whole sheet, {count} item", "The whole sheet, {count} items", count)
    return chosen[0].name if len(chosen) == 1 else tr("{count} items").format(count=len(chosen))
