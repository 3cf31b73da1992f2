"""What of a step that is being set can be taken hold of on the table: dragged, and caught by what lies near."""

from __future__ import annotations

from typing import Protocol

from PySide6.QtCore import QObject, Qt
from PySide6.QtWidgets import QApplication

from unkelt.app.desktop import Desktop
from unkelt.desk.compose.view import ComposeView
from unkelt.recipe import Call
from unkelt.session.handles import aligned, dragged, handles
from unkelt.session.snapping import caught
from unkelt.steps.grip import Handle


class Setting(Protocol):
    """Who sets the step: the view, the state, and the step as it is set."""

    view: ComposeView
    state: Desktop

    def call(self) -> Call | None:
        """The step as it is set; None while none is."""


class Gripping(QObject):
    """Between the table's handles and the options of the step. `snapping` says whether anything catches."""

    def __init__(self, composing: Setting) -> None:
        super().__init__(composing.view)
        self.composing, self.view, self.state = composing, composing.view, composing.state
        self.snapping = True
        hand = self.view.table.hand
        hand.handle_picked.connect(lambda _handle: self.show())
        hand.handle_dragged.connect(self.drag)
        hand.handle_put_back.connect(self._put_back)

    def show(self) -> None:
        job, call = self.state.job, self.composing.call()
        if job:
            table = self.view.table
            self.view.card.picked = table.hand.picked
            one = table.hand.picked[0].split(" ")[-1] if len(table.hand.picked) == 1 else ""
            table.hand.show_handles(handles(call, job.shown, job.workshop, one))

    def drag(self, handle: Handle, x: float, y: float) -> None:
        """A handle was dragged to a place in mm."""
        call = self.composing.call()
        if self.state.job is None or call is None:
            return
        if self.snapping and not QApplication.keyboardModifiers() & Qt.KeyboardModifier.AltModifier:
            x, y = self._caught(handle, x, y)
        self._drag_to(call, handle, x, y)

    def _put_back(self, handle: Handle, x: float, y: float) -> None:
        """To exactly where it was, whatever lies near."""
        call = self.composing.call()
        if call is not None:
            self._drag_to(call, handle, x, y)

    def _drag_to(self, call: Call, handle: Handle, x: float, y: float) -> None:
        job, table = self.state.job, self.view.table
        assert job is not None
        along = [each for each in table.hand.handles.places if each.name in table.hand.picked]
        self.view.options.put(dragged(call, handle, (x, y), job.shown, job.workshop, along))

    def _caught(self, handle: Handle, x: float, y: float) -> tuple[float, float]:
        """A node falls in line with others, and everything with guide lines, the page and the grid; what isn't part of
        a line is caught by nodes and lines too.
        """
        job, table = self.state.job, self.view.table
        assert job is not None
        reach = table.sight.reach_mm
        at = (x, y)
        if handle.node:
            x, y = aligned(table.hand.handles.places, (handle.name, *table.hand.picked), x, y, reach)
        others = None if handle.stem else job.shown
        moving = {entry.id for entry in self.view.chosen()}
        grid = table.view.grid_step(table.unit) if table.grid else 0.0
        found = caught(*at, reach, others, job.shown.page_mm, job.guides, grid, moving)
        return (x if x != at[0] else found[0]), (y if y != at[1] else found[1])
