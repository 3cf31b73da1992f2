"""The light table: the sheet on rulers, the marks of the findings, dimension lines against the ticket."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QEvent, QPointF, QRectF, QSizeF, Qt, QTimer, Signal
from PySide6.QtGui import (
    QHideEvent,
    QKeyEvent,
    QMouseEvent,
    QNativeGestureEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QToolTip, QWidget

from unkelt.desk.common.canvas import Canvas
from unkelt.desk.common.drawing import Drawing, Lens, paper
from unkelt.desk.common.marks import draw_marks, level_colour, mark_path
from unkelt.desk.common.theme import LIGHT, Coloured, Palette, colour
from unkelt.desk.table.comparing import Comparison
from unkelt.desk.table.gestures import DragGuide, DragHandle, Gesture, Pan, Ring, Wipe
from unkelt.desk.table.overlay import GRIP, Measured, paint_handles, paint_measure, paint_ring
from unkelt.desk.table.ruling import RULER, Dimensions, Rulers, paint_grid, paint_guides
from unkelt.desk.table.running import Running
from unkelt.geometry.measure import Box
from unkelt.language import said, tr
from unkelt.proof.dry_run import Mishaps
from unkelt.proof.motion import DryRun
from unkelt.session.dimensions import dimensions
from unkelt.session.handles import encircled
from unkelt.session.measuring import Place
from unkelt.session.reading import MM, Unit
from unkelt.session.snapping import Axis, GuideLine
from unkelt.session.viewport import Viewport
from unkelt.steps.grip import Handle, Handles
from unkelt.survey.finding import Finding

MARK, MARKS = 5.0, 200
"""How large the marks of findings are, in pixels, and how many of a finding are drawn at most."""
FRAME_PX = 5.0
"""How far a frame keeps from what it frames, in pixels."""
GUIDE_REACH = 3.0
"""How near, in pixels, a guide line is taken hold of."""


class LightTable(Coloured, QWidget):
    """Shows one drawing. Wheel or +/- zooms, dragging pans, a click on a mark chooses its finding."""

    pointed = Signal(float, float)
    finding_chosen = Signal(int)
    handle_dragged = Signal(object, float, float)
    handle_put_back = Signal(object, float, float)
    """A drag was not meant: to exactly where the handle was."""
    handle_picked = Signal(object)
    view_changed = Signal()
    clicked = Signal(float, float)
    encircled = Signal(list)
    """The corners, in mm, of a frame or lasso that was drawn."""
    guides_changed = Signal(tuple)
    probed = Signal(float, float, bool)

    def __init__(self) -> None:
        super().__init__()
        self.drawing: Drawing | None = None
        self.findings: Sequence[Finding] = ()
        self.chosen: int | None = None
        self.chosen_boxes: Sequence[Box] = ()
        self.tried_marks: Sequence[Box] = ()
        self.lens = Lens.BLADE
        self.handles = Handles()
        self.picked: tuple[str, ...] = ()
        self.gesture: Gesture | None = None
        """What a press began and no release ended yet."""
        self.measuring = False
        self.running = Running()
        self._rulers = Rulers()
        self.guides: tuple[GuideLine, ...] = ()
        self._measure: Measured = (None, None, [])
        self.unit = MM
        self.grid = False
        self.view = Viewport(100, 100)
        self.foot = 0.0
        """How much of its height, in pixels, is covered by what lies over its lower edge."""
        self._fitted = True
        self.canvas = Canvas(self)
        self.canvas.ready.connect(self.update)
        self.comparison = Comparison(self)
        self.comparison.changed.connect(self.update)
        self._spaced = False
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(300, 240)
        self.setAccessibleName(tr("Light table"))
        self.setAutoFillBackground(False)

    # what is shown

    def show_drawing(self, drawing: Drawing | None, *, fit: bool) -> None:
        self.drawing = drawing
        if fit:
            self.zoom_fit()
        self.update()

    def show_findings(self, findings: Sequence[Finding], chosen: int | None) -> None:
        self.findings, self.chosen, self.tried_marks = findings, chosen, ()
        self.update()

    def show_tried(self, marks: Sequence[Box]) -> None:
        """Frames what a step that was tried would close or enclose, or what stands against it."""
        self.tried_marks = marks
        self.update()

    def show_chosen(self, boxes: Sequence[Box]) -> None:
        """Frames what is chosen in the ledger."""
        self.chosen_boxes = boxes
        self.update()

    def show_handles(self, handles: Handles) -> None:
        """What can be dragged. One that is being dragged stays in the hand."""
        self.handles = handles
        if isinstance(held := self.gesture, DragHandle):
            held.handle = next((each for each in handles.places if each.name == held.handle.name), held.handle)
        self.update()

    def measure(self, on: bool) -> None:
        """Whether places are asked about instead of things picked."""
        self.measuring = on
        self._measure = (None, None, [])
        self.setCursor(Qt.CursorShape.CrossCursor) if on else self.unsetCursor()
        self.update()

    def show_run(self, run: DryRun | None, seconds: float) -> None:
        """The dry run up to a moment, with the head where it then is."""
        self.running.show(run, seconds)
        self.update()

    def show_mishaps(self, found: Mishaps, pinched: Sequence[tuple[float, float]], kerf_mm: float) -> None:
        """What would go wrong in the dry run, where; and how wide the kerf is drawn."""
        self.running.show_mishaps(found, pinched, kerf_mm)
        self.update()

    def show_guides(self, guides: tuple[GuideLine, ...]) -> None:
        self.guides = guides
        self.update()

    def show_measure(self, start: Place | None, end: Place | None, lines: list[str]) -> None:
        self._measure = start, end, lines
        self.update()

    def set_unit(self, unit: Unit) -> None:
        """What rulers and dimension lines are read in."""
        self.unit = unit
        self.update()

    def set_lens(self, lens: Lens) -> None:
        self.lens = lens
        self.update()

    def zoom_fit(self) -> None:
        if self.drawing:
            self._set_view(self.view.fitted(self.drawing.everything, 44, self.foot))
        self._fitted = True

    def zoom_true(self, pixels_per_mm: float) -> None:
        """A millimetre of the sheet is one of the screen."""
        self._set_view(self.view.at_scale(pixels_per_mm))
        self._fitted = False

    def show_grid(self, on: bool) -> None:
        self.grid = on
        self.update()

    def zoom_to(self, box: Box) -> None:
        self._set_view(self.view.fitted(box, 90))
        self._fitted = False

    def zoom(self, factor: float, at: QPointF | None = None) -> None:
        self._set_view(self.view.zoomed(factor, at.x() - RULER if at else None, at.y() - RULER if at else None))
        self._fitted = False

    def pan(self, dx_px: float, dy_px: float) -> None:
        """The sheet moves under the window by so many pixels."""
        self._set_view(self.view.panned(dx_px, dy_px))
        self._fitted = False

    @property
    def reach_mm(self) -> float:
        """How near to a line a click has to be."""
        return self.view.to_mm(5, 0)[0] - self.view.to_mm(0, 0)[0]

    def mark_places(self, index: int) -> list[tuple[float, float]]:
        """Where a finding's marks stand in the widget, in pixels."""
        finding = self.findings[index]
        boxes = finding.marks or ((finding.box,) if finding.box else ())
        return [(x + RULER, y + RULER) for x, y in self.view.middles(boxes, MARKS)]

    def _set_view(self, view: Viewport) -> None:
        self.view = view
        self.view_changed.emit()
        self.update()

    # Qt's events

    def resizeEvent(self, event: QResizeEvent) -> None:
        self.view = self.view.resized(max(1, self.width() - RULER), max(1, self.height() - RULER))
        if self._fitted:
            self.zoom_fit()
        super().resizeEvent(event)

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.zoom(1.0015 ** event.angleDelta().y(), event.position())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.gesture = self._begun(event)
        self.setFocus(Qt.FocusReason.MouseFocusReason)

    def _begun(self, event: QMouseEvent) -> Gesture:
        """The gesture that a press begins, by what lies there and which keys are held."""
        at, keys = event.position(), event.modifiers()
        shift = bool(keys & Qt.KeyboardModifier.ShiftModifier)
        if self.comparison.holds(at.x() - RULER, self.view.width_px):
            return Wipe(self.comparison, self.view.width_px)
        if self._spaced:
            return Pan(at, self.view, self._look_from, lambda _: None)
        if self.measuring:
            return Pan(at, self.view, self._look_from, lambda there: self.probed.emit(*self._mm(there), True))
        handle = self._handle_at(at)
        if (guide := self._guide_taken(at, handle)) is not None:
            return guide
        if handle is not None:
            self._pick(handle, more=shift)
            return DragHandle(handle, self._mm, self.handle_dragged.emit, self.handle_put_back.emit)
        if shift:
            lasso = bool(keys & Qt.KeyboardModifier.AltModifier)
            return Ring(at, lasso=lasso, close=self._encircle, click=lambda there: self.clicked.emit(*self._mm(there)))
        return Pan(at, self.view, self._look_from, self._click)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        self.pointed.emit(*self._mm(at))
        if self.gesture is not None:
            self.gesture.move(at)
            if self.gesture.cursor is not None:
                self.setCursor(self.gesture.cursor)
            self.update()
        elif self.measuring:
            self.probed.emit(*self._mm(at), False)
        else:
            self._show_cursor(at)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._end(lambda gesture: gesture.release(event.position()))

    def _end(self, how: Callable[[Gesture], None]) -> None:
        """A gesture ends; what is under way then is none."""
        gesture, self.gesture = self.gesture, None
        self.setCursor(Qt.CursorShape.CrossCursor) if self.measuring else self.unsetCursor()
        if gesture is not None:
            how(gesture)
        self.update()

    def _mm(self, at: QPointF) -> tuple[float, float]:
        """Where on the sheet a place of the widget lies."""
        return self.view.to_mm(at.x() - RULER, at.y() - RULER)

    def _look_from(self, view: Viewport) -> None:
        self._fitted = False
        self._set_view(view)

    def _click(self, at: QPointF) -> None:
        index = self._finding_at(at)
        if index is not None:
            self.finding_chosen.emit(index)
        else:
            self.clicked.emit(*self._mm(at))

    def _pick(self, handle: Handle, *, more: bool) -> None:
        others = tuple(name for name in self.picked if name != handle.name)
        if more:
            self.picked = others if handle.name in self.picked else (*others, handle.name)
        elif handle.name not in self.picked:
            self.picked = (handle.name,)
        self.handle_picked.emit(handle)

    def _guide_taken(self, at: QPointF, handle: Handle | None) -> DragGuide | None:
        """A guide line is taken hold of, or a new one out of a ruler: of the upper one a level line."""
        if at.x() < RULER or at.y() < RULER:
            return DragGuide(None, "y" if at.y() < RULER else "x", at, self._guide_to, self._lay)
        guide = self._guide_at(at) if handle is None else None
        if guide is None:
            return None
        self.guides = tuple(each for each in self.guides if each is not guide)
        return DragGuide(guide, guide.axis, at, self._guide_to, self._lay)

    def _guide_to(self, axis: Axis, at: QPointF) -> GuideLine:
        x, y = self._mm(at)
        return GuideLine(axis, round(x if axis == "x" else y, self.view.decimals))

    def _guide_at(self, at: QPointF) -> GuideLine | None:
        for guide in self.guides:
            x, y = self.view.to_px(guide.mm, guide.mm)
            if abs((x - at.x() if guide.axis == "x" else y - at.y()) + RULER) <= GUIDE_REACH:
                return guide
        return None

    def _lay(self, guide: GuideLine | None) -> None:
        self.guides = (*self.guides, guide) if guide is not None else self.guides
        self.guides_changed.emit(self.guides)

    def _encircle(self, ring: list[QPointF]) -> None:
        corners = [self._mm(corner) for corner in ring]
        if any(handle.node for handle in self.handles.places):
            self.picked = encircled(self.handles.places, corners)
            self.handle_picked.emit(None)
        else:
            self.encircled.emit(corners)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Space takes hold of the sheet, so that a drag moves it whatever lies there; Escape ends a gesture as if it had
        not begun.
        """
        if event.key() == Qt.Key.Key_Space:
            if not event.isAutoRepeat():
                self._spaced = True
                self.setCursor(Qt.CursorShape.OpenHandCursor)
            return
        if event.key() == Qt.Key.Key_Escape and self.gesture is not None:
            self._end(lambda gesture: gesture.cancel())
            return
        super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Space:
            if not event.isAutoRepeat():
                self._spaced = False
                self.unsetCursor()
            return
        super().keyReleaseEvent(event)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self._finding_at(event.position()) is None:
            self.zoom_fit()

    def event(self, event: QEvent) -> bool:
        escape = isinstance(event, QKeyEvent) and event.key() == Qt.Key.Key_Escape
        if event.type() == QEvent.Type.ShortcutOverride and escape and self.gesture is not None:
            event.accept()  # it is this table's, and no command's
            return True
        if event.type() == QEvent.Type.ToolTip:
            handle = self._handle_at(QPointF(event.pos()))  # type: ignore[attr-defined]
            if handle is not None:
                QToolTip.showText(event.globalPos(), tr("Drag: {words}").format(words=said(handle.words)), self)  # type: ignore[attr-defined]
                return True
            index = self._finding_at(QPointF(event.pos()))  # type: ignore[attr-defined]
            if index is None:
                QToolTip.hideText()
            else:
                QToolTip.showText(event.globalPos(), said(self.findings[index].headline), self)  # type: ignore[attr-defined]
            return True
        pinch = Qt.NativeGestureType.ZoomNativeGesture
        if isinstance(event, QNativeGestureEvent) and event.gestureType() == pinch:
            self.zoom(1 + event.value(), event.position())
            return True
        return super().event(event)

    def _show_cursor(self, at: QPointF) -> None:
        """What a press would take hold of here."""
        if self._handle_at(at):
            self.setCursor(Qt.CursorShape.OpenHandCursor)
        elif at.y() < RULER:
            self.setCursor(Qt.CursorShape.SplitVCursor)
        elif at.x() < RULER:
            self.setCursor(Qt.CursorShape.SplitHCursor)
        elif (guide := self._guide_at(at)) is not None:
            self.setCursor(Qt.CursorShape.SplitHCursor if guide.axis == "x" else Qt.CursorShape.SplitVCursor)
        else:
            self.unsetCursor()

    def _handle_at(self, at: QPointF) -> Handle | None:
        """The nearest that can be taken hold of there."""
        found: list[tuple[float, Handle]] = []
        for handle in self.handles.places:
            x, y = self.view.to_px(handle.x, handle.y)
            away = (QPointF(x + RULER, y + RULER) - at).manhattanLength()
            if away <= GRIP * (1 if handle.node else 1.4):
                found.append((away, handle))
        return min(found, key=lambda pair: pair[0])[1] if found else None

    def _finding_at(self, at: QPointF) -> int | None:
        order = sorted(range(len(self.findings)), key=lambda index: index != self.chosen)
        for index in order:
            if mark_path(self.findings[index].question, self.mark_places(index), MARK + 4).contains(at):
                return index
        return None

    # painting

    def hideEvent(self, event: QHideEvent) -> None:
        self.canvas.rest()
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

        def now() -> None:
            self.canvas.paint(painter, drawing, self.view, self.lens, self.colours)

        if self.comparison.mode:
            self.comparison.paint(painter, self.view, self.lens, self.colours, now, drawing)
        else:
            now()
        if self.grid:
            paint_grid(painter, self.view, self.unit, self.colours)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if drawing.ink is not None:
            lines = dimensions(drawing.ink, drawing.workshop.ticket, self.unit)
            Dimensions(painter, self.view, drawing.ink, self._ground).paint(lines)
        held = self.gesture.line if isinstance(self.gesture, DragGuide) else None
        paint_guides(painter, self.view, self.guides, held, self.unit, self.colours)
        paint_handles(painter, self.view, self.handles, self.picked, self.colours)
        painter.translate(-RULER, -RULER)
        if isinstance(self.gesture, Ring):
            paint_ring(painter, self.gesture.corners, self.gesture.lasso, self.colours)
        self._paint_marks(painter)
        painter.translate(RULER, RULER)
        if not self.running.paint(painter, self.view, self.colours):
            QTimer.singleShot(1, self.update)  # not at once: that would come before all that was typed meanwhile
        if self.measuring:
            paint_measure(painter, self.view, self._measure, self.colours)
        painter.restore()
        self._rulers.paint(painter, QSizeF(self.size()), self.view, self.unit, self.colours)

    def _ground(self, x: float, y: float) -> tuple[Palette, str]:
        """The colours to be read at a place in mm, and what is there: a sheet on light paper is light in a dark window
        too.
        """
        width, height = self.drawing.sheet.page_mm if self.drawing else (0.0, 0.0)
        on_paper = 0 <= x <= width and 0 <= y <= height
        if not on_paper:
            return self.colours, self.colours.table
        page = paper(self.colours, self.lens)
        return LIGHT if page == LIGHT.page else self.colours, page

    def _paint_marks(self, painter: QPainter) -> None:
        for index, finding in enumerate(self.findings):
            if index == self.chosen:
                continue
            draw_marks(painter, finding.question, finding.level, self.mark_places(index), MARK, self.colours)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour(self.colours.accent), 1.5))
        self._paint_frames(painter, self.chosen_boxes)
        painter.setPen(QPen(colour(self.colours.hold), 1.5, Qt.PenStyle.DotLine))
        self._paint_frames(painter, self.tried_marks)
        if self.chosen is None or self.chosen >= len(self.findings):
            return
        finding = self.findings[self.chosen]
        line = level_colour(finding.level, self.colours)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour(line), 1.5))
        self._paint_frames(painter, finding.marks or ((finding.box,) if finding.box else ()))
        draw_marks(painter, finding.question, finding.level, self.mark_places(self.chosen), MARK + 2, self.colours)

    def _paint_frames(self, painter: QPainter, boxes: Sequence[Box]) -> None:
        for frame in self.view.frames(boxes, FRAME_PX, MARKS):
            painter.drawRoundedRect(QRectF(*frame).translated(RULER, RULER), 4, 4)
