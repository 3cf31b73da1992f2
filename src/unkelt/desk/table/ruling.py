"""What lies about the sheet on a light table: rulers, grid, guide lines, and dimension lines against the ticket."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QLineF, QPointF, QRectF, QSizeF, Qt
from PySide6.QtGui import QPainter, QPen, QPixmap

from unkelt.desk.common.theme import Palette, colour, font, px
from unkelt.geometry.measure import Box
from unkelt.session.dimensions import Dimension
from unkelt.session.reading import Unit
from unkelt.session.snapping import GuideLine
from unkelt.session.viewport import Tick, Viewport, ticks

RULER = 26


class Rulers:
    """Along the top and the left of a widget; drawn anew only where something about them changed: they are dozens of
    calls, and at each of them work in another thread may take its turn.
    """

    def __init__(self) -> None:
        self._key: object = None
        self._strips = QPixmap(), QPixmap()

    def paint(self, painter: QPainter, size: QSizeF, view: Viewport, unit: Unit, colours: Palette) -> None:
        """On a painter whose origin is the widget's."""
        ratio = painter.device().devicePixelRatioF()
        key = size, view, unit, colours, ratio
        if key != self._key:
            self._key, self._strips = key, _strips(size, view, unit, colours, ratio)
        for strip in self._strips:
            painter.drawPixmap(QPointF(0, 0), strip)


def _strips(size: QSizeF, view: Viewport, unit: Unit, colours: Palette, ratio: float) -> tuple[QPixmap, QPixmap]:
    """The upper ruler, and the left one."""
    made = []
    for part in (QSizeF(size.width(), RULER), QSizeF(RULER, size.height())):
        strip = QPixmap((part * ratio).toSize())
        strip.setDevicePixelRatio(ratio)
        painter = QPainter(strip)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        _paint_rulers(painter, size, view, unit, colours)
        painter.end()
        made.append(strip)
    return made[0], made[1]


def _paint_rulers(painter: QPainter, size: QSizeF, view: Viewport, unit: Unit, colours: Palette) -> None:
    painter.fillRect(QRectF(0, 0, size.width(), RULER), colour(colours.raised))
    painter.fillRect(QRectF(0, 0, RULER, size.height()), colour(colours.raised))
    painter.setPen(colour(colours.line))
    painter.drawLine(QPointF(0, RULER - 0.5), QPointF(size.width(), RULER - 0.5))
    painter.drawLine(QPointF(RULER - 0.5, 0), QPointF(RULER - 0.5, size.height()))
    painter.setFont(font(8, grows=False))
    painter.save()
    painter.setClipRect(QRectF(RULER, 0, view.width_px, RULER))
    along = ticks(view.x, view.scale, view.width_px, unit)
    _draw_ticks(painter, along, colours, lambda at, length: QLineF(at, RULER - length, at, RULER - 1))
    for tick in along:
        if tick.label:
            painter.drawText(QPointF(RULER + tick.at_px + 3, 12), tick.label)
    painter.restore()
    painter.setClipRect(QRectF(0, RULER, RULER, view.height_px))
    down = ticks(view.y, view.scale, view.height_px, unit)
    _draw_ticks(painter, down, colours, lambda at, length: QLineF(RULER - length, at, RULER - 1, at))
    painter.save()
    painter.rotate(-90)
    for tick in down:
        if tick.label:
            painter.drawText(QPointF(3 - RULER - tick.at_px, 11), tick.label)
    painter.restore()
    painter.setClipping(False)
    painter.fillRect(QRectF(0, 0, RULER - 1, RULER - 1), colour(colours.raised))
    painter.setPen(colour(colours.muted))
    painter.drawText(QRectF(0, 0, RULER, RULER), Qt.AlignmentFlag.AlignCenter, unit.name)


def _draw_ticks(painter: QPainter, found: list[Tick], colours: Palette, line: Callable[[float, float], QLineF]) -> None:
    """Short lines, and longer ones where a figure stands; the pen is left as the figures want it."""
    painter.setPen(colour(colours.page_edge))
    painter.drawLines([line(RULER + tick.at_px, 5) for tick in found if not tick.label])
    painter.setPen(colour(colours.muted))
    painter.drawLines([line(RULER + tick.at_px, 9) for tick in found if tick.label])


def paint_grid(painter: QPainter, view: Viewport, unit: Unit, colours: Palette) -> None:
    """Lines at the rulers' figures, faint ones at their marks."""
    for axis, start, extent in (("x", view.x, view.width_px), ("y", view.y, view.height_px)):
        for tick in ticks(start, view.scale, extent, unit):
            painter.setPen(colour(colours.accent, 70 if tick.label else 26))
            _across(painter, axis, tick.at_px, view)


