"""Which outlines together are one lettering: those that remember the same origin, else neighbours that look alike."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from unkelt.geometry.cache import TopicOfObjects
from unkelt.geometry.measure import Box, bounds
from unkelt.geometry.region import region, regions
from unkelt.sheet.model import Group, Outline, Sheet
from unkelt.tolerance import STANDARD

FEWEST_LETTERS = 3
"""A row that isn't even grouped needs so many shapes to be taken for a word."""

MOST_PIECES = 3
"""A letter has so many at most, as an a with two dots; what has more is a word that was bound already."""

NEAR = 0.5
"""Two letters of one word are nearer than this share of their height."""

ON_LINE = 0.12
"""Letters stand on one line to this share of their height."""

LETTER_NODES = 9
"""A subpath of a letter with a bowl or a bend has so many nodes; a ring, a petal or a plate has fewer."""

NEARER = 0.25
"""… and where nobody grouped them, than this."""


@dataclass(frozen=True, slots=True)
class Word:
    """Outlines that make up one lettering, in their order on the sheet."""

    outlines: tuple[Outline, ...]
    name: str

    @property
    def ids(self) -> tuple[str, ...]:
        """The ids of its outlines."""
        return tuple(outline.id for outline in self.outlines)

    @property
    def is_lettering(self) -> bool:
        """Whether these are letters for certain: made from text, or shapes of many kinds that stand on a line as
        letters do.

        Rings that are linked, or petals side by side, are a row too; what is drawn where they meet is part of the
        picture.
        """
        return all(outline.origin is not None for outline in self.outlines) or _stand_as_letters(self.outlines)


_WORDS: TopicOfObjects[list[Word]] = TopicOfObjects("words of a sheet", 64)


def words(sheet: Sheet) -> list[Word]:
    """As `_words`; several checks ask of one sheet, and it is looked for once."""
    return _WORDS.get(lambda: _words(sheet), sheet.items)


def _words(sheet: Sheet) -> list[Word]:
    """All letterings on the sheet that have outlines. Single shapes that belong to none are left out.

    Outlines with an origin go by it. Others are one lettering when they are siblings, painted alike, side
    by side with small gaps, and none lies inside another: how a converted word
    arrives. What nobody grouped, or only a layer holds, must look like letters for that.
    """
    by_origin: dict[tuple[str, str], list[Outline]] = {}
    for outline in sheet.outlines():
        if outline.origin is not None:
            by_origin.setdefault((outline.origin.id, outline.copy), []).append(outline)
    found = [Word(tuple(outlines), outlines[0].origin.text) for outlines in by_origin.values() if outlines[0].origin]
    groups = [item for item in sheet.walk() if isinstance(item, Group)]
    for group in groups:
        if not group.is_layer:
            rows = _rows([item for item in group.items if isinstance(item, Outline) and item.origin is None])
            found += [Word(tuple(row), group.label or group.id) for row in rows]
    for items in (*(group.items for group in groups if group.is_layer), sheet.items):
        for row in _rows([item for item in items if isinstance(item, Outline) and item.origin is None], NEARER):
            if _may_be_letters(row) and (all(outline.look.fill for outline in row) or _stand_as_letters(row)):
                found.append(Word(tuple(row), row[0].label or row[0].id))
    return found


def _may_be_letters(row: list[Outline]) -> bool:
    """Whether a row that nobody grouped is a word and not, for example, tags or whole words side by side: three shapes,
    not all alike, of few pieces each.
    """
    boxes = [box for outline in row if (box := bounds(outline.path))]
    sizes = {(round(x1 - x0, 1), round(y1 - y0, 1)) for x0, y0, x1, y1 in boxes}
    if len(row) < FEWEST_LETTERS or len(sizes) < 2:
        return False
    areas = regions([(outline.path, outline.look.even_odd) for outline in row], STANDARD.chord_mm / 2)
    return all(len(shapely.get_parts(area)) <= MOST_PIECES for area in areas)


def _stand_as_letters(row: Sequence[Outline]) -> bool:
    """Whether shapes that may be letters stand on a line, or hang from one, and most are drawn as letters are: of many
    nodes.
    """
    boxes = np.array([box for outline in row if (box := bounds(outline.path))])
    if len(boxes) != len(row) or not _may_be_letters(list(row)):
        return False
    tall = float(np.median(boxes[:, 3] - boxes[:, 1]))
    on_a_line = max((np.abs(edge - np.median(edge)) < ON_LINE * tall).mean() for edge in (boxes[:, 1], boxes[:, 3]))
    nodes = np.array([outline.path.node_count / len(outline.path) for outline in row])
    return bool(on_a_line >= 0.5 and (nodes >= LETTER_NODES).mean() >= 0.5)


