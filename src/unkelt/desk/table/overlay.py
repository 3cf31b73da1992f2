"""What lies over the sheet on a light table while somebody works on it: handles, a frame or lasso, what is measured."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from unkelt.desk.common.drawing import painter_path
from unkelt.desk.common.theme import Palette, colour, font
from unkelt.language import said
from unkelt.session.measuring import Place
from unkelt.session.viewport import Viewport
from unkelt.steps.grip import Handles

GRIP = 9.0
"""Half the width, in pixels, of what a handle can be taken by."""

Measured = tuple[Place | None, Place | None, list[str]]
"""From where to where, and what is to be said about it."""


def paint_ring(painter: QPainter, ring: Sequence[QPointF], lasso: bool, colours: Palette) -> None:
    """What is being drawn round things, in the widget's pixels: the two corners of a frame, or a lasso."""
    painter.setPen(QPen(colour(colours.accent), 1, Qt.PenStyle.DashLine))
    painter.setBrush(colour(colours.accent, 30))
    if lasso:
        painter.drawPolygon(QPolygonF(ring))
    else:
        painter.drawRect(QRectF(*ring).normalized())


def paint_handles(
    painter: QPainter, view: Viewport, handles: Handles, picked: Collection[str], colours: Palette
) -> None:
    """What can be dragged: rings with a dot, on the dashed line they belong to."""
    if handles.line is not None:
        painter.save()
        painter.scale(view.scale, view.scale)
        painter.translate(-view.x, -view.y)
        pen = QPen(colour(colours.accent), 1.2, Qt.PenStyle.DashLine)
        pen.setCosmetic(True)
        painter.strokePath(painter_path(handles.line, False), pen)
        painter.restore()
    for handle in handles.places:
        at = QPointF(*view.to_px(handle.x, handle.y))
        if handle.node:
            here = handle.name in picked
            half = QPointF(4.5, 4.5) if here else QPointF(3, 3)
            painter.setPen(QPen(colour(colours.accent), 1.4))
            painter.setBrush(colour(colours.accent if here else colours.page))
            painter.drawRect(QRectF(at - half, at + half))
            continue
        if handle.stem is not None:
            painter.setPen(QPen(colour(colours.accent), 1.2))
            painter.drawLine(QPointF(*view.to_px(*handle.stem)), at)
            painter.setBrush(colour(colours.page))
            painter.drawEllipse(at, 4, 4)
            continue
        painter.setPen(QPen(colour(colours.page), 4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(at, GRIP - 2, GRIP - 2)
        painter.setPen(QPen(colour(colours.accent), 2))
        painter.setBrush(colour(colours.page, 200))
        painter.drawEllipse(at, GRIP - 2, GRIP - 2)
        painter.setBrush(colour(colours.accent))
        painter.drawEllipse(at, 1.5, 1.5)


def paint_measure(painter: QPainter, view: Viewport, measure: Measured, colours: Palette) -> None:
    """The places that were asked about, and what lies between them."""
    start, end, lines = measure
    ends = []
    for place in (start, end):
        if place is None:
            continue
        ends.append(QPointF(*view.to_px(place.x, place.y)))
        painter.setPen(QPen(colour(colours.accent), 1.6))
        painter.setBrush(colour(colours.accent if place.on == "node" else colours.page))
        painter.drawEllipse(ends[-1], 4, 4)
    if len(ends) == 2:
        painter.drawLine(*ends)
    if lines and ends:
        painter.setFont(font(10, 600))
        metrics = painter.fontMetrics()
        width = max(metrics.horizontalAdvance(line) for line in lines) + 20
        height = metrics.height() * len(lines) + 12
        right, below = view.width_px - width - 8, view.height_px - height - 8
        corner = ends[-1] + QPointF(16, 16)
        box = QRectF(min(corner.x(), right), min(corner.y(), below), width, height)
        painter.setPen(QPen(colour(colours.line), 1))
        painter.setBrush(colour(colours.raised))
        painter.drawRoundedRect(box, 6, 6)
        painter.setPen(colour(colours.text))
        painter.drawText(box.adjusted(10, 6, -10, -6), Qt.AlignmentFlag.AlignLeft, "\n".join(map(said, lines)))
