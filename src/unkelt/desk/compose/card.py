"""A step as it is being set: its few options, what it would do, and the buttons that take it or leave it."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QToolButton, QVBoxLayout, QWidget

from unkelt.desk.common.icons import icon, step_picture
from unkelt.desk.common.options import OptionForm
from unkelt.desk.common.proof_box import FigureRows, ProofBox
from unkelt.desk.common.theme import PAD, THEME, font
from unkelt.desk.common.widgets import label, named, scrolling
from unkelt.desk.compose.nodes import NodeBar
from unkelt.language import said, tr
from unkelt.messages import sentence as as_sentence
from unkelt.recipe import Call
from unkelt.session.entries import sentence
from unkelt.session.offers import Offers
from unkelt.session.preview import Preview
from unkelt.steps.edit_nodes import edits_of, with_edit
from unkelt.steps.steps import STEPS


class StepCard(QWidget):
    """`changed` when an option is another; `apply_asked`, `trial_asked` and `left` are its buttons; `way_out` names the
    step, or the action, that would clear what stands in the way.
    """

    changed = Signal()
    apply_asked = Signal()
    trial_asked = Signal()
    left = Signal()
    way_out = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.name = ""
        self.back = QToolButton()
        self.back.setToolTip(tr("Back to the steps"))
        self.back.setAccessibleName(tr("Back to the steps"))
        self.back.clicked.connect(self.left)
        self.picture, self.title = QLabel(), label("", 12, 600, wrap=True)
        self.words = label("", 9.5, role="muted", wrap=True)
        self.target = label("", 9.5, role="accent", wrap=True)
        self.options = OptionForm()
        self.options.changed.connect(self.changed)
        self.options.settled.connect(self._settle)
        self.nodes = NodeBar()
        self.nodes.asked.connect(self._edit_node)
        self.figures, self.proof = FigureRows(), ProofBox()
        self.refusal = ProofBox()
        self.out = QPushButton("")
        self.out.setFont(font(10))
        self.out.clicked.connect(lambda: self.way_out.emit(str(self.out.property("way"))))
        self.apply, self.cancel = QPushButton(tr("Apply")), QPushButton(tr("Cancel"))
        self.apply.setProperty("role", "primary")
        self.apply.setFont(font(10.5, 600))
        self.apply.clicked.connect(self._pressed)
        self.cancel.setFont(font(10.5))
        self.cancel.clicked.connect(self.left)
        self._untried = self._wants_apply = False
        self.picked: tuple[str, ...] = ()
        self._lay_out()

    def _lay_out(self) -> None:
        inside, footer = QWidget(), named(QWidget(), "footer")
        footer.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(0)
        outer.addWidget(scrolling(inside, upright=True), 1)
        outer.addWidget(footer)
        head = QHBoxLayout()
        head.setSpacing(8)
        head.addWidget(self.back)
        head.addWidget(self.picture)
        head.addWidget(self.title, 1)
        layout = QVBoxLayout(inside)
        layout.setContentsMargins(PAD - 4, 4, PAD - 4, 12)
        layout.setSpacing(9)
        layout.addLayout(head)
        for widget in (self.words, self.target, self.options, self.nodes, self.figures, self.proof):
            layout.addWidget(widget)
        layout.addStretch(1)
        foot = QVBoxLayout(footer)
        foot.setContentsMargins(PAD - 4, 10, PAD - 4, 12)
        foot.setSpacing(8)
        foot.addWidget(self.refusal)
        foot.addWidget(self.out)
        row = QHBoxLayout()
        row.addWidget(self.apply, 2)
        row.addWidget(self.cancel, 1)
        foot.addLayout(row)

    # what is shown

    def show_step(self, name: str, hints: Mapping[str, str], offers: Offers, *, again: bool = False) -> None:
        """A step with first contents of its fields; `again` says that it was taken and is being changed."""
        self.name, self.picked = name, ()
        step = STEPS[name]
        self.back.setIcon(icon("arrow-left", THEME.palette.text))
        self.picture.setPixmap(step_picture(name, THEME.palette).pixmap(QSize(34, 24)))
        self.title.setText(said(step.title))
        words = said(sentence(name))
        self.words.setText(f"{words} {tr('Unkelt repeats all later steps.')}" if again else words)
        self.options.show_step(step, hints, offers)
        self.nodes.setVisible(bool(step.grip and step.grip.nodes))
        self.apply.setText(tr("Repeat the steps") if again else tr("Apply"))
        self._set_tried()
        self.show_target()

    def show_target(self) -> None:
        """Whether the next click on the table names something."""
        waiting = [name for name in self.options.targets if not self.options.written(name)]
        self.target.setText(tr("Click it on the table, or choose it from the list."))
        self.target.setVisible(bool(waiting))

    def show_preview(self, preview: Preview) -> None:
        """What the step would do, or why not and what would help, beside the buttons."""
        refused = preview.refusal is not None
        self.figures.setVisible(not refused)
        self.proof.setVisible(False)
        if refused:
            self.refusal.say("hold", [as_sentence(str(preview.refusal))])
        else:
            self.figures.show_preview(preview)
            self.proof.show_preview(preview)
        self.refusal.setVisible(refused)
        self.out.setVisible(refused and bool(preview.way_out))
        if refused and preview.way_out:
            self.out.setProperty("way", preview.way_out)
            step = STEPS.get(preview.way_out)
            self.out.setText(said(step.title) if step else tr("Change the key of colours…"))
        self.apply.setEnabled(not refused)
        wanted, self._wants_apply = self._wants_apply, False
        if wanted and not refused:
            self.apply_asked.emit()

    def offer_trial(self) -> None:
        """The step would take long: it is tried when the button is pressed, and taken when it is pressed again."""
        self._untried, self._wants_apply = True, False
        self.apply.setText(tr("Try it"))
        self.apply.setEnabled(True)
        self.refusal.hide()
        self.proof.say("open", [tr("A lot of outlines"), tr("large sheet: press “Try it”")])

    def apply_when_tried(self) -> None:
        """Takes the step as soon as it is known that it can be taken."""
        self._wants_apply = True

    def _set_tried(self) -> None:
        if self._untried:
            self.apply.setText(tr("Apply"))
        self._untried = self._wants_apply = False
        self.apply.setEnabled(False)
        self.figures.hide()
        self.refusal.hide()
        self.out.hide()
        self.proof.say("clean", [])

    def trying(self) -> None:
        """Something is tried again."""
        self.apply.setEnabled(False)

    def _pressed(self) -> None:
        if self._untried:
            self._set_tried()
            self.trial_asked.emit()
        else:
            self.apply_asked.emit()

    def _settle(self) -> None:
        """Enter in a field takes the step, once it was tried with what the field then holds."""
        self._wants_apply = True

    def call(self, items: tuple[str, ...]) -> Call | None:
        """The step as it is set."""
        return Call(self.name, items, None, self.options.values()) if self.name else None

    def leave(self) -> None:
        """No step is being set."""
        self.name = ""

    # nodes

    def edit_picked(self, word: str) -> bool:
        """One of the edits on the nodes that are picked; whether there were any."""
        nodes = list(dict.fromkeys(name.split()[-1] for name in self.picked if ":" in name))
        if nodes and (more := edits_of(word, nodes)):
            self.picked = tuple(nodes) if word in ("smooth", "corner") else ()
            self.options.put({"edits": with_edit(self.options.written("edits"), *more)})
        return bool(nodes)

    def _edit_node(self, word: str) -> None:
        self.edit_picked(word)
