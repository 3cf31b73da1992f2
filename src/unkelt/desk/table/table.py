"""The light table: the sheet on rulers, the marks of the findings, dimension lines against the ticket."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QEvent, QPointF, QRectF, QSizeF, Qt, QTimer, Signal
from PySide6.QtGui import (
    QHelpEvent,
    QHideEvent,
    QKeyEvent,
    QMouseEvent,
    QNativeGestureEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QToolTip, QWidget

from unkelt.desk.common.canvas import Canvas
from unkelt.desk.common.drawing import Drawing, Lens, on_paper, paper
from unkelt.desk.common.theme import LIGHT, Coloured, Palette, colour
from unkelt.desk.table.comparing import Comparison
from unkelt.desk.table.gestures import DragGuide, Ring
from unkelt.desk.table.hand import Hand
from unkelt.desk.table.marked import Marked
from unkelt.desk.table.overlay import Measured, paint_handles, paint_measure, paint_ring
from unkelt.desk.table.ruling import RULER, Dimensions, Rulers, paint_grid, paint_guides
from unkelt.desk.table.running import Running
from unkelt.desk.table.sight import Sight
from unkelt.desk.table.trial import Trying
from unkelt.geometry.measure import Box, join_boxes
from unkelt.language import said, tr
from unkelt.proof.dry_run import Mishaps
from unkelt.proof.motion import DryRun
from unkelt.session.dimensions import dimensions
from unkelt.session.measuring import Place
from unkelt.session.reading import MM, Unit
from unkelt.session.viewport import Viewport
from unkelt.survey.finding import Finding

ARROWS = {
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, -1),
    Qt.Key.Key_Down: (0, 1),
}
NUDGE_MM, COARSE_MM, FINE_MM = 1.0, 10.0, 0.1
"""How far an arrow key moves what is chosen, with Shift, and with Ctrl."""


class LightTable(Coloured, QWidget):
    """Shows one drawing. Wheel or +/- zooms, dragging pans, a click on a mark chooses its finding.

    `sight` is from where it is looked at, `hand` what is taken hold of on it, `marked` what is marked, `running` its
    dry run, `comparison` what it is compared with.
    """

    pointed = Signal(float, float)

    def __init__(self) -> None:
        super().__init__()
        self.drawing: Drawing | None = None
        self.lens = Lens.BLADE
        self.unit = MM
        self.grid = False
        self.canvas, self.comparison = Canvas(self), Comparison(self)
        self.marked, self.running, self._rulers = Marked(), Running(), Rulers()
        self.sight = Sight(self)
        self.hand = Hand(self, self.sight, self.marked, self.comparison)
        self._measure: Measured = (None, None, [])
        self.trying = Trying(self)
        for signal in (
            self.canvas.ready,
            self.trying.changed,
            self.comparison.changed,
            self.sight.changed,
            self.hand.moved,
        ):
            signal.connect(self.update)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(300, 240)
        self.setAccessibleName(tr("Light table"))
        self.setAutoFillBackground(False)

    @property
    def view(self) -> Viewport:
        """From where it is looked at."""
        return self.sight.view

    # what is shown

    def show_drawing(self, drawing: Drawing | None, *, fit: bool) -> None:
        """Another sheet. It is shown as a whole where that is asked for, and where its page has another size and nobody
        looked elsewhere.
        """
        page = self.drawing.sheet.page_mm if self.drawing else None
        self.drawing = drawing
        self.sight.everything = drawing.everything if drawing else None
        if fit or (drawing is not None and self.sight.fitted and drawing.sheet.page_mm != page):
            self.sight.fit()
        self.update()

    def show_findings(self, findings: Sequence[Finding], chosen: int | None) -> None:
        """The places of findings."""
        self.marked.findings, self.marked.chosen, self.marked.tried = findings, chosen, ()
        self.update()

    def show_tried(self, marks: Sequence[Box]) -> None:
        """Frames what a step that was tried would close or enclose, or what stands against it."""
        self.marked.tried = marks
        self.update()

    def show_chosen(self, boxes: Sequence[Box]) -> None:
        """Frames what is chosen in the ledger."""
        self.marked.boxes = boxes
        self.update()

    def measure(self, on: bool) -> None:
        """Whether places are asked about instead of things picked."""
        self.hand.measuring = on
        self._measure = (None, None, [])
        self.setCursor(Qt.CursorShape.CrossCursor) if on else self.unsetCursor()
        self.update()

    def show_measure(self, start: Place | None, end: Place | None, lines: list[str]) -> None:
        """The tape, or none."""
        self._measure = start, end, lines
        self.update()

    def show_run(self, run: DryRun | None, seconds: float) -> None:
        """The dry run up to a moment, with the head where it then is."""
        self.running.show(run, seconds)
        self.update()

    def show_mishaps(self, found: Mishaps, pinched: Sequence[tuple[float, float]], kerf_mm: float) -> None:
        """What would go wrong in the dry run, where; and how wide the kerf is drawn."""
        self.running.show_mishaps(found, pinched, kerf_mm)
        self.update()

    def set_unit(self, unit: Unit) -> None:
        """What rulers and dimension lines are read in."""
        self.unit = unit
        self.update()

    def set_lens(self, lens: Lens) -> None:
        """Through what one looks."""
        self.lens = lens
        self.update()

    def show_grid(self, on: bool) -> None:
        """The grid, or none."""
        self.grid = on
        self.update()

    # Qt's events

    def resizeEvent(self, event: QResizeEvent) -> None:
        self.sight.resize(self.width(), self.height())
        super().resizeEvent(event)

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.sight.zoom(1.0015 ** event.angleDelta().y(), event.position())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.hand.press(event)
        self.setFocus(Qt.FocusReason.MouseFocusReason)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.pointed.emit(*self.sight.mm(event.position()))
        self.hand.move(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.hand.release(event.position())

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self.marked.finding_at(event.position(), self.view) is None:
            if self.hand.takes_double:
                self.hand.double_clicked.emit(*self.sight.mm(event.position()))
            else:
                self.sight.fit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Space takes hold of the sheet, so that a drag moves it whatever lies there; Escape ends a gesture as if it
        had not begun.
        """
        if event.key() == Qt.Key.Key_Space:
            if not event.isAutoRepeat():
                self.hand.hold_sheet(True)
        elif event.key() in ARROWS and self.hand.takes_double:
            right, down = ARROWS[Qt.Key(event.key())]
            keys = event.modifiers()
            step = COARSE_MM if keys & Qt.KeyboardModifier.ShiftModifier else NUDGE_MM
            step = FINE_MM if keys & Qt.KeyboardModifier.ControlModifier else step
            self.hand.nudged.emit(right * step, down * step)
        elif event.key() == Qt.Key.Key_Escape and self.hand.gesture is not None:
            self.hand.cancel()
        else:
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if event.key() != Qt.Key.Key_Space:
            super().keyReleaseEvent(event)
        elif not event.isAutoRepeat():
            self.hand.hold_sheet(False)

    def event(self, event: QEvent) -> bool:
        escape = isinstance(event, QKeyEvent) and event.key() == Qt.Key.Key_Escape
        if event.type() == QEvent.Type.ShortcutOverride and escape and self.hand.gesture is not None:
            event.accept()  # it is this table's, and no command's
            return True
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            words = self._words_at(QPointF(event.pos()))
            QToolTip.showText(event.globalPos(), words, self) if words else QToolTip.hideText()
            return True
        pinch = Qt.NativeGestureType.ZoomNativeGesture
        if isinstance(event, QNativeGestureEvent) and event.gestureType() == pinch:
            self.sight.zoom(1 + event.value(), event.position())
            return True
        return super().event(event)

    def _words_at(self, at: QPointF) -> str:
        """What is said of what lies there."""
        if (handle := self.hand.handle_at(at)) is not None:
            return tr("Drag: {words}").format(words=said(handle.words))
        index = self.marked.finding_at(at, self.view)
        return said(self.marked.findings[index].headline) if index is not None else ""

    # painting

    def hideEvent(self, event: QHideEvent) -> None:
        self.canvas.rest()
        self.trying.canvas.rest()
        super().hideEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:  # noqa: ARG002
        painter = QPainter(self)
        painter.fillRect(self.rect(), colour(self.colours.table))
        if self.drawing is None:
            return
        painter.save()
        painter.setClipRect(QRectF(RULER, RULER, self.view.width_px, self.view.height_px))
        painter.translate(RULER, RULER)
        drawing = self.drawing

        if self.comparison.mode:  # of the sheet as it stands: what is tried has no part in it

            def now() -> None:
                self.canvas.paint(painter, drawing, self.view, self.lens, self.colours)

            self.comparison.paint(painter, self.view, self.lens, self.colours, now, drawing)
        else:
            self.canvas.paint(painter, self.trying.of(drawing), self.view, self.lens, self.colours)
            self.trying.paint(painter, self.view, self.lens, self.colours, drawing)
        if self.grid:
            paint_grid(painter, self.view, self.unit, self.colours)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if drawing.ink is not None:
            lines = dimensions(drawing.ink, drawing.workshop.ticket, self.unit, self.trying.ink)
            ground = _ground(drawing, self.lens, self.colours)
            around = join_boxes([box for box in (drawing.ink, self.trying.ink) if box]) or drawing.ink
            Dimensions(painter, self.view, around, ground).paint(lines)
        gesture, hand = self.hand.gesture, self.hand
        held = gesture.line if isinstance(gesture, DragGuide) else None
        paint_guides(painter, self.view, hand.guides, held, self.unit, self.colours)
        hand.framed.paint(painter, self.view, on_paper(self.colours, self.lens))
        paint_handles(painter, self.view, hand.handles, hand.picked, on_paper(self.colours, self.lens))
        painter.translate(-RULER, -RULER)
        if isinstance(gesture, Ring):
            paint_ring(painter, gesture.corners, gesture.lasso, self.colours)
        self.marked.paint(painter, self.view, self.colours)
        painter.translate(RULER, RULER)
        if not self.running.paint(painter, self.view, self.colours):
            QTimer.singleShot(1, self.update)  # not at once: that would come before all that was typed meanwhile
        if hand.measuring:
            paint_measure(painter, self.view, self._measure, self.colours)
        painter.restore()
        self._rulers.paint(painter, QSizeF(self.size()), self.view, self.unit, self.colours)


def _ground(drawing: Drawing, lens: Lens, colours: Palette) -> Callable[[float, float], tuple[Palette, str]]:
    """The colours to be read at a place in mm, and what is there: a sheet on light paper is light in a dark window
    too."""

    def at(x: float, y: float) -> tuple[Palette, str]:
        width, height = drawing.sheet.page_mm
        if not (0 <= x <= width and 0 <= y <= height):
            return colours, colours.table
        page = paper(colours, lens)
        return LIGHT if page == LIGHT.page else colours, page

    return at
