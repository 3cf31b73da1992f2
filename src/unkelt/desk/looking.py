"""How one looks at the sheet: closer or from farther, through which lens, on what grid, with guide lines, at an earlier
state or beside the original.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QInputDialog

from unkelt.desk.common.drawing import Lens
from unkelt.desk.table.measure import Measurer
from unkelt.desk.table.table import LightTable
from unkelt.desk.views import View
from unkelt.errors import UnkeltError
from unkelt.job.workshop import Workshop
from unkelt.language import tr
from unkelt.session.reading import UNITS, Unit
from unkelt.session.snapping import parse_guide
from unkelt.sheet.model import Sheet

if TYPE_CHECKING:
    from unkelt.desk.window import Desk


class Looking(QObject):
    """Joins what people do to look closer to the tables and the state."""

    def __init__(self, window: Desk) -> None:
        super().__init__(window)
        self.window, self.state = window, window.state
        self.grid = False

    def take_parts(self) -> None:
        """The window's parts are there, or were made anew."""
        self._on_inspect = Measurer(self.window.table, self.measured)
        self._on_compose = Measurer(self.window.compose.table, self.measured)
        for table in self.tables():
            table.show_grid(self.grid)

    def zoom_in(self) -> None:
        self.front_table.zoom(1.25)

    def zoom_out(self) -> None:
        self.front_table.zoom(0.8)

    def zoom_fit(self) -> None:
        self.front_table.zoom_fit()

    def zoom_finding(self) -> None:
        finding = self.state.finding
        if finding and finding.box:
            self.window.table.zoom_to(finding.box)

    def lens_ink(self) -> None:
        self.set_lens(Lens.INK)

    def lens_blade(self) -> None:
        self.set_lens(Lens.BLADE)

    def lens_burn(self) -> None:
        self.set_lens(Lens.BURN)

    def lens_nodes(self) -> None:
        self.set_lens(Lens.NODES)

    def measure(self) -> None:
        """Begins to measure on the table in front, or ends it."""
        if self.window.view in (View.INSPECT, View.COMPOSE) and self.state.job:
            measurer = self._on_compose if self.window.composing else self._on_inspect
            self._say(tr("Click two places; D ends measuring") if measurer.toggle() else "")

    @property
    def front_table(self) -> LightTable:
        """The table that one looks at."""
        return {View.COMPOSE: self.window.compose.table, View.PROOF: self.window.proofing.read}.get(
            self.window.view, self.window.table
        )

    def look_grid(self) -> None:
        self.grid = not self.grid
        self.window.actions_by_id["look_grid"].setChecked(self.grid)
        for table in self.tables():
            table.show_grid(self.grid)

    def look_snap(self) -> None:
        """Whether what is dragged is caught by what lies near."""
        self.window.choose(snap="no" if self.window.settings.snap == "yes" else "yes")
        self.show_snapping()
        self._say(tr("Snapping {value}").format(value="on" if self.window.composer.snapping else "off"))

    def show_snapping(self) -> None:
        self.window.composer.snapping = self.window.settings.snap == "yes"
        self.window.actions_by_id["look_snap"].setChecked(self.window.composer.snapping)

    def add_guide(self) -> None:
        """Asks where a guide line is to lie; they can also be dragged out of the rulers."""
        job = self.state.job
        if job is None:
            return
        words = tr("Where? x is from the left, y from the top:")
        text, sure = QInputDialog.getText(self.window, tr("Lay a guide line"), words, text="x 20 mm")
        if sure:
            try:
                self.state.on_desk.lay_guides((*job.guides, parse_guide(text)))
            except (ValueError, UnkeltError) as problem:
                self.window.message.say(tr("No guide line: {problem}.").format(problem=problem))

    def clear_guides(self) -> None:
        self.state.on_desk.lay_guides(())

    def show_guides(self) -> None:
        for table in self.tables():
            table.show_guides(self.state.job.guides if self.state.job else ())

    def zoom_to_ring(self, ring: list[tuple[float, float]]) -> None:
        xs, ys = zip(*ring, strict=True)
        self.window.table.zoom_to((min(xs), min(ys), max(xs), max(ys)))

    def tables(self) -> tuple[LightTable, ...]:
        return self.window.table, self.window.compose.table, self.window.proofing.meant, self.window.proofing.read

    def compare(self) -> None:
        """The original behind a line, in turn, as a difference, and not: one after another."""
        job = self.state.job
        if job is not None and self.window.view in (View.INSPECT, View.COMPOSE):
            table = self.front_table
            mode = table.comparison.mode.next()
            table.comparison.show(self.window.drawing(job.original), mode)
            self._say(tr("{value} · W for the next").format(value=mode.value) if mode else "")

    def look_original(self) -> None:
        self.look_at(0)

    def look_latest(self) -> None:
        if self.state.job:
            self.look_at(len(self.state.job.stages))

    def look_at(self, stage: int) -> None:
        job = self.state.job
        if job and job.look_at(stage).looking_at != job.looking_at:
            self.state.on_desk.change(job.look_at(stage))

    def look_units(self) -> None:
        """Millimetres or inches, on all tables."""
        self.window.choose(unit="in" if self.window.settings.unit == "mm" else "mm")
        self.read_in(UNITS[self.window.settings.unit])

    def read_in(self, unit: Unit) -> None:
        for table in self.tables():
            table.set_unit(unit)
        self.show_scale()

    def set_lens(self, lens: Lens) -> None:
        self.window.table.set_lens(lens)
        self.window.lenses.turn_to(lens.value)
        if self.state.job and self.state.findings and self.state.chosen is not None:
            self.window.panel.now.lens = self.window.panel.after.lens = self.window.loupe_lens()
            self.window.panel.now.update()
            self.window.panel.after.update()

    def measured(self) -> tuple[Sheet, Workshop] | None:
        job = self.state.job
        return (job.shown, job.workshop) if job else None

    def show_place(self, x: float, y: float) -> None:
        unit = self.window.table.unit
        if self.state.job:
            self._say(f"{self.window.table.view.percent:.0f} %  ·  {unit.say(x, -1, bare=True)}, {unit.say(y, -1)}")

    def show_scale(self) -> None:
        if self.state.job:
            self._say(f"{self.window.table.view.percent:.0f} %")

    def _say(self, words: str) -> None:
        """In the corner of the table, where there is room beside the lenses."""
        place, window = self.window.place, self.window
        place.setText(words)
        place.setVisible(window.lens_holder.sizeHint().width() + place.sizeHint().width() <= window.table.width())
