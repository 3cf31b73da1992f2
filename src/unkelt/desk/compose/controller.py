"""What goes on in the Compose view: its ledger and handles follow the job, and what people do there is tried and
taken.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QObject, Qt
from PySide6.QtWidgets import QApplication

from unkelt.app.desktop import Desktop
from unkelt.desk.common.drawing import Drawing
from unkelt.desk.compose.view import ComposeView
from unkelt.recipe import Call
from unkelt.session.entries import Entry, known_ledger, ledger, lengthy, takes_long
from unkelt.session.handles import aligned, dragged, handles
from unkelt.session.offers import Offers, offers
from unkelt.session.picking import items_at, items_within, without
from unkelt.session.preview import Preview
from unkelt.session.snapping import caught
from unkelt.sheet.model import Sheet
from unkelt.steps.grip import Handle


class Composing(QObject):
    """Between the view, which only shows, and the state. `drawing` makes a sheet ready to be drawn; `tried` is told
    after a step was set in the view.
    """

    def __init__(
        self, view: ComposeView, state: Desktop, drawing: Callable[[Sheet], Drawing], tried: Callable[[], None]
    ) -> None:
        super().__init__(view)
        self.view, self.state, self._drawing, self._tried = view, state, drawing, tried
        view.tried.connect(self.try_step)
        view.trial_asked.connect(self._try)
        view.apply_asked.connect(state.stepping.put_in)
        view.lettering_asked.connect(state.stepping.back_to_lettering)
        view.looks_changed.connect(lambda: self.show_ledger(fit=False))
        view.table.hand.clicked.connect(self._pick)
        view.table.hand.handle_picked.connect(lambda _handle: self._show_handles())
        view.table.hand.handle_dragged.connect(self.drag)
        view.table.hand.handle_put_back.connect(self._put_back)
        view.table.hand.encircled.connect(self._pick_within)
        self.snapping = True

    def offers(self, items: Sequence[str]) -> Offers:
        """What a step on these items of the sheet shown may be chosen from."""
        job = self.state.job
        assert job is not None
        return offers(job.shown, items, job.workshop)

    def show_ledger(self, *, fit: bool) -> None:
        """What is on the sheet, in the list."""
        job = self.state.job
        if job and self.view.isVisible():
            sheet, workshop, hidden = job.shown, job.workshop, self.view.ledger.hidden
            self.view.table.show_drawing(self._drawing(without(sheet, hidden)), fit=fit)

            def done(entries: list[Entry]) -> None:
                if self.state.job is not None and self.state.job.shown is sheet:
                    self.view.show_sheet(entries, self.offers, self._drawing(without(sheet, hidden)), fit=False)

            known = known_ledger(sheet, workshop)
            if known is not None or not lengthy(sheet):
                done(ledger(sheet, workshop) if known is None else known)
                return
            self.state.bench.start(
                "ledger", "Writing the ledger…", lambda _: ledger(sheet, workshop), done, self.state.on_desk.said.emit
            )

    def show_preview(self, tried: Preview) -> None:
        """What the step that is tried would do."""
        shown = without(tried.outcome.sheet, self.view.ledger.hidden) if tried.outcome else None
        self.view.show_preview(tried, self._drawing(shown) if shown else None)

    def try_step(self) -> None:
        """Tries the step that is set, at once where that is quick, else when it is asked for."""
        job, call = self.state.job, self.view.call()
        if job and self.view.isVisible():
            self._show_handles()
            if call is not None and takes_long(job.shown, call.items):
                self.state.stepping.try_step(None)
                self.view.offer_trial()
                self._tried()
            else:
                self._try()

    def _try(self) -> None:
        self.state.stepping.try_step(self.view.call(), anywhere=True)
        self._tried()

    def _show_handles(self) -> None:
        job, call = self.state.job, self.view.call()
        if job:
            table = self.view.table
            one = table.hand.picked[0].split(" ")[-1] if len(table.hand.picked) == 1 else ""
            table.hand.show_handles(handles(call, job.shown, job.workshop, one))

    def drag(self, handle: Handle, x: float, y: float) -> None:
        """A handle was dragged to a place in mm."""
        call = self.view.call()
        if self.state.job is None or call is None:
            return
        if self.snapping and not QApplication.keyboardModifiers() & Qt.KeyboardModifier.AltModifier:
            x, y = self._caught(handle, x, y)
        self._drag_to(call, handle, x, y)

    def _put_back(self, handle: Handle, x: float, y: float) -> None:
        """To exactly where it was, whatever lies near."""
        call = self.view.call()
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

    def _pick_within(self, ring: list[tuple[float, float]]) -> None:
        job = self.state.job
        if job:
            self.view.pick_all(items_within(job.shown, job.workshop, ring))

    def _pick(self, x: float, y: float) -> None:
        job = self.state.job
        if job:
            items = items_at(job.shown, job.workshop, x, y, self.view.table.sight.reach_mm)
            shift = QApplication.keyboardModifiers() & Qt.KeyboardModifier.ShiftModifier
            self.view.pick(items, more=bool(shift))
