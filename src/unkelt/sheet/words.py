"""Which outlines together are one lettering: those that remember the same origin, else neighbours that look alike."""

from __future__ import annotations

from dataclasses import dataclass

import shapely

from unkelt.geometry.measure import Box, bounds
from unkelt.geometry.region import region
from unkelt.sheet.model import Group, Outline, Sheet
from unkelt.tolerance import STANDARD

FEWEST_LETTERS = 3
"""A row that isn't even grouped needs so many shapes to be taken for a word."""

NEAR = 0.5
"""Two letters of one word are nearer than this share of their height."""

NEARER = 0.25
"""… and where nobody grouped them, than this."""


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

    Outlines with an origin go by it. Others are one lettering when they are siblings, painted alike, side
    by side with small gaps, and none lies inside another: how a converted word
    arrives. What nobody grouped must look like letters for that.
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
    for row in _rows([i for i in sheet.items if isinstance(i, Outline) and i.origin is None], NEARER):
        if _may_be_letters(row):
            found.append(Word(tuple(row), row[0].label or row[0].id))
    return found


def _may_be_letters(row: list[Outline]) -> bool:
    """Whether a row that nobody grouped is a word and not, for example, tags side by side: three shapes, not all alike."""
    boxes = [box for outline in row if (box := bounds(outline.path))]
    sizes = {(round(x1 - x0, 1), round(y1 - y0, 1)) for x0, y0, x1, y1 in boxes}
    return len(row) >= FEWEST_LETTERS and len(sizes) > 1 and all(outline.look.fill for outline in row)


def _rows(outlines: list[Outline], near: float = NEAR) -> list[list[Outline]]:
    """Runs of at least two alike neighbours along a line; `near` is the share of their height that may part them."""
    boxed: list[tuple[Box, Outline]] = []
    for outline in outlines:
        box = bounds(outline.path)
        if box is not None:
            boxed.append((box, outline))
    boxed = [pair for pair in boxed if not _lies_on_another(pair, boxed)]
    boxed.sort(key=lambda pair: pair[0])
    rows: list[list[tuple[Box, Outline]]] = []
    for box, outline in boxed:
        row = next((row for row in rows if row[0][1].look == outline.look and _beside(row, (box, outline), near)), None)
        if row is None:
            rows.append([(box, outline)])
        else:
            row.append((box, outline))
    order = {outline.id: index for index, outline in enumerate(outlines)}
    return [sorted((outline for _, outline in row), key=lambda o: order[o.id]) for row in rows if len(row) > 1]


def _lies_on_another(pair: tuple[Box, Outline], boxed: list[tuple[Box, Outline]]) -> bool:
    """Whether it lies on the fill of one that looks alike, as a counter does that was taken apart: no letter of a word."""
    mine = _area(pair[1])
    return any(mine.within(_area(other)) for box, other in boxed if other.look == pair[1].look and _holds(box, pair[0]))


def _beside(row: list[tuple[Box, Outline]], new: tuple[Box, Outline], near: float) -> bool:
    box = new[0]
    right = max(other[2] for other, _ in row)
    top, bottom = min(other[1] for other, _ in row), max(other[3] for other, _ in row)
    height = max(bottom - top, box[3] - box[1])
    overlap = min(bottom, box[3]) - max(top, box[1])
    if overlap <= -0.25 * height or box[0] - right > near * height:
        return False
    return not any(_encloses(other, new) or _encloses(new, other) for other in row)


def _encloses(outer: tuple[Box, Outline], inner: tuple[Box, Outline]) -> bool:
    """Whether the second lies inside the first's outer line, as a name does in its frame; a dot above its i doesn't."""
    if not _holds(outer[0], inner[0]):
        return False
    return bool(_without_holes(_area(outer[1])).contains(_area(inner[1])))


def _without_holes(area: shapely.Geometry) -> shapely.Geometry:
    return shapely.union_all(shapely.polygons(shapely.get_exterior_ring(shapely.get_parts(area))))


def _area(outline: Outline) -> shapely.Geometry:
    return region(outline.path, outline.look.even_odd, STANDARD.chord_mm / 2)


def _holds(outer: Box, inner: Box) -> bool:
    return outer[0] < inner[0] and outer[1] < inner[1] and outer[2] > inner[2] and outer[3] > inner[3]
