"""The loupe: the place of a finding, now and after the step, side by side."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QHideEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QWheelEvent
from PySide6.QtWidgets import QWidget

from unkelt.desk.common.canvas import Canvas
from unkelt.desk.common.drawing import Drawing, Lens, paper
from unkelt.desk.common.theme import RADIUS, Coloured, colour, font, px
from unkelt.geometry.measure import Box
from unkelt.language import said, tr
from unkelt.session.viewport import Viewport

LEAST = 92
"""Pixels of height under which a loupe shows too little."""


class Loupe(Coloured, QWidget):
    """One look at a sheet, square unless there is no room. Dragging it and turning the wheel ask for another place, as
    shares of what it shows.
    """

    moved = Signal(float, float, float)

    def __init__(self, name: str) -> None:
        super().__init__()
        self.drawing: Drawing | None = None
        self.box: Box | None = None
        self.lens = Lens.BLADE
        self.words = ""
        self.canvas = Canvas(self, page=False)
        self.canvas.ready.connect(self.update)
        self._drag: QPointF | None = None
        self.setToolTip(tr("Drag to pan, turn the wheel to zoom; both pictures move together"))
        self.setMinimumSize(120, px(LEAST))
        self.setAccessibleName(tr("Loupe: {name}").format(name=name))

    def look(self, drawing: Drawing | None, box: Box | None, lens: Lens, words: str = "") -> None:
        """What it shows: a drawing around a box, or words where there is nothing to show."""
        self.drawing, self.box, self.lens, self.words = drawing, box, lens, words
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._drag = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None and event.buttons():
            step = self._drag - event.position()
            self._drag = event.position()
            self.moved.emit(step.x() / self.width(), step.y() / self.height(), 1.0)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:  # noqa: ARG002
        self._drag = None

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.moved.emit(0.0, 0.0, 1.0015 ** -event.angleDelta().y())
        event.accept()

    def heightForWidth(self, width: int) -> int:
        return width

    def hasHeightForWidth(self) -> bool:
        return True

    def hideEvent(self, event: QHideEvent) -> None:
        self.canvas.rest()
        super().hideEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:  # noqa: ARG002
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        frame = QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5)
        clip = QPainterPath()
        clip.addRoundedRect(frame, RADIUS, RADIUS)
        shown = self.drawing is not None and self.box is not None
        painter.fillPath(clip, colour(paper(self.colours, self.lens) if shown else self.colours.page))
        if self.drawing and self.box:
            painter.save()
            painter.setClipPath(clip)
            view = Viewport(self.width(), self.height()).fitted(self.box, 0)
            self.canvas.paint(painter, self.drawing, view, self.lens, self.colours)
            painter.restore()
        elif self.words:
            painter.setPen(colour(self.colours.muted))
            painter.setFont(font(9.5))
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(frame.adjusted(10, 10, -10, -10), int(flags), said(self.words))
        painter.setPen(colour(self.colours.page_edge))
        painter.drawPath(clip)
