"""The dry run on a light table: what was cut up to a moment, where the head is, and what goes wrong where."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QBrush, QPainter, QPen, QPolygonF

from unkelt.desk.common.layer import Layer
from unkelt.desk.common.theme import Palette, colour
from unkelt.geometry.path import Floats
from unkelt.proof.dry_run import Mishaps
from unkelt.proof.motion import DryRun, Move
from unkelt.session.portions import Portions, between
from unkelt.session.viewport import Viewport

PART = 200
"""Points of a move that one call draws. Nothing else runs while Qt draws a line."""


@dataclass
class Running:
    """A dry run, the moment that is shown, what goes wrong in it, and how wide the kerf is drawn."""

    run: DryRun | None = None
    seconds: float = 0.0
    mishaps: Mishaps = field(default_factory=Mishaps)
    pinched: tuple[tuple[float, float], ...] = ()
    kerf_mm: float = 0.0
    _portions: Portions | None = None
    _moves: Layer = field(default_factory=Layer)
    _wrong: Layer = field(default_factory=Layer)

    def show(self, run: DryRun | None, seconds: float) -> None:
        """A run, up to a moment."""
        if run is not self.run:
            self.run, self._moves = run, Layer()
            self._portions = Portions(run, PART) if run is not None else None
        self.seconds = seconds

    def show_mishaps(self, found: Mishaps, pinched: Sequence[tuple[float, float]], kerf_mm: float) -> None:
        """What goes wrong in it, and how wide the kerf is drawn."""
        self.mishaps, self.pinched, self.kerf_mm = found, tuple(pinched), kerf_mm
        self._wrong = Layer()

    def paint(self, painter: QPainter, view: Viewport, colours: Palette) -> bool:
        """On a painter whose origin is the view's; False where it is to be called again, since not all is drawn."""
        run, portions = self.run, self._portions
        if run is None or portions is None:
            return True
        x, y, number = run.at(self.seconds)
        look = (self.kerf_mm, colours)
        done = portions.done(self.seconds)
        whole = self._moves.paint(
            painter, view, look, done, lambda brush, at: self._portion(brush, view, colours, *portions.portion(at))
        )
        if number >= 0 and (share := run.moves[number].share(self.seconds)) < 1:
            move, since, _ = portions.portion(done)
            self._portion(painter, view, colours, move, since, share, (x, y))
        wrong = [*self.mishaps.twice, *self.mishaps.through, *self.mishaps.falling]
        open_ones = len(wrong) - len(self.mishaps.falling)
        seen = self._wrong.paint(
            painter,
            view,
            colours,
            len(wrong),
            lambda brush, at: _mishap(brush, view, colours, wrong[at], falls=at >= open_ones),
        )
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour(colours.hold), 2))
        for place in self.pinched:
            painter.drawEllipse(QPointF(*view.to_px(*place)), 9, 9)
        painter.setPen(QPen(colour(colours.page), 3))
        painter.setBrush(colour(colours.hold))
        painter.drawEllipse(QPointF(*view.to_px(x, y)), 6, 6)
        return whole and seen

    def _portion(
        self,
        painter: QPainter,
        view: Viewport,
        colours: Palette,
        move: Move,
        since: float,
        until: float,
        end: tuple[float, float] | None = None,
    ) -> None:
        """A move from one share of it to another, and where that ends."""
        if move.kind == "pierce":
            return
        points = _polygon(view, between(move.way, since, until))
        if end is not None:
            points.append(QPointF(*view.to_px(*end)))
        if move.head is not None:
            kerf = self.kerf_mm * view.scale
            tint = colour(colours.muted, 70 if kerf > 1 else 255)
            solid, flat, round_ = Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap, Qt.PenJoinStyle.RoundJoin
            painter.setPen(QPen(tint, max(1.0, kerf), solid, flat, round_))
            painter.drawPolyline(points)
            points = _polygon(view, between(move.points, since, until))
        # The lines of an engraving lie close: what is engraved shows through them.
        looks = {"travel": (colours.muted, 1.0), "lead": (colours.warn, 2.0), "raster": (colours.accent, 1.0)}
        name, width = looks.get(move.kind, (colours.accent, 2.2))
        style = Qt.PenStyle.DotLine if move.kind == "travel" else Qt.PenStyle.SolidLine
        painter.setPen(QPen(colour(name, 36 if move.kind == "raster" else 255), width, style))
        painter.drawPolyline(points)


def _polygon(view: Viewport, line: Floats) -> QPolygonF:
    return QPolygonF([QPointF(x, y) for x, y in view.line(line)])


def _mishap(painter: QPainter, view: Viewport, colours: Palette, line: Floats, *, falls: bool) -> None:
    """A line that is cut again or through something, or the ring of a piece that falls."""
    if falls:
        painter.setPen(QPen(colour(colours.hold), 1.5))
        painter.setBrush(QBrush(colour(colours.hold), Qt.BrushStyle.BDiagPattern))
        painter.drawPolygon(_polygon(view, line))
    else:
        painter.setPen(QPen(colour(colours.hold), 4.5))
        painter.drawPolyline(_polygon(view, line))
