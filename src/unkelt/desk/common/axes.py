"""The axes of a variable face as sliders."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QGridLayout, QLabel, QSlider, QWidget

from unkelt.desk.common.theme import font
from unkelt.desk.common.widgets import empty, label
from unkelt.lettering.faces import Axis

FINE = 10
"""A slider's steps to one of an axis whose whole range is short."""


class AxisSliders(QWidget):
    """One slider an axis; `changed` with the places as the option writes them."""

    changed = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._rows = QGridLayout(self)
        self._rows.setContentsMargins(0, 0, 0, 0)
        self._rows.setColumnStretch(1, 1)
        self._axes: tuple[Axis, ...] = ()
        self.sliders: dict[str, QSlider] = {}
        self._values: dict[str, QLabel] = {}

    def show_axes(self, axes: Sequence[Axis], places: Mapping[str, float]) -> None:
        """The axes of a face, each at its place."""
        if tuple(axes) != self._axes:
            self._axes = tuple(axes)
            empty(self._rows)
            self.sliders, self._values = {}, {}
            for row, axis in enumerate(axes):
                self._add(row, axis)
        for axis in axes:
            slider = self.sliders[axis.tag]
            slider.blockSignals(True)
            slider.setValue(round(places.get(axis.tag, axis.usual) * _steps(axis)))
            slider.blockSignals(False)
            self._values[axis.tag].setText(f"{slider.value() / _steps(axis):g}")
        self.setVisible(bool(axes))

    def _add(self, row: int, axis: Axis) -> None:
        slider = QSlider(Qt.Orientation.Horizontal)
        slider.setRange(round(axis.least * _steps(axis)), round(axis.most * _steps(axis)))
        slider.setPageStep(max(1, (slider.maximum() - slider.minimum()) // 10))
        slider.setAccessibleName(axis.name)
        slider.setToolTip(axis.tag)
        value = label("", 9.5, role="muted")
        value.setFont(font(9.5))
        value.setMinimumWidth(value.fontMetrics().horizontalAdvance("0000.0"))
        value.setAlignment(Qt.AlignmentFlag.AlignRight)
        slider.valueChanged.connect(lambda at: value.setText(f"{at / _steps(axis):g}"))
        slider.valueChanged.connect(lambda _: self.changed.emit(self.written()))
        self.sliders[axis.tag], self._values[axis.tag] = slider, value
        self._rows.addWidget(label(axis.name, 10, role="muted"), row, 0)
        self._rows.addWidget(slider, row, 1)
        self._rows.addWidget(value, row, 2)

    def written(self) -> str:
        """“wght 650, wdth 90”: the places that aren't the usual ones."""
        places = {axis.tag: self.sliders[axis.tag].value() / _steps(axis) for axis in self._axes}
        return ", ".join(f"{axis.tag} {places[axis.tag]:g}" for axis in self._axes if places[axis.tag] != axis.usual)


def _steps(axis: Axis) -> int:
    return FINE if axis.most - axis.least <= 20 else 1
