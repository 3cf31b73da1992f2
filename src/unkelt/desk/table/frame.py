"""The frame around what is chosen on a table: its handles, and what is in the hand while one of them is dragged."""

from __future__ import annotations

from collections.abc import Sequence

from fontTools.misc.transform import Transform
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from unkelt.desk.common.drawing import Drawing
from unkelt.desk.common.theme import Palette, colour, font
from unkelt.geometry.measure import Box
from unkelt.session.frame import INSIDE, TURN, grips
from unkelt.session.snapping import GuideLine
from unkelt.session.viewport import Viewport

APART_PX, GRIP_PX, STEM_PX = 6.0, 7.0, 24.0
"""How far the frame keeps from the ink, half of what a handle can be taken by, and how far the turning one stands
off.
"""

LEAST_PX = 34.0
"""A side that is shorter on the screen has no handle in its middle: the corners need the room."""

CURSORS = {
    INSIDE: Qt.CursorShape.SizeAllCursor,
    TURN: Qt.CursorShape.OpenHandCursor,
    "left": Qt.CursorShape.SizeHorCursor,
    "right": Qt.CursorShape.SizeHorCursor,
    "top": Qt.CursorShape.SizeVerCursor,
    "bottom": Qt.CursorShape.SizeVerCursor,
    "top-left": Qt.CursorShape.SizeFDiagCursor,
    "bottom-right": Qt.CursorShape.SizeFDiagCursor,
    "top-right": Qt.CursorShape.SizeBDiagCursor,
    "bottom-left": Qt.CursorShape.SizeBDiagCursor,
}


class Framed:
    """`box` is the frame in mm, None where nothing is chosen or a step is being set. While it is dragged, `held` is
    what is in the hand, `matrix` where it is now, `caught` what it came to lie on, `words` how far or how large.
    """

    def __init__(self) -> None:
        self.box: Box | None = None
        self.held: Drawing | None = None
        self.matrix = Transform()
        self.caught: Sequence[GuideLine] = ()
        self.words = ""

    def hold(self, held: Drawing | None, matrix: Transform, caught: Sequence[GuideLine], words: str) -> None:
        """What is in the hand, or nothing."""
        self.held, self.matrix, self.caught, self.words = held, matrix, caught, words

    def _places(self, view: Viewport) -> dict[str, QPointF]:
        """Where the handles stand, in pixels of the view."""
        if self.box is None:
            return {}
        area = self._area(view)
        wide, high = area.width() >= LEAST_PX, area.height() >= LEAST_PX
        found = {}
        for name in grips(self.box):
            x = area.left() if "left" in name else area.right() if "right" in name else area.center().x()
            y = area.top() if "top" in name else area.bottom() if "bottom" in name else area.center().y()
            if "-" in name or (wide if name in ("top", "bottom") else high):
                found[name] = QPointF(x, y)
        found[TURN] = QPointF(area.center().x(), area.top() - STEM_PX)
        return found

    def _area(self, view: Viewport) -> QRectF:
        assert self.box is not None
        x0, y0 = view.to_px(self.box[0], self.box[1])
        x1, y1 = view.to_px(self.box[2], self.box[3])
        return QRectF(QPointF(x0, y0), QPointF(x1, y1)).adjusted(-APART_PX, -APART_PX, APART_PX, APART_PX)

    def grip_at(self, at: QPointF, view: Viewport) -> str | None:
        """The handle that can be taken there, or the inside of the frame."""
        if self.box is None:
            return None
        near = [((place - at).manhattanLength(), name) for name, place in self._places(view).items()]
        away, name = min(near, default=(GRIP_PX * 9, ""))
        if away <= GRIP_PX * 1.5:
            return name
        return INSIDE if self._area(view).contains(at) else None

    def paint(self, painter: QPainter, view: Viewport, colours: Palette) -> None:
        """In pixels of the view."""
        if self.held is not None:
            self.held.paint_in_hand(painter, view, self.matrix, colours.accent)
            self._paint_caught(painter, view, colours)
            return
        if self.box is None:
            return
        area, places = self._area(view), self._places(view)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for pen in (QPen(colour(colours.page, 150), 3), QPen(colour(colours.accent), 1.2)):
            painter.setPen(pen)
            painter.drawRect(area)
            painter.drawLine(QLineF(QPointF(area.center().x(), area.top()), places[TURN]))
        for name, place in places.items():
            painter.setPen(QPen(colour(colours.page), 3.5))
            painter.setBrush(colour(colours.raised))
            for pen in (QPen(colour(colours.page), 3.5), QPen(colour(colours.accent), 1.5)):
                painter.setPen(pen)
                if name == TURN:
                    painter.drawEllipse(place, 5, 5)
                elif "-" in name:
                    painter.drawRoundedRect(QRectF(place - QPointF(4.5, 4.5), place + QPointF(4.5, 4.5)), 2.5, 2.5)
                else:
                    flat = name in ("top", "bottom")
                    half = QPointF(6, 3) if flat else QPointF(3, 6)
                    painter.drawRoundedRect(QRectF(place - half, place + half), 2.5, 2.5)

    def _paint_caught(self, painter: QPainter, view: Viewport, colours: Palette) -> None:
        """The lines that it came to lie on, and the words beside it."""
        painter.setPen(QPen(colour(colours.note), 1, Qt.PenStyle.DashLine))
        for line in self.caught:
            x, y = view.to_px(line.mm, line.mm)
            if line.axis == "x":
                painter.drawLine(QLineF(x, 0, x, view.height_px))
            else:
                painter.drawLine(QLineF(0, y, view.width_px, y))
        if not self.words or self.held is None or self.held.ink is None:
            return
        x0, y0, x1, y1 = self.held.ink
        corners = [self.matrix.transformPoint(corner) for corner in ((x0, y0), (x1, y0), (x1, y1), (x0, y1))]
        right, bottom = view.to_px(max(x for x, _ in corners), max(y for _, y in corners))
        painter.setFont(font(9.5, 600))
        width = painter.fontMetrics().horizontalAdvance(self.words) + 16
        box = QRectF(min(right + 8, view.width_px - width - 6), min(bottom + 8, view.height_px - 30), width, 24)
        painter.setPen(QPen(colour(colours.line), 1))
        painter.setBrush(colour(colours.raised))
        painter.drawRoundedRect(box, 5, 5)
        painter.setPen(colour(colours.text))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, self.words)
