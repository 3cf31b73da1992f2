"""The light table: the sheet on rulers, the marks of the findings, dimension lines against the ticket."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QBrush,
    QKeyEvent,
    QMouseEvent,
    QNativeGestureEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QToolTip, QWidget

from unkelt.desk.canvas import Canvas
from unkelt.desk.comparing import Comparison
from unkelt.desk.drawing import Drawing, Lens, painter_path, paper
from unkelt.desk.marks import draw_mark, level_colour, mark_path
from unkelt.desk.theme import LIGHT, Palette, colour, font
from unkelt.geometry.measure import Box
from unkelt.geometry.path import Floats
from unkelt.proof.dry_run import Mishaps
from unkelt.proof.motion import DryRun, Move
from unkelt.session.dimensions import Dimension, dimensions
from unkelt.session.handles import Handle, Handles, framed
from unkelt.session.measuring import Place
from unkelt.session.reading import MM, Unit
from unkelt.session.viewport import Viewport, ticks
from unkelt.survey.finding import Finding
from unkelt.units import MM_PER_UNIT

RULER = 26
MARK = 5.0
GRIP = 9.0
"""Half the width, in pixels, of what a handle can be taken by."""


class LightTable(QWidget):
    """Shows one drawing. Wheel or +/- zooms, dragging pans, a click on a mark chooses its finding."""

    pointed = Signal(float, float)
    finding_chosen = Signal(int)
    handle_dragged = Signal(object, float, float)
    handle_picked = Signal(object)
    view_changed = Signal()
    clicked = Signal(float, float)
    probed = Signal(float, float, bool)

    def __init__(self, palette: Palette) -> None:
        super().__init__()
        self.colours = palette
        self.drawing: Drawing | None = None
        self.findings: Sequence[Finding] = ()
        self.chosen: int | None = None
        self.chosen_boxes: Sequence[Box] = ()
        self.lens = Lens.BLADE
        self.handles = Handles()
        self._held: Handle | None = None
        self.picked: tuple[str, ...] = ()
        self._frame: tuple[QPointF, QPointF] | None = None
        self.measuring = False
        self.run: DryRun | None = None
        self.run_s = 0.0
        self.mishaps, self.kerf_mm = Mishaps(), 0.0
        self.pinched: tuple[tuple[float, float], ...] = ()
        self._measure: tuple[Place | None, Place | None, list[str]] = (None, None, [])
        self.unit = MM
        self.grid = False
        self.view = Viewport(100, 100)
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
        self.setAccessibleName("Light table")
        self.setAutoFillBackground(False)

    # what is shown

    def show_drawing(self, drawing: Drawing | None, *, fit: bool) -> None:
        self.drawing = drawing
        if fit:
            self.zoom_fit()
        self.update()

    def show_findings(self, findings: Sequence[Finding], chosen: int | None) -> None:
        self.findings, self.chosen = findings, chosen
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
        self.run, self.run_s = run, seconds
        self.update()

    def show_mishaps(self, found: Mishaps, pinched: Sequence[tuple[float, float]], kerf_mm: float) -> None:
        """What would go wrong in the dry run, where; and how wide the kerf is drawn."""
        self.mishaps, self.pinched, self.kerf_mm = found, tuple(pinched), kerf_mm
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
            self._set_view(self.view.fitted(self.drawing.everything, 44))
        self._fitted = True

    def zoom_true(self) -> None:
        """A millimetre of the sheet is one of the screen, as far as the screen tells its size."""
        self._set_view(self.view.at_scale(self.physicalDpiX() / MM_PER_UNIT["in"]))
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
        places = []
        for box in boxes:
            x, y = self.view.to_px((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)
            places.append((x + RULER, y + RULER))
        return places

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
        elif shift and any(handle.node for handle in self.handles.places):
            self._frame = event.position(), event.position()
        self.setFocus(Qt.FocusReason.MouseFocusReason)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        self.pointed.emit(*self.view.to_mm(at.x() - RULER, at.y() - RULER))
        if self._wiping:
            self.comparison.drag(at.x() - RULER, self.view.width_px)
            return
        if self._frame is not None:
            self._frame = self._frame[0], at
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
            self.setCursor(Qt.CursorShape.OpenHandCursor) if self._handle_at(at) else self.unsetCursor()
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
        if self._frame is not None:
            (a, b), self._frame = self._frame, None
            corners = [self.view.to_mm(p.x() - RULER, p.y() - RULER) for p in (a, b)]
            self.picked = framed(self.handles.places, *corners[0], *corners[1])
            self._drag = None
            self.handle_picked.emit(None)
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
                QToolTip.showText(event.globalPos(), f"Drag: {handle.words}", self)  # type: ignore[attr-defined]
                return True
            index = self._finding_at(QPointF(event.pos()))  # type: ignore[attr-defined]
            if index is None:
                QToolTip.hideText()
            else:
                QToolTip.showText(event.globalPos(), self.findings[index].headline, self)  # type: ignore[attr-defined]
            return True
        pinch = Qt.NativeGestureType.ZoomNativeGesture
        if isinstance(event, QNativeGestureEvent) and event.gestureType() == pinch:
            self.zoom(1 + event.value(), event.position())
            return True
        return super().event(event)

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
            if any(
                mark_path(self.findings[index].question, x, y, MARK + 4).contains(at)
                for x, y in self.mark_places(index)
            ):
                return index
        return None

    # painting

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
            self._paint_grid(painter)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_dimensions(painter, dimensions(self.drawing.ink, self.drawing.workshop.ticket, self.unit))
        self._paint_handles(painter)
        if self._frame is not None:
            a, b = self._frame
            painter.setPen(QPen(colour(self.colours.accent), 1, Qt.PenStyle.DashLine))
            painter.setBrush(colour(self.colours.accent, 30))
            painter.drawRect(QRectF(a - QPointF(RULER, RULER), b - QPointF(RULER, RULER)).normalized())
        painter.translate(-RULER, -RULER)
        self._paint_marks(painter)
        if self.run is not None:
            self._paint_run(painter, self.run)
        if self.measuring:
            self._paint_measure(painter)
        painter.restore()
        self._paint_rulers(painter)

    def _paint_handles(self, painter: QPainter) -> None:
        """What can be dragged: rings with a dot, on the dashed line they belong to."""
        if self.handles.line is not None:
            painter.save()
            painter.scale(self.view.scale, self.view.scale)
            painter.translate(-self.view.x, -self.view.y)
            pen = QPen(colour(self.colours.accent), 1.2, Qt.PenStyle.DashLine)
            pen.setCosmetic(True)
            painter.strokePath(painter_path(self.handles.line, False), pen)
            painter.restore()
        for handle in self.handles.places:
            at = QPointF(*self.view.to_px(handle.x, handle.y))
            if handle.node:
                picked = handle.name in self.picked
                half = QPointF(4.5, 4.5) if picked else QPointF(3, 3)
                painter.setPen(QPen(colour(self.colours.accent), 1.4))
                painter.setBrush(colour(self.colours.accent if picked else self.colours.page))
                painter.drawRect(QRectF(at - half, at + half))
                continue
            if handle.stem is not None:
                painter.setPen(QPen(colour(self.colours.accent), 1.2))
                painter.drawLine(QPointF(*self.view.to_px(*handle.stem)), at)
                painter.setBrush(colour(self.colours.page))
                painter.drawEllipse(at, 4, 4)
                continue
            painter.setPen(QPen(colour(self.colours.page), 4))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(at, GRIP - 2, GRIP - 2)
            painter.setPen(QPen(colour(self.colours.accent), 2))
            painter.setBrush(colour(self.colours.page, 200))
            painter.drawEllipse(at, GRIP - 2, GRIP - 2)
            painter.setBrush(colour(self.colours.accent))
            painter.drawEllipse(at, 1.5, 1.5)

    def _paint_run(self, painter: QPainter, run: DryRun) -> None:
        x, y, number = run.at(self.run_s)
        painter.save()
        painter.translate(RULER, RULER)
        looks = {"travel": (self.colours.muted, 1.0), "lead": (self.colours.warn, 2.0)}
        for move in run.moves[: number + 1]:
            if move.kind == "pierce":
                continue
            points = self._up_to(move, move.way, move is run.moves[number], (x, y))
            if move.head is not None:
                kerf = self.kerf_mm * self.view.scale
                tint = colour(self.colours.muted, 70 if kerf > 1 else 255)
                solid, flat, round_ = Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap, Qt.PenJoinStyle.RoundJoin
                painter.setPen(QPen(tint, max(1.0, kerf), solid, flat, round_))
                painter.drawPolyline(QPolygonF(points))
                points = self._up_to(move, move.points, move is run.moves[number])
            name, width = looks.get(move.kind, (self.colours.accent, 2.2))
            style = Qt.PenStyle.DotLine if move.kind == "travel" else Qt.PenStyle.SolidLine
            painter.setPen(QPen(colour(name), width, style))
            painter.drawPolyline(QPolygonF(points))
        self._paint_mishaps(painter)
        head = QPointF(*self.view.to_px(x, y))
        painter.setPen(QPen(colour(self.colours.page), 3))
        painter.setBrush(colour(self.colours.hold))
        painter.drawEllipse(head, 6, 6)
        painter.restore()

    def _up_to(self, move: Move, line: Floats, current: bool, end: tuple[float, float] | None = None) -> list[QPointF]:
        """A move's line in pixels; of the one that is being made, what has been, and where that ends."""
        points = [QPointF(*self.view.to_px(*point)) for point in line.tolist()]
        if not current:
            return points
        done = points[: max(1, round(len(points) * self._share(move)))]
        return [*done, QPointF(*self.view.to_px(*end))] if end else done

    def _paint_mishaps(self, painter: QPainter) -> None:
        painter.setPen(QPen(colour(self.colours.hold), 4.5))
        for line in (*self.mishaps.twice, *self.mishaps.through):
            painter.drawPolyline(QPolygonF([QPointF(*self.view.to_px(*point)) for point in line.tolist()]))
        painter.setPen(QPen(colour(self.colours.hold), 1.5))
        painter.setBrush(QBrush(colour(self.colours.hold), Qt.BrushStyle.BDiagPattern))
        for ring in self.mishaps.falling:
            painter.drawPolygon(QPolygonF([QPointF(*self.view.to_px(*point)) for point in ring.tolist()]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour(self.colours.hold), 2))
        for place in self.pinched:
            painter.drawEllipse(QPointF(*self.view.to_px(*place)), 9, 9)

    def _share(self, move: Move) -> float:
        span = move.stop_s - move.start_s
        return min(max((self.run_s - move.start_s) / span, 0.0), 1.0) if span > 0 else 1.0

    def _paint_measure(self, painter: QPainter) -> None:
        start, end, lines = self._measure
        ends = []
        for place in (start, end):
            if place is None:
                continue
            x, y = self.view.to_px(place.x, place.y)
            ends.append(QPointF(x + RULER, y + RULER))
            painter.setPen(QPen(colour(self.colours.accent), 1.6))
            painter.setBrush(colour(self.colours.accent if place.on == "node" else self.colours.page))
            painter.drawEllipse(ends[-1], 4, 4)
        if len(ends) == 2:
            painter.drawLine(*ends)
        if lines and ends:
            painter.setFont(font(10, 600))
            metrics = painter.fontMetrics()
            width = max(metrics.horizontalAdvance(line) for line in lines) + 20
            height = metrics.height() * len(lines) + 12
            right, below = self.width() - width - 8, self.height() - height - 8
            corner = ends[-1] + QPointF(16, 16)
            box = QRectF(min(corner.x(), right), min(corner.y(), below), width, height)
            painter.setPen(QPen(colour(self.colours.line), 1))
            painter.setBrush(colour(self.colours.raised))
            painter.drawRoundedRect(box, 6, 6)
            painter.setPen(colour(self.colours.text))
            painter.drawText(box.adjusted(10, 6, -10, -6), Qt.AlignmentFlag.AlignLeft, "\n".join(lines))

    def _paint_marks(self, painter: QPainter) -> None:
        for index, finding in enumerate(self.findings):
            if index == self.chosen:
                continue
            for place in self.mark_places(index)[:200]:
                draw_mark(painter, finding.question, finding.level, place, MARK, self.colours)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour(self.colours.accent), 1.5))
        self._paint_frames(painter, self.chosen_boxes)
        if self.chosen is None or self.chosen >= len(self.findings):
            return
        finding = self.findings[self.chosen]
        line = level_colour(finding.level, self.colours)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour(line), 1.5))
        self._paint_frames(painter, finding.marks or ((finding.box,) if finding.box else ()))
        for place in self.mark_places(self.chosen)[:200]:
            draw_mark(painter, finding.question, finding.level, place, MARK + 2, self.colours)

    def _paint_frames(self, painter: QPainter, boxes: Sequence[Box]) -> None:
        for box in boxes:
            x0, y0 = self.view.to_px(box[0], box[1])
            x1, y1 = self.view.to_px(box[2], box[3])
            frame = QRectF(QPointF(x0, y0), QPointF(x1, y1)).adjusted(-5, -5, 5, 5).translated(RULER, RULER)
            painter.drawRoundedRect(frame, 4, 4)

    def _paint_dimensions(self, painter: QPainter, lines: Sequence[Dimension]) -> None:
        ink = self.drawing.ink if self.drawing else None
        if ink is None:
            return
        right, bottom = self.view.to_px(ink[2], ink[3])
        rows = {"x": 0, "y": 0}
        for line in lines:
            offset = 26 + 21 * rows[line.axis]
            rows[line.axis] += 1
            middle = (line.start + line.end) / 2
            x, y = self.view.to_px(middle, middle)
            place = (x, bottom + offset) if line.axis == "x" else (right + offset, y)
            ground = self._ground(*self.view.to_mm(*place))
            value = ground.hold if line.wanted else ground.text
            pen = QPen(colour(value), 1, Qt.PenStyle.DashLine if line.wanted else Qt.PenStyle.SolidLine)
            painter.setPen(pen)
            painter.setFont(font(9.5, 400 if line.wanted else 600))
            width = painter.fontMetrics().horizontalAdvance(line.label) + 16
            if line.axis == "x":
                a, b = self.view.to_px(line.start, 0)[0], self.view.to_px(line.end, 0)[0]
                self._dimension_line(painter, a, b, bottom + offset, width, line.label, self.view.width_px)
            else:
                a, b = self.view.to_px(0, line.start)[1], self.view.to_px(0, line.end)[1]
                beside = right + offset + 10 + width <= self.view.width_px
                short = b - a <= width + 20  # to hold its label
                if short and beside:
                    self._short_upright(painter, right + offset, a, b, width, line.label)
                    continue
                painter.save()
                painter.translate(right + offset, 0)
                painter.rotate(90)
                if short:  # no room beside it either: along it
                    self._dimension_line(painter, a, b, 0, 0, "", self.view.height_px)
                    painter.drawText(
                        QRectF((a + b - width) / 2, -22, width, 20), Qt.AlignmentFlag.AlignCenter, line.label
                    )
                else:
                    self._dimension_line(painter, a, b, 0, width, line.label, self.view.height_px)
                painter.restore()

    def _ground(self, x: float, y: float) -> Palette:
        """The colours to be read at a place in mm: a sheet on light paper is light in a dark window too."""
        width, height = self.drawing.sheet.page_mm if self.drawing else (0.0, 0.0)
        on_paper = 0 <= x <= width and 0 <= y <= height
        return LIGHT if on_paper and paper(self.colours, self.lens) == LIGHT.page else self.colours

    def _short_upright(self, painter: QPainter, x: float, a: float, b: float, width: float, label: str) -> None:
        painter.drawLine(QPointF(x, a), QPointF(x, b))
        for y in (a, b):
            painter.drawLine(QPointF(x - 5, y), QPointF(x + 5, y))
        beside = QRectF(x + 10, (a + b) / 2 - 10, width, 20)
        painter.drawText(beside, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, label)

    def _dimension_line(
        self, painter: QPainter, a: float, b: float, y: float, width: float, label: str, room: float
    ) -> None:
        middle = (a + b) / 2
        if b - a <= width + 20:  # too short to hold its label
            painter.drawLine(QPointF(a, y), QPointF(b, y))
            middle = b + 10 + width / 2 if b + 10 + width <= room else a - 10 - width / 2
        else:
            painter.drawLine(QPointF(a, y), QPointF(middle - width / 2, y))
            painter.drawLine(QPointF(middle + width / 2, y), QPointF(b, y))
        for x in (a, b):
            painter.drawLine(QPointF(x, y - 5), QPointF(x, y + 5))
        painter.drawText(QRectF(middle - width / 2, y - 10, width, 20), Qt.AlignmentFlag.AlignCenter, label)

    def _paint_grid(self, painter: QPainter) -> None:
        """Lines at the rulers' figures, faint ones at their marks."""
        for axis, start, extent in (("x", self.view.x, self.view.width_px), ("y", self.view.y, self.view.height_px)):
            for tick in ticks(start, self.view.scale, extent, self.unit):
                painter.setPen(colour(self.colours.accent, 70 if tick.label else 26))
                across = axis == "x"
                a = QPointF(tick.at_px, 0) if across else QPointF(0, tick.at_px)
                b = QPointF(tick.at_px, self.view.height_px) if across else QPointF(self.view.width_px, tick.at_px)
                painter.drawLine(a, b)

    def _paint_rulers(self, painter: QPainter) -> None:
        painter.fillRect(QRectF(0, 0, self.width(), RULER), colour(self.colours.raised))
        painter.fillRect(QRectF(0, 0, RULER, self.height()), colour(self.colours.raised))
        painter.setPen(colour(self.colours.line))
        painter.drawLine(QPointF(0, RULER - 0.5), QPointF(self.width(), RULER - 0.5))
        painter.drawLine(QPointF(RULER - 0.5, 0), QPointF(RULER - 0.5, self.height()))
        painter.setFont(font(8))
        painter.save()
        painter.setClipRect(QRectF(RULER, 0, self.view.width_px, RULER))
        for tick in ticks(self.view.x, self.view.scale, self.view.width_px, self.unit):
            at = RULER + tick.at_px
            painter.setPen(colour(self.colours.muted if tick.label else self.colours.page_edge))
            painter.drawLine(QPointF(at, RULER - (9 if tick.label else 5)), QPointF(at, RULER - 1))
            if tick.label:
                painter.drawText(QPointF(at + 3, 12), tick.label)
        painter.restore()
        painter.setClipRect(QRectF(0, RULER, RULER, self.view.height_px))
        for tick in ticks(self.view.y, self.view.scale, self.view.height_px, self.unit):
            at = RULER + tick.at_px
            painter.setPen(colour(self.colours.muted if tick.label else self.colours.page_edge))
            painter.drawLine(QPointF(RULER - (9 if tick.label else 5), at), QPointF(RULER - 1, at))
            if tick.label:
                painter.save()
                painter.translate(11, at - 3)
                painter.rotate(-90)
                painter.drawText(QPointF(0, 0), tick.label)
                painter.restore()
        painter.setClipping(False)
        painter.fillRect(QRectF(0, 0, RULER - 1, RULER - 1), colour(self.colours.raised))
        painter.setPen(colour(self.colours.muted))
        painter.drawText(QRectF(0, 0, RULER, RULER), Qt.AlignmentFlag.AlignCenter, self.unit.name)
