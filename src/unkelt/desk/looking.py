"""How one looks at the sheet: through which lens, in which unit, at an earlier state or beside the original; and what
is measured there.
"""

from __future__ import annotations

from collections.abc import Callable

from unkelt.desk.common.drawing import Drawing, Lens
from unkelt.desk.compose.view import ComposeView
from unkelt.desk.frame import Frame
from unkelt.desk.inspect.controller import Inspecting
from unkelt.desk.table.comparing import Compare
from unkelt.desk.table.table import LightTable
from unkelt.desk.table.tape import Measurer
from unkelt.desk.tables import Tables
from unkelt.desk.views import View
from unkelt.job.workshop import Workshop
from unkelt.language import tr, use_unit
from unkelt.session.reading import UNITS
from unkelt.session.states import registered
from unkelt.sheet.model import Sheet

AT_WORK = (View.INSPECT, View.COMPOSE)
"""The views whose table shows the job as one works on it."""


class Looking:
    """Joins what people do to look at things to the tables, the state and the settings."""

    def __init__(
        self,
        window: Frame,
        tables: Tables,
        inspecting: Inspecting,
        compose: ComposeView,
        drawing: Callable[[Sheet], Drawing],
    ) -> None:
        self.window, self.tables, self.inspecting, self.compose = window, tables, inspecting, compose
        self._drawing = drawing
        self.state = window.state
        self._measurers = {table: Measurer(table, self._measured) for table in tables.shown}
        inspecting.table.pointed.connect(self.show_place)
        inspecting.table.sight.changed.connect(self.show_scale)
        compose.table.pointed.connect(self.show_place)
        compose.table.sight.changed.connect(self.show_scale)

    # lenses

    def lens_ink(self) -> None:
        """As it is painted."""
        self._show_lens(Lens.INK)

    def lens_blade(self) -> None:
        """As lines that the machine follows."""
        self._show_lens(Lens.BLADE)

    def lens_burn(self) -> None:
        """As areas that would be burnt."""
        self._show_lens(Lens.BURN)

    def lens_nodes(self) -> None:
        """With its nodes and handles."""
        self._show_lens(Lens.NODES)

    def _show_lens(self, lens: Lens) -> None:
        """Of the bench where one is at it, else of Inspect."""
        if self.window.view is View.COMPOSE:
            self.compose.table.set_lens(lens)
            self.compose.lenses.turn_to(lens.value)
        else:
            self.inspecting.show_lens(lens)

    # states

    def compare(self) -> None:
        """The original behind a line, in turn, as a difference, and not: one after another."""
        job = self.state.job
        if job is not None and self.window.view in AT_WORK:
            table = self.tables.front
            mode = table.comparison.mode.next()
            table.comparison.show(self._drawing(registered(job)), mode)
            self._say(tr("{value} · press W for the next").format(value=mode.value) if mode else "")

    def compare_again(self, table: LightTable, *, off: bool) -> None:
        """What is compared with is the job that is shown now."""
        job = self.state.job
        if job is not None and (off or table.comparison.mode):
            table.comparison.show(self._drawing(registered(job)), Compare.OFF if off else table.comparison.mode)

    def look_original(self) -> None:
        """The sheet as it was received."""
        self.look_at(0)

    def look_latest(self) -> None:
        """The sheet after all steps."""
        if self.state.job:
            self.look_at(len(self.state.job.stages))

    def look_at(self, stage: int) -> None:
        """The sheet after so many steps."""
        job = self.state.job
        if job and job.look_at(stage).looking_at != job.looking_at:
            self.state.on_desk.change(job.look_at(stage))

    # figures

    def measure(self) -> None:
        """Begins to measure on the table in front, or ends it."""
        if self.window.view in AT_WORK and self.state.job:
            measures = self._measurers[self.tables.front].toggle()
            self._say(tr("Click two places to measure. Press D to stop") if measures else "")

    def look_units(self) -> None:
        """Millimetres or inches, on all tables."""
        self.window.remember(unit="in" if self.window.settings.unit == "mm" else "mm")
        self.show_unit()

    def show_unit(self) -> None:
        """The unit in the foot and on the rulers."""
        unit = UNITS[self.window.settings.unit]
        use_unit(unit.name, unit.mm)
        for table in self.tables.shown:
            table.set_unit(unit)
        self.show_scale()

    def show_place(self, x: float, y: float) -> None:
        """Where the pointer is, in the foot."""
        table = self.tables.front
        if self.state.job:
            where = f"{table.unit.say(x, -1, bare=True)}, {table.unit.say(y, -1)}"
            self._say(f"{table.view.percent:.0f} %  ·  {where}")

    def show_scale(self) -> None:
        """How near one looks, in the foot."""
        if self.state.job:
            self._say(f"{self.tables.front.view.percent:.0f} %")

    def _say(self, words: str) -> None:
        """At the foot of the table that one looks at."""
        if self.window.view is View.COMPOSE:
            self.compose.place.setText(words)
        else:
            self.inspecting.say(words)

    def _measured(self) -> tuple[Sheet, Workshop] | None:
        job = self.state.job
        return (job.shown, job.workshop) if job else None
