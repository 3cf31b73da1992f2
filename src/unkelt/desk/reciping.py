"""What people do to the recipe: its steps changed, taken out and moved, in a menu of each card or by key."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QPoint
from PySide6.QtWidgets import QMenu

from unkelt.desk.compose.amend import changed_call
from unkelt.session.availability import step_place
from unkelt.session.offers import offers

if TYPE_CHECKING:
    from unkelt.desk.window import Desk


class Reciping(QObject):
    """Joins the recipe strip to the state."""

    def __init__(self, window: Desk) -> None:
        super().__init__(window)
        self.window, self.state = window, window.state

    def show_menu(self, stage: int, at: QPoint) -> None:
        self.window.looking.look_at(stage)
        if stage == 0:
            return
        menu = QMenu(self.window)
        for name in ("change_step", "take_out_step", "step_earlier", "step_later"):
            menu.addAction(self.window.actions_by_id[name])
        menu.popup(at)

    def change_step(self) -> None:
        job, place = self.state.job, step_place(self.state.job)
        if job is None or place is None:
            return
        before = job.look_at(place).shown
        taken = job.stages[place].call
        tried = self.state.stepping.trial(before)
        call = changed_call(self.window, taken, offers(before, taken.items, job.workshop), tried)
        self.state.bench.stop("trial")
        if call is not None:
            self.state.stepping.edit(lambda: job.with_changed(place, call))

    def take_out_step(self) -> None:
        job, place = self.state.job, step_place(self.state.job)
        if job is not None and place is not None:
            self.state.stepping.edit(lambda: job.with_changed(place, None))

    def step_earlier(self) -> None:
        self._move_step(-1)

    def step_later(self) -> None:
        self._move_step(1)

    def _move_step(self, by: int) -> None:
        job, place = self.state.job, step_place(self.state.job)
        if job is not None and place is not None:
            self.state.stepping.edit(lambda: job.with_moved(place, by))
