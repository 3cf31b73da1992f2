"""The original against the sheet as it stands, on the same table: behind a line one drags, in turn, or as a
difference.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

from PySide6.QtCore import QObject, QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QImage, QPainter, QPen

from unkelt.desk.common.canvas import Canvas, blank
from unkelt.desk.common.drawing import Drawing, Lens
from unkelt.desk.common.theme import Palette, colour, font, px
from unkelt.language import tr
from unkelt.session.viewport import Viewport

BLINK_MS = 700
GRIP_PX = 8


class Compare(StrEnum):
    """How, with the words for it."""

    OFF = ""
    WIPE = tr("drag the divider")
    BLINK = tr("alternating")
    DIFFERENCE = tr("the difference")

    def next(self) -> Compare:
        """The way of comparing that comes after this one."""
        modes = list(Compare)
        return modes[(modes.index(self) + 1) % len(modes)]


@dataclass(frozen=True)
class Difference:
    """What is only in the first of two drawings, and what is only in the second, each in its colour."""

    first: Drawing
    second: Drawing

    def quick(self, most: int, lens: Lens, view: Viewport) -> bool:
        """Whether it can be drawn while the table is painted."""
        return self.first.quick(most // 4, lens, view) and self.second.quick(most // 4, lens, view)

    def paint_page(self, painter: QPainter, view: Viewport, lens: Lens, palette: Palette) -> None:
        """The page that both states lie on."""
        self.second.paint_page(painter, view, lens, palette)

    def paint(
        self,
        painter: QPainter,
        view: Viewport,
        lens: Lens,
        palette: Palette,
        *,
        page: bool = True,
        unwanted: Callable[[], bool] = lambda: False,
    ) -> bool:
        """Draws both; each is drawn alone first, and what the other covers taken off."""
        if page:
            self.paint_page(painter, view, lens, palette)
        ratio = painter.device().devicePixelRatioF()
        for one, other, value in (
            (self.first, self.second, palette.hold),
            (self.second, self.first, palette.accent),
        ):
            if unwanted():
                return False
            painter.drawImage(QPointF(0, 0), _only(one, other, view, value, ratio))
        return True


class Comparison(QObject):
    """`changed` when something else is to be shown."""

    changed = Signal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.mode = Compare.OFF
        self.original: Drawing | None = None
        self.share = 0.5
        """Where the line stands, as a share of the window's width."""
        self.first = False
        self.canvas = Canvas(self)
        self.canvas.ready.connect(self.changed)
        self._timer = QTimer(self)
        self._timer.setInterval(BLINK_MS)
        self._timer.timeout.connect(self._turn)

    def show(self, original: Drawing | None, mode: Compare) -> None:
        """What is compared with; OFF ends it."""
        self.original, self.mode = original, mode if original is not None else Compare.OFF
        self.first = True
        self._timer.start() if self.mode is Compare.BLINK else self._timer.stop()
        self.changed.emit()

    def _turn(self) -> None:
        self.first = not self.first
        self.changed.emit()

    def holds(self, x_px: float, width_px: float) -> bool:
        """Whether the line can be taken hold of there."""
        return self.mode is Compare.WIPE and abs(x_px - self.share * width_px) <= GRIP_PX

    def drag(self, x_px: float, width_px: float) -> None:
        """Moves the edge between before and after to a place in pixels."""
        self.share = min(max(x_px / width_px, 0.02), 0.98)
        self.changed.emit()

    def paint(
        self, painter: QPainter, view: Viewport, lens: Lens, palette: Palette, now: Callable[[], None], drawing: Drawing
    ) -> None:
        """Draws both as the mode wants; `now` draws the sheet as it stands."""
        assert self.original is not None
        if self.mode is Compare.WIPE:
            now()
            at = self.share * view.width_px
            painter.save()
            painter.setClipRect(QRectF(0, 0, at, view.height_px), Qt.ClipOperation.IntersectClip)
            painter.fillRect(QRectF(0, 0, at, view.height_px), colour(palette.table))
            self.canvas.paint(painter, self.original, view, lens, palette)
            painter.restore()
            painter.setPen(QPen(colour(palette.accent), 2))
            painter.drawLine(QPointF(at, 0), QPointF(at, view.height_px))
            painter.setBrush(colour(palette.accent))
            painter.drawRoundedRect(QRectF(at - 5, view.height_px / 2 - 16, 10, 32), 4, 4)
        elif self.mode is Compare.BLINK:
            if self.first:
                self.canvas.paint(painter, self.original, view, lens, palette)
            else:
                now()
        else:
            self.canvas.paint(painter, Difference(self.original, drawing), view, lens, palette)
        self._say(painter, palette)

    def _say(self, painter: QPainter, palette: Palette) -> None:
        which = tr("as received") if self.first else tr("as it stands")
        words = {Compare.WIPE: tr("as received  |  as it stands"), Compare.BLINK: which}.get(self.mode, "")
        painter.setFont(font(9.5, 600))
        left = 14.0
        parts = (
            [(words, palette.text)] if words else [(tr("■ taken away"), palette.hold), (tr("■ added"), palette.accent)]
        )
        for text, value in parts:
            width = painter.fontMetrics().horizontalAdvance(text) + 16
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour(palette.raised))
            painter.drawRoundedRect(QRectF(left, 10, width, px(22)), 5, 5)
            painter.setPen(colour(value))
            painter.drawText(QRectF(left, 10, width, px(22)), Qt.AlignmentFlag.AlignCenter, text)
            left += width + 6


def _only(one: Drawing, other: Drawing, view: Viewport, value: str, ratio: float) -> QImage:
    """What one has and the other hasn't, in one colour."""
    image = blank(view, ratio)
    painter = QPainter(image)
    one.paint_solid(painter, view, colour(value))
    painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_DestinationOut)
    other.paint_solid(painter, view, colour(value))
    painter.end()
    return image
