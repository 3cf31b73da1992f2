"""What people do to the recipe: its steps changed, taken out and moved, in a menu of each card or by key."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QMenu

from unkelt.desk.common.bars import RecipeStrip
from unkelt.desk.frame import Frame
from unkelt.desk.views import View
from unkelt.language import said, tr
from unkelt.session.availability import step_place
from unkelt.session.sentences import original_caption, saved_words, stage_caption, totals
from unkelt.steps.steps import STEPS


class Reciping:
    """Joins the recipe strip to the state."""

    def __init__(
        self,
        window: Frame,
        strip: RecipeStrip,
        look_at: Callable[[int], None],
        change: Callable[[int], None],
        changing: Callable[[], int | None],
    ) -> None:
        """`change` begins to change a step on the bench, `changing` tells which one is being changed."""
        self._changing = changing
        self.window, self.strip, self.state, self._look_at, self._change = window, strip, window.state, look_at, change
        strip.stage_chosen.connect(look_at)
        strip.menu_asked.connect(self._show_menu)

    def show(self) -> None:
        """The steps taken, which of them is looked at, and what is tried."""
        job = self.state.job
        self.strip.setVisible(job is not None)
        if job is None:
            return
        first = tr("new sheet") if job.own_file is None else tr("as received")
        cards = [(first, original_caption(job), "")]
        cards += [(STEPS[stage.call.name].title, stage_caption(stage), stage.refused or "") for stage in job.stages]
        shown = len(job.stages) if job.looking_at is None else job.looking_at
        tried = self.state.preview
        seen = self.window.view in (View.INSPECT, View.COMPOSE) and job.looking_at is None
        coming = STEPS[tried.call.name].title if seen and tried and tried.outcome else None
        place = self._changing()
        self.strip.show_stages(cards, shown, coming, None if place is None else place + 1)
        self.strip.totals.setText(said(totals(self.state.sums)) if self.state.sums is not None else "")
        self.strip.saved.setText(said(saved_words(job)))

    def _show_menu(self, stage: int, at: QPoint) -> None:
        self._look_at(stage)
        if stage == 0:
            return
        menu = QMenu(self.window.itself)
        for name in ("change_step", "take_out_step", "step_earlier", "step_later"):
            menu.addAction(self.window.actions_by_id[name])
        menu.popup(at)

    def change_step(self) -> None:
        """The step that is looked at, with its options in their fields, on the sheet as it was before it."""
        place = step_place(self.state.job)
        if place is not None:
            self._change(place)

    def take_out_step(self) -> None:
        """Takes the step that is looked at out of the recipe."""
        job, place = self.state.job, step_place(self.state.job)
        if job is not None and place is not None:
            self.state.stepping.edit(lambda: job.with_changed(place, None))

    def step_earlier(self) -> None:
        """Moves it one place up."""
        self._move_step(-1)

    def step_later(self) -> None:
        """Moves it one place down."""
        self._move_step(1)

    def _move_step(self, by: int) -> None:
        job, place = self.state.job, step_place(self.state.job)
        if job is not None and place is not None:
            self.state.stepping.edit(lambda: job.with_moved(place, by))
