"""The right-hand panel: a finding in a sentence, its loupe, figures now → after, options, and the step; or the proof."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, TypeVar

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from unkelt.desk.drawing import Drawing, Lens
from unkelt.desk.loupe import Loupe
from unkelt.desk.theme import PAD, Palette, font
from unkelt.proof.proof import Proof
from unkelt.recipe import Call
from unkelt.session.preview import Preview
from unkelt.session.viewport import loupe_box
from unkelt.session.words import proof_rows
from unkelt.steps.step import Parameter
from unkelt.steps.steps import STEPS
from unkelt.survey.finding import Finding


def label(words: str = "", points: float = 10, weight: int = 400, role: str = "", wrap: bool = False) -> QLabel:
    made = QLabel(words)
    made.setFont(font(points, weight))
    made.setProperty("role", role)
    made.setWordWrap(wrap)
    made.setTextFormat(Qt.TextFormat.PlainText)
    return made


W = TypeVar("W", bound=QWidget)


def named(widget: W, name: str) -> W:
    """A widget under the name that the style sheet knows it by."""
    widget.setObjectName(name)
    return widget


class FindingPanel(QWidget):
    """Shows one of: nothing yet, a finding with the preview of its step, or the proof of the saved file."""

    step_changed = Signal()
    apply_here = Signal()
    apply_alike = Signal()
    next_asked = Signal()

    def __init__(self, palette: Palette) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setFixedWidth(318)
        self.finding: Finding | None = None
        self._options: dict[str, QComboBox | QLineEdit] = {}

        self.headline = label("", 14, 600, wrap=True)
        self.message = label("", 10, role="muted", wrap=True)
        self.message.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.now, self.after = Loupe(palette, "now"), Loupe(palette, "after")
        self.after_words = label("after", 9, role="muted")
        self.loupes = QWidget()
        grid = QGridLayout(self.loupes)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(3)
        grid.addWidget(self.now, 0, 0)
        grid.addWidget(self.after, 0, 1)
        grid.addWidget(label("now", 9, role="muted"), 1, 0)
        grid.addWidget(self.after_words, 1, 1)
        self.figures = QWidget()
        self._figures = QGridLayout(self.figures)
        self._figures.setContentsMargins(0, 0, 0, 0)
        self._figures.setVerticalSpacing(0)
        self._figures.setHorizontalSpacing(0)
        self._figures.setColumnStretch(0, 1)
        self.proofbox = QFrame()
        self.proofbox.setObjectName("proofbox")
        self._proof = QVBoxLayout(self.proofbox)
        self._proof.setContentsMargins(12, 9, 12, 9)
        self._proof.setSpacing(2)
        self.options = QWidget()
        self._option_rows = QGridLayout(self.options)
        self._option_rows.setContentsMargins(0, 0, 0, 0)
        self._option_rows.setColumnStretch(1, 1)
        self.here = QPushButton("Apply")
        self.here.setProperty("role", "primary")
        self.here.setFont(font(10.5, 600))
        self.here.clicked.connect(self.apply_here)
        self.alike = QPushButton("All alike")
        self.alike.setFont(font(10.5, 500))
        self.alike.clicked.connect(self.apply_alike)
        self.next = QPushButton("Next finding  J")
        self.next.setFlat(True)
        self.next.setFont(font(9.5))
        self.next.setStyleSheet("border: none; padding: 4px 0; text-align: right; background: transparent;")
        self.next.clicked.connect(self.next_asked)
        self.buttons = QWidget()
        row = QHBoxLayout(self.buttons)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.here, 1)
        row.addWidget(self.alike, 1)

        inside = QWidget()
        layout = QVBoxLayout(inside)
        layout.setContentsMargins(PAD, PAD, PAD, PAD)
        layout.setSpacing(10)
        for widget in (self.headline, self.message, self.loupes, self.figures, self.proofbox, self.options):
            layout.addWidget(widget)
        layout.addStretch(1)
        self.footer = named(QWidget(), "footer")
        self.footer.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        foot = QVBoxLayout(self.footer)
        foot.setContentsMargins(PAD, 12, PAD, 8)
        foot.setSpacing(4)
        foot.addWidget(self.buttons)
        foot.addWidget(self.next, 0, Qt.AlignmentFlag.AlignRight)
        scroll = QScrollArea()
        scroll.setWidget(inside)
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(1, 0, 0, 0)
        outer.setSpacing(0)
        outer.addWidget(scroll, 1)
        outer.addWidget(self.footer)
        self.show_nothing("", "")

    # what is shown

    def show_nothing(self, headline: str, message: str) -> None:
        self.finding = None
        self._say(headline, message)
        for widget in (self.loupes, self.figures, self.proofbox, self.options, self.footer):
            widget.hide()

    def show_finding(self, finding: Finding, drawing: Drawing, lens: Lens) -> None:
        self.finding = finding
        self._say(finding.headline, finding.message)
        self.now.look(drawing, loupe_box(finding), lens, "nowhere on the sheet")
        self.after.look(None, None, lens, "…" if finding.steps else "no step here\ncures this")
        self.loupes.show()
        self.footer.show()
        self.figures.hide()
        self.proofbox.hide()
        self._offer(finding.steps)
        self.buttons.setVisible(bool(finding.steps))
        self.here.setEnabled(False)
        self.alike.setEnabled(False)

    def show_preview(self, preview: Preview, drawing: Drawing | None, lens: Lens) -> None:
        if self.finding is None:
            return
        self.after.look(drawing, self.now.box, lens, "stays as it is")
        self._rows([("", "now", "after"), *((row.name, row.now, row.after) for row in preview.rows)])
        self._say_proof("hold" if preview.refusal else "clean", self._proof_words(preview))
        self.here.setEnabled(preview.refusal is None)
        self.alike.setEnabled(preview.refusal is None)

    def show_proof(self, proof: Proof) -> None:
        self.finding = None
        clean = proof.verdict == "clean"
        self._say(
            "Read back: clean" if clean else "Read back: on hold",
            "The saved file was read by another reader, as importing software does: text ignored, one body a compound path.",
        )
        for widget in (self.loupes, self.options, self.footer):
            widget.hide()
        self._rows([(name, "", value) for name, value in proof_rows(proof)])
        self._say_proof(proof.verdict, ["It comes in as it was meant."] if clean else list(proof.reasons))

    def call(self, alike: bool) -> Call | None:
        """The step as it is set in the panel, for this finding or for all of its kind."""
        if self.finding is None or not self.finding.steps:
            return None
        name = self.step_name()
        items, rule = ((), self.finding.code) if alike else (self.finding.items, None)
        return Call(name, items, rule, self._option_values())

    def step_name(self) -> str:
        choice = self._options.get("")
        assert self.finding is not None
        return str(choice.currentData()) if isinstance(choice, QComboBox) else self.finding.steps[0]

    # parts

    def _say(self, headline: str, message: str) -> None:
        self.headline.setText(headline)
        self.message.setText(message)

    def _proof_words(self, preview: Preview) -> list[str]:
        if preview.refusal:
            return ["Not done, nothing changes", f"{preview.refusal[0].upper()}{preview.refusal[1:]}."]
        return list(preview.proof)

    def _say_proof(self, state: str, lines: list[str]) -> None:
        empty(self._proof)
        self.proofbox.setProperty("verdict", state)
        self.proofbox.style().unpolish(self.proofbox)
        self.proofbox.style().polish(self.proofbox)
        for number, line in enumerate(lines):
            self._proof.addWidget(
                label(line, 10, 600 if number == 0 else 400, "hold" if state == "hold" else "accent", True)
            )
        self.proofbox.setVisible(bool(lines))

    def _rows(self, rows: list[tuple[str, str, str]]) -> None:
        empty(self._figures)
        for number, (name, now, after) in enumerate(rows):
            head = number == 0 and not name
            changed = now != after and not head and bool(now)
            cells = (
                (label(name, 9.5, 400, "muted"), Qt.AlignmentFlag.AlignLeft),
                (label(now, 9.5 if head else 10, 400, "muted" if head else ""), Qt.AlignmentFlag.AlignRight),
                (
                    label(
                        after,
                        9.5 if head else 10,
                        600 if changed or not now else 400,
                        "muted" if head else "accent" if changed else "",
                    ),
                    Qt.AlignmentFlag.AlignRight,
                ),
            )
            for column, (cell, side) in enumerate(cells):
                cell.setMinimumHeight(21)
                if column:
                    cell.setMinimumWidth(82)
                cell.setAlignment(side | Qt.AlignmentFlag.AlignVCenter)
                self._figures.addWidget(cell, 2 * number, column)
            if number < len(rows) - 1:
                line = QFrame()
                line.setFixedHeight(1)
                line.setObjectName("rule")
                self._figures.addWidget(line, 2 * number + 1, 0, 1, 3)
        self.figures.show()

    def _offer(self, steps: tuple[str, ...]) -> None:
        """The choice of steps where there are several, and the options of the one chosen."""
        empty(self._option_rows)
        self._options = {}
        if len(steps) > 1:
            choice = QComboBox()
            for name in steps:
                choice.addItem(STEPS[name].title, name)
            choice.setAccessibleName("Step")
            choice.currentIndexChanged.connect(lambda: self._step_chosen(str(choice.currentData())))
            self._add_option("", "Step", choice)
        if steps:
            self._offer_parameters(steps[0])
        self.options.setVisible(bool(self._options))

    def _step_chosen(self, name: str) -> None:
        for key in [key for key in self._options if key]:
            widget = self._options.pop(key)
            row = self._option_rows.getItemPosition(self._option_rows.indexOf(widget))[0]  # type: ignore[index]
            for column in (0, 1):
                item = self._option_rows.itemAtPosition(row, column)
                if item and (old := item.widget()):
                    old.deleteLater()
        self._offer_parameters(name)
        self.step_changed.emit()

    def _offer_parameters(self, name: str) -> None:
        step = STEPS[name]
        self.here.setText(step.title if len(step.title) < 16 else "Apply here")
        self.here.setToolTip(step.promise)
        for parameter in step.parameters:
            widget = self._control(parameter)
            widget.setToolTip(parameter.what)
            widget.setAccessibleName(f"{step.title}: {parameter.name}")
            self._add_option(parameter.name, parameter.name.replace("_", " "), widget)

    def _control(self, parameter: Parameter) -> QComboBox | QLineEdit:
        if parameter.kind == "length":
            line = QLineEdit()
            line.setPlaceholderText("from the ticket")
            line.editingFinished.connect(self.step_changed)
            return line
        choice = QComboBox()
        for word in parameter.choices or ("no", "yes"):
            choice.addItem(word, word)
        choice.setCurrentText(str(parameter.default))
        choice.currentIndexChanged.connect(self.step_changed)
        return choice

    def _add_option(self, key: str, words: str, widget: QComboBox | QLineEdit) -> None:
        widget.setFont(font(10))
        row = self._option_rows.rowCount()
        self._option_rows.addWidget(label(words, 10, role="muted"), row, 0)
        self._option_rows.addWidget(widget, row, 1)
        self._options[key] = widget

    def _option_values(self) -> Mapping[str, Any]:
        """Only what differs from the step's own defaults, so that a recipe stays short."""
        defaults = {parameter.name: parameter for parameter in STEPS[self.step_name()].parameters}
        values: dict[str, Any] = {}
        for name, widget in self._options.items():
            if not name:
                continue
            if isinstance(widget, QLineEdit):
                if widget.text().strip():
                    values[name] = widget.text().strip()
            elif defaults[name].kind == "switch":
                values[name] = widget.currentText() == "yes"
            elif widget.currentText() != defaults[name].default:
                values[name] = widget.currentText()
        return values


def empty(layout: QVBoxLayout | QGridLayout) -> None:
    """Takes everything out of a layout."""
    while (item := layout.takeAt(0)) is not None:
        if widget := item.widget():
            widget.hide()  # not unparented: that would make a window of it for a moment
            widget.deleteLater()
