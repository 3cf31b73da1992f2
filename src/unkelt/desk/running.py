"""The dry run on a light table: what was cut up to a moment, where the head is, and what goes wrong where."""

from __future__ import annotations

from dataclasses import dataclass, field

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QBrush, QPainter, QPen, QPolygonF

from unkelt.desk.theme import Palette, colour
from unkelt.geometry.path import Floats
from unkelt.proof.dry_run import Mishaps
from unkelt.proof.motion import DryRun, Move
from unkelt.session.viewport import Viewport


@dataclass
class Running:
    """A dry run, the moment that is shown, what goes wrong in it, and how wide the kerf is drawn."""

    run: DryRun | None = None
    seconds: float = 0.0
    mishaps: Mishaps = field(default_factory=Mishaps)
    pinched: tuple[tuple[float, float], ...] = ()
    kerf_mm: float = 0.0

    def paint(self, painter: QPainter, view: Viewport, colours: Palette) -> None:
        """On a painter whose origin is the view's."""
        if self.run is None:
            return
        x, y, number = self.run.at(self.seconds)
        looks = {"travel": (colours.muted, 1.0), "lead": (colours.warn, 2.0)}
        for index, move in enumerate(self.run.moves[: number + 1]):
            if move.kind == "pierce":
                continue
            current = index == number
            points = self._up_to(view, move, move.way, current, (x, y))
            if move.head is not None:
                kerf = self.kerf_mm * view.scale
                tint = colour(colours.muted, 70 if kerf > 1 else 255)
                solid, flat, round_ = Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap, Qt.PenJoinStyle.RoundJoin
                painter.setPen(QPen(tint, max(1.0, kerf), solid, flat, round_))
                painter.drawPolyline(QPolygonF(points))
                points = self._up_to(view, move, move.points, current)
            name, width = looks.get(move.kind, (colours.accent, 2.2))
            style = Qt.PenStyle.DotLine if move.kind == "travel" else Qt.PenStyle.SolidLine
            painter.setPen(QPen(colour(name), width, style))
            painter.drawPolyline(QPolygonF(points))
        self._paint_mishaps(painter, view, colours)
        painter.setPen(QPen(colour(colours.page), 3))
        painter.setBrush(colour(colours.hold))
        painter.drawEllipse(QPointF(*view.to_px(x, y)), 6, 6)

    def _up_to(
        self, view: Viewport, move: Move, line: Floats, current: bool, end: tuple[float, float] | None = None
    ) -> list[QPointF]:
        """A move's line in pixels; of the one that is being made, what has been, and where that ends."""
        points = [QPointF(*view.to_px(*point)) for point in line.tolist()]
        if not current:
            return points
        done = points[: max(1, round(len(points) * move.share(self.seconds)))]
        return [*done, QPointF(*view.to_px(*end))] if end else done

    def _paint_mishaps(self, painter: QPainter, view: Viewport, colours: Palette) -> None:
        painter.setPen(QPen(colour(colours.hold), 4.5))
        for line in (*self.mishaps.twice, *self.mishaps.through):
            painter.drawPolyline(QPolygonF([QPointF(*view.to_px(*point)) for point in line.tolist()]))
        painter.setPen(QPen(colour(colours.hold), 1.5))
        painter.setBrush(QBrush(colour(colours.hold), Qt.BrushStyle.BDiagPattern))
        for ring in self.mishaps.falling:
            painter.drawPolygon(QPolygonF([QPointF(*view.to_px(*point)) for point in ring.tolist()]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour(colours.hold), 2))
        for place in self.pinched:
            painter.drawEllipse(QPointF(*view.to_px(*place)), 9, 9)
