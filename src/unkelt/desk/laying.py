"""What lies across the sheet to draw by: the grid, guide lines, and whether what is dragged is caught by what lies
near."""

from __future__ import annotations

from PySide6.QtWidgets import QInputDialog

from unkelt.desk.compose.controller import Composing
from unkelt.desk.frame import Frame
from unkelt.desk.tables import Tables
from unkelt.errors import UnkeltError
from unkelt.language import tr
from unkelt.session.snapping import parse_guide


class Laying:
    """Joins grid, guide lines and snapping to the tables and the settings."""

    def __init__(self, window: Frame, tables: Tables, composer: Composing, *, grid: bool = False) -> None:
        self.window, self.tables, self.composer, self.state = window, tables, composer, window.state
        self.grid = grid
        self.show_snapping()
        for table in tables.shown:
            table.show_grid(grid)

    def look_grid(self) -> None:
        """Shows the grid, or hides it."""
        self.grid = not self.grid
        self.window.actions_by_id["look_grid"].setChecked(self.grid)
        for table in self.tables.shown:
            table.show_grid(self.grid)

    def look_snap(self) -> bool:
        """Whether what is dragged is caught by what lies near from now on."""
        self.window.remember(snap="no" if self.window.settings.snap == "yes" else "yes")
        self.show_snapping()
        return self.composer.gripping.snapping

    def show_snapping(self) -> None:
        """Whether what is dragged is caught, in the menu."""
        self.composer.gripping.snapping = self.window.settings.snap == "yes"
        self.window.actions_by_id["look_snap"].setChecked(self.composer.gripping.snapping)

    def add_guide(self) -> None:
        """Asks where a guide line is to lie; they can also be dragged out of the rulers."""
        job = self.state.job
        if job is None:
            return
        words = tr("Where? x is from the left, y from the top:")
        text, sure = QInputDialog.getText(self.window.itself, tr("Add a guide line"), words, text="x 20 mm")
        if sure:
            try:
                self.state.on_desk.lay_guides((*job.guides, parse_guide(text)))
            except (ValueError, UnkeltError) as problem:
                self.window.message.say(tr("No guide line: {problem}.").format(problem=problem))

    def clear_guides(self) -> None:
        """Takes all guide lines off the sheet."""
        self.state.on_desk.lay_guides(())

    def show_guides(self) -> None:
        """The guide lines of the job on the table."""
        for table in self.tables.shown:
            table.hand.show_guides(self.state.job.guides if self.state.job else ())
