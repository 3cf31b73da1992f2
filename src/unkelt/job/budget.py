"""The budget of movement: how much of the chord tolerance the steps of a job have left, outline by outline."""

from __future__ import annotations

import math

from unkelt.job.extent import measured_box
from unkelt.job.ticket import Ticket
from unkelt.sheet.model import Outline, Sheet

LEAST_SHARE = 0.1
"""A step is left at least so much of the chord tolerance, however much of it the steps before have used up."""

RESERVE = 0.1
"""The share of the chord tolerance that taking out nodes leaves to steps that come after it."""

GRAIN = 40
"""What is left is rounded down to such a part of the tolerance, so that alike outlines are worked on alike."""


def moved_mm(sheet: Sheet) -> float:
    """How far from where it was received any line of the sheet may lie by now, as the steps added up, but for what
    moves, scales or changes it as a whole because a person says so.
    """
    return max((outline.moved_mm for outline in sheet.outlines()), default=0.0)


def chord_left_mm(outline: Outline, chord_mm: float) -> float:
    """How far straight lines may be from an outline's curves: what the steps left of the chord tolerance."""
    return max(chord_mm - outline.moved_mm, LEAST_SHARE * chord_mm)


class Budget:
    """What steps may still move on one sheet, in mm."""

    def __init__(self, sheet: Sheet, ticket: Ticket) -> None:
        self.chord_mm = ticket.tolerance.chord_mm
        self.growth = growth_to_come(sheet, ticket)

    def left_mm(self, moved_mm: float, reserve: float = 0.0) -> float:
        """For lines that have moved so far, less a share of the tolerance in reserve."""
        left = self.chord_mm * (1 - reserve) / self.growth - moved_mm
        grain = self.chord_mm / GRAIN
        return max(math.floor(left / grain + 1e-9) * grain, self.chord_mm * LEAST_SHARE / self.growth)


def growth_to_come(sheet: Sheet, ticket: Ticket) -> float:
    """By how much a resize to the ticket is still going to make the drawing larger; 1 where it isn't."""
    box = measured_box(sheet, ticket) if ticket.width_mm or ticket.height_mm else None
    if box is None:
        return 1.0
    wanted, size = (ticket.width_mm, box[2] - box[0]) if ticket.width_mm else (ticket.height_mm, box[3] - box[1])
    return max(1.0, wanted / size) if wanted and size > 0 else 1.0
