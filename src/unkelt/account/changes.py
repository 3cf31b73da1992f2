"""Declared changes: what a step means to paint or draw otherwise, where, how much of it, and why."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum

import shapely
from fontTools.misc.transform import Identity, Transform

from unkelt.geometry.measure import Box
from unkelt.geometry.region import box_of, transformed
from unkelt.messages import listed, say
from unkelt.sheet.change import leaves, moved_item
from unkelt.sheet.model import Group, Item, Sheet


class Reason(StrEnum):
    """Why a step paints or draws something otherwise. The value is what people read, after an amount."""

    COPY = "a line that was there twice"
    COUNTER = "a counter that was solid is a hole again"
    CUT_OUT = "cut out, as asked for"
    DROPPED = "taken out, as asked for"
    EVENED = "translucent shapes that overlapped are one"
    GUIDE = "a guide that text was set on"
    HIDDEN = "shown that was hidden"
    INNER_LINES = "inner lines that lay inside a weld"
    JOINED = "open ends joined"
    KEPT_WIDTH = "strokes that kept their width while all was scaled"
    LETTERING = "lettering set anew"
    MADE = "drawn anew, as asked for"
    MOVED = "moved, as asked for"
    PIECE = "what was left over and too small"
    REPAINTED = "painted in another colour"
    RESHAPED = "reshaped, as asked for"
    SCRAP = "specks"
    SHARED_EDGE = "an edge that two outlines share"
    STACKED = "what lies above and beneath, as asked for"
    SLIT = "a slit too narrow to see"
    WIDTH = "a wide cut line made a hairline"


@dataclass(frozen=True, slots=True)
class Change:
    """One declared change.

    Within `where` (an area on the sheet, mm), materials named in `materials` may go (`loses`) or come (`gains`); with
    none named, all may. `amount` of `unit` ("mm²" or "mm") is what people are told.
    """

    reason: Reason
    where: shapely.Geometry
    materials: tuple[str, ...]
    amount: float
    unit: str
    loses: bool = True
    gains: bool = False

    @property
    def box(self) -> Box | None:
        """The box around it, None where it is empty."""
        return box_of(self.where)

    def speaks_of(self, material: str) -> bool:
        """Whether it is about this material; one that names none is about all."""
        return not self.materials or material in self.materials

    def words(self) -> str:
        """For people: "84 mm of inner lines that lay inside a weld"."""
        figure = f"{self.amount:.{0 if self.amount >= 10 else 2}f} {self.unit}"
        return say("{figure}: {reason}", figure=figure, reason=self.reason)


def summed(changes: Iterable[Change]) -> str:
    """What several declare, for people, summed up by reason: "643.5 mm: a line that was there twice; …"."""
    sums: dict[tuple[str, str], float] = {}
    for change in changes:
        key = change.reason.value, change.unit
        sums[key] = sums.get(key, 0.0) + change.amount
    said = (
        say("{amount:.1f} {unit}: {reason}", amount=sum_, unit=u, reason=say(why)) for (why, u), sum_ in sums.items()
    )
    return listed("; ", said)


@dataclass(frozen=True, slots=True)
class Moves:
    """How a step moved things: `items` by a matrix each, by their ids, and everything else by one; strokes widen with
    it or not.
    """

    everything: Transform = Identity
    items: Mapping[str, Transform] = field(default_factory=dict)
    strokes: bool = False

    def of(self, item_id: str) -> Transform:
        """How an item was moved; the identity where it stayed."""
        return self.items.get(item_id, self.everything)


STILL = Moves()
"""Nothing moved."""


def moving(sheet: Sheet, items: Collection[str], matrix: Transform, *, strokes: bool = False) -> Moves:
    """How named items are moved (groups with all they hold), or all: everything where nothing else is on the sheet."""
    if not items:
        return Moves(matrix, strokes=strokes)
    named = leaves(sheet, items)
    if all(item.id in named for item in sheet.walk() if not isinstance(item, Group)):
        return Moves(matrix, strokes=strokes)
    return Moves(items=dict.fromkeys(named, matrix), strokes=strokes)


def after_moves(sheet: Sheet, moves: Moves) -> Sheet:
    """The sheet with each item where it was moved to."""

    def change(item: Item) -> Item:
        matrix = moves.of(item.id)
        return item if matrix == Identity else moved_item(item, matrix, strokes=moves.strokes)

    return sheet if moves is STILL else sheet.mapped(change)


def moved(changes: Iterable[Change], matrix: Transform) -> tuple[Change, ...]:
    """Changes as they lie after all of the sheet was moved by a matrix; amounts grow with it."""
    scale = abs(matrix.xx * matrix.yy - matrix.xy * matrix.yx)
    return tuple(
        replace(
            change,
            where=transformed(change.where, matrix),
            amount=change.amount * (scale if change.unit == "mm²" else scale**0.5),
        )
        for change in changes
    )
