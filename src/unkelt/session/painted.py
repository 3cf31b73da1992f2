"""The file as received and as it would be written, painted by somebody else's renderer, and every place where they
differ.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from unkelt.geometry.measure import Box
from unkelt.messages import say, say_count, sentence
from unkelt.proof.pixels import Difference, Pictures, Pixels
from unkelt.verdict.case import Case
from unkelt.verdict.painted import pictures_of

AROUND = 1.2
"""A place is shown with so much of its own size around it, on each side."""

LEAST_SHARE = 0.08
"""And with no less of the picture than this share of its longer side."""


@dataclass(frozen=True, slots=True)
class Place:
    """A place where the pictures differ: its frame and what is shown around it (x, y, width, height in pixels), what
    became of it, and which change explains that; `lost` where none does.
    """

    frame: Box
    around: Box
    words: str
    why: str
    lost: bool


@dataclass(frozen=True)
class Painted:
    """Both pictures, row by row, and the places where they differ, what nothing explains first. `summary` says it in
    lines, and `state` whether that is "clean", a "hold", or "unknown" where there is nothing to compare.
    """

    received: Pixels
    written: Pixels
    places: tuple[Place, ...]
    summary: tuple[str, ...]
    state: str


def painted(case: Case) -> Painted:
    """Paints both. Where that can't be done, the summary says why."""
    found = pictures_of(case)
    summary: tuple[str, ...]
    places = sorted((_place(each, found) for each in found.differences), key=lambda place: not place.lost)
    lost = sum(place.lost for place in places)
    if found.skipped:
        summary = ("The pictures could not be compared", sentence(found.skipped))
    elif lost:
        summary = ("What was received is not what goes out", *(place.words for place in places[:4] if place.lost))
    elif places:
        where = say_count(
            "The pictures differ in one place, as the steps declare.",
            "The pictures differ in {count} places, as the steps declare.",
            len(places),
        )
        summary = ("Painted by a second program: nothing is lost", where)
    else:
        summary = ("Painted by a second program: no difference",)
    pictures = (np.ascontiguousarray(found.received), np.ascontiguousarray(found.written))
    state = "unknown" if found.skipped else "hold" if lost else "clean"
    return Painted(*pictures, tuple(places), summary, state)


def _place(difference: Difference, found: Pictures) -> Place:
    x0, y0, x1, y1 = (value / found.px_mm for value in difference.box)
    rows, columns = found.written.shape[:2]
    half = max((0.5 + AROUND) * max(x1 - x0, y1 - y0), LEAST_SHARE * max(rows, columns))
    x, y = (x0 + x1) / 2, (y0 + y1) / 2
    why = (
        say("Explained: {explained}", explained=difference.explained)
        if difference.explained
        else "No step explains this"
    )
    frame, around = (x0, y0, x1 - x0, y1 - y0), (x - half, y - half, 2 * half, 2 * half)
    return Place(frame, around, difference.words(), why, not difference.explained)
