"""From where one looks at a table's sheet, and where on it a place of the widget lies."""

from __future__ import annotations

from PySide6.QtCore import QObject, QPointF, Signal

from unkelt.desk.table.ruling import RULER
from unkelt.geometry.measure import Box
from unkelt.session.viewport import Viewport

ROOM_PX, CLOSE_PX = 44, 90
"""What is left around the whole sheet, and around what is looked at closely."""

REACH_PX = 5
"""How near to a line a click has to be."""


class Sight(QObject):
    """`view` is the viewport; `everything` what the whole sheet takes, to which it is fitted until somebody looks
    elsewhere."""

    changed = Signal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.view = Viewport(100, 100)
        self.everything: Box | None = None
        self.foot = 0.0
        """How much of the height, in pixels, is covered by what lies over the lower edge."""
        self.fitted = True
        """Whether the whole sheet is shown, since nobody looked elsewhere."""

    def fit(self) -> None:
        """The whole sheet."""
        if self.everything is not None:
            self._take(self.view.fitted(self.everything, ROOM_PX, self.foot))
        self.fitted = True

    def close_to(self, box: Box) -> None:
        """Looks closely at a box in mm."""
        self.look(self.view.fitted(box, CLOSE_PX))

    def true_size(self, pixels_per_mm: float) -> None:
        """A millimetre of the sheet is one of the screen."""
        self.look(self.view.at_scale(pixels_per_mm))

    def zoom(self, factor: float, at: QPointF | None = None) -> None:
        """Closer or farther; what lies at a place of the widget stays there."""
        self.look(self.view.zoomed(factor, at.x() - RULER if at else None, at.y() - RULER if at else None))

    def pan(self, dx_px: float, dy_px: float) -> None:
        """The sheet moves under the window by so many pixels."""
        self.look(self.view.panned(dx_px, dy_px))

    def look(self, view: Viewport) -> None:
        """From there on purpose, whatever size the window takes."""
        self.fitted = False
        self._take(view)

    def resize(self, width_px: float, height_px: float) -> None:
        """Fits the view into a widget of a new size, pixels, rulers included."""
        self.view = self.view.resized(max(1, width_px - RULER), max(1, height_px - RULER))
        if self.fitted:
            self.fit()

    def mm(self, at: QPointF) -> tuple[float, float]:
        """Where on the sheet a place of the widget lies."""
        return self.view.to_mm(at.x() - RULER, at.y() - RULER)

    @property
    def reach_mm(self) -> float:
        """How far from the pointer something is still meant."""
        return self.view.to_mm(REACH_PX, 0)[0] - self.view.to_mm(0, 0)[0]

    def _take(self, view: Viewport) -> None:
        self.view = view
        self.changed.emit()
