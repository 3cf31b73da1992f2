"""What is chosen, by its name, with its place and size to be typed and its colour to be changed."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QCheckBox, QGridLayout, QHBoxLayout, QLabel, QLineEdit, QToolButton, QVBoxLayout, QWidget

from unkelt.desk.common.swatches import swatch
from unkelt.desk.common.theme import THEME, font
from unkelt.desk.common.widgets import label, named
from unkelt.geometry.measure import Box
from unkelt.language import said, tr, tr_count
from unkelt.session.entries import Entry
from unkelt.session.reading import MM, Unit

FIELDS = (
    ("x", tr("Left edge, from the left of the page")),
    ("y", tr("Upper edge, from the top of the page")),
    ("w", tr("Width of the ink")),
    ("h", tr("Height of the ink")),
    ("turn", tr("Turns by so many degrees, clockwise")),
)
LABELS = {"x": tr("Left"), "y": tr("Top"), "w": tr("Width"), "h": tr("Height"), "turn": tr("Turn")}


class _Name(QLabel):
    """A name that is cut off with dots where there is no room for it."""

    def __init__(self) -> None:
        super().__init__()
        self.setFont(font(13, 600))
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setMinimumWidth(40)
        self._whole = ""

    def say(self, words: str) -> None:
        self._whole = words
        self.setToolTip(words)
        self._fit()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        self.setText(self.fontMetrics().elidedText(self._whole, Qt.TextElideMode.ElideRight, self.width()))


class ChosenBox(QWidget):
    """`typed` with a field and what was written in it; `colour_asked` with where its menu is to open."""

    typed = Signal(str, str)
    colour_asked = Signal(QPoint)

    def __init__(self) -> None:
        super().__init__()
        self.name = _Name()
        self.paint = QToolButton()
        self.paint.setObjectName("paint")
        self.paint.setFont(font(9.5))
        self.paint.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        self.paint.setToolTip(tr("Colour and operation of what is chosen"))
        self.paint.setAccessibleName(tr("Colour and operation"))
        self.paint.clicked.connect(self._ask_colour)
        self.keep = QCheckBox(tr("in proportion"))
        self.keep.setFont(font(9.5))
        self.keep.setChecked(True)
        self.fields: dict[str, QLineEdit] = {}
        self.unit = MM
        head = QHBoxLayout()
        head.setContentsMargins(0, 0, 0, 0)
        head.addWidget(self.name, 1)
        head.addWidget(self.paint)
        self.keep.setToolTip(tr("Width and height stay in proportion when one of them is typed"))
        self.numbers = named(QWidget(), "numbers")
        self._lay_fields()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        layout.addLayout(head)
        layout.addWidget(self.numbers)

    def _lay_fields(self) -> None:
        grid = QGridLayout(self.numbers)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(4)
        grid.setVerticalSpacing(5)
        for number, (name, tip) in enumerate(FIELDS):
            field = QLineEdit()
            field.setFont(font(9))
            field.setMinimumWidth(30)
            field.setToolTip(tip)
            field.setAccessibleName(LABELS[name])
            field.returnPressed.connect(lambda name=name: self._type(name))
            field.editingFinished.connect(lambda name=name: self._type(name))
            self.fields[name] = field
            row, column = divmod(number, 2)
            words = label(LABELS[name], 9, role="muted")
            words.setToolTip(tip)
            grid.addWidget(words, row, 2 * column)
            grid.addWidget(field, row, 2 * column + 1)
        grid.addWidget(self.keep, 2, 2, 1, 2)
        grid.setColumnStretch(1, 1)
        grid.setColumnStretch(3, 1)

    def show_chosen(self, chosen: Sequence[Entry], count: int, box: Box | None, unit: Unit) -> None:
        """What is chosen of so many items, and the frame around it."""
        self.unit = unit
        if not chosen:
            self.name.say(tr_count("The whole sheet, {count} item", "The whole sheet, {count} items", count))
        else:
            self.name.say(chosen[0].name if len(chosen) == 1 else tr("{count} items").format(count=len(chosen)))
        self.numbers.setVisible(bool(chosen) and box is not None)
        colours = list(dict.fromkeys(colour for entry in chosen for colour in entry.colours))
        doings = list(dict.fromkeys(entry.operation for entry in chosen))
        self.paint.setVisible(bool(colours))
        if colours:
            self.paint.setIcon(swatch(colours[0], THEME.palette.muted))
            several = len(colours) > 1 or len(doings) > 1
            self.paint.setText(tr("several") if several else said(doings[0]))
        if box is not None:
            for name, value in (("x", box[0]), ("y", box[1]), ("w", box[2] - box[0]), ("h", box[3] - box[1])):
                self._put(name, unit.written(value))
            self._put("turn", "0°")

    def _put(self, name: str, text: str) -> None:
        field = self.fields[name]
        field.setProperty("shown", text)
        field.setText(text)
        field.setCursorPosition(0)

    def _type(self, name: str) -> None:
        """What was written, once, and only where it is another than was shown."""
        field = self.fields[name]
        text = field.text().strip()
        if text and text != field.property("shown"):
            field.setProperty("shown", text)
            self.typed.emit(name, text)

    def take_back(self, name: str) -> None:
        """What was written can't be read: it stays, to be mended."""
        field = self.fields[name]
        field.setProperty("shown", "")
        field.selectAll()
        field.setFocus()

    def _ask_colour(self) -> None:
        self.colour_asked.emit(self.paint.mapToGlobal(QPoint(0, self.paint.height())))