def paint_guides(
    painter: QPainter, view: Viewport, guides: Sequence[GuideLine], held: GuideLine | None, unit: Unit, colours: Palette
) -> None:
    """Dashed lines across the table; the one in the hand with its place."""
    for guide in (*guides, *([held] if held else [])):
        at = view.to_px(guide.mm, guide.mm)[0 if guide.axis == "x" else 1]
        painter.setPen(QPen(colour(colours.note), 2 if guide is held else 1, Qt.PenStyle.DashDotLine))
        _across(painter, guide.axis, at, view)
    if held:
        at = view.to_px(held.mm, held.mm)[0 if held.axis == "x" else 1]
        painter.setFont(font(9.5, 600))
        label = f"{held.axis} {unit.say(held.mm)}"
        width = painter.fontMetrics().horizontalAdvance(label) + 14
        left = QRectF(at + 6, 8, width, 22) if held.axis == "x" else QRectF(8, at + 6, width, 22)
        painter.setPen(QPen(colour(colours.line), 1))
        painter.setBrush(colour(colours.raised))
        painter.drawRoundedRect(left, 5, 5)
        painter.setPen(colour(colours.text))
        painter.drawText(left, Qt.AlignmentFlag.AlignCenter, label)


def _across(painter: QPainter, axis: str, at: float, view: Viewport) -> None:
    if axis == "x":
        painter.drawLine(QPointF(at, 0), QPointF(at, view.height_px))
    else:
        painter.drawLine(QPointF(0, at), QPointF(view.width_px, at))


class Dimensions:
    """Dimension lines beneath and beside a box of ink. `ground` gives, for a place in mm, the colours that can be read
    there and what they stand on.
    """

    def __init__(
        self, painter: QPainter, view: Viewport, ink: Box, ground: Callable[[float, float], tuple[Palette, str]]
    ) -> None:
        self.painter, self.view, self.ink, self.ground = painter, view, ink, ground
        self._behind = ""

    def paint(self, lines: Sequence[Dimension]) -> None:
        """Draws dimension lines beside the ink, each axis' in rows."""
        painter, view = self.painter, self.view
        right, bottom = view.to_px(self.ink[2], self.ink[3])
        rows = {"x": 0, "y": 0}
        for line in lines:
            offset = px(26) + px(21) * rows[line.axis]
            rows[line.axis] += 1
            middle = (line.start + line.end) / 2
            x, y = view.to_px(middle, middle)
            place = (x, bottom + offset) if line.axis == "x" else (right + offset, y)
            ground, self._behind = self.ground(*view.to_mm(*place))
            value = ground.hold if line.wanted else ground.accent if line.then else ground.text
            painter.setPen(
                QPen(colour(value), 1, Qt.PenStyle.DashLine if line.wanted or line.then else Qt.PenStyle.SolidLine)
            )
            painter.setFont(font(9.5, 400 if line.wanted else 600))
            width = painter.fontMetrics().horizontalAdvance(line.label) + 16
            if line.axis == "x":
                a, b = view.to_px(line.start, 0)[0], view.to_px(line.end, 0)[0]
                self._level(a, b, bottom + offset, width, line.label, view.width_px)
            else:
                a, b = view.to_px(0, line.start)[1], view.to_px(0, line.end)[1]
                self._upright(right + offset, a, b, width, line.label)

    def _upright(self, x: float, a: float, b: float, width: float, label: str) -> None:
        painter, view = self.painter, self.view
        short = b - a <= width + 20  # to hold its label
        if short and x + 10 + width <= view.width_px:
            painter.drawLine(QPointF(x, a), QPointF(x, b))
            for y in (a, b):
                painter.drawLine(QPointF(x - 5, y), QPointF(x + 5, y))
            beside = QRectF(x + 10, (a + b) / 2 - 10, width, 20)
            self._say(beside, label, Qt.AlignmentFlag.AlignLeft)
            return
        painter.save()
        painter.translate(x, 0)
        painter.rotate(90)
        if short:  # no room beside it either: along it
            self._level(a, b, 0, 0, "", view.height_px)
            self._say(QRectF((a + b - width) / 2, -22, width, 20), label)
        else:
            self._level(a, b, 0, width, label, view.height_px)
        painter.restore()

    def _level(self, a: float, b: float, y: float, width: float, label: str, room: float) -> None:
        painter = self.painter
        middle = (a + b) / 2
        if b - a <= width + 20:  # too short to hold its label
            painter.drawLine(QPointF(a, y), QPointF(b, y))
            middle = b + 10 + width / 2 if b + 10 + width <= room else a - 10 - width / 2
        else:
            painter.drawLine(QPointF(a, y), QPointF(middle - width / 2, y))
            painter.drawLine(QPointF(middle + width / 2, y), QPointF(b, y))
        for x in (a, b):
            painter.drawLine(QPointF(x, y - 5), QPointF(x, y + 5))
        self._say(QRectF(middle - width / 2, y - 10, width, 20), label)

    def _say(self, box: QRectF, label: str, side: Qt.AlignmentFlag = Qt.AlignmentFlag.AlignHCenter) -> None:
        """A figure on a ground of its own, so that the edge of the page doesn't run through it."""
        painter = self.painter
        painter.fillRect(painter.boundingRect(box, side | Qt.AlignmentFlag.AlignVCenter, label), colour(self._behind))
        painter.drawText(box, side | Qt.AlignmentFlag.AlignVCenter, label)
