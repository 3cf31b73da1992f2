"""The options of a step as controls: lengths and numbers as fields, choices and switches as lists."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QComboBox, QCompleter, QGridLayout, QLineEdit, QWidget

from unkelt.desk.parts import empty, label
from unkelt.desk.theme import font
from unkelt.session.words import given_value, shown_default
from unkelt.steps.step import Parameter, Step


class OptionForm(QWidget):
    """One row an option; `changed` when any is."""

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self._rows = QGridLayout(self)
        self._rows.setContentsMargins(0, 0, 0, 0)
        self._rows.setColumnStretch(1, 1)
        self._controls: dict[str, tuple[Parameter, QComboBox | QLineEdit]] = {}

    def show_step(
        self,
        step: Step | None,
        hints: Mapping[str, str] | None = None,
        offers: Mapping[str, Sequence[str]] | None = None,
    ) -> None:
        """The options of a step; `hints` are first contents of its fields by name, `offers` what may be chosen there."""
        empty(self._rows)
        self._controls = {}
        for row, parameter in enumerate(step.parameters if step else ()):
            widget = self._control(parameter, (hints or {}).get(parameter.name, ""))
            if isinstance(widget, QLineEdit) and offers and parameter.name in offers:
                completer = QCompleter(list(offers[parameter.name]), widget)
                completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
                completer.setFilterMode(Qt.MatchFlag.MatchContains)
                completer.activated.connect(lambda _text: self.changed.emit())
                widget.setCompleter(completer)
            widget.setFont(font(10))
            widget.setToolTip(parameter.what)
            widget.setAccessibleName(f"{step.title if step else ''}: {parameter.name}")
            name = label(parameter.name.replace("_", " "), 10, role="muted")
            name.setToolTip(parameter.what)
            self._rows.addWidget(name, row, 0)
            self._rows.addWidget(widget, row, 1)
            self._controls[parameter.name] = parameter, widget
        self.setVisible(bool(self._controls))

    def control(self, name: str) -> QComboBox | QLineEdit:
        return self._controls[name][1]

    def _control(self, parameter: Parameter, hint: str) -> QComboBox | QLineEdit:
        if parameter.kind in ("choice", "switch"):
            choice = QComboBox()
            for word in parameter.choices or ("no", "yes"):
                choice.addItem(word, word)
            default = ("no", "yes")[parameter.default] if parameter.kind == "switch" else str(parameter.default)
            choice.setCurrentText(hint or default)
            choice.currentIndexChanged.connect(self.changed)
            return choice
        line = QLineEdit(hint)
        line.setPlaceholderText(shown_default(parameter))
        line.editingFinished.connect(self.changed)
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
