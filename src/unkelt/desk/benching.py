"""What is asked of the bench from outside it: by menus and keys, by the recipe, and what follows from it elsewhere."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from unkelt.desk.compose.controller import Composing
from unkelt.desk.compose.figures import Figures
from unkelt.desk.compose.hands import Hands
from unkelt.desk.compose.writing import WritingOnTable
from unkelt.desk.frame import Frame
from unkelt.desk.inspect.controller import Inspecting
from unkelt.desk.looking import Looking
from unkelt.desk.views import View


class Benching(QObject):
    """`changed` when something else is chosen there."""

    changed = Signal()

    def __init__(
        self,
        frame: Frame,
        composing: Composing,
        hands: Hands,
        writing: WritingOnTable,
        inspecting: Inspecting,
        looking: Looking,
    ) -> None:
        super().__init__(composing.view)
        self.frame, self.composing, self.hands, self.writing = frame, composing, hands, writing
        self.inspecting, self.looking = inspecting, looking
        self.view = composing.view
        self.figures = Figures(self.view)
        self.figures.chosen.connect(self.view.layers.pick_all)

    def add_lettering(self) -> None:
        """Words are typed on the table of the bench."""
        self._to_the_bench()
        self.writing.begin()

    def draw_shape(self, shape: str) -> None:
        """A shape is drawn on the table of the bench."""
        self._to_the_bench()
        self.hands.begin_shape(shape)

    def find_step(self) -> None:
        """The field that finds a step by a word."""
        self._to_the_bench()
        self.view.show_steps()
        self.view.steps.search.setFocus()
        self.view.steps.search.selectAll()

    def change_step(self, place: int) -> None:
        """A step of the recipe is set anew, on the sheet as it was before it."""
        self._to_the_bench()
        self.composing.change_step(place)

    def _to_the_bench(self) -> None:
        if self.frame.view is not View.COMPOSE:
            self.frame.turn_to(View.COMPOSE)

    def show_figures(self) -> None:
        """The figures of everything on the sheet, in a window of their own."""
        self._fill_figures()
        self.figures.show()
        self.figures.raise_()

    def _fill_figures(self) -> None:
        chosen = {entry.id for entry in self.view.chosen()}
        self.figures.show_entries(self.view.entries, chosen, self.view.table.unit)

    def chosen_changed(self) -> None:
        if self.figures.isVisible():
            self._fill_figures()
        self.changed.emit()

    def zoom_to_it(self) -> None:
        """What is chosen at the bench, or the finding."""
        box = self.view.frame if self.frame.view is View.COMPOSE else None
        if box is not None:
            self.view.table.sight.close_to(box)
        elif self.frame.view is not View.COMPOSE:
            self.inspecting.zoom_finding()

    def look_units(self) -> None:
        """Millimetres or inches, wherever lengths are read."""
        self.looking.look_units()
        self.inspecting.refresh()
        if self.inspecting.state.finding is not None:
            self.inspecting.show_finding()
        self.view.show_numbers()
        self.changed.emit()

    def look_before(self) -> None:
        """A trial, the sheet without it, and as it would be, in turn; without a trial the sheet as it was received."""
        table = self.view.table
        if self.frame.view is View.COMPOSE and table.trying.trial is not None:
            table.trying.flip()
        else:
            self.looking.look_original()

    def escape(self) -> bool:
        """What is being set or typed at the bench ends; whether there was anything."""
        if self.frame.view is not View.COMPOSE:
            return False
        if self.hands.end_shape():
            return True
        if self.writing.going_on:
            self.writing.leave()
            return True
        if self.view.setting:
            self.composing.leave()
            return True
        if self.view.chosen():
            self.view.layers.choose_none()
            return True
        return False
