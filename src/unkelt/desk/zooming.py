"""How near one looks: closer, farther, the whole sheet, and true size, once somebody held a ruler against the
screen."""

from __future__ import annotations

from PySide6.QtCore import QLineF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QLabel, QLineEdit, QVBoxLayout, QWidget

from unkelt.desk.common.theme import font
from unkelt.desk.common.widgets import label
from unkelt.desk.frame import Frame
from unkelt.desk.tables import Tables
from unkelt.errors import UnkeltError
from unkelt.language import said, tr
from unkelt.messages import sentence
from unkelt.session.screens import line_length, measured, pixels_per_mm, screen_name

LINE_PX = 400


class Zooming:
    """Joins what people do to look closer to the tables and the settings."""

    def __init__(self, window: Frame, tables: Tables) -> None:
        self.window, self.tables = window, tables

    def zoom_in(self) -> None:
        """One step closer."""
        self.tables.front.sight.zoom(1.25)

    def zoom_out(self) -> None:
        """One step farther."""
        self.tables.front.sight.zoom(0.8)

    def zoom_fit(self) -> None:
        """The whole sheet."""
        self.tables.front.sight.fit()

    def zoom_true(self) -> None:
        """A millimetre of the sheet is one of the screen."""
        self.tables.front.sight.true_size(self._per_mm())

    def measure_screen(self) -> None:
        """Asks how long a line is on this screen, and remembers it for this screen."""
        dialog = RulerDialog(self.window.itself, line_length(LINE_PX, self._per_mm()))
        if dialog.exec() and dialog.per_mm is not None:
            self.window.remember(screens={**self.window.settings.screens, self._screen(): dialog.per_mm})
            self.zoom_true()

    def _screen(self) -> str:
        screen = self.window.itself.screen()
        return screen_name(screen.manufacturer(), screen.model(), screen.serialNumber(), screen.name())

    def _per_mm(self) -> float:
        return pixels_per_mm(self.window.settings.screens, self._screen(), self.window.itself.physicalDpiX())


class RulerDialog(QDialog):
    """A line to lay a ruler along, and a field for what the ruler says. `per_mm` is what follows from it."""

    def __init__(self, parent: QWidget, likely: str) -> None:
        super().__init__(parent)
        self.per_mm: float | None = None
        self.setWindowTitle(tr("Calibrate true size"))
        self.field = QLineEdit(likely)
        self.field.setFont(font(10.5))
        self.field.setAccessibleName(tr("Length of the line on the ruler"))
        self.field.selectAll()
        self.wrong = QLabel("")
        self.wrong.setFont(font(10))
        self.wrong.setProperty("role", "hold")
        self.wrong.setWordWrap(True)
        self.wrong.hide()
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self._take)
        buttons.rejected.connect(self.reject)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(28, 24, 28, 20)
        layout.setSpacing(12)
        words = tr("Hold a ruler against this line and type its length. “True size” is then exact on this screen.")
        layout.addWidget(label(words, 10.5, wrap=True))
        layout.addWidget(_Line())
        layout.addWidget(self.field)
        layout.addWidget(self.wrong)
        layout.addWidget(buttons)

    def _take(self) -> None:
        try:
            self.per_mm = measured(LINE_PX, self.field.text())
        except UnkeltError as problem:
            self.wrong.setText(said(sentence(str(problem))))
            self.wrong.show()
            return
        self.accept()


class _Line(QWidget):
    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(LINE_PX + 24, 56)
        self.setAccessibleName(tr("Line to measure"))

    def paintEvent(self, event: QPaintEvent) -> None:  # noqa: ARG002
        painter = QPainter(self)
        pen = QPen(self.palette().text().color(), 1)
        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
        painter.setPen(pen)
        middle, left = 28, 12
        right = left + LINE_PX
        painter.drawLine(QLineF(left, middle, right, middle))
        for x in (left, right):
            painter.drawLine(QLineF(x, middle - 16, x, middle + 16))
