"""The light table: the sheet on rulers, the marks of the findings, dimension lines against the ticket."""

from __future__ import annotations

from collections.abc import Sequence

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
        self._held: Handle | None = None
        self.picked: tuple[str, ...] = ()
        self._ring: list[QPointF] | None = None
        """What is being drawn round things, in pixels: the two corners of a frame, or a lasso."""
        self._lasso = False
        self.measuring = False
        self.running = Running()
        self._rulers = Rulers()
        self.guides: tuple[GuideLine, ...] = ()
        self._guide: GuideLine | None = None
        self._measure: Measured = (None, None, [])
        self.unit = MM
        self.grid = False
        self.view = Viewport(100, 100)
        self.foot = 0.0
        """How much of its height, in pixels, is covered by what lies over its lower edge."""
        self._fitted = True
        self._drag: QPointF | None = None
        self._moved = False
        self.canvas = Canvas(self)
        self.canvas.ready.connect(self.update)
        self.comparison = Comparison(self)
        self.comparison.changed.connect(self.update)
        self._wiping = self._spaced = False
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
        if self._held is not None:
            self._held = next((handle for handle in handles.places if handle.name == self._held.name), self._held)
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
        self._drag, self._moved = event.position(), False
        self._wiping = self.comparison.holds(event.position().x() - RULER, self.view.width_px)
        if self._wiping or self._spaced:
            self._held = None
            return
        if not self.measuring and self._take_guide(event.position()):
            return
        self._held = None if self.measuring else self._handle_at(event.position())
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if self._held is not None:
            name = self._held.name
            if shift:
                self.picked = (
                    tuple(n for n in self.picked if n != name) if name in self.picked else (*self.picked, name)
                )
            elif name not in self.picked:
                self.picked = (name,)
            self.handle_picked.emit(self._held)
        elif shift and not self.measuring:
            self._lasso = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
            self._ring = [event.position(), event.position()]
        self.setFocus(Qt.FocusReason.MouseFocusReason)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        self.pointed.emit(*self.view.to_mm(at.x() - RULER, at.y() - RULER))
        if self._wiping:
            self.comparison.drag(at.x() - RULER, self.view.width_px)
            return
        if self._guide is not None:
            self._guide = self._guide_to(self._guide.axis, at)
            self.update()
            return
        if self._ring is not None:
            self._ring = [*self._ring, at] if self._lasso else [self._ring[0], at]
            self._moved = True
            self.update()
            return
        if self._held is not None and event.buttons():
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
            self._moved = True
            self.handle_dragged.emit(self._held, *self.view.to_mm(at.x() - RULER, at.y() - RULER))
            return
        if self.measuring and not event.buttons():
            self.probed.emit(*self.view.to_mm(at.x() - RULER, at.y() - RULER), False)
            return
        if not event.buttons():
            self._show_cursor(at)
        if self._drag is not None and event.buttons():
            step = at - self._drag
            if self._moved or step.manhattanLength() > 3:
                self._moved, self._fitted = True, False
                self.setCursor(Qt.CursorShape.ClosedHandCursor)
                self._set_view(self.view.panned(step.x(), step.y()))
                self._drag = at

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._wiping:
            self._wiping, self._drag = False, None
            return
        if self._guide is not None:
            self._drop_guide(event.position())
            return
        if self._ring is not None:
            self._close_ring(event.position())
            return
        held = self._held is not None
        self._drag = self._held = None
        self.unsetCursor()
        if self.measuring:
            self.setCursor(Qt.CursorShape.CrossCursor)
            if not self._moved:
                self.probed.emit(*self.view.to_mm(event.position().x() - RULER, event.position().y() - RULER), True)
            return
        if not self._moved:
            index = self._finding_at(event.position())
            if index is not None:
                self.finding_chosen.emit(index)
            elif not held:
                self.clicked.emit(*self.view.to_mm(event.position().x() - RULER, event.position().y() - RULER))

    def _take_guide(self, at: QPointF) -> bool:
        """A guide line is taken hold of, or a new one out of a ruler: of the upper one a level line."""
        in_ruler = at.x() < RULER or at.y() < RULER
        if in_ruler:
            axis: Axis = "y" if at.y() < RULER else "x"
            self._guide = self._guide_to(axis, at)
        elif self._handle_at(at) is None and (guide := self._guide_at(at)) is not None:
            self.guides = tuple(each for each in self.guides if each is not guide)
            self._guide = guide
        return self._guide is not None

    def _guide_to(self, axis: Axis, at: QPointF) -> GuideLine:
        x, y = self.view.to_mm(at.x() - RULER, at.y() - RULER)
        return GuideLine(axis, round(x if axis == "x" else y, self.view.decimals))

    def _guide_at(self, at: QPointF) -> GuideLine | None:
        for guide in self.guides:
            x, y = self.view.to_px(guide.mm, guide.mm)
            if abs((x - at.x() if guide.axis == "x" else y - at.y()) + RULER) <= GUIDE_REACH:
                return guide
        return None

    def _drop_guide(self, at: QPointF) -> None:
        """It stays where it is let go; in a ruler it is gone."""
        guide, self._guide, self._drag = self._guide, None, None
        if guide is not None and at.x() >= RULER and at.y() >= RULER:
            self.guides = (*self.guides, guide)
        self.unsetCursor()
        self.guides_changed.emit(self.guides)
        self.update()

    def _close_ring(self, at: QPointF) -> None:
        ring, self._ring, self._drag = self._ring or [], None, None
        self.update()
        if not self._moved:  # a click beside what is chosen already
            self.clicked.emit(*self.view.to_mm(at.x() - RULER, at.y() - RULER))
            return
        if not self._lasso:
            (x0, y0), (x1, y1) = ((p.x(), p.y()) for p in ring)
            ring = [QPointF(x0, y0), QPointF(x1, y0), QPointF(x1, y1), QPointF(x0, y1)]
        corners = [self.view.to_mm(p.x() - RULER, p.y() - RULER) for p in ring]
        if any(handle.node for handle in self.handles.places):
            self.picked = encircled(self.handles.places, corners)
            self.handle_picked.emit(None)
        else:
            self.encircled.emit(corners)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Space takes hold of the sheet, so that a drag moves it whatever lies there."""
        if event.key() == Qt.Key.Key_Space:
            if not event.isAutoRepeat():
                self._spaced = True
                self.setCursor(Qt.CursorShape.OpenHandCursor)
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
        paint_guides(painter, self.view, self.guides, self._guide, self.unit, self.colours)
        paint_handles(painter, self.view, self.handles, self.picked, self.colours)
        painter.translate(-RULER, -RULER)
        if self._ring is not None:
            paint_ring(painter, self._ring, self._lasso, self.colours)
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
