"""A picture drawn a little at a time in the window's own thread, so that it never keeps the window from answering."""

from __future__ import annotations

import time
from collections.abc import Callable, Hashable

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QImage, QPainter

from unkelt.desk.common.canvas import blank
from unkelt.session.viewport import Viewport

SLICE_S = 0.004
"""So long it may draw before others have their turn."""


class Layer:
    """So many strokes over each other, of which those that are drawn stay drawn while the view is the same."""

    def __init__(self) -> None:
        self._key: Hashable = None
        self._view: Viewport | None = None
        self._image = QImage()
        self._done = 0
        self._whole: tuple[Viewport, QImage] | None = None

    def paint(
        self, painter: QPainter, view: Viewport, key: Hashable, count: int, draw: Callable[[QPainter, int], None]
    ) -> bool:
        """Shows what there is of `count` strokes and draws on for a while; False where some are still to be drawn.

        `draw` draws one stroke, in pixels of the view; `key` is all else that their look depends on. Until all are
        drawn in another view, the last whole picture is shown where its lines now lie.
        """
        ratio = painter.device().devicePixelRatioF()
        if (self._key, self._view) != ((key, ratio), view) or self._done > count:
            if self._key != (key, ratio):
                self._whole = None
            self._key, self._view, self._done = (key, ratio), view, 0
            self._image = blank(view, ratio)
        self._draw_on(count, draw)
        if self._done == count:
            self._whole = view, self._image
        if self._whole is None or self._whole[0] == view:
            painter.drawImage(QPointF(0, 0), self._image)
        else:
            made, image = self._whole
            painter.drawImage(QRectF(*view.where(made)), image)
        return self._done == count

    def _draw_on(self, count: int, draw: Callable[[QPainter, int], None]) -> None:
        until = time.perf_counter() + SLICE_S
        brush = QPainter(self._image)
        try:
            brush.setRenderHint(QPainter.RenderHint.Antialiasing)
            while self._done < count:
                draw(brush, self._done)
                self._done += 1
                if time.perf_counter() > until:
                    break
        finally:
            brush.end()