class _Row:
    """Neighbours along a line, as they are found from left to right."""

    def __init__(self, box: Box, outline: Outline) -> None:
        self.members: list[tuple[Box, Outline]] = []
        self._live: dict[Box, list[Outline]] = {}
        """Copies have one box, and there may be thousands: none of them encloses another."""
        self.look = outline.look.painted
        _, self.top, self.right, self.bottom = box
        self.add(box, outline)

    def takes(self, box: Box, outline: Outline, near: float) -> bool:
        """Whether an outline further right, but not too far, stands beside these; nothing may lie inside another."""
        height = max(self.bottom - self.top, box[3] - box[1])
        overlap = min(self.bottom, box[3]) - max(self.top, box[1])
        if overlap <= -0.25 * height or box[0] - self.right > near * height or self.look != outline.look.painted:
            return False
        new = (box, outline)
        # From left to right: what ends before this one begins can neither hold it nor anything that is still to come.
        self._live = {other: members for other, members in self._live.items() if other[2] >= box[0]}
        return not any(
            _encloses((other, one), new) or _encloses(new, (other, one))
            for other, members in self._live.items()
            if _holds(other, box) or _holds(box, other)
            for one in members
        )

    def add(self, box: Box, outline: Outline) -> None:
        self.members.append((box, outline))
        self._live.setdefault(box, []).append(outline)
        self.top, self.right, self.bottom = min(self.top, box[1]), max(self.right, box[2]), max(self.bottom, box[3])


class _Heights:
    """Rows by the heights at which they lie, so that only those beside an outline are asked."""

    def __init__(self, step_mm: float) -> None:
        self._step = max(step_mm, 1e-6)
        self._rows: dict[int, dict[int, _Row]] = {}
        self._number: dict[int, int] = {}

    def _levels(self, top: float, bottom: float) -> range:
        return range(math.floor(top / self._step), math.floor(bottom / self._step) + 1)

    def put(self, row: _Row) -> None:
        number = self._number.setdefault(id(row), len(self._number))
        for level in self._levels(row.top, row.bottom):
            self._rows.setdefault(level, {})[number] = row

    def beside(self, box: Box, near: float) -> list[_Row]:
        """Rows at the box's height, in the order in which they were begun. Boxes come from left to right: what lies too
        far back for this one is done with.
        """
        found: dict[int, _Row] = {}
        for level in self._levels(box[1] - self._step, box[3] + self._step):
            rows = self._rows.get(level, {})
            for number, row in list(rows.items()):
                if box[0] - row.right <= near * max(self._step, row.bottom - row.top):
                    found[number] = row
                else:
                    del rows[number]
        return [found[number] for number in sorted(found)]


def _rows(outlines: list[Outline], near: float = NEAR) -> list[list[Outline]]:
    """Runs of at least two alike neighbours along a line; `near` is the share of their height that may part them."""
    boxed: list[tuple[Box, Outline]] = []
    for outline in outlines:
        box = bounds(outline.path)
        # An open line is no letter; filled, it is one with a broken contour.
        if box is not None and (outline.look.fill is not None or outline.path.closed.all()):
            boxed.append((box, outline))
    on_another = _on_another(boxed)
    boxed = sorted((pair for at, pair in enumerate(boxed) if at not in on_another), key=lambda pair: pair[0])
    tallest = max((box[3] - box[1] for box, _ in boxed), default=0.0)
    rows: list[_Row] = []
    at_height = _Heights(tallest)
    for box, outline in boxed:
        candidates = at_height.beside(box, near)
        row = next((row for row in candidates if row.takes(box, outline, near)), None)
        if row is None:
            row = _Row(box, outline)
            rows.append(row)
        else:
            row.add(box, outline)
        at_height.put(row)
    order = {outline.id: index for index, outline in enumerate(outlines)}
    return [
        sorted((outline for _, outline in row.members), key=lambda o: order[o.id])
        for row in rows
        if len(row.members) > 1
    ]


def _on_another(boxed: list[tuple[Box, Outline]]) -> set[int]:
    """Those that lie on the fill of one that looks alike, as a counter does that was taken apart: no letters of a
    word.
    """
    members: dict[Box, list[int]] = {}
    for index, (box, _) in enumerate(boxed):
        members.setdefault(box, []).append(index)
    sizes = list(members)
    boxes = shapely.box(*np.array(sizes).reshape(-1, 4).T)
    inner, outer = shapely.STRtree(boxes).query(boxes, predicate="within")
    found: set[int] = set()
    for a, b in zip(inner.tolist(), outer.tolist(), strict=True):
        if a != b and _holds(sizes[b], sizes[a]):
            found |= {
                i
                for i in members[sizes[a]]
                if any(
                    boxed[i][1].look.painted == boxed[j][1].look.painted
                    and _area(boxed[i][1]).within(_area(boxed[j][1]))
                    for j in members[sizes[b]]
                )
            }
    return found


def _encloses(outer: tuple[Box, Outline], inner: tuple[Box, Outline]) -> bool:
    """Whether the second lies inside the first's outer line, as a name does in its frame; a dot above its i doesn't."""
    if not _holds(outer[0], inner[0]):
        return False
    solid = shapely.polygons(shapely.get_exterior_ring(shapely.get_parts(_area(outer[1]))))
    parts = shapely.get_parts(_area(inner[1]))
    within, _ = shapely.STRtree(solid).query(parts, predicate="within")
    return 0 < len(parts) == len(np.unique(within))


def _area(outline: Outline) -> shapely.Geometry:
    return region(outline.path, outline.look.even_odd, STANDARD.chord_mm / 2)


def _holds(outer: Box, inner: Box) -> bool:
    return outer[0] < inner[0] and outer[1] < inner[1] and outer[2] > inner[2] and outer[3] > inner[3]
