"""The loupe: the place of a finding, now and after the step, side by side."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPaintEvent
from PySide6.QtWidgets import QWidget

from unkelt.desk.drawing import Drawing, Lens
from unkelt.desk.theme import RADIUS, Palette, colour, font
from unkelt.geometry.measure import Box
from unkelt.session.viewport import Viewport


class Loupe(QWidget):
    """One square look at a sheet."""

    def __init__(self, palette: Palette, name: str) -> None:
        super().__init__()
        self.colours = palette
        self.drawing: Drawing | None = None
        self.box: Box | None = None
        self.lens = Lens.BLADE
        self.words = ""
        self.setMinimumSize(120, 120)
        self.setAccessibleName(f"Loupe: {name}")

    def look(self, drawing: Drawing | None, box: Box | None, lens: Lens, words: str = "") -> None:
        self.drawing, self.box, self.lens, self.words = drawing, box, lens, words
        self.update()

    def heightForWidth(self, width: int) -> int:
        return width

    def hasHeightForWidth(self) -> bool:
        return True

    def paintEvent(self, event: QPaintEvent) -> None:  # noqa: ARG002
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        frame = QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5)
        clip = QPainterPath()
        clip.addRoundedRect(frame, RADIUS, RADIUS)
        painter.fillPath(clip, colour(self.colours.page))
        if self.drawing and self.box:
            painter.save()
            painter.setClipPath(clip)
            view = Viewport(self.width(), self.height()).fitted(self.box, 0)
            self.drawing.paint(painter, view, self.lens, self.colours, page=False)
            painter.restore()
        elif self.words:
            painter.setPen(colour(self.colours.muted))
            painter.setFont(font(9.5))
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(frame.adjusted(10, 10, -10, -10), int(flags), self.words)
        painter.setPen(colour(self.colours.page_edge))
        painter.drawPath(clip)
