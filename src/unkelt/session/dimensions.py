"""Dimension lines: what is measured on the table, against what the ticket wants."""

from __future__ import annotations

from dataclasses import dataclass

from unkelt.geometry.measure import Box
from unkelt.job.ticket import Ticket
from unkelt.messages import say
from unkelt.session.reading import MM, Unit


@dataclass(frozen=True, slots=True)
class Dimension:
    """A line from `start` to `end` in mm along an axis ("x" or "y"); `wanted` lines show what the ticket asks for, and
    `then` lines what a step that is tried would make of it.
    """

    axis: str
    start: float
    end: float
    label: str
    wanted: bool
    fits: bool
    then: bool = False


def dimensions(box: Box | None, ticket: Ticket, unit: Unit = MM, then: Box | None = None) -> list[Dimension]:
    """Width and height of the ink, each with the ticket's wish beside it where it has one that isn't met, and with what
    they would be after a step that is tried, where that differs.
    """
    if box is None:
        return []
    lines: list[Dimension] = []
    for axis, low, high, wanted in (("x", box[0], box[2], ticket.width_mm), ("y", box[1], box[3], ticket.height_mm)):
        size = high - low
        fits = wanted is None or abs(size - wanted) <= ticket.size_tolerance_mm
        tick = "  ✓ ticket" if wanted is not None and fits else ""
        lines.append(Dimension(axis, low, high, f"{ticket.size_of} {unit.say(size)}{tick}", False, fits))
        if wanted is not None and not fits:
            middle = (low + high) / 2
            lines.append(
                Dimension(
                    axis,
                    middle - wanted / 2,
                    middle + wanted / 2,
                    say("ticket {say}", say=unit.say(wanted)),
                    True,
                    False,
                )
            )
        if then is not None:
            start, end = (then[0], then[2]) if axis == "x" else (then[1], then[3])
            if abs((end - start) - size) >= 0.005:
                label = say("would be {say}", say=unit.say(end - start))
                lines.append(Dimension(axis, start, end, label, False, True, then=True))
    return lines
