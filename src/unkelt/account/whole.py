"""The account of a whole job: all that its steps declared and moved, as it lies on the sheet in the end."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Protocol

from fontTools.misc.transform import Identity, Transform

from unkelt.account.balance import Account, Imbalance, unexplained
from unkelt.account.changes import Change, Moves, Reason, after_moves, moved
from unkelt.account.declare import CHORD_SHARE, redrawn
from unkelt.account.same import same_item
from unkelt.geometry.cache import TopicOfObjects
from unkelt.job.ticket import Ticket
from unkelt.lettering.faces import Shelf
from unkelt.sheet.change import growth, scaled_look, transformed
from unkelt.sheet.model import Group, Outline, Sheet


class Taken(Protocol):
    """A step as it was taken: the sheet that came of it, and what it declares."""

    @property
    def sheet(self) -> Sheet:
        """After the step."""

    @property
    def changes(self) -> tuple[Change, ...]:
        """What the step declared."""

    @property
    def moves(self) -> Moves:
        """Where the step moved what."""


@dataclass(frozen=True)
class Whole:
    """`matrix` carries the sheet as `received` (mm) to where everything was moved to; `carried` is that sheet so moved,
    and `reference` with the items in `apart` where they were moved to by themselves, too; `changes` are all declared
    ones, as they lie there.
    """

    received: Sheet
    matrix: Transform
    carried: Sheet
    reference: Sheet
    apart: frozenset[str]
    changes: tuple[Change, ...]

    def seen(self, ticket: Ticket, shelf: Shelf) -> tuple[Change, ...]:
        """Where a picture of the sheet as received, moved by the matrix, may differ: items moved by themselves are seen
        where they are and no longer where they were, and strokes that didn't grow with everything are as wide as ever.
        """
        was, now = ([item for item in of.walk() if item.id in self.apart] for of in (self.carried, self.reference))
        grown, kept = self._kept_widths()
        return (
            *self.changes,
            *redrawn(Reason.MOVED, was, now, ticket, shelf),
            *redrawn(Reason.KEPT_WIDTH, grown, kept, ticket, shelf),
        )

    def _kept_widths(self) -> tuple[list[Outline], list[Outline]]:
        """The strokes as they would be had they grown with everything, and as they are, where that isn't the same."""
        grown, kept = [], []
        for received, item in zip(self.received.outlines(), self.carried.outlines(), strict=True):
            look = scaled_look(received.look, self.matrix)
            if item.look.stroke and not math.isclose(look.stroke_width_mm, item.look.stroke_width_mm, rel_tol=1e-6):
                grown.append(_stroke_alone(replace(item, look=look)))
                kept.append(_stroke_alone(item))
        return grown, kept


def gathered(received: Sheet, steps: Iterable[Taken], ticket: Ticket, shelf: Shelf) -> Whole:
    """What all steps together declared. What a step moved by itself is moved on the reference, too, as long as it is as
    it was received; else it may go where it was and come where it is.
    """
    matrix, carried, reference, before = Identity, received, received, received
    changes: tuple[Change, ...] = ()
    apart: set[str] = set()
    for step in steps:
        own = step.moves.everything
        if own != Identity:
            beyond = _beyond_mm(own, before, ticket, strokes=step.moves.strokes)
            changes = tuple(_widened(change, beyond) for change in moved(changes, own))
            matrix = own.transform(matrix)
            carried = _carried(carried, own, before, strokes=step.moves.strokes)
            reference = _carried(reference, own, before, strokes=step.moves.strokes)
        if step.moves.items:
            untouched = _untouched(step.moves, reference, before)
            reference = after_moves(reference, replace(step.moves, items=untouched, everything=Identity))
            apart |= untouched.keys()
            others = step.moves.items.keys() - untouched.keys()
            was = [item for item in before.walk() if item.id in others]
            now = [item for item in step.sheet.walk() if item.id in others]
            changes += redrawn(Reason.MOVED, was, now, ticket, shelf)
        changes += step.changes
        before = step.sheet
    return Whole(received, matrix, carried, reference, frozenset(apart), changes)


def _beyond_mm(matrix: Transform, before: Sheet, ticket: Ticket, *, strokes: bool) -> float:
    """How much farther declared areas reach once all was scaled: made larger, by what they were off from the curves;
    made smaller, as far as the strokes in them, which keep their width.
    """
    grown = growth(matrix) - 1
    if grown >= 0:
        return ticket.tolerance.chord_mm * CHORD_SHARE * grown
    widest = max((item.look.stroke_width_mm for item in before.outlines() if item.look.stroke), default=0.0)
    return 0.0 if strokes else widest * -grown / 2


def _widened(change: Change, by_mm: float) -> Change:
    return replace(change, where=change.where.buffer(by_mm, quad_segs=4)) if by_mm > 0 else change


def _stroke_alone(outline: Outline) -> Outline:
    return replace(outline, look=replace(outline.look, fill=None))


def _untouched(moves: Moves, reference: Sheet, before: Sheet) -> dict[str, Transform]:
    """Those that a step moves by themselves and that are still as they were received; none once things lie above each
    other in another order, since what is moved then covers something else.
    """
    there = [[item.id for item in of.walk() if not isinstance(item, Group)] for of in (reference, before)]
    both = set(there[0]) & set(there[1])
    if [name for name in there[0] if name in both] != [name for name in there[1] if name in both]:
        return {}
    return {
        name: matrix
        for name, matrix in moves.items.items()
        if (received := reference.find(name)) and (found := before.find(name)) and same_item(received, found)
    }


def _carried(reference: Sheet, matrix: Transform, before: Sheet, *, strokes: bool) -> Sheet:
    """The reference moved as a step moved the sheet before it. Strokes keep their width, or don't, but for those that
    had become outlines by then, which grow with everything.
    """
    moved_on = transformed(reference, matrix, strokes=strokes)
    drawn = {item.id: item.look for item in before.walk() if isinstance(item, Outline)}
    outlined = [
        item.id
        for item in reference.walk()
        if isinstance(item, Outline) and item.look.stroke and (item.id not in drawn or drawn[item.id].stroke is None)
    ]
    if strokes or not outlined:
        return moved_on
    grown = transformed(reference, matrix, strokes=True)
    return moved_on.replaced({name: (item,) for name in outlined if (item := grown.find(name)) is not None})


_LOST: TopicOfObjects[tuple[Imbalance, ...]] = TopicOfObjects("lost since received", 32)


def lost(received: Sheet, steps: Sequence[Taken], ticket: Ticket, shelf: Shelf) -> tuple[Imbalance, ...]:
    """What the declared changes of some steps leave unexplained between the sheet as received and what came of it."""
    return _LOST.get(lambda: _lost(received, steps, ticket, shelf), received, ticket, shelf, *steps)


def _lost(received: Sheet, steps: Sequence[Taken], ticket: Ticket, shelf: Shelf) -> tuple[Imbalance, ...]:
    if not steps:
        return ()
    whole, now = gathered(received, steps, ticket, shelf), steps[-1].sheet
    farthest = max((item.moved_mm for item in now.walk() if isinstance(item, Outline)), default=0.0)
    account = Account(ticket, shelf, max(farthest, ticket.tolerance.chord_mm))
    return unexplained(whole.reference, now, account, whole.changes)
