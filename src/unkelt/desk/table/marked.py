"""What is marked on a table: findings, what is chosen, and what a step that was tried would close or enclose."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from unkelt.desk.common.marks import draw_marks, level_colour, mark_path
from unkelt.desk.common.theme import Palette, colour
from unkelt.desk.table.ruling import RULER
from unkelt.geometry.measure import Box
from unkelt.session.viewport import Viewport
from unkelt.survey.finding import Finding

MARK, MARKS = 5.0, 200
"""How large the marks of findings are, in pixels, and how many of a finding are drawn at most."""
FRAME_PX = 5.0
"""How far a frame keeps from what it frames, in pixels."""


class Marked:
    """`chosen` is the number of the finding that is chosen; `boxes` frame what is chosen in the ledger, `tried` what a
    step would do.
    """

    def __init__(self) -> None:
        self.findings: Sequence[Finding] = ()
        self.chosen: int | None = None
        self.boxes: Sequence[Box] = ()
        self.tried: Sequence[Box] = ()

    def places(self, index: int, view: Viewport) -> list[tuple[float, float]]:
        """Where a finding's marks stand in the widget, in pixels."""
        return [(x + RULER, y + RULER) for x, y in view.middles(_boxes(self.findings[index]), MARKS)]

    def finding_at(self, at: QPointF, view: Viewport) -> int | None:
        """The finding whose mark lies there, the chosen one before others."""
        for index in sorted(range(len(self.findings)), key=lambda index: index != self.chosen):
            if mark_path(self.findings[index].question, self.places(index, view), MARK + 4).contains(at):
                return index
        return None

    def paint(self, painter: QPainter, view: Viewport, colours: Palette) -> None:
        """In the widget's pixels."""
        for index, finding in enumerate(self.findings):
            if index != self.chosen:
                draw_marks(painter, finding.question, finding.level, self.places(index, view), MARK, colours)
        _paint_frames(painter, view, self.boxes, QPen(colour(colours.accent), 1.5))
        _paint_frames(painter, view, self.tried, QPen(colour(colours.hold), 1.5, Qt.PenStyle.DotLine))
        if self.chosen is None or self.chosen >= len(self.findings):
            return
        finding = self.findings[self.chosen]
        _paint_frames(painter, view, _boxes(finding), QPen(colour(level_colour(finding.level, colours)), 1.5))
        draw_marks(painter, finding.question, finding.level, self.places(self.chosen, view), MARK + 2, colours)


def _boxes(finding: Finding) -> Sequence[Box]:
    return finding.marks or ((finding.box,) if finding.box else ())


def _paint_frames(painter: QPainter, view: Viewport, boxes: Sequence[Box], pen: QPen) -> None:
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(pen)
    for frame in view.frames(boxes, FRAME_PX, MARKS):
        painter.drawRoundedRect(QRectF(*frame).translated(RULER, RULER), 4, 4)
