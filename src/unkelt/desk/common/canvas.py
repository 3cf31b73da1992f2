"""A drawing on a widget, quick however large it is: where little is in view it is drawn at once; else in another
thread, and until the new picture is there the last one is shown where its lines now lie.
"""

from __future__ import annotations

import threading
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from functools import cache
from typing import Protocol

from PySide6.QtCore import QObject, QRectF, QRunnable, Qt, QThreadPool, Signal
from PySide6.QtGui import QImage, QPainter

from unkelt.desk.common.drawing import Lens
from unkelt.desk.common.theme import Palette
from unkelt.desk.common.worker import after_this_turn
from unkelt.session.log import LOG
from unkelt.session.viewport import Viewport

LARGE = 1200
"""From so many segments on, a drawing takes longer than a frame may."""


class Drawable(Protocol):
    """What a canvas shows: a drawing, or the difference of two. Equal ones are the same to look at."""

    def quick(self, most: int, lens: Lens, view: Viewport) -> bool:
        """Whether no more than so many segments have to be drawn, and all is at hand."""

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
        """Draws it, in any thread; False where it was given up."""

    def paint_page(self, painter: QPainter, view: Viewport, lens: Lens, palette: Palette) -> None:
        """What is to be seen until it is drawn."""


@dataclass(frozen=True)
class _Wish:
    """A picture that is wanted, or was made. Two of the same drawing, lens and palette differ by the view alone."""

    drawing: Drawable
    lens: Lens
    palette: Palette
    view: Viewport
    ratio: float
    page: bool

    def like(self, other: _Wish) -> bool:
        return (self.drawing, self.lens, self.palette) == (other.drawing, other.lens, other.palette)


def blank(view: Viewport, ratio: float) -> QImage:
    """An empty picture of a window, with so many of its pixels to each of the window's."""
    size = round(view.width_px * ratio), round(view.height_px * ratio)
    image = QImage(*size, QImage.Format.Format_ARGB32_Premultiplied)
    image.setDevicePixelRatio(ratio)
    image.fill(Qt.GlobalColor.transparent)
    return image


class _Work(QRunnable):
    def __init__(self, wish: _Wish, tell: Callable[[_Wish, QImage], None], unwanted: threading.Event) -> None:
        super().__init__()
        self.wish, self.tell, self.unwanted = wish, tell, unwanted

    def run(self) -> None:
        wish = self.wish
        image = blank(wish.view, wish.ratio)
        painter = QPainter(image)
        try:
            done = wish.drawing.paint(
                painter, wish.view, wish.lens, wish.palette, page=wish.page, unwanted=self.unwanted.is_set
            )
        except Exception:  # told in any case: whoever waits would wait for ever, and ask for ever
            LOG.exception("a fault while drawing")
            done = True
        finally:
            painter.end()
        with suppress(RuntimeError):  # the canvas went meanwhile, with the window or an old look: nobody waits
            self.tell(wish, image if done else QImage())


@cache
def _pool() -> QThreadPool:
    """One thread for the drawings of all canvases: two at once would leave the window no processor where there are
    two.
    """
    pool = QThreadPool()
    pool.setMaxThreadCount(1)
    return pool


def finish_drawing() -> None:
    """Waits for what is being drawn: before the program goes."""
    _pool().waitForDone(5_000)


class Canvas(QObject):
    """`ready` when there is something sharper to show. Without `page` the page isn't drawn."""

    ready = Signal()
    _made = Signal(object, object)

    def __init__(self, parent: QObject, *, page: bool = True) -> None:
        super().__init__(parent)
        self._page = page
        self._shown: tuple[_Wish, QImage] | None = None
        self._wanted: _Wish | None = None
        self._making: _Wish | None = None
        self._unwanted = threading.Event()
        self._made.connect(self._take)

    def paint(self, painter: QPainter, drawing: Drawable, view: Viewport, lens: Lens, palette: Palette) -> None:
        """Draws at once, or what there is."""
        if drawing.quick(LARGE, lens, view):
            drawing.paint(painter, view, lens, palette, page=self._page)
            return
        wish = _Wish(drawing, lens, palette, view, painter.device().devicePixelRatioF(), self._page)
        if self._shown is None or self._shown[0] != wish:
            self._want(wish)
        if self._shown is not None and self._shown[0].drawing == drawing:
            made, image = self._shown
            painter.save()
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, view.scale == made.view.scale)
            painter.drawImage(QRectF(*view.where(made.view)), image)
            painter.restore()
        elif self._page:
            drawing.paint_page(painter, view, lens, palette)

    @property
    def busy(self) -> bool:
        """Whether a picture is being drawn."""
        return self._making is not None

    def rest(self) -> None:
        """Gives up what is being drawn: it went out of sight, and is asked for again when it comes back."""
        self._wanted = None
        self._unwanted.set()

    def _want(self, wish: _Wish) -> None:
        self._wanted = wish
        if self._making is None:
            self._begin()
        elif not self._making.like(wish):
            self._unwanted.set()  # another drawing: what is being made will not be shown

    def _begin(self) -> None:
        self._making, self._wanted = self._wanted, None
        self._unwanted = threading.Event()
        if self._making is not None:
            work = _Work(self._making, self._made.emit, self._unwanted)
            after_this_turn(self, lambda: _pool().start(work))

    def _take(self, wish: _Wish, image: QImage) -> None:
        self._making = None
        if not image.isNull():
            self._shown = wish, image
        if self._wanted is not None and self._wanted != wish:
            self._begin()
        else:
            self._wanted = None
        self.ready.emit()
