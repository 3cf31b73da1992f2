"""Measuring on a light table: the first click sets a place, the second what is measured to; moving shows it
beforehand.
"""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject

from unkelt.desk.table.table import LightTable
from unkelt.job.workshop import Workshop
from unkelt.language import tr
from unkelt.session.measuring import Place, around, between, snapped
from unkelt.session.snapping import caught
from unkelt.sheet.model import Sheet

Source = Callable[[], tuple[Sheet, Workshop] | None]


class Measurer(QObject):
    """Answers a table's questions about places while it measures."""

    def __init__(self, table: LightTable, source: Source) -> None:
        super().__init__(table)
        self.table, self.source = table, source
        self.start: Place | None = None
        self.end: Place | None = None
        table.hand.probed.connect(self._probe)

    def toggle(self) -> bool:
        """Begins to measure, or ends it; whether it measures now."""
        self.start = self.end = None
        self.table.measure(not self.table.hand.measuring)
        return self.table.hand.measuring

    def _probe(self, x: float, y: float, clicked: bool) -> None:
        found = self.source()
        if found is None:
            return
        sheet, workshop = found
        place = snapped(sheet, x, y, self.table.sight.reach_mm * 1.6)
        if not place.on:
            place = Place(*caught(x, y, self.table.sight.reach_mm, None, sheet.page_mm, self.table.hand.guides))
        if clicked:
            if self.start is None or self.end is not None:
                self.start, self.end = place, None
            else:
                self.end = place
        start, end = self.start, self.end or place
        lines = between(start, end, self.table.unit) if start is not None else []
        if start is None or (clicked and self.end is None):
            lines = around(sheet, workshop, place, self.table.unit) or [tr("click where to start measuring")]
        self.table.show_measure(start, end, lines)
