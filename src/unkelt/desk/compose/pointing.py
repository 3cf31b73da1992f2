"""What a click on the bench's table means: it chooses, names what a step waits for, or picks a letter."""

from __future__ import annotations

from dataclasses import replace
from typing import Protocol

from PySide6.QtCore import QObject, Qt
from PySide6.QtWidgets import QApplication

from unkelt.app.desktop import Desktop
from unkelt.desk.compose.view import ComposeView
from unkelt.recipe import Call
from unkelt.session.handles import pointed
from unkelt.session.picking import is_open, items_at, items_within, letter_at, with_letter
from unkelt.sheet.change import leaves
from unkelt.sheet.model import Lettering


class Choosing(Protocol):
    """Who knows what is chosen."""

    view: ComposeView
    state: Desktop

    @property
    def chosen_ids(self) -> tuple[str, ...]:
        """What is chosen, by ids."""
        ...

    def call(self) -> Call | None:
        """The step as it is set; None while none is."""
        ...


class Pointing(QObject):
    """Between the table's clicks and what is chosen."""

    def __init__(self, composing: Choosing) -> None:
        super().__init__(composing.view)
        self.composing, self.view, self.state = composing, composing.view, composing.state
        hand = self.view.table.hand
        hand.clicked.connect(self._pick)
        hand.encircled.connect(self._pick_within)

    def items_at(self, x: float, y: float) -> list[str]:
        """What can be picked at a place, the topmost first."""
        job = self.state.job
        if job is None:
            return []
        found = items_at(job.shown, job.workshop, x, y, self.view.table.sight.reach_mm)
        return self.view.layers.pickable(found)

    def _whole(self, item: str) -> str:
        """The group that an item is in, where nothing that is chosen is in it too: several lines are one frame."""
        job = self.state.job
        assert job is not None
        mine = set(self.composing.chosen_ids)
        groups = [each for each in job.shown.groups() if not each.is_layer]
        holding = [
            each.id
            for each in groups
            if item in (held := leaves(job.shown, [each.id])) and len(held) > 1 and not held & mine
        ]
        return holding[0] if holding else item

    def _pick_within(self, ring: list[tuple[float, float]]) -> None:
        job = self.state.job
        if job:
            self.view.layers.pick_all(items_within(job.shown, job.workshop, ring))

    def _pick(self, x: float, y: float) -> None:
        """A click names what a step waits for, or chooses."""
        if self.state.job is None:
            return
        found = self.items_at(x, y)
        if self.view.setting and (waiting := self.view.options.targets):
            self._name(waiting[0], [item for item in found if item not in self.composing.chosen_ids], (x, y))
            return
        shift = bool(QApplication.keyboardModifiers() & Qt.KeyboardModifier.ShiftModifier)
        if not self._pick_letter(x, y, more=shift):
            self.view.layers.pick(found, more=shift)

    def _name(self, option: str, found: list[str], at: tuple[float, float]) -> None:
        """Names what was clicked; where on it counts once it is named, or if it is an open line."""
        job, call, options = self.state.job, self.composing.call(), self.view.options
        if job is None or not found:
            return
        name = self._whole(found[0])
        given = {option: name}
        if call is not None and (call.options.get(option) == name or is_open(job.shown, found[0])):
            named = replace(call, options={**call.options, option: name})
            given |= pointed(named, at, job.shown, job.workshop)
        options.put(given)

    def _pick_letter(self, x: float, y: float, *, more: bool) -> bool:
        """Names a letter of the text that a step works on; whether there is such a step, and a letter."""
        job, options = self.state.job, self.view.options
        text = job.shown.find(self.composing.chosen_ids[0]) if job is not None and self.composing.chosen_ids else None
        if job is None or not self.view.setting or options.letters is None or not isinstance(text, Lettering):
            return False
        letter = letter_at(text, job.workshop, x, y)
        if letter:
            options.put({"letters": with_letter(options.written("letters"), letter) if more else letter})
        return bool(letter)
