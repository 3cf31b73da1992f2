"""The options of a step as controls: lengths and numbers as fields, choices and switches as lists."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QComboBox, QGridLayout, QLineEdit, QWidget

from unkelt.desk.common.specimens import FaceList, PictureStrip
from unkelt.desk.common.theme import font
from unkelt.desk.common.widgets import empty, label
from unkelt.language import said, tr
from unkelt.lettering.faces import Face
from unkelt.session.offers import Offers
from unkelt.session.sentences import given_value, nudged, shown_default
from unkelt.steps.step import Parameter, Step

BESIDE = 12
"""A yes or no stands beside the choice before it where their names have no more letters than this together."""


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


class OptionForm(QWidget):
    """One row an option; `changed` when any is."""

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self._rows = QGridLayout(self)
        self._rows.setContentsMargins(0, 0, 0, 0)
        self._rows.setColumnStretch(1, 1)
        self._controls: dict[str, tuple[Parameter, QComboBox | QLineEdit]] = {}
        self._offers: Offers | None = None
        self.faces: FaceList | None = None
        self.letters: PictureStrip | None = None
        self.forms: PictureStrip | None = None

    def show_step(
        self, step: Step | None, hints: Mapping[str, str] | None = None, offers: Offers | None = None
    ) -> None:
        """The options of a step; `hints` are first contents of its fields by name, `offers` what to choose by
        pictures.
        """
        empty(self._rows)
        self._controls, self._offers = {}, offers
        self.faces = self.letters = self.forms = None
        row, alone = 0, None
        for parameter in step.parameters if step else ():
            widget = self._control(parameter, (hints or {}).get(parameter.name, ""))
            widget.setFont(font(10))
            widget.setToolTip(said(parameter.what))
            widget.setAccessibleName(f"{said(step.title) if step else ''}: {said(parameter.name)}")
            name = label(parameter.name.replace("_", " "), 10, role="muted")
            name.setToolTip(said(parameter.what))
            beside = alone is not None and parameter.kind == "switch" and len(alone) + len(parameter.name) <= BESIDE
            at = (row - 1, 2) if beside else (row, 0)
            self._rows.addWidget(name, *at)
            self._rows.addWidget(widget, at[0], at[1] + 1)
            self._controls[parameter.name] = parameter, widget
            alone = parameter.name if parameter.kind in ("choice", "switch") and not beside else None
            row += not beside
            if step and (picture := self._picture(parameter.pictured)):
                self._rows.addWidget(picture, row, 0, 1, 4)
                row, alone = row + 1, None
        self.setVisible(bool(self._controls))
        self._show_pictures()

    def _picture(self, what: str) -> QWidget | None:
        """What to choose an option by, where there is more to see than to write."""
        if self._offers is None or not what:
            return None
        if what == "faces":
            self.faces = FaceList()
            self.faces.show_offers(self._offers, self._text("family"))
            self.faces.chosen.connect(self._take_face)
            return self.faces
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
            shown = self._offers.forms(self._text("letters"))
            self.forms.show_choices(shown, self._text("features"), captions=True)
            self.forms.setVisible(len(shown) > 1)

    def _take_face(self, face: Face) -> None:
        self.put({"family": face.family, "weight": str(face.weight), "italic": "yes" if face.italic else "no"})

    def put(self, texts: Mapping[str, str]) -> None:
        """Writes options as a person would, those that the step has, and says so once."""
        for name, text in texts.items():
            if name not in self._controls:
                continue
            widget = self._controls[name][1]
            widget.blockSignals(True)
            widget.setText(text) if isinstance(widget, QLineEdit) else widget.setCurrentText(text)
            widget.blockSignals(False)
        self._tell()

    def _tell(self) -> None:
        self._show_pictures()
        self.changed.emit()

    def _text(self, name: str) -> str:
        widget = self._controls[name][1] if name in self._controls else None
        return widget.text().strip() if isinstance(widget, QLineEdit) else ""

    def control(self, name: str) -> QComboBox | QLineEdit:
        """The control of an option."""
        return self._controls[name][1]

    def _control(self, parameter: Parameter, hint: str) -> QComboBox | QLineEdit:
        if parameter.kind in ("choice", "switch"):
            choice = QComboBox()
            for word in parameter.choices or ("no", "yes"):
                choice.addItem(said(word), word)
            default = ("no", "yes")[parameter.default] if parameter.kind == "switch" else str(parameter.default)
            choice.setCurrentText(hint or default)
            choice.currentIndexChanged.connect(self._tell)
            return choice
        line = _Field(parameter, hint)
        line.setPlaceholderText(said(shown_default(parameter)))
        line.editingFinished.connect(self._tell)
        return line

    def values(self) -> dict[str, Any]:
        """Only what differs from the step's own defaults, so that a recipe stays short."""
        result: dict[str, Any] = {}
        for name, (parameter, widget) in self._controls.items():
            text = widget.text().strip() if isinstance(widget, QLineEdit) else widget.currentText()
            value = given_value(parameter, text)
            if value is not None and value != parameter.default:
                result[name] = value
        return result
