"""Writing HPGL for plotters: pen up, pen down, 40 units to the millimetre, y up from the lower left corner.

Curves become chords within a quarter of the ticket's chord tolerance, no finer than the plotter's own unit.
"""

from __future__ import annotations

import numpy as np

from unkelt.formats.plain import layer_of, outlines_only
from unkelt.geometry.flatten import polylines
from unkelt.geometry.path import Floats
from unkelt.job.cutting_order import in_order, inner_first
from unkelt.job.ticket import Ticket
from unkelt.sheet.model import Sheet

UNITS_PER_MM = 40
"""The plotter unit is 0.025 mm (HPGL reference manuals, "plotter units"; from memory)."""

PENS = {"cut": 1, "score": 2, "engrave": 3}
"""Which pen does what; in which order they are taken, the order of work says."""


def write_hpgl(sheet: Sheet, ticket: Ticket) -> bytes:
    """The sheet's outlines as HPGL in the order of work, each operation with its own pen. Raises InputError as other
    writers do.
    """
    outlines = outlines_only(sheet, "HPGL")
    height = sheet.page_mm[1]
    chord = max(ticket.tolerance.chord_mm / 4, 0.5 / UNITS_PER_MM)
    by_pen: dict[int, list[Floats]] = {}
    for outline in in_order(outlines, ticket):
        pen = PENS.get(layer_of(outline, ticket), 4)
        by_pen.setdefault(pen, []).extend(polylines(inner_first(outline.path, chord), chord))
    words = ["IN;PA;"]
    for pen in by_pen:
        words.append(f"SP{pen};")
        for line in by_pen[pen]:
            places = np.round((line * [1, -1] + [0, height]) * UNITS_PER_MM).astype(int)
            places = places[np.append(True, (np.diff(places, axis=0) != 0).any(axis=1))]
            first, *rest = [f"{x},{y}" for x, y in places.tolist()]
            words.append(f"PU{first};PD{','.join(rest or [first])};")
    words.append("PU0,0;SP0;\n")
    return "\n".join(words).encode("ascii")
