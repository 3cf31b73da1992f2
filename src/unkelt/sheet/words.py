"""Which outlines together are one lettering: those that remember the same origin, else neighbours that look alike."""

from __future__ import annotations

from dataclasses import dataclass

from unkelt.geometry.measure import Box, bounds
from unkelt.sheet.model import Group, Outline, Sheet

NEAR = 0.5
"""Two letters of one word are nearer than this share of their height."""


@dataclass(frozen=True, slots=True)
class Word:
    """Outlines that make up one lettering, in their order on the sheet."""

    outlines: tuple[Outline, ...]
    name: str

    @property
    def ids(self) -> tuple[str, ...]:
        return tuple(outline.id for outline in self.outlines)


def words(sheet: Sheet) -> list[Word]:
    """All letterings on the sheet that have outlines. Single shapes that belong to none are left out.

    Outlines with an origin go by it. Others are one lettering when they are siblings in one group, painted alike, side
    by side with small gaps, and none holds another: how a converted word arrives.
    """
    by_origin: dict[str, list[Outline]] = {}
    for outline in sheet.outlines():
        if outline.origin is not None:
            by_origin.setdefault(outline.origin.id, []).append(outline)
    found = [Word(tuple(outlines), outlines[0].origin.text) for outlines in by_origin.values() if outlines[0].origin]
    for group in sheet.walk():
        if isinstance(group, Group):
            for row in _rows([i for i in group.items if isinstance(i, Outline) and i.origin is None]):
                found.append(Word(tuple(row), group.label or group.id))
    return found


def _rows(outlines: list[Outline]) -> list[list[Outline]]:
    """Runs of at least two alike neighbours along a line."""
    boxed: list[tuple[Box, Outline]] = []
    for outline in outlines:
        box = bounds(outline.path)
        if box is not None:
            boxed.append((box, outline))
    boxed.sort(key=lambda pair: pair[0])
    rows: list[list[tuple[Box, Outline]]] = []
    for box, outline in boxed:
        row = next((row for row in rows if row[0][1].look == outline.look and _beside(row, box)), None)
        if row is None:
            rows.append([(box, outline)])
        else:
            row.append((box, outline))
    order = {outline.id: index for index, outline in enumerate(outlines)}
    return [sorted((outline for _, outline in row), key=lambda o: order[o.id]) for row in rows if len(row) > 1]


def _beside(row: list[tuple[Box, Outline]], box: Box) -> bool:
    right = max(other[2] for other, _ in row)
    top, bottom = min(other[1] for other, _ in row), max(other[3] for other, _ in row)
    height = max(bottom - top, box[3] - box[1])
    overlap = min(bottom, box[3]) - max(top, box[1])
    if overlap <= -0.25 * height or box[0] - right > NEAR * height:
        return False
    return not any(_holds(other, box) or _holds(box, other) for other, _ in row)


def _holds(outer: Box, inner: Box) -> bool:
    return outer[0] < inner[0] and outer[1] < inner[1] and outer[2] > inner[2] and outer[3] > inner[3]
