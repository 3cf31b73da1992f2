"""One shape a question, so that marks are told apart without colour."""

from __future__ import annotations

import math
from collections.abc import Iterable
from functools import lru_cache

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QImage, QPainter, QPainterPath, QPolygonF

from unkelt.desk.common.theme import Palette, colour
from unkelt.survey.finding import Level, Question

_POLYGONS: dict[Question, list[tuple[float, float]]] = {
    Question.ONE_BODY: [(-0.85, -0.85), (0.85, -0.85), (0.85, 0.85), (-0.85, 0.85)],
    Question.CUTS_ONCE: [(0, -1.15), (1.15, 0), (0, 1.15), (-1.15, 0)],
    Question.RUNS_SMOOTH: [(0, -1.05), (1.1, 0.85), (-1.1, 0.85)],
    Question.RIGHT_SIZE: [(-1.1, -0.4), (1.1, -0.4), (1.1, 0.4), (-1.1, 0.4)],
    Question.RIGHT_JOB: [(-0.55, -1), (0.55, -1), (1.1, 0), (0.55, 1), (-0.55, 1), (-1.1, 0)],
}


def level_colour(level: Level, palette: Palette) -> str:
    """The colour of a level."""
    return {Level.HOLD: palette.hold, Level.WARN: palette.warn, Level.NOTE: palette.note}[level]


def mark_path(question: Question, places: Iterable[tuple[float, float]], radius: float) -> QPainterPath:
    """The shape of a question about each of some points."""
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.WindingFill)
    for x, y in places:
        if question not in _POLYGONS:
            path.addEllipse(QPointF(x, y), radius, radius)
        else:
            path.addPolygon(QPolygonF([QPointF(x + radius * dx, y + radius * dy) for dx, dy in _POLYGONS[question]]))
            path.closeSubpath()
    return path


def draw_marks(
    painter: QPainter,
    question: Question,
    level: Level,
    places: Iterable[tuple[float, float]],
    radius: float,
    palette: Palette,
) -> None:
    """Filled in the level's colour, with a rim that keeps them apart from the art. Drawn once and stamped: a sheet may
    bear a thousand.
    """
    ratio = painter.device().devicePixelRatioF()
    stamp, half = _stamp(question, level, radius, palette, ratio)
    for x, y in places:
        painter.drawImage(QPointF(round(x * ratio) / ratio - half, round(y * ratio) / ratio - half), stamp)


@lru_cache(maxsize=128)
def _stamp(question: Question, level: Level, radius: float, palette: Palette, ratio: float) -> tuple[QImage, int]:
    """The mark in the middle of a picture, and half that picture's side."""
    half = math.ceil(1.2 * radius) + 2
    side = math.ceil(2 * half * ratio)
    stamp = QImage(side, side, QImage.Format.Format_ARGB32_Premultiplied)
    stamp.setDevicePixelRatio(ratio)
    stamp.fill(Qt.GlobalColor.transparent)
    painter = QPainter(stamp)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setBrush(colour(level_colour(level, palette)))
    painter.setPen(colour(palette.page))
    painter.drawPath(mark_path(question, [(half, half)], radius))
    painter.end()
    return stamp, half


def draw_clear(painter: QPainter, box: QRectF, palette: Palette) -> None:
    """A ring with a tick: nothing found."""
    pen = painter.pen()
    pen.setColor(colour(palette.accent))
    pen.setWidthF(1.5)
    painter.setPen(pen)
    painter.setBrush(colour(palette.accent, 0))
    painter.drawEllipse(box)
    x, y, s = box.center().x(), box.center().y(), box.width()
    painter.drawPolyline(
        QPolygonF([QPointF(x - 0.22 * s, y), QPointF(x - 0.06 * s, y + 0.17 * s), QPointF(x + 0.22 * s, y - 0.16 * s)])
    )
