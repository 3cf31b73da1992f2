"""Registration marks: three squares outside the art, at the same places on every film, by which one is laid on another.

Three and not four, so that a film that lies turned or mirrored shows it. Size and place are common practice, no source.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from unkelt.geometry.path import Path, polygon
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import Outline, Reads, Sheet
from unkelt.sheet.pens import pen_of

SIDE_MM = 5.0
AWAY_MM = 5.0
"""From the box of all art, strokes by their full width."""

CALLED = "registration-mark"


def marks_around(sheet: Sheet) -> tuple[Path, ...]:
    """The squares: above left, above right and below left of all that is drawn; none where nothing is."""
    box = sheet.drawn_box()
    if box is None:
        return ()
    strokes = [pen_of(outline.look).width_mm / 2 for outline in sheet.outlines() if outline.look.stroke]
    away = AWAY_MM + max(strokes, default=0.0)
    left, top, right, bottom = box[0] - away - SIDE_MM, box[1] - away - SIDE_MM, box[2] + away, box[3] + away
    corners = ((left, top), (right, top), (left, bottom))
    return tuple(polygon((x, y), (x + SIDE_MM, y), (x + SIDE_MM, y + SIDE_MM), (x, y + SIDE_MM)) for x, y in corners)


def with_marks(sheet: Sheet, marks: Sequence[Path], look: Appearance) -> Sheet:
    """The sheet with marks painted so."""
    taken = {item.id for item in sheet.walk()}
    names = (f"{CALLED}-{number}" for number in range(1, 10_000))
    free = (name for name in names if name not in taken)
    made = [Outline(name, path, look, "registration mark", reads=Reads.EITHER) for name, path in zip(free, marks)]  # noqa: B905
    return replace(sheet, items=(*sheet.items, *made))
