"""What a press on a table begins: one class for each gesture. A gesture that is cancelled leaves all as it was before
it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

from PySide6.QtCore import QPointF, Qt

from unkelt.desk.table.comparing import Comparison
from unkelt.desk.table.ruling import RULER
from unkelt.session.snapping import Axis, GuideLine
from unkelt.session.viewport import Viewport
from unkelt.steps.grip import Handle

STILL_PX = 3
"""A press that moves no further than that is a click."""

Place = Callable[[QPointF], tuple[float, float]]
"""Where on the sheet, in mm, a place of the widget lies."""


class Gesture(Protocol):
    """`cursor` is shown while it lasts, from its first move on."""

    cursor: Qt.CursorShape | None

    def move(self, at: QPointF) -> None:
        """The pointer is there now, in pixels of the widget."""
        ...

    def release(self, at: QPointF) -> None:
        """It is done."""
        ...

    def cancel(self) -> None:
        """It was not meant."""
        ...


class Wipe:
    """The line between a sheet and its original is drawn across."""

    cursor: Qt.CursorShape | None = None

    def __init__(self, comparison: Comparison, width_px: float) -> None:
        self._comparison, self._width, self._share = comparison, width_px, comparison.share

    def move(self, at: QPointF) -> None:
        self._comparison.drag(at.x() - RULER, self._width)

    def release(self, at: QPointF) -> None:
        pass

    def cancel(self) -> None:
        self._comparison.drag(self._share * self._width, self._width)


class Pan:
    """The sheet is moved under the window; without a move it is a click."""

    cursor: Qt.CursorShape | None = Qt.CursorShape.ClosedHandCursor

    def __init__(
        self, at: QPointF, view: Viewport, look: Callable[[Viewport], None], click: Callable[[QPointF], None]
    ) -> None:
        self._begun, self._before, self._look, self._click = at, view, look, click
        self._moved = False

    def move(self, at: QPointF) -> None:
        step = at - self._begun
        if self._moved or step.manhattanLength() > STILL_PX:
            self._moved = True
            self._look(self._before.panned(step.x(), step.y()))

    def release(self, at: QPointF) -> None:
        if not self._moved:
            self._click(at)

    def cancel(self) -> None:
        self._look(self._before)


class DragHandle:
    """A handle of the step that is set goes to another place."""

    cursor: Qt.CursorShape | None = Qt.CursorShape.ClosedHandCursor

    def __init__(
        self,
        handle: Handle,
        place: Place,
        tell: Callable[[Handle, float, float], None],
        put_back: Callable[[Handle, float, float], None],
    ) -> None:
        self.handle, self._begun, self._place, self._tell, self._put_back = handle, handle, place, tell, put_back
        self._moved = False

    def move(self, at: QPointF) -> None:
        self._moved = True
        self._tell(self.handle, *self._place(at))

    def release(self, at: QPointF) -> None:
        pass

    def cancel(self) -> None:
        if self._moved:
            self._put_back(self.handle, self._begun.x, self._begun.y)


class DragGuide:
    """A guide line is laid elsewhere, or a new one comes out of a ruler; let go in a ruler, it is gone."""

    cursor: Qt.CursorShape | None = None

    def __init__(
        self,
        line: GuideLine | None,
        axis: Axis,
        at: QPointF,
        place: Callable[[Axis, QPointF], GuideLine],
        lay: Callable[[GuideLine | None], None],
    ) -> None:
        self._before, self._axis, self._place, self._lay = line, axis, place, lay
        self.line = line or place(axis, at)

    def move(self, at: QPointF) -> None:
        self.line = self._place(self._axis, at)

    def release(self, at: QPointF) -> None:
        self._lay(self.line if at.x() >= RULER and at.y() >= RULER else None)

    def cancel(self) -> None:
        self._lay(self._before)


class Ring:
    """A frame, or a lasso, is drawn round things; without a move it is a click."""

    cursor: Qt.CursorShape | None = None

    def __init__(
        self,
        at: QPointF,
        *,
        lasso: bool,
        close: Callable[[list[QPointF]], None],
        click: Callable[[QPointF], None],
    ) -> None:
        self.corners, self.lasso = [at, at], lasso
        self._close, self._click, self._moved = close, click, False

    def move(self, at: QPointF) -> None:
        self.corners = [*self.corners, at] if self.lasso else [self.corners[0], at]
        self._moved = True

    def release(self, at: QPointF) -> None:
        if not self._moved:
            self._click(at)
        elif self.lasso:
            self._close(self.corners)
        else:
            (x0, y0), (x1, y1) = ((corner.x(), corner.y()) for corner in self.corners)
            self._close([QPointF(x0, y0), QPointF(x1, y0), QPointF(x1, y1), QPointF(x0, y1)])

    def cancel(self) -> None:
        pass


class DragFrame:
    """What is chosen is moved, sized or turned by its frame; without a move it is a click."""

    cursor: Qt.CursorShape | None = None

    def __init__(
        self,
        at: QPointF,
        place: Place,
        tell: Callable[[tuple[float, float], tuple[float, float]], None],
        drop: Callable[[], None],
        undo: Callable[[], None],
        click: Callable[[QPointF], None],
    ) -> None:
        self._begun, self._place, self._tell, self._drop, self._undo, self._click = at, place, tell, drop, undo, click
        self._start = place(at)
        self._moved = False

    def move(self, at: QPointF) -> None:
        if self._moved or (at - self._begun).manhattanLength() > STILL_PX:
            self._moved = True
            self._tell(self._start, self._place(at))

    def release(self, at: QPointF) -> None:
        self._drop() if self._moved else self._click(at)

    def cancel(self) -> None:
        self._undo()


class Grab:
    """Whatever lies there is dragged, where there is something; else the sheet is moved under the window. `take` is
    asked at the first move whether there is.
    """

    def __init__(self, take: Callable[[], bool], drag: DragFrame, pan: Pan, at: QPointF) -> None:
        self._take, self._drag, self._pan, self._begun = take, drag, pan, at
        self._way: DragFrame | Pan | None = None
        self.cursor: Qt.CursorShape | None = None

    def move(self, at: QPointF) -> None:
        if self._way is None and (at - self._begun).manhattanLength() > STILL_PX:
            self._way = self._drag if self._take() else self._pan
            self.cursor = self._way.cursor
        if self._way is not None:
            self._way.move(at)

    def release(self, at: QPointF) -> None:
        (self._way or self._pan).release(at)

    def cancel(self) -> None:
        if self._way is not None:
            self._way.cancel()


class Draw:
    """A shape is drawn: from where the press was to where it is let go, with every place between."""

    cursor: Qt.CursorShape | None = Qt.CursorShape.CrossCursor

    def __init__(
        self,
        at: QPointF,
        place: Place,
        tell: Callable[[list[tuple[float, float]]], None],
        done: Callable[[list[tuple[float, float]]], None],
        undo: Callable[[], None],
    ) -> None:
        self._place, self._tell, self._done, self._undo = place, tell, done, undo
        self._places = [place(at)]

    def move(self, at: QPointF) -> None:
        self._places.append(self._place(at))
        self._tell(self._places)

    def release(self, at: QPointF) -> None:
        self._places.append(self._place(at))
        self._done(self._places)

    def cancel(self) -> None:
        self._undo()
