"""The options of a step as controls: what matters stands open, the rest is folded, and what decides nothing is not
shown.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QIcon, QKeyEvent, QPainter, QPixmap
from PySide6.QtWidgets import QCheckBox, QComboBox, QGridLayout, QLabel, QLineEdit, QToolButton, QWidget

from unkelt.desk.common.axes import AxisSliders
from unkelt.desk.common.drawing import painter_path
from unkelt.desk.common.face_list import FaceList
from unkelt.desk.common.segments import Segments
from unkelt.desk.common.specimens import PictureStrip, draw_path
from unkelt.desk.common.swatches import Swatches
from unkelt.desk.common.theme import font
from unkelt.desk.common.widgets import empty, label
from unkelt.language import said, tr
from unkelt.lettering.faces import Face, Shelf
from unkelt.session.face_list import options_for
from unkelt.session.offers import Choice, Offers
from unkelt.session.sentences import given_value, nudged, shown_default
from unkelt.steps.step import Parameter, Step, Value

PICTURE = 22
BESIDE_PX = 150
"""Choices that take more pixels than that stand beneath their label, not beside it."""


class _Field(QLineEdit):
    """A field whose number goes up and down by key: by one, with Shift by ten, with Ctrl by a tenth."""

    def __init__(self, parameter: Parameter, text: str) -> None:
        super().__init__(text)
        self._parameter = parameter

    def keyPressEvent(self, event: QKeyEvent) -> None:
        way = {Qt.Key.Key_Up: 1, Qt.Key.Key_Down: -1}.get(Qt.Key(event.key()))
        keys = event.modifiers()
        coarse, fine = bool(keys & Qt.KeyboardModifier.ShiftModifier), bool(keys & Qt.KeyboardModifier.ControlModifier)
        text = nudged(self._parameter, self.text(), way, coarse=coarse, fine=fine) if way else None
        if text is None:
            super().keyPressEvent(event)
            return
        self.setText(text)
        self.editingFinished.emit()


@dataclass
class _Control:
    """A parameter with its widget: how its text is read and written, and the label and picture that go with it."""

    parameter: Parameter
    widget: QWidget
    read: Callable[[], str]
    write: Callable[[str], None]
    beside: QLabel | None = None
    below: QWidget | None = None

    def show(self, on: bool) -> None:
        for part in (self.widget, self.beside, self.below):
            if part is not None:
                part.setVisible(on)


class OptionForm(QWidget):
    """One row an option; `changed` when any is, `settled` when the Enter key ends a field."""

    changed = Signal()
    settled = Signal()

    def __init__(self, *, dense: bool = False) -> None:
        super().__init__()
        self._dense = dense
        """Whether what opens the rest stands at the end of a row, where rows are dear."""
        self._rows = QGridLayout(self)
        self._rows.setContentsMargins(0, 0, 0, 0)
        self._rows.setColumnStretch(1, 1)
        self._rows.setVerticalSpacing(7)
        self._controls: dict[str, _Control] = {}
        self._offers: Offers | None = None
        self._open = self._folds = False
        self._more: QToolButton | None = None
        self.faces: FaceList | None = None
        self.letters: PictureStrip | None = None
        self.forms: PictureStrip | None = None
        self.axes: AxisSliders | None = None

    def show_step(
        self, step: Step | None, hints: Mapping[str, str] | None = None, offers: Offers | None = None
    ) -> None:
        """The options of a step; `hints` are first contents of its fields by name, `offers` what to choose by
        pictures.
        """
        empty(self._rows)
        self._controls, self._offers, self._open = {}, offers, False
        self.faces = self.letters = self.forms = self.axes = self._more = None
        parameters = step.parameters if step else ()
        by_hand = bool(step and step.grip and step.grip.nodes)  # what is written stands for what the hand did
        first = [each for each in parameters if each.first] or ([] if by_hand else list(parameters))
        folded = [each for each in parameters if each not in first]
        self._folds = bool(folded)
        row = 0
        for parameter in (*first, *folded):
            if folded and parameter is folded[0]:
                at = (row - 1, 2, 1, 1) if self._dense and row else (row, 0, 1, 2)
                self._rows.addWidget(self._fold(), *at)
                row += at[1] == 0
            row = self._add(step, parameter, (hints or {}).get(parameter.name, ""), row)
        self.setVisible(bool(self._controls))
        self._show_pictures()
        self._show_what_matters()

    def show_shelf(self, shelf: Shelf) -> None:
        """Faces that were installed meanwhile; what is written stays."""
        if self._offers is not None:
            self._offers = replace(self._offers, shelf=shelf)
            if self.faces is not None:
                self.faces.show_shelf(self._offers)

    def _fold(self) -> QToolButton:
        self._more = QToolButton()
        self._more.setFont(font(9.5))
        self._more.setObjectName("fold")
        self._more.setText(tr("More options"))
        self._more.setArrowType(Qt.ArrowType.RightArrow)
        self._more.setToolTip(tr("More options"))
        if not self._dense:
            self._more.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        self._more.clicked.connect(self._turn_fold)
        return self._more

    def _turn_fold(self) -> None:
        self._open = not self._open
        assert self._more is not None
        self._more.setArrowType(Qt.ArrowType.DownArrow if self._open else Qt.ArrowType.RightArrow)
        self._show_what_matters()

    def _add(self, step: Step | None, parameter: Parameter, hint: str, row: int) -> int:
        """A row, or two where there is a picture to choose by. Returns the next row's number."""
        control = self._control(parameter, hint)
        widget = control.widget
        widget.setToolTip(said(parameter.what))
        widget.setAccessibleName(f"{said(step.title) if step else ''}: {said(parameter.label)}")
        if isinstance(widget, QCheckBox):
            self._rows.addWidget(widget, row, 0, 1, 2)
        else:
            control.beside = label(parameter.label, 10, role="muted")
            control.beside.setToolTip(said(parameter.what))
            wide = isinstance(widget, Segments) and Segments.width_of(parameter.choices) > BESIDE_PX
            self._rows.addWidget(control.beside, row, 0, 1, 2 if wide else 1)
            row += wide
            self._rows.addWidget(widget, row, 0 if wide else 1, 1, 2 if wide else 1)
        self._controls[parameter.name] = control
        control.below = self._picture(parameter.pictured)
        if control.below is not None:
            self._rows.addWidget(control.below, row + 1, 0, 1, 2)
        return row + (2 if control.below is not None else 1)

    def _show_what_matters(self) -> None:
        values = {name: self._value(control) for name, control in self._controls.items()}
        values = {
            name: self._controls[name].parameter.default if value is None else value for name, value in values.items()
        }
        folded = 0
        for control in self._controls.values():
            there = self._matters(control.parameter, values)
            open_now = control.parameter.first or not self._folds or self._open
            control.show(there and open_now)
            folded += there and not control.parameter.first
        if self._more is not None:
            self._more.setVisible(folded > 0)
        if self.forms is not None and self._offers is not None:
            self.forms.setVisible(self.forms.count() > 1)
        if self.axes is not None:
            varies = bool(self.axes.sliders)
            self.axes.setVisible(varies)
            for part in (self._controls["axes"].widget, self._controls["axes"].beside):
                if part is not None and not varies:
                    part.setVisible(False)

    def _matters(self, parameter: Parameter, values: Mapping[str, Value]) -> bool:
        """An option of an option that doesn't matter doesn't either."""
        if not parameter.matters(values):
            return False
        owner = self._controls.get(parameter.when[0]) if parameter.when else None
        return owner is None or self._matters(owner.parameter, values)

    def _picture(self, what: str) -> QWidget | None:
        """What to choose an option by, where there is more to see than to write."""
        if self._offers is None:
            return None
        if what == "faces":
            self.faces = FaceList()
            self.faces.show_offers(self._offers, self._text("family") or self._offers.own_family)
            self.faces.chosen.connect(self._take_face)
            return self.faces
        if what == "axes":
            self.axes = AxisSliders()
            self.axes.changed.connect(lambda places: self.put({"axes": places}))
            return self.axes
        if what == "letters" and self._offers.letters():
            self.letters = PictureStrip(tr("Letters of the text"))
            self.letters.taken.connect(lambda value: self.put({"letters": value}))
            return self.letters
        if what == "forms":
            self.forms = PictureStrip(tr("Forms of the letter"))
            self.forms.taken.connect(lambda value: self.put({"features": value}))
            return self.forms
        return None

    def _show_pictures(self) -> None:
        if self._offers and self.letters:
            self.letters.show_choices(self._offers.letters(), self._text("letters"), captions=False)
        if self._offers and self.forms:
            self.forms.show_choices(self._offers.forms(self._text("letters")), self._text("features"), captions=True)
        if self._offers and self.axes:
            family, weight, places = (self._text(name) for name in ("family", "weight", "axes"))
            self.axes.show_axes(*self._offers.axes(family, weight, places, italic=self._text("italic") == "yes"))

    def _take_face(self, face: Face) -> None:
        assert self._offers is not None
        self.put(options_for(face, self._offers.shelf))

    def put(self, texts: Mapping[str, str]) -> None:
        """Writes options as a person would, those that the step has, and says so once."""
        for name, text in texts.items():
            if name in self._controls:
                widget = self._controls[name].widget
                widget.blockSignals(True)
                self._controls[name].write(text)
                widget.blockSignals(False)
        self._tell()

    def _tell(self) -> None:
        self._show_pictures()
        self._show_what_matters()
        self.changed.emit()

    def _text(self, name: str) -> str:
        return self._controls[name].read().strip() if name in self._controls else ""

    def control(self, name: str) -> QWidget:
        """The control of an option."""
        return self._controls[name].widget

    def written(self, name: str) -> str:
        """What an option's control holds, as a person would write it; empty where the step has no such option."""
        return self._text(name)

    @property
    def targets(self) -> list[str]:
        """The options that name items of the sheet and matter now."""
        return [
            name
            for name, control in self._controls.items()
            if control.parameter.pictured == "items" and control.widget.isVisibleTo(self)
        ]

    def _control(self, parameter: Parameter, hint: str) -> _Control:
        if parameter.kind == "switch":
            return self._switch(parameter, hint)
        if parameter.kind == "choice":
            return self._choice(parameter, hint)
        if parameter.pictured == "items" and self._offers is not None:
            return self._items(parameter, hint)
        if parameter.pictured == "colours" and self._offers is not None:
            swatches = Swatches(self._offers.colours(), hint or str(parameter.default))
            swatches.taken.connect(self._tell)
            return _Control(parameter, swatches, swatches.colour, swatches.show_colour)
        line = _Field(parameter, hint)
        line.setFont(font(10))
        line.setPlaceholderText(said(shown_default(parameter)))
        line.editingFinished.connect(self._tell)
        line.returnPressed.connect(self.settled)
        return _Control(parameter, line, line.text, line.setText)

    def _switch(self, parameter: Parameter, hint: str) -> _Control:
        box = QCheckBox(said(parameter.label))
        box.setFont(font(10))
        box.setChecked(hint == "yes" if hint else bool(parameter.default))
        box.toggled.connect(self._tell)
        return _Control(
            parameter, box, lambda: "yes" if box.isChecked() else "no", lambda text: box.setChecked(text == "yes")
        )

    def _choice(self, parameter: Parameter, hint: str) -> _Control:
        """Side by side where there is room, so that each is one click away."""
        wanted = hint or str(parameter.default)
        if Segments.have_room(parameter.choices):
            segments = Segments(parameter.choices, wanted)
            segments.taken.connect(self._tell)
            return _Control(parameter, segments, segments.word, segments.show_word)
        choice = QComboBox()
        choice.setFont(font(10))
        for word in parameter.choices:
            choice.addItem(said(word), word)
        choice.setCurrentIndex(choice.findData(wanted))
        choice.currentIndexChanged.connect(self._tell)
        return _Control(
            parameter,
            choice,
            lambda: str(choice.currentData()),
            lambda text: choice.setCurrentIndex(choice.findData(text)),
        )

    def _items(self, parameter: Parameter, hint: str) -> _Control:
        """A list of what is on the sheet, with pictures; clicking on the table writes into it."""
        assert self._offers is not None
        box = QComboBox()
        box.setFont(font(10))
        box.setIconSize(QSize(PICTURE, PICTURE))
        box.addItem(tr("click it on the table"), "")
        ink = self.palette().text().color().name()
        for choice in self._offers.items():
            box.addItem(_picture_of(choice, ink, self.devicePixelRatioF()), choice.words, choice.value)

        def write(text: str) -> None:
            if text and box.findData(text) < 0:  # several, or what can't be shown
                box.addItem(text, text)
            box.setCurrentIndex(max(box.findData(text), 0))

        write(hint)
        box.currentIndexChanged.connect(self._tell)
        return _Control(parameter, box, lambda: str(box.currentData() or ""), write)

    def _value(self, control: _Control) -> Value:
        return given_value(control.parameter, control.read().strip())

    def values(self) -> dict[str, Value]:
        """Only what differs from the step's own defaults, so that a recipe stays short."""
        found = {name: self._value(control) for name, control in self._controls.items()}
        return {
            name: value
            for name, value in found.items()
            if value is not None and value != self._controls[name].parameter.default
        }


def _picture_of(choice: Choice, ink: str, ratio: float) -> QIcon:
    picture = QPixmap(round(PICTURE * ratio), round(PICTURE * ratio))
    picture.setDevicePixelRatio(ratio)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    area = picture.rect().adjusted(1, 1, round(-PICTURE * (ratio - 1)) - 2, round(-PICTURE * (ratio - 1)) - 2)
    draw_path(painter, painter_path(choice.path, True), choice.box, area, ink, filled=choice.filled)
    painter.end()
    return QIcon(picture)
