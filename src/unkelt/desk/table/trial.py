"""What a step that is tried would do, on the table: what is there in grey, what would come in the accent."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from enum import Enum, auto

from PySide6.QtCore import QObject, QRectF, Qt, Signal
from PySide6.QtGui import QPainter

from unkelt.desk.common.canvas import Canvas
from unkelt.desk.common.drawing import Drawing, Lens, on_paper, paper
from unkelt.desk.common.theme import Palette, colour
from unkelt.geometry.measure import Box
from unkelt.session.viewport import Viewport

VEIL = 165
"""How much of what is there is covered, of 255, while something is tried."""


class Seen(Enum):
    """What is seen of a trial: both, the sheet as it is, or as it would be."""

    BOTH = auto()
    NOW = auto()
    THEN = auto()

    def next(self) -> Seen:
        """What the key that flips shows next."""
        order = list(Seen)
        return order[(order.index(self) + 1) % len(order)]


@dataclass(frozen=True)
class Tinted:
    """What would come, in the accent; on a canvas of its own."""

    drawing: Drawing

    def quick(self, most: int, lens: Lens, view: Viewport) -> bool:
        """Whether it can be drawn while the table is painted."""
        return self.drawing.quick(most, Lens.BLADE if lens is Lens.BURN else lens, view)

    def paint_page(self, painter: QPainter, view: Viewport, lens: Lens, palette: Palette) -> None:
        """Nothing: it lies over a page."""

    def paint(
        self,
        painter: QPainter,
        view: Viewport,
        lens: Lens,
        palette: Palette,
        *,
        page: bool = True,  # noqa: ARG002
        unwanted: Callable[[], bool] = lambda: False,
    ) -> bool:
        """Draws it, in any thread."""
        return self.drawing.paint_tinted(painter, view, on_paper(palette, lens).accent, unwanted)


@dataclass(frozen=True)
class Trial:
    """`coming` is what differs, by itself; `whole` the sheet as it would be."""

    coming: Drawing
    whole: Drawing


class Trying(QObject):
    """What is tried on a table, and how it is seen. `changed` when something else is to be shown."""

    changed = Signal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.trial: Trial | None = None
        self.seen = Seen.BOTH
        self.canvas = Canvas(self, page=False)
        self.canvas.ready.connect(self.changed)

    def show(self, trial: Trial | None) -> None:
        """What a step that is tried would do, over the sheet as it is; None ends it."""
        if trial is None or self.trial is None:
            self.seen = Seen.BOTH
        self.trial = trial
        self.changed.emit()

    def flip(self) -> None:
        """Shows a trial beside the sheet, the sheet as it is, and as it would be, one after another."""
        self.seen = self.seen.next()
        self.changed.emit()

    @property
    def ink(self) -> Box | None:
        """The ink of the sheet as it would be; None while nothing is tried."""
        return self.trial.whole.ink if self.trial is not None else None

    def of(self, drawing: Drawing) -> Drawing:
        """What is drawn first: the sheet as it is, or as it would be."""
        return self.trial.whole if self.trial is not None and self.seen is Seen.THEN else drawing

    def paint(self, painter: QPainter, view: Viewport, lens: Lens, palette: Palette, drawing: Drawing) -> None:
        """Over the sheet as it is."""
        if self.trial is not None and self.seen is Seen.BOTH:
            paint_veil(painter, view, drawing, lens, palette)
            self.canvas.paint(painter, Tinted(self.trial.coming), view, lens, palette)


def paint_veil(painter: QPainter, view: Viewport, drawing: Drawing, lens: Lens, palette: Palette) -> None:
    """Makes grey what is there."""
    page = QRectF(0, 0, *drawing.sheet.page_mm)
    x0, y0 = view.to_px(page.left(), page.top())
    x1, y1 = view.to_px(page.right(), page.bottom())
    painter.save()
    painter.setPen(Qt.PenStyle.NoPen)
    painter.fillRect(QRectF(0, 0, view.width_px, view.height_px), colour(palette.table, VEIL))
    painter.fillRect(QRectF(x0, y0, x1 - x0, y1 - y0), colour(paper(palette, lens), VEIL))
    painter.restore()
