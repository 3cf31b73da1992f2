"""The hand on a table: what a press takes hold of, what is held, and what comes of letting go."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, QPointF, Qt, Signal
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QWidget

from unkelt.desk.table.comparing import Comparison
from unkelt.desk.table.frame import CURSORS, Framed
from unkelt.desk.table.gestures import DragFrame, DragGuide, DragHandle, Draw, Gesture, Grab, Pan, Ring, Wipe
from unkelt.desk.table.marked import Marked
from unkelt.desk.table.overlay import GRIP
from unkelt.desk.table.ruling import RULER
from unkelt.desk.table.sight import Sight
from unkelt.session.frame import INSIDE
from unkelt.session.handles import encircled
from unkelt.session.snapping import Axis, GuideLine
from unkelt.steps.grip import Handle, Handles

GUIDE_REACH = 3.0
"""How near, in pixels, a guide line is taken hold of."""


class Hand(QObject):
    """Reads presses and moves as gestures, and shows by the cursor what a press would take hold of. Places are in mm.

    `handles` can be dragged, of which the nodes named in `picked` are picked; `guides` lie across the sheet. While it
    is `measuring`, places are asked about instead of things taken. While it is `holding_sheet`, a drag moves the sheet,
    whatever lies there.
    """

    clicked = Signal(float, float)
    finding_chosen = Signal(int)
    handle_picked = Signal(object)
    handle_dragged = Signal(object, float, float)
    handle_put_back = Signal(object, float, float)
    """A drag was not meant: to exactly where the handle was."""
    guides_changed = Signal(tuple)
    encircled = Signal(list)
    """The corners of a frame or lasso that was drawn."""
    probed = Signal(float, float, bool)
    double_clicked = Signal(float, float)
    frame_dragged = Signal(str, tuple, tuple)
    """By which handle of the frame, from where, to where."""
    frame_dropped = Signal()
    frame_left = Signal()
    """A drag of the frame was not meant."""
    nudged = Signal(float, float)
    """By so many millimetres, with the arrow keys."""
    drawn = Signal(list, bool)
    """The places of a shape that is being drawn, and whether it is done; none where it was not meant."""
    moved = Signal()
    """What is to be seen of it is another."""

    def __init__(self, on: QWidget, sight: Sight, marked: Marked, comparison: Comparison) -> None:
        super().__init__(on)
        self._on, self._sight, self._marked, self._comparison = on, sight, marked, comparison
        self.handles = Handles()
        self.picked: tuple[str, ...] = ()
        self.guides: tuple[GuideLine, ...] = ()
        self.gesture: Gesture | None = None
        """What a press began and no release ended yet."""
        self.measuring = self.holding_sheet = self.drawing = False
        self.takes_double = False
        """Whether two clicks are about what lies there, and not about the whole sheet."""
        self.framed = Framed()
        self.take: Callable[[float, float], bool] = lambda _x, _y: False
        """Chooses what lies at a place, to be dragged; whether there is anything."""

    def show_handles(self, handles: Handles) -> None:
        """What can be dragged. One that is being dragged stays in the hand."""
        self.handles = handles
        if isinstance(held := self.gesture, DragHandle):
            held.handle = next((each for each in handles.places if each.name == held.handle.name), held.handle)
        self.moved.emit()

    def show_guides(self, guides: tuple[GuideLine, ...]) -> None:
        """The guide lines that can be taken hold of."""
        self.guides = guides
        self.moved.emit()

    def hold_sheet(self, on: bool) -> None:
        """Whether a drag moves the sheet, whatever lies there."""
        self.holding_sheet = on
        self._on.setCursor(Qt.CursorShape.OpenHandCursor) if on else self._on.unsetCursor()

    # a gesture

    def press(self, event: QMouseEvent) -> None:
        """A button was pressed."""
        self.gesture = self._begun(event)

    def move(self, event: QMouseEvent) -> None:
        """The pointer moved."""
        at = event.position()
        if self.gesture is not None and not event.buttons():  # let go where nobody told it, as in a menu
            self.cancel()
        if self.gesture is not None:
            self.gesture.move(at)
            if self.gesture.cursor is not None:
                self._on.setCursor(self.gesture.cursor)
            self.moved.emit()
        elif self.measuring:
            self.probed.emit(*self._sight.mm(at), False)
        else:
            self._show_cursor(at)

    def release(self, at: QPointF) -> None:
        """The button was let go."""
        self._end(lambda gesture: gesture.release(at))

    def cancel(self) -> None:
        """What is under way ends as if it had not begun."""
        self._end(lambda gesture: gesture.cancel())

    def _end(self, how: Callable[[Gesture], None]) -> None:
        gesture, self.gesture = self.gesture, None
        self._on.setCursor(Qt.CursorShape.CrossCursor) if self.measuring else self._on.unsetCursor()
        if gesture is not None:
            how(gesture)
        self.moved.emit()

    def _begun(self, event: QMouseEvent) -> Gesture:
        """By what lies there, and which keys are held."""
        at, keys, sight = event.position(), event.modifiers(), self._sight
        shift = bool(keys & Qt.KeyboardModifier.ShiftModifier)
        if self._comparison.holds(at.x() - RULER, sight.view.width_px):
            return Wipe(self._comparison, sight.view.width_px)
        if self.holding_sheet:
            return Pan(at, sight.view, sight.look, lambda _: None)
        if self.measuring:
            return Pan(at, sight.view, sight.look, lambda there: self.probed.emit(*sight.mm(there), True))
        if self.drawing:
            return Draw(
                at,
                sight.mm,
                lambda places: self.drawn.emit(places, False),
                lambda places: self.drawn.emit(places, True),
                lambda: self.drawn.emit([], True),
            )
        handle = self.handle_at(at)
        if (guide := self._guide_taken(at, handle)) is not None:
            return guide
        if handle is not None:
            self._pick(handle, more=shift)
            return DragHandle(handle, sight.mm, self.handle_dragged.emit, self.handle_put_back.emit)
        if (grip := self.framed.grip_at(self._in_view(at), sight.view)) is not None:
            return self._drag_frame(at, grip)
        if shift:
            lasso = bool(keys & Qt.KeyboardModifier.AltModifier)
            return Ring(at, lasso=lasso, close=self._encircle, click=lambda there: self.clicked.emit(*sight.mm(there)))
        pan = Pan(at, sight.view, sight.look, self._click)
        return Grab(lambda: self.take(*sight.mm(at)), self._drag_frame(at, INSIDE), pan, at)

    def _drag_frame(self, at: QPointF, grip: str) -> DragFrame:
        return DragFrame(
            at,
            self._sight.mm,
            lambda start, to: self.frame_dragged.emit(grip, start, to),
            self.frame_dropped.emit,
            self.frame_left.emit,
            self._click,
        )

    def _in_view(self, at: QPointF) -> QPointF:
        return at - QPointF(RULER, RULER)

    # what comes of it

    def _click(self, at: QPointF) -> None:
        index = self._marked.finding_at(at, self._sight.view)
        if index is not None:
            self.finding_chosen.emit(index)
        else:
            self.clicked.emit(*self._sight.mm(at))

    def _pick(self, handle: Handle, *, more: bool) -> None:
        others = tuple(name for name in self.picked if name != handle.name)
        if more:
            self.picked = others if handle.name in self.picked else (*others, handle.name)
        elif handle.name not in self.picked:
            self.picked = (handle.name,)
        self.handle_picked.emit(handle)

    def _encircle(self, ring: list[QPointF]) -> None:
        corners = [self._sight.mm(corner) for corner in ring]
        if any(handle.node for handle in self.handles.places):
            self.picked = encircled(self.handles.places, corners)
            self.handle_picked.emit(None)
        else:
            self.encircled.emit(corners)

    def _lay(self, guide: GuideLine | None) -> None:
        self.guides = (*self.guides, guide) if guide is not None else self.guides
        self.guides_changed.emit(self.guides)

    # what lies there

    def handle_at(self, at: QPointF) -> Handle | None:
        """The nearest that can be taken hold of there."""
        found: list[tuple[float, Handle]] = []
        for handle in self.handles.places:
            x, y = self._sight.view.to_px(handle.x, handle.y)
            away = (QPointF(x + RULER, y + RULER) - at).manhattanLength()
            if away <= GRIP * (1 if handle.node else 1.4):
                found.append((away, handle))
        return min(found, key=lambda pair: pair[0])[1] if found else None

    def _guide_at(self, at: QPointF) -> GuideLine | None:
        for guide in self.guides:
            x, y = self._sight.view.to_px(guide.mm, guide.mm)
            if abs((x - at.x() if guide.axis == "x" else y - at.y()) + RULER) <= GUIDE_REACH:
                return guide
        return None

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
        x, y = self._sight.mm(at)
        return GuideLine(axis, round(x if axis == "x" else y, self._sight.view.decimals))

    def _show_cursor(self, at: QPointF) -> None:
        """What a press would take hold of here."""
        grip = self.framed.grip_at(self._in_view(at), self._sight.view)
        if self.drawing:
            self._on.setCursor(Qt.CursorShape.CrossCursor)
        elif self.handle_at(at):
            self._on.setCursor(Qt.CursorShape.OpenHandCursor)
        elif grip is not None and at.x() > RULER and at.y() > RULER:
            self._on.setCursor(CURSORS[grip])
        elif at.y() < RULER:
            self._on.setCursor(Qt.CursorShape.SplitVCursor)
        elif at.x() < RULER:
            self._on.setCursor(Qt.CursorShape.SplitHCursor)
        elif (guide := self._guide_at(at)) is not None:
            self._on.setCursor(Qt.CursorShape.SplitHCursor if guide.axis == "x" else Qt.CursorShape.SplitVCursor)
        else:
            self._on.unsetCursor()
